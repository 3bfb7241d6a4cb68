"""Reading what Trace keeps of a job."""

from brightcircuit.jobs.models import Job
from brightcircuit.trace.models import Acknowledgement

MOST_LOOKED_BACK = 40
"""Cautions looked back at."""


def acknowledged(job: Job, power: str) -> set[str]:
    """Return the cautions that stand for this power state: ticked since the bike last left it."""
    found: set[str] = set()
    rows = Acknowledgement.objects.filter(job=job).order_by("-id").values_list("gate", "power")
    for gate, at_power in rows[:MOST_LOOKED_BACK]:
        if at_power != power:
            break
        found.add(gate)
    return found
