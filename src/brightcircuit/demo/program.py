"""Devices of the demo world: one half programmed, one left at assist zero, two set unlike."""

from brightcircuit.jobs.models import Job
from brightcircuit.program.queries import devices_of
from brightcircuit.program.services import name_profile, take_snapshot, tell
from brightcircuit.shop.models import Person
from brightcore.bike.model import Part

DONE = 9
"""Parameters of Otter's controller that are read, of which the first are entered as wanted."""

THREE, FULL = "three-button-display", "full-controller"
DISPLAY_AS_IT_CAME = {
    "P01": "km",
    "P02": "209.5",
    "P03": "45",
    "P04": "6",
    "P06": "31.5",
    "P08": "0",
    "P09": "yes",
    "P14": "10",
}


def program_demo(otter: Job, fern: Job, bramble: Job, actor: Person) -> None:
    """Name profiles of the demo bikes and read some of their values."""
    _half(actor, otter)
    _zero(actor, fern)
    _unlike(actor, bramble)


def _parts(job: Job, kind: str) -> list[Part]:
    job.refresh_from_db()
    return [device.part for device in devices_of(job) if device.kind == kind]


def _name(actor: Person, job: Job, part: Part, profile: str) -> None:
    job.refresh_from_db()
    name_profile(actor=actor, job=job, part=part.id, profile=profile)


def _half(actor: Person, job: Job) -> None:
    (part,) = _parts(job, "controller")
    _name(actor, job, part, FULL)
    device = next(d for d in devices_of(job) if d.part.id == part.id)
    for i, row in enumerate(device.rows[: 2 * DONE]):
        item = row.parameter
        text = item.shown(row.wanted if row.wanted is not None and i < DONE else item.default)
        tell(actor=actor, job=job, part=part.id, code=item.code, text=text, how="seen")
        if i == 0:
            take_snapshot(actor=actor, job=job, part=part.id, title="As it came")


def _zero(actor: Person, job: Job) -> None:
    for part in _parts(job, "display"):
        _name(actor, job, part, THREE)
        for code, text in DISPLAY_AS_IT_CAME.items():
            tell(actor=actor, job=job, part=part.id, code=code, text=text, how="seen")


def _unlike(actor: Person, job: Job) -> None:
    for part, ramp in zip(_parts(job, "controller"), (1, 3), strict=True):
        _name(actor, job, part, FULL)
        device = next(d for d in devices_of(job) if d.part.id == part.id)
        for row in device.rows:
            if row.parameter.role == "ramp":
                value = float(ramp)
            else:
                value = row.parameter.default
            if row.parameter.role in ("ramp", "current_limit_a", "phase_limit_a"):
                text = row.parameter.shown(value)
                tell(
                    actor=actor,
                    job=job,
                    part=part.id,
                    code=row.parameter.code,
                    text=text,
                    how="seen",
                )
