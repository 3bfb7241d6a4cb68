"""Reading what Trace keeps of a job."""

from brightcircuit.jobs.hazards import limit_gates
from brightcircuit.jobs.models import Job
from brightcircuit.trace.models import Acknowledgement

MOST_LOOKED_BACK = 40
"""Cautions looked back at."""


def acknowledged(job: Job, standing: str) -> set[str]:
    """Return the cautions that hold while the bike stands so (`standing_of`): ticked since it did
    not."""
    found: set[str] = set()
    rows = Acknowledgement.objects.filter(job=job).order_by("-id").values_list("gate", "power")
    for gate, then in rows[:MOST_LOOKED_BACK]:
        if then != standing:
            break
        found.add(gate)
    return found


def more_gates(job: Job, power: str) -> tuple[str, ...]:
    """Return the cautions that a job adds to an act: the first power after a hazard goes through a
    limit."""
    if power == "on":
        return limit_gates(job)
    return ()
