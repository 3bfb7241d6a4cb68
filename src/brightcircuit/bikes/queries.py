"""Reading bikes."""

from django.db.models import Count, Prefetch, QuerySet

from brightcircuit.bikes.models import Bike, Revision


def all_bikes() -> QuerySet[Bike]:
    """Return all bikes with the number of their jobs and their revisions."""
    revisions = Prefetch(
        "revisions", queryset=Revision.objects.defer("document").select_related("created_by")
    )
    return Bike.objects.annotate(job_count=Count("revisions__jobs")).prefetch_related(revisions)


def latest_revision(bike: Bike) -> Revision:
    """Return the newest revision of a bike."""
    return bike.revisions.select_related("bike").order_by("-number")[0]
