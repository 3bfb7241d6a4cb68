"""One search over everything that the shop has written down."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.db.models import Model, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

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


def found(words: str) -> list[Group]:
    """Return what fits every one of some words, by kind; kinds without a hit are left out."""
    with_bike = ("job__revision__bike",)
    groups = [
        _group("Bikes", Bike.objects.filter(_every_word(words, *OF_BIKES)), _bike),
        _group("Jobs", fitting(words).select_related("revision__bike").order_by("-number"), _job),
        _group(
            "Repairs and causes",
            Repair.objects.filter(_every_word(words, *OF_REPAIRS)).select_related(*with_bike).order_by("-id"),
            _repair,
        ),
        _group(
            "Readings, settings and notes",
            LogEntry.objects.filter(_every_word(words, "text")).select_related(*with_bike).order_by("-id"),
            _line,
        ),
        _group("Parts", LibraryPart.objects.filter(_every_word(words, "name", "kind"), retired=False), _part),
    ]
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
    groups = [*found(words), *_contacts(request, words)] if len(words) >= LEAST else []
    context = {"words": words, "groups": groups, "short": bool(words) and len(words) < LEAST}
    return render(request, "bench/find.html", context)
