"""What can be done on a job: tests skipped, spares and donor to hand, and how this shop works."""

from functools import lru_cache

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.shop.people import the_shop
from brightcircuit.shop.queries import paces
from brightcore.bike.model import Bike, Part
from brightcore.kinds import REGISTRY
from brightcore.tracing.donor import behind_problems, half_problems
from brightcore.tracing.hazard import HAZARDS
from brightcore.tracing.terms import USUAL_RATE, Terms

MOST_PAIRS = 64
"""Pairs of bike and donor whose fit is remembered."""


def terms_of(job: Job) -> Terms:
    """Return what is to hand for a job, and at what pace this shop works."""
    known = paces()
    missing = set()
    if job.spares is not None:
        every = swappable(stands_of(job))
        missing = {f"swap {part.id}" for part in every if part.id not in job.spares}
    return Terms(
        frozenset(job.skipped_tests) | missing,
        frozenset(kind for kind, pace in known.items() if not pace.done_here),
        {kind: pace.factor for kind, pace in known.items()},
        halves_to_hand(job),
        any(danger.code in HAZARDS for danger in standing_dangers(job)),
        float(the_shop().rate or USUAL_RATE),
    )


def swappable(bike: Bike) -> tuple[Part, ...]:
    """Return the parts for which a shop may have a known good one."""
    return tuple(part for part in bike.parts if REGISTRY[part.kind].has_spare)


def halves_to_hand(job: Job) -> frozenset[str]:
    """Return the halves of the job's donor against which nothing speaks."""
    if job.donor is None:
        return frozenset()
    found = []
    for half, problems in problems_with(stands_of(job), job.donor):
        if not problems:
            found.append(half)
    return frozenset(found)


def problems_with(bike: Bike, donor: Revision) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Return (half, or test of what is behind a plug; why it should not be lent) for a bike as it
    stands and a donor."""
    return _problems(bike, core_bike(donor))


@lru_cache(MOST_PAIRS)
def _problems(bike: Bike, donor: Bike) -> tuple[tuple[str, tuple[str, ...]], ...]:
    every = {**half_problems(bike, donor), **behind_problems(bike, donor)}
    return tuple(every.items())
