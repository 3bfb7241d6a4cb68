"""What a job has changed on its bike, and which parts it worked on."""

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import way_of
from brightcore.procedure.changes import Changes, changes_between


def changes_of(job: Job) -> Changes:
    """Return what a job has done to its bike so far: what is only planned is no change."""
    way = way_of(job)
    if way.arrival is way.stands:
        return Changes()
    return changes_between(way.arrival, way.stands)


def planned_of(job: Job) -> Changes:
    """Return what is planned and still to be done."""
    way = way_of(job)
    if way.stands is way.plan:
        return Changes()
    return changes_between(way.stands, way.plan)


def repaired_parts(job: Job) -> frozenset[str]:
    """Return the parts that stand on the bike and at which repairs of this job were made."""
    known = {part.id for part in way_of(job).stands.parts}
    named = {row.fault.partition(".")[0] for row in job.repairs.filter(imported=False)}
    named |= {row.repair.partition(":")[2].partition(":")[0] for row in job.repairs.filter(imported=False)}
    return frozenset(known & named)
