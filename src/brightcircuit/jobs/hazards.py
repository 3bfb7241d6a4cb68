"""Hazards that are told or smelt: dangers until the dead tests are clean, or a lead lets them
go."""

from collections.abc import Iterable

from django.db.models import QuerySet
from django.utils import timezone

from brightcircuit.jobs.dangers import ReadDanger, note_dangers, read_well, standing_dangers
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.shop.models import Person
from brightcore.procedure.gates import LIMITED
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


def _not_powered_since(job: Job) -> QuerySet[Danger]:
    """Return the hazards of a job whose dead tests are clean, and after which nothing was powered
    yet."""
    return job.dangers.filter(code__in=list(HAZARDS), how=Danger.How.READ_WELL, limited=None)


def limit_gates(job: Job) -> tuple[str, ...]:
    """Return the caution that the first powered act after a hazard bears on every station: a
    limit."""
    if _not_powered_since(job).exists():
        return (LIMITED,)
    return ()


def note_limited(job: Job, gates: Iterable[str]) -> None:
    """Keep that the first powered act went through a limit, where that is among the cautions it
    bore."""
    if LIMITED in gates:
        _not_powered_since(job).update(limited=timezone.now())
