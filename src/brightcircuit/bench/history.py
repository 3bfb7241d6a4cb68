"""One bike over the years: its visits, what was done and measured each time, what came back, what
is due."""

import uuid
from dataclasses import dataclass

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone

from brightcircuit.bench.queries import (
    came_back,
    last_looked,
    last_visit,
    moments_of,
    settings_of,
    visits_of,
)
from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.numbers import whole_number
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.stations.registry import RecordPart, stations
from brightcore.drawing.gauges import picture_svg
from brightcore.procedure.due import due_on
from brightcore.procedure.trends import Trend, trends
from brightcore.setting.contract import Curve

ON_A_PAGE, IN_A_BOOK = 12, 500


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
    book = request.GET.get("book") == "1"
    page = Paginator(visits_of(bike), IN_A_BOOK if book else ON_A_PAGE).get_page(
        whole_number(request.GET.get("page"), 1)
    )
    core = core_bike(latest_revision(bike))
    today = timezone.localdate()
    due = due_on(core, last_visit(bike), last_looked(bike))
    context = {
        "bike": bike,
        "page": page,
        "visits": [_visit(job) for job in page],
        "again": came_back(bike),
        "due": [(item, item.is_late(today)) for item in due],
        "trends": [(trend, _chart(trend)) for trend in trends(moments_of(bike, core))],
        "settings": settings_of(bike, core),
        "revisions": bike.revisions.order_by("number").select_related("created_by"),
        "book": book,
    }
    return render(request, "bench/history.html", context)


def _chart(trend: Trend) -> str:
    """Return a trend as a drawing, months across from its first reading."""
    first = trend.moments[0][0]
    points = tuple(((on - first).days / 30.4, value) for on, value in trend.moments)
    return picture_svg(Curve(trend.title, trend.unit, points, (), f"months from {first:%d.%m.%Y}"))


def _visit(job: Job) -> Visit:
    parts = []
    for station in stations():
        for part in station.record(job):
            parts.append(part)
    return Visit(job, list(job.repairs.all()), changes_of(job).words, parts)
