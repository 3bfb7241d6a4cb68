"""Reading what the Bench shows of many jobs at once."""

from datetime import date

from django.db.models import Count, Max, Prefetch, Q, QuerySet, Sum
from django.utils import timezone

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job, Repair


def jobs_of_the_day() -> QuerySet[Job]:
    """Return the open jobs with who has them and their timers; only stored summaries are read of them."""
    found = Job.objects.filter(status=Job.Status.OPEN).select_related("revision__bike", "opened_by", "worker")
    return found.prefetch_related("timers")


def closed_jobs() -> QuerySet[Job]:
    """Return the closed jobs with the repairs made here, and `minutes` of their evidence."""
    repairs = Prefetch("repairs", Repair.objects.filter(imported=False))
    found = Job.objects.filter(status=Job.Status.CLOSED, closed__isnull=False).select_related("revision")
    found = found.defer("revision__document", "summary", "conclusion").prefetch_related(repairs)
    return found.annotate(minutes=Sum("evidence__minutes", filter=Q(evidence__undone=False)))


def visits_of(bike: Bike) -> QuerySet[Job]:
    """Return the jobs of a bike, newest first."""
    jobs = Job.objects.filter(revision__bike=bike).order_by("-opened", "-number")
    return jobs.select_related("revision__bike", "arrived", "worker").prefetch_related("repairs")


def last_visit(bike: Bike) -> date | None:
    """Return the day on which the last job of a bike was closed, None where none was."""
    closed = Job.objects.filter(revision__bike=bike).aggregate(last=Max("closed"))["last"]
    return timezone.localdate(closed) if closed else None


def came_back(bike: Bike) -> list[tuple[str, int]]:
    """Return the repairs that were done more than once, with how often."""
    rows = Repair.objects.filter(job__revision__bike=bike).values_list("action").annotate(n=Count("id"))
    return [(words, n) for words, n in rows.filter(n__gt=1).order_by("-n", "action")]


def last_looked(bike: Bike) -> dict[str, date]:
    """Return when capacity and cut-offs were last measured, and the axle last proven."""
    jobs = Job.objects.filter(revision__bike=bike)
    days = {}
    for name in ("capacity", "cut-off"):
        measured = jobs.filter(calibrations__instrument=name, calibrations__undone=False)
        days[name] = measured.aggregate(last=Max("calibrations__at"))["last"]
    axle = {"proofs__check_id__startswith": "axle:", "proofs__passed": True, "proofs__undone": False}
    days["axle"] = jobs.filter(**axle).aggregate(last=Max("proofs__at"))["last"]
    return {name: timezone.localdate(at) for name, at in days.items() if at is not None}
