"""Live values that are kept: as evidence of Trace, and as readings of Set."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_safe
from brightcircuit.jobs.way import stands_of
from brightcircuit.program.lines import line_of
from brightcircuit.program.link_services import look_live
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import hand_over
from brightcore.bike.model import Bike, Part
from brightcore.errors import FormatError
from brightcore.formats.case_file import check_evidence
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.simulation.table import Row, Table
from brightcore.tracing.evidence import Evidence

MINUTES_EACH = 0.5
MOST_POINTS, SWEEP_STEP_V = 12, 0.12
AS_ROUGH_AS = "simple-meter"
"""A controller reads no better than this (common practice)."""

AS_READ = {"battery": ("volts", "battery_plus"), "rest": ("throttle_v", "throttle_signal")}
AS_READ["full"] = AS_READ["rest"]


@dataclass(frozen=True, slots=True)
class Place:
    """Two pins of a device and the state of the bike, at which a live value is a reading."""

    red: str
    black: str
    condition: str


def place_of(bike: Bike, part: Part, name: str) -> Place | None:
    """Return where a live value is read, None where the device has no such pin."""
    role = AS_READ[name][1]
    for port in part.ports:
        pins = {pin.role: f"{part.id}.{port.id}.{pin.name}" for pin in port.pins}
        ground = pins.get("battery_minus" if name == "battery" else "signal_ground")
        if role in pins and ground:
            grips = bike.having(ThrottleSpec)
            if grips:
                full = f"on; {grips[0].id}.grip=full"
            else:
                full = "on"
            return Place(pins[role], ground, full if name == "full" else "on")
    return None


@transaction.atomic
def keep_reading(*, actor: Person, job: Job, part: str, name: str) -> str:
    """Keep a live value as evidence; returns what to say."""
    require_open(job, actor)
    require_safe(job)
    if name not in AS_READ:
        raise ValidationError("Choose one of the list.")
    bike = stands_of(job)
    at = place_of(bike, bike.part(part), name)
    if at is None:
        raise ValidationError("The device has no pin for that.")
    value = look_live(actor=actor, job=job, part=part)[AS_READ[name][0]]
    item = Evidence("volts", f"{value:.2f}", at.condition, at.red, at.black, meter=AS_ROUGH_AS)
    try:
        check_evidence(Table(circuit_of(bike), [Row()]), (item,))
    except FormatError as error:
        raise ValidationError(str(error.problems[0])) from None
    new_entry(job, actor, item, client=f"link-{uuid.uuid4()}", minutes=MINUTES_EACH)
    log.write(job, actor, "evidence", f"{item} over the link")
    return f"Kept for Trace: {value:.2f} V."


def sweep_to_set(
    *, actor: Person, job: Job, values: Mapping[str, str], part: str, ticked: Sequence[str] = ()
) -> str:
    """Hand a sweep of the throttle to Set, where its supply is still to be read; returns what to
    say."""
    line_of(job, part)
    bike = stands_of(job)
    grips = bike.having(ThrottleSpec)
    if not grips:
        raise ValidationError("No throttle is described on this bike.")
    points = values.get("sweep", "").split()[:MOST_POINTS]
    if len(points) < 2:
        raise ValidationError("Let the throttle go, pull it slowly to the end, then hand it over.")
    typed = {"rest_v": points[0], "full_v": points[-1], "sweep": " ".join(points)}
    hand_over(
        "set", actor=actor, job=job, key="throttle", subject=grips[0].id, typed=typed, ticked=ticked
    )
    return "Handed to Set: rest, full and the way between. Read the supply there."
