"""Reading bikes."""

from typing import Any
from uuid import UUID

from django.core.paginator import Page, Paginator
from django.db.models import Count, Max, OuterRef, Q, QuerySet, Subquery
from django.db.models.functions import Coalesce

from brightcircuit.bikes.models import Bike, Revision

ON_A_PAGE = 40
MOST_DONORS = 100
OFFERED = 8
"""Bikes offered where one is to be chosen: more are found by words."""


def fitting(words: str) -> QuerySet[Bike]:
    """Return the bikes whose label, description or frame number holds every one of some words."""
    found = Bike.objects.all()
    for word in words.split():
        found = found.filter(
            Q(label__icontains=word) | Q(description__icontains=word) | Q(frame_number__icontains=word)
        )
    return found


def bike_page_of(words: str, page: int) -> "Page[Any]":
    """Return one page of the bikes that fit some words, with the number of their jobs."""
    jobs = Revision.objects.filter(bike=OuterRef("pk")).values("bike").annotate(n=Count("jobs")).values("n")
    counted = fitting(words).annotate(job_count=Coalesce(Subquery(jobs), 0))
    paginator = Paginator(counted.order_by("label", "pk"), ON_A_PAGE)
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


def donors_for(bike: Bike, words: str = "") -> list[Bike]:
    """Return other bikes of the shop that fit some words, by label, `MOST_DONORS` at most."""
    return list(fitting(words).exclude(pk=bike.pk).order_by("label", "pk")[:MOST_DONORS])


def latest_revision(bike: Bike) -> Revision:
    """Return the newest revision of a bike."""
    return bike.revisions.select_related("bike").order_by("-number")[0]
