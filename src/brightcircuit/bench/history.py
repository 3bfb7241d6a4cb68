"""One bike over the years: its visits, what was done and measured each time, what came back, what is due."""

import uuid
from dataclasses import dataclass

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone

from brightcircuit.bench.queries import came_back, last_looked, last_visit, visits_of
from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.numbers import whole_number
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.stations.registry import RecordPart, stations
from brightcore.procedure.due import due_on

ON_A_PAGE = 12


@dataclass(frozen=True, slots=True)
class Visit:
    """One job of a bike, with what was repaired, changed, and found by the stations."""

    job: Job
    repairs: list[Repair]
    changes: tuple[str, ...]
    parts: list[RecordPart]


def history_page(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Show what was done to a bike, newest first and some visits a page, to be read or printed."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    page = Paginator(visits_of(bike), ON_A_PAGE).get_page(whole_number(request.GET.get("page"), 1))
    core = core_bike(latest_revision(bike))
    today = timezone.localdate()
    due = due_on(core, last_visit(bike), last_looked(bike))
    context = {
        "bike": bike,
        "page": page,
        "visits": [_visit(job) for job in page],
        "again": came_back(bike),
        "due": [(item, item.is_late(today)) for item in due],
    }
    return render(request, "bench/history.html", context)


def _visit(job: Job) -> Visit:
    parts = [part for station in stations() for part in station.record(job)]
    return Visit(job, list(job.repairs.all()), changes_of(job).words, parts)
