"""Rides: read from a log, told in words, charted."""

import uuid
from dataclasses import asdict
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.guard import require_open
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.prove.models import RideRow
from brightcircuit.shop.models import Person
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.registry import hand_over
from brightcore.bike.measured import circumference_mm
from brightcore.drawing.gauges import picture_svg
from brightcore.errors import FormatError
from brightcore.formats.ride_file import MAX_BYTES, read_ride
from brightcore.procedure.ride import RideLog, analyse, speeds
from brightcore.setting.contract import Curve

CHARTED = {
    "speed_kmh": ("Speed", "km/h"),
    "volts": ("Volts", "V"),
    "amps": ("Amps", "A"),
    "motor_c": ("Motor", "°C"),
}
MOST_POINTS = 240
"""Moments of a ride that are kept for its charts."""

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
LEAST_KM, LEAST_AH = 0.2, 0.05
"""A shorter ride, or one that took less, tells Match nothing."""

RIGHT_SHARE = 0.01
"""Shown speed this near to that by satellite needs no correction."""


def rides_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the rides of a job; take one from a file."""
    job = changing(request, job_uuid, adds=True)
    errors: list[str] = []
    if request.method == "POST":
        try:
            _act(request, job)
            return redirect("prove-rides", job.uuid)
        except ValidationError as error:
            errors = error.messages
        except FormatError as error:
            errors = [str(problem) for problem in error.problems]
    rides = [_shown(job, row) for row in job.rides.filter(undone=False).order_by("-id")]
    page = {**job_frame(job, "prove"), "rides": rides, "errors": errors}
    return render(request, "prove/rides.html", page, status=422 if errors else 200)


def _act(request: HttpRequest, job: Job) -> None:
    if request.POST.get("do") == "match":
        use_on_match(actor=actor(request), job=job, uuid=request.POST.get("uuid", ""))
        messages.success(request, "Match reckons with this ride as its own log.")
        return
    if request.POST.get("do") == "undo":
        undo_ride(actor=actor(request), job=job, uuid=request.POST.get("uuid", ""))
        return
    upload = request.FILES.get("ride")
    if upload is None:
        raise ValidationError("Choose a GPX or CSV file.")
    content = read_upload(upload, MAX_BYTES)
    take_ride(actor=actor(request), job=job, content=content, name=upload.name or "ride.gpx")


@transaction.atomic
def take_ride(*, actor: Person, job: Job, content: bytes, name: str) -> RideRow:
    """Read a ride; raises FormatError naming every wrong line, and then nothing of it is kept."""
    require_open(job, actor)
    found = read_ride(content, name)
    ride = analyse(found)
    told = {key: value for key, value in asdict(ride).items() if key != "flags" and value is not None}
    began = found.began
    if began is not None and timezone.is_naive(began):
        began = timezone.make_aware(began)
    made = RideRow.objects.create(
        job=job,
        name=name[:120],
        began=began,
        told=told,
        flags=list(ride.flags[:20]),
        series=_series(found),
        at=timezone.now(),
        by=actor,
        by_name=str(actor),
    )
    words = f"{ride.distance_km:.2f} km" if ride.distance_km is not None else f"{ride.minutes:.0f} min"
    log.write(job, actor, "prove", f"Ride {made}: {words}, {len(ride.flags)} things flagged")
    return made


def _ride(job: Job, uuid: str) -> RideRow:
    found = next((ride for ride in job.rides.filter(undone=False) if str(ride.uuid) == uuid), None)
    if found is None:
        raise ValidationError("That ride is not there any more.")
    return found


def is_for_match(row: RideRow) -> bool:
    """Return whether a ride tells both a way and the amp-hours that it took."""
    km, ah = row.told.get("distance_km"), row.told.get("ah")
    return km is not None and ah is not None and km >= LEAST_KM and ah >= LEAST_AH


def use_on_match(*, actor: Person, job: Job, uuid: str) -> None:
    """Let Match reckon range and consumption with a ride.

    Raises ValidationError where it tells too little.
    """
    row = _ride(job, uuid)
    if not is_for_match(row):
        raise ValidationError("This ride does not tell both its way and the amp-hours it took.")
    typed = {"log_km": f"{row.told['distance_km']:.2f}", "log_ah": f"{row.told['ah']:.2f}"}
    hand_over("match", actor=actor, job=job, key="ride", subject=str(row), typed=typed, ticked=())


@transaction.atomic
def undo_ride(*, actor: Person, job: Job, uuid: str) -> None:
    """Take a ride out; its line stays in the log."""
    require_open(job, actor)
    row = _ride(job, uuid)
    row.undone = True
    row.save(update_fields=["undone"])
    log.write(job, actor, "prove", f"Undone: ride {row}")


def _series(found: RideLog) -> dict[str, list[list[float]]]:
    """Return (minutes, value) of every column that is charted, thinned."""
    every = max(1, len(found.samples) // MOST_POINTS)
    made: dict[str, list[list[float]]] = {}
    for name in CHARTED:
        points = [
            [round(s.seconds / 60, 3), round(value, 2)]
            for s in found.samples[::every]
            if (value := getattr(s, name)) is not None
        ]
        if len(points) > 1:
            made[name] = points
    run = [[round(minutes, 3), round(kmh, 1)] for minutes, kmh in speeds(found)[::every]]
    return made | ({"speed_kmh": run} if len(run) > 1 else {})


def _shown(job: Job, row: RideRow) -> dict[str, Any]:
    figures = [
        (words, f"{factor * row.told[name]:.{digits}f} {unit}")
        for name, words, unit, factor, digits in FIGURES
        if name in row.told
    ]
    pictures = [
        picture_svg(Curve(title, unit, tuple((x, y) for x, y in row.series[name]), (), "minutes"))
        for name, (title, unit) in CHARTED.items()
        if name in row.series
    ]
    return {
        "row": row,
        "figures": figures,
        "pictures": pictures,
        "correction": _correction(job, row),
        "for_match": is_for_match(row),
    }


def _correction(job: Job, row: RideRow) -> str:
    """Return what the shown speed says of the circumference that is set, "" where nothing."""
    ratio = row.told.get("speed_ratio")
    if ratio is None:
        return ""
    if abs(ratio - 1) <= RIGHT_SHARE:
        return "Shown speed and satellite agree within 1 %."
    now = circumference_mm(core_bike(job.revision))
    side = "fast" if ratio > 1 else "slow"
    return (
        f"Shown is {100 * abs(ratio - 1):.1f} % too {side}: if {now:.0f} mm is set, "
        f"{now / ratio:.0f} mm is right. Set it on Program."
    )
