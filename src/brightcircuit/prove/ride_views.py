"""The page of rides: figures and charts of each, and what follows for speed and range."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.posted import Act, Posted, act_on, status_of
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import stands_of
from brightcircuit.prove.models import RideRow
from brightcircuit.prove.ride_services import CHARTED, take_ride, undo_ride, use_on_match
from brightcircuit.stations.frame import job_frame
from brightcore.bike.measured import circumference_mm
from brightcore.drawing.gauges import picture_svg
from brightcore.errors import FormatError
from brightcore.formats.ride_file import MAX_BYTES
from brightcore.procedure.ride import speed_words, tells_range
from brightcore.setting.contract import Curve

FIGURES = (
    # name, words, unit, factor, decimals
    ("distance_km", "Distance", "km", 1.0, 2),
    ("minutes", "From start to end", "min", 1.0, 0),
    ("moving_minutes", "Moving", "min", 1.0, 0),
    ("top_kmh", "Top speed", "km/h", 1.0, 1),
    ("wh", "Drawn from the pack", "Wh", 1.0, 0),
    ("ah", "Drawn from the pack", "Ah", 1.0, 2),
    ("wh_per_km", "For each kilometre", "Wh/km", 1.0, 1),
    ("regenerated", "Given back while braking", "%", 100.0, 1),
    ("ohm", "Pack and lead, from the sag", "mΩ", 1000.0, 0),
    ("least_v", "Least volts", "V", 1.0, 1),
    ("most_a", "Most amps", "A", 1.0, 1),
    ("hottest_c", "Hottest", "°C", 1.0, 0),
)


def rides_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the rides of a job; take one from a file."""
    job = changing(request, job_uuid, adds=True)
    errors: list[str] = []
    if request.method == "POST":
        try:
            posted = Posted(request)
            told = act_on(ACTS, posted.text("do"), posted, job)
            if told:
                messages.success(request, told)
            return redirect("prove-rides", job.uuid)
        except ValidationError as error:
            errors = error.messages
        except FormatError as error:
            errors = [str(problem) for problem in error.problems]
    rides = [_shown(job, row) for row in job.rides.filter(undone=False).order_by("-id")]
    page = {**job_frame(job, "prove"), "rides": rides, "errors": errors}
    return render(request, "prove/rides.html", page, status=status_of(errors))


def _match(posted: Posted, job: Job) -> str:
    use_on_match(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return "Match reckons with this ride as its own log."


def _undo(posted: Posted, job: Job) -> str:
    undo_ride(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return ""


def _take(posted: Posted, job: Job) -> str:
    upload = posted.request.FILES.get("ride")
    if upload is None:
        raise ValidationError("Choose a GPX or CSV file.")
    content = read_upload(upload, MAX_BYTES)
    take_ride(actor=posted.who, job=job, content=content, name=upload.name or "ride.gpx")
    return ""


ACTS: dict[str, Act[Job]] = {"match": _match, "undo": _undo, "": _take}
"""Every act, by the word that its form sends; the form of a file sends none."""


@dataclass(frozen=True, slots=True)
class RideCard:
    """A ride with what it told."""

    row: RideRow
    figures: list[tuple[str, str]]
    pictures: list[str]
    correction: str
    for_match: bool


def _shown(job: Job, row: RideRow) -> RideCard:
    figures = []
    for name, words, unit, factor, digits in FIGURES:
        if name in row.told:
            figures.append((words, f"{factor * row.told[name]:.{digits}f} {unit}"))
    pictures = []
    for name, (title, unit) in CHARTED.items():
        if name in row.series:
            pictures.append(
                picture_svg(
                    Curve(title, unit, tuple((x, y) for x, y in row.series[name]), (), "minutes")
                )
            )
    return RideCard(
        row=row,
        figures=figures,
        pictures=pictures,
        correction=speed_words(row.told.get("speed_ratio"), circumference_mm(stands_of(job))),
        for_match=tells_range(row.told),
    )
