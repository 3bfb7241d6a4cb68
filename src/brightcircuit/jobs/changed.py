"""What a job has changed on its bike, and which parts it worked on."""

from brightcircuit.common.looking import once_a_look
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import way_of
from brightcore.bike.model import Join
from brightcore.circuit.faults import RepairKind
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


def _kinds(job: Job) -> list[RepairKind]:
    """Return the repairs of this job, of which the id tells what they are about."""

    def ask() -> list[RepairKind]:
        return [RepairKind(row.repair, "", 0, "") for row in job.repairs.filter(imported=False)]

    return once_a_look(("repaired", job.pk), ask)


def repaired_parts(job: Job) -> frozenset[str]:
    """Return the parts that stand on the bike and were repaired or set in this job."""
    known = {part.id for part in way_of(job).stands.parts}
    return frozenset(known & {kind.owner for kind in _kinds(job) if not kind.of_join})


def repaired_joins(job: Job) -> tuple[Join, ...]:
    """Return the connections that stand on the bike and were repaired in this job."""
    owners = {kind.owner for kind in _kinds(job) if kind.of_join}
    return tuple(join for join in way_of(job).stands.joins if join.id in owners)


def repaired_ends(job: Job) -> frozenset[str]:
    """Return the parts at a connection that was repaired in this job."""
    ends: set[str] = set()
    for join in repaired_joins(job):
        ends |= {join.a_part, join.b_part}
    return frozenset(ends)
