"""Reading bikes."""

from typing import Any
from uuid import UUID

from django.core.paginator import Page, Paginator
from django.db.models import Count, F, Max, OuterRef, Q, QuerySet, Subquery
from django.db.models.functions import Coalesce

from brightcircuit.bikes.models import Bike, Revision

ON_A_PAGE = 40
MOST_DONORS = 100
RECENT = 12
OFFERED = 8
"""Bikes offered where one is to be chosen: more are found by words."""


def fitting(words: str) -> QuerySet[Bike]:
    """Return the bikes whose label, description or frame number holds every one of some words."""
    found = Bike.objects.all()
    for word in words.split():
        found = found.filter(
            Q(label__icontains=word)
            | Q(description__icontains=word)
            | Q(frame_number__icontains=word)
        )
    return found


SORTS = {"name": ("label", "pk"), "newest": ("-pk",), "frame": ("frame_number", "label", "pk")}
"""Orders of the bike list."""


def bike_page_of(words: str, page: int, sort: str = "name", here: bool = False) -> "Page[Any]":
    """Return one page of the bikes that fit some words, with the number of their jobs and how many
    are open.

    `here`: only those on which a job is open.
    """
    rows = Revision.objects.filter(bike=OuterRef("pk")).values("bike")
    jobs = rows.annotate(n=Count("jobs")).values("n")
    is_open = rows.annotate(n=Count("jobs", filter=Q(jobs__status="open"))).values("n")
    counted = fitting(words).annotate(
        job_count=Coalesce(Subquery(jobs), 0), open_count=Coalesce(Subquery(is_open), 0)
    )
    if here:
        counted = counted.filter(revisions__jobs__status="open").distinct()
    paginator = Paginator(counted.order_by(*SORTS.get(sort, SORTS["name"])), ON_A_PAGE)
    if not here:
        paginator.count = fitting(words).count()
    return paginator.get_page(page)


def offered(words: str = "", chosen: str = "") -> list[tuple[Bike, bool]]:
    """Return (bike, whether it is chosen) to choose from.

    The chosen one by its UUID, then those that fit some words, the newest descriptions first.
    """
    try:
        first = list(Bike.objects.filter(uuid=UUID(chosen)))
    except ValueError:
        first = []
    newest = fitting(words).annotate(newest=Max("revisions__pk")).order_by("-newest")
    others = [bike for bike in newest[:OFFERED] if bike not in first]
    return [(bike, True) for bike in first] + [(bike, False) for bike in others]


def recent(words: str = "") -> list[Bike]:
    """Return the bikes that came in last, or were described last; those that fit some words, if
    any."""
    found = fitting(words).annotate(
        last_job=Max("revisions__jobs__number"), last_described=Max("revisions__pk")
    )
    return list(found.order_by(F("last_job").desc(nulls_last=True), "-last_described")[:RECENT])


def donors_for(bike: Bike, words: str = "") -> list[Bike]:
    """Return other bikes of the shop that fit some words, by label, `MOST_DONORS` at most."""
    return list(fitting(words).exclude(pk=bike.pk).order_by("label", "pk")[:MOST_DONORS])


def has_newer(revision: Revision) -> bool:
    """Return whether its bike was described anew since."""
    return Revision.objects.filter(bike=revision.bike_id, number__gt=revision.number).exists()


def latest_revision(bike: Bike) -> Revision:
    """Return the newest revision of a bike."""
    return bike.revisions.select_related("bike").order_by("-number")[0]
