"""Changes of rides: one taken from a log, used on Match, taken out."""

from dataclasses import asdict

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import row_of
from brightcircuit.prove.models import RideRow
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import hand_over
from brightcore.formats.ride_file import read_ride
from brightcore.procedure.ride import Ride, RideLog, analyse, speeds, tells_range

CHARTED = {
    "speed_kmh": ("Speed", "km/h"),
    "volts": ("Volts", "V"),
    "amps": ("Amps", "A"),
    "motor_c": ("Motor", "°C"),
}
MOST_POINTS = 240
"""Moments of a ride that are kept for its charts."""


def take_ride(*, actor: Person, job: Job, content: bytes, name: str) -> RideRow:
    """Read a ride; raises FormatError naming every wrong line, and then nothing of it is kept."""
    require_open(job, actor)
    # A long file takes seconds to read. Others save meanwhile: nothing is locked before it is to be
    # stored.
    found = read_ride(content, name)
    return _keep_ride(actor, job, name, found, analyse(found))


@transaction.atomic
def _keep_ride(actor: Person, job: Job, name: str, found: RideLog, ride: Ride) -> RideRow:
    require_open(job, actor)
    told = {}
    for key, value in asdict(ride).items():
        if key != "flags" and value is not None:
            told[key] = value
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
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    if ride.distance_km is not None:
        words = f"{ride.distance_km:.2f} km"
    else:
        words = f"{ride.minutes:.0f} min"
    log.write(job, actor, "prove", f"Ride {made}: {words}, {len(ride.flags)} things flagged")
    return made


def _ride(job: Job, uuid: str) -> RideRow:
    return row_of(job.rides.filter(undone=False), uuid, "That ride is not there any more.")


def use_on_match(*, actor: Person, job: Job, uuid: str) -> None:
    """Let Match reckon range and consumption with a ride.

    Raises ValidationError where it tells too little.
    """
    row = _ride(job, uuid)
    if not tells_range(row.told):
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
        points = []
        for s in found.samples[::every]:
            if (value := getattr(s, name)) is not None:
                points.append([round(s.seconds / 60, 3), round(value, 2)])
        if len(points) > 1:
            made[name] = points
    run = [[round(minutes, 3), round(kmh, 1)] for minutes, kmh in speeds(found)[::every]]
    return made | ({"speed_kmh": run} if len(run) > 1 else {})
