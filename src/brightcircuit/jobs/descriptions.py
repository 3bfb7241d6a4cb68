"""Which description a job uses: edits that plan or describe, what was so already, the newest
revision."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction
from django.template.defaultfilters import pluralize

from brightcircuit.bikes.models import Bike as BikeRow
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.evidence import core_evidence
from brightcircuit.jobs.models import ChangeDone, Edit, Job
from brightcircuit.jobs.way import (
    Way,
    forget_way,
    is_past,
    keep_done,
    plan_of,
    stands_of,
    way_of,
    words_of,
)
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike
from brightcore.circuit.undescribed import newly_described
from brightcore.errors import BrightError
from brightcore.procedure.stands import CONNECT
from brightcore.simulation.table import Row, Table
from brightcore.tracing.tests import validate

MOST_LOST = 4
"""Pieces of evidence that would lose their place, named at most."""


@transaction.atomic
def was_so_already(*, actor: Person, job: Job, changes: Sequence[str]) -> int:
    """Say of planned changes that the bike came in so; returns how many were put right.

    A part brings its connections to what stands, so that they need not be named one by one.
    """
    require_open(job, actor)
    left = {change.id: change for change in way_of(job).left}
    chosen = [left[name] for name in changes if name in left]
    if not chosen:
        raise ValidationError("Choose what was so already.")
    keep_done(actor=actor, job=job, changes=chosen, how=ChangeDone.How.FOUND)
    there = {part.id for part in stands_of(job).parts}
    joined = []
    for change in way_of(job).left:
        if change.kind == CONNECT:
            join = plan_of(job).join(change.subject)
            if {join.a_part, join.b_part} <= there:
                joined.append(change)
    keep_done(actor=actor, job=job, changes=joined, how=ChangeDone.How.FOUND)
    log.write(job, actor, "plan", f"Was so already: {len(chosen)} change{pluralize(len(chosen))}")
    return len(chosen)


@transaction.atomic
def say_what_edits_are(*, actor: Person, job: Job, plans: bool) -> None:
    """Say whether editing the description plans a change from now on, or describes better what
    stands."""
    require_open(job, actor)
    job.plans = plans
    job.save(update_fields=["plans"])
    if plans:
        words = "plan what shall be"
    else:
        words = "describe the bike as it stands"
    log.write(job, actor, "plan", f"Edits of the description now {words}")


@transaction.atomic
def say_what_is_opened(*, actor: Person, job: Job, parts: Sequence[str]) -> None:
    """Say which parts this job opens; only then does the order of work open any."""
    require_open(job, actor)
    known = {part.id: part.name for part in plan_of(job).parts}
    job.opens = [name for name in known if name in parts]
    job.save(update_fields=["opens"])
    words = ", ".join(known[name] for name in job.opens) or "nothing"
    log.write(job, actor, "plan", f"This job opens: {words}")


def ready_core(job: Job, actor: Person) -> Bike:
    """Return the core bike of a job whose description may be changed; raises what stands in the
    way."""
    require_open(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk != job.revision_id:
        raise ValidationError(
            "The bike has a newer description than this job uses: use the newest on Arrive first."
        )
    return core_bike(newest)


@transaction.atomic
def keep_description(
    *,
    actor: Person,
    job: Job,
    core: Bike,
    station: str,
    what: str,
    how: str = "",
    same_things: bool = False,
    undoes: Edit | None = None,
) -> None:
    """Store a changed description as the next revision of the bike and move the job onto it.

    `how` it is meant: "planned", or as a `ChangeDone.How`; "" as the job takes its edits.
    `same_things`: what comes with it was described before and is the same thing again. `undoes`:
    the edit that it takes back.
    """
    ready_core(job, actor)
    before = way_of(job)
    made = add_revision(
        actor=actor,
        bike=job.revision.bike,
        core=core,
        base=job.revision.number,
        what=what,
        same_things=same_things,
    )
    if made.pk == job.revision_id:
        raise ValidationError("That is how it is described already.")
    log.write(job, actor, station, what[:300])
    _move_to_newest(actor, job, before, how)
    job.edits.create(revision=made, station=station, words=what[:300], undoes=undoes)


PLANNED = "planned"
"""How an edit is meant that is still to be done on the bike."""


def _move_to_newest(actor: Person, job: Job, before: Way, how: str = "") -> None:
    """Let a job stand on the newest description of its bike, and take what is new in it as it is
    meant.

    Raises ValidationError where evidence of the job would lose its place.
    """
    newest, old = latest_revision(job.revision.bike), job.revision
    if newest.pk == old.pk:
        return
    meant = how or (PLANNED if job.plans else ChangeDone.How.FOUND)
    job.revision = newest
    forget_way(job)
    if job.follows and meant != PLANNED:
        open_before = set(before.left)
        # What was open before stays open: an edit that tells more of a bike does not tick
        # somebody's steps.
        fresh = [change for change in way_of(job).left if change not in open_before]
        keep_done(
            actor=actor,
            job=job,
            changes=fresh,
            how=meant,
            words=words_of(fresh, before.stands, plan_of(job)),
        )
    lost = _lost_evidence(job)
    if lost:
        words = "; ".join(lost[:MOST_LOST])
        # Refused as a whole: evidence that points at a pin that is gone would be worth nothing, and
        # nobody would see why.
        job.revision = old
        forget_way(job)
        raise ValidationError(f"Evidence of this job would lose its place; undo it first: {words}")
    job.save(update_fields=["revision"])
    _answer_asked(job, actor, before.stands)
    log.write(
        job, actor, "revision", f"Now uses revision {newest.number} of the bike (was {old.number})"
    )


def _lost_evidence(job: Job) -> list[str]:
    """Return the evidence of this round that names what the bike as it stands does not have, in
    words.

    What was read on a thing that this job has exchanged keeps its place: it was read on that thing.
    """
    entries = list(job.evidence.filter(undone=False, round=job.round))
    way = way_of(job)
    if not entries or not way.is_whole:
        return []
    table = Table(circuit_of(way.stands), [Row()])
    lost = []
    for entry in entries:
        item = core_evidence(entry)
        if is_past(way, entry):
            continue
        try:
            validate(table, item)
        except BrightError as error:
            lost.append(f"{entry}: {error}")
    return lost


@transaction.atomic
def use_newest_revision(*, actor: Person, job: Job) -> None:
    """Let the job stand on the newest description of its bike.

    Raises ValidationError where evidence of this job names what the new description no longer has.
    """
    require_open(job, actor)
    if latest_revision(job.revision.bike).pk == job.revision_id:
        raise ValidationError("The job uses the newest description already.")
    _move_to_newest(actor, job, way_of(job))


def follow_edit(actor: Person, revision: Revision) -> None:
    """Let the one open job of a bike follow an edit made on the describing pages.

    With two jobs open nobody can tell whose plan it is, and where evidence would lose its place
    somebody has to decide: the job then says that there is a newer description.
    """
    jobs = list(
        Job.objects.filter(revision__bike=revision.bike, status=Job.Status.OPEN).select_related(
            "revision"
        )
    )
    if (
        len(jobs) != 1
        or jobs[0].revision_id == revision.pk
        or jobs[0].revision.number != revision.number - 1
    ):
        return
    job = jobs[0]
    try:
        with transaction.atomic():
            _move_to_newest(actor, job, way_of(job))
    except ValidationError:
        return


def edit_note(bike: BikeRow) -> str:
    """Return what editing the description of a bike means for its open job, "" where none is
    open."""
    jobs = list(Job.objects.filter(revision__bike=bike, status=Job.Status.OPEN))
    if not jobs:
        return ""
    if len(jobs) > 1:
        return (
            f"{len(jobs)} jobs are open on this bike: each of them says itself when it uses a "
            "newer description."
        )
    if jobs[0].plans:
        return (
            f"{jobs[0]} plans on this bike: what you change here is still to be done, step by step."
        )
    return f"{jobs[0]} is open on this bike: what you change here describes it as it stands."


def _answer_asked(job: Job, actor: Person, before: Bike) -> None:
    """Take "something more is on this line" out of the reckoning where the new description has it
    now."""
    asked = job.evidence.filter(undone=False, kind="ask", value="yes")
    if not asked.exists() or not way_of(job).is_whole:
        return
    nets, now = (circuit_of(bike).nets for bike in (before, stands_of(job)))
    for row in job.evidence.filter(undone=False, kind="ask", value="yes"):
        found = newly_described(nets, now, row.subject)
        if not found:
            continue
        row.undone = True
        row.save(update_fields=["undone"])
        log.write(job, actor, "undone", f"Described now, no longer asked: {', '.join(found)}"[:300])
