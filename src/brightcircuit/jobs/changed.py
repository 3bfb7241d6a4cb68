"""What a job has changed on its bike, and which parts it worked on."""

from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcore.procedure.changes import Changes, changes_between


def changes_of(job: Job) -> Changes:
    """Return what a job has changed on its bike, nothing where it is not known how the bike came in."""
    if job.arrived is None or job.arrived_id == job.revision_id:
        return Changes()
    return changes_between(core_bike(job.arrived), core_bike(job.revision))


def repaired_parts(job: Job) -> frozenset[str]:
    """Return the parts at which repairs of this job were made."""
    known = {part.id for part in core_bike(job.revision).parts}
    named = {row.fault.partition(".")[0] for row in job.repairs.filter(imported=False)}
    named |= {row.repair.partition(" ")[2].partition(".")[0] for row in job.repairs.filter(imported=False)}
    return frozenset(known & named)
