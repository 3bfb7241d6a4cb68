"""One search over everything that the shop has written down."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.db.models import Model, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job, LogEntry, Repair
from brightcircuit.jobs.queries import fitting
from brightcircuit.library.models import LibraryPart

OF_BIKES, OF_REPAIRS = ("label", "frame_number", "description"), ("action", "cause", "fault")
MOST_EACH, MOST_WORDS, LEAST = 8, 120, 2


@dataclass(frozen=True, slots=True)
class Hit:
    """One thing that fits: where it is, what it is called, and the words that fit."""

    url: str
    title: str
    words: str


@dataclass(frozen=True, slots=True)
class Group:
    """Hits of one kind; `more` where there are others."""

    title: str
    hits: list[Hit]
    more: bool


def _every_word(words: str, *fields: str) -> Q:
    """Return what asks that every word stands in one of some fields."""
    asked = Q()
    for word in words.split():
        one = Q()
        for name in fields:
            one |= Q(**{f"{name}__icontains": word})
        asked &= one
    return asked


def _group(title: str, rows: "QuerySet[Model]", hit: Callable[..., Hit]) -> Group:
    found = list(rows[: MOST_EACH + 1])
    return Group(title, [hit(row) for row in found[:MOST_EACH]], len(found) > MOST_EACH)


def _bike(bike: Bike) -> Hit:
    words = f"{bike.frame_number} {bike.description}".strip()
    return Hit(reverse("bike", args=(bike.uuid,)), bike.label, words)


def _job(job: Job) -> Hit:
    title = f"Job {job.number}, {job.revision.bike.label}"
    return Hit(reverse("job", args=(job.uuid,)), title, job.complaint)


def _repair(row: Repair) -> Hit:
    title = f"Job {row.job.number}, {row.job.revision.bike.label}"
    return Hit(reverse("record", args=(row.job.uuid,)), title, f"{row.action}. {row.cause}".strip())


def _line(row: LogEntry) -> Hit:
    title = f"Job {row.job.number}, {row.job.revision.bike.label}"
    return Hit(reverse("record", args=(row.job.uuid,)), title, row.text)


def _part(row: LibraryPart) -> Hit:
    return Hit(reverse("library-part", args=(row.slug,)), row.name, row.kind.replace("_", " "))


KINDS = (
    ("", "Everything"),
    ("bikes", "Bikes"),
    ("jobs", "Jobs"),
    ("repairs", "Repairs and causes"),
    ("lines", "Readings, settings and notes"),
    ("parts", "Parts"),
)
"""What is searched: a key and its words; the first asks for all."""

SINCE = (("", "Any time"), ("30", "Last month"), ("365", "Last year"))


def found(
    words: str, only: str = "", since: date | None = None, is_open: bool = False
) -> list[Group]:
    """Return what fits every one of some words, by kind; kinds without a hit are left out.

    `only`: one key of `KINDS`; `since`: jobs opened from that day on; `is_open`: open jobs alone.
    What belongs to no job is left out where jobs are asked for by day or state.
    """
    with_bike = ("job__revision__bike",)
    of_job, of_row = Q(), Q()
    if since is not None:
        of_job, of_row = (
            of_job & Q(opened__date__gte=since),
            of_row & Q(job__opened__date__gte=since),
        )
    if is_open:
        of_job, of_row = of_job & Q(status=Job.Status.OPEN), of_row & Q(job__status=Job.Status.OPEN)
    repairs = Repair.objects.filter(_every_word(words, *OF_REPAIRS), of_row).select_related(
        *with_bike
    )
    lines = LogEntry.objects.filter(_every_word(words, "text"), of_row).select_related(*with_bike)
    rows: dict[str, tuple[QuerySet[Any], Callable[..., Hit]]] = {
        "jobs": (
            fitting(words).filter(of_job).select_related("revision__bike").order_by("-number"),
            _job,
        ),
        "repairs": (repairs.order_by("-id"), _repair),
        "lines": (lines.order_by("-id"), _line),
    }
    if not of_job:
        parts = LibraryPart.objects.filter(_every_word(words, "name", "kind"), retired=False)
        rows["bikes"] = (Bike.objects.filter(_every_word(words, *OF_BIKES)), _bike)
        rows["parts"] = (parts, _part)
    groups = []
    for key, title in KINDS:
        if key in rows and (not only or only == key):
            groups.append(_group(title, *rows[key]))
    return [group for group in groups if group.hits]


def _contacts(request: HttpRequest, words: str) -> Iterable[Group]:
    """Yield bikes by their rider, for a shop lead alone."""
    if not getattr(request.user, "is_lead", False):
        return
    bikes = Bike.objects.filter(_every_word(words, "contact__name", "contact__reach"))
    group = _group("By their rider", bikes, _bike)
    if group.hits:
        yield group


def find_page(request: HttpRequest) -> HttpResponse:
    """Show everything that fits some words."""
    words = request.GET.get("q", "").strip()[:MOST_WORDS]
    if request.GET.get("kind") in dict(KINDS):
        only = request.GET.get("kind", "")
    else:
        only = ""
    if request.GET.get("since") in dict(SINCE):
        days = request.GET.get("since", "")
    else:
        days = ""
    is_open = request.GET.get("open") == "1"
    if days:
        since = timezone.localdate() - timedelta(days=int(days))
    else:
        since = None
    if len(words) >= LEAST:
        groups = found(words, only, since, is_open)
    else:
        groups = []
    if len(words) >= LEAST and only in ("", "bikes") and not (since or is_open):
        groups = [*groups, *_contacts(request, words)]
    context = {
        "words": words,
        "groups": groups,
        "short": bool(words) and len(words) < LEAST,
        "kinds": KINDS,
        "only": only,
        "times": SINCE,
        "days": days,
        "is_open": is_open,
    }
    return render(request, "bench/find.html", context)
