"""Hazards that are told or smelt: dangers until the dead tests are clean, or a lead lets them go."""

from collections.abc import Iterable

from brightcircuit.jobs.dangers import ReadDanger, note_dangers, read_well, standing_dangers
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.shop.models import Person
from brightcore.tracing.hazard import FIRST, HAZARDS

PLACE = "told"


def place_of_hazard(code: str) -> str:
    """Return the place at which a told hazard stands, as dangers name it."""
    return f"{PLACE}:{code}"


def note_hazards(actor: Person, job: Job, codes: Iterable[str]) -> None:
    """Store what was told; nothing is switched on until the dead tests are clean."""
    for code in codes:
        found = [ReadDanger(code, HAZARDS[code].text, FIRST)]
        note_dangers(actor, job, "trace", place_of_hazard(code), found)


def hazards_standing(job: Job) -> list[Danger]:
    """Return the told hazards that stand at the bike of a job."""
    return [row for row in standing_dangers(job) if row.code in HAZARDS]


def end_hazards(actor: Person, job: Job) -> None:
    """End what was told: every dead test was made and is clean."""
    for row in hazards_standing(job):
        read_well(actor, job, row.place)


def was_cleared(job: Job) -> bool:
    """Return whether a hazard was told in a job and its dead tests came out clean."""
    return job.dangers.filter(code__in=list(HAZARDS), how=Danger.How.READ_WELL).exists()
