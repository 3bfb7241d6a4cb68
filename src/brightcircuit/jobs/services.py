"""Opening jobs, their symptoms, and the description they use."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from brightcircuit.bikes.models import Bike as BikeRow
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.evidence import core_evidence
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.jobs.way import (
    Way,
    drawn_of,
    forget_way,
    is_past,
    keep_done,
    plan_of,
    stands_of,
    way_of,
    words_of,
)
from brightcircuit.shop.models import Person
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.circuit.undescribed import newly_described
from brightcore.errors import BrightError
from brightcore.kinds.select import is_cable
from brightcore.procedure.purpose import BY_KEY as PURPOSE
from brightcore.procedure.purpose import (
    DESCRIBED,
    SHALL,
    WAITS,
    changes_the_bike,
    described_as,
    purposes_of,
)
from brightcore.procedure.stands import CONNECT, FIT, Change
from brightcore.simulation.table import Row, Table
from brightcore.tracing.context import ARRIVAL, TOLD
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.states import state_of
from brightcore.tracing.symptoms import BY_ID, symptom_evidence
from brightcore.tracing.tests import validate

MOST_LOST = 4
"""Pieces of evidence that would lose their place, named at most."""


@dataclass(frozen=True, slots=True)
class Symptoms:
    """What a rider told (symptom → only sometimes), what was seen here, when it happens ("" not known), what
    else was told, by id of a leaning, and what the rider said does not happen, which is written down only."""

    told: Mapping[str, bool] = field(default_factory=dict)
    seen: Sequence[str] = ()
    when: str = ""
    also: Sequence[str] = ()
    denied: Sequence[str] = ()


def next_number() -> int:
    """Return the number of the next job."""
    return (Job.objects.aggregate(Max("number"))["number__max"] or 0) + 1


@dataclass(frozen=True, slots=True)
class Beginning:
    """What the description of a bike is when its job begins.

    `described`: "stands", "shall", or "" for what is usual with its purpose. `new_parts`: where it is
    described as it shall be, the parts that are not on the bike yet; none named means all of them.
    """

    described: str = ""
    new_parts: Sequence[str] = ()


AS_USUAL = Beginning()


@transaction.atomic
def create_job(
    *,
    actor: Person,
    revision: Revision,
    complaint: str,
    symptoms: Symptoms,
    purposes: Sequence[str] = (),
    beginning: Beginning = AS_USUAL,
) -> Job:
    """Create a job without what its stations begin with; `stations.opening.open_job` does both.

    Raises ValidationError where `described` is no answer to how the bike is described.
    """
    require_active(actor)
    described = beginning.described or described_as(purposes)
    if described not in DESCRIBED:
        raise ValidationError({"described": ["Choose one of the list."]})
    job = Job.objects.create(
        number=next_number(),
        revision=revision,
        complaint=complaint,
        opened=timezone.now(),
        opened_by=actor,
        purposes=[key for key in PURPOSE if key in purposes],
        arrived=revision,
        follows=True,
        plans=described == SHALL or changes_the_bike(purposes),
        begins=Job.Begins.BARE if described == SHALL else Job.Begins.DESCRIBED,
    )
    log.write(job, actor, "opened", f"Job opened for {revision.bike.label}: {complaint}")
    if described == SHALL and beginning.new_parts:
        _keep_what_was_there(job, actor, set(beginning.new_parts))
    add_symptoms(job, actor, symptoms)
    return job


def _keep_what_was_there(job: Job, actor: Person, new: set[str]) -> None:
    """Store as found whatever of a bike described as it shall be is not among its new parts."""
    bike = plan_of(job)
    for part in bike.parts:
        # A cable that leads to a new part came with it, unless somebody has named it or its far end is
        # old too.
        ends = {end for join in bike.joins_of(part.id) for end, _ in join.sides()} - {part.id}
        if is_cable(part) and ends and ends <= new:
            new.add(part.id)
    there = [Change(FIT, part.id) for part in bike.parts if part.id not in new]
    joins = [join for join in bike.joins if not new & {join.a_part, join.b_part}]
    there += [Change(CONNECT, join.id) for join in joins]
    keep_done(actor=actor, job=job, changes=there, how=ChangeDone.How.FOUND)
    names = ", ".join(part.name for part in bike.parts if part.id in new)
    log.write(job, actor, "plan", f"Described as it shall be; new on it: {names}"[:300])


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
    log.write(job, actor, "plan", f"Was so already: {len(chosen)} change{'s' if len(chosen) > 1 else ''}")
    return len(chosen)


@transaction.atomic
def say_what_edits_are(*, actor: Person, job: Job, plans: bool) -> None:
    """Say whether editing the description plans a change from now on, or describes better what stands."""
    require_open(job, actor)
    job.plans = plans
    job.save(update_fields=["plans"])
    words = "plan what shall be" if plans else "describe the bike as it stands"
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


def add_symptoms(job: Job, actor: Person, symptoms: Symptoms) -> None:
    """Store symptoms as looks of then or now; what this bike's model does not have is logged."""
    scenes = Table(circuit_of(drawn_of(job)), [Row()]).scenes
    for name, sometimes in symptoms.told.items():
        words = BY_ID[name].words + (", sometimes" if sometimes else "")
        words += f", {state_of(symptoms.when).told}" if symptoms.when else ""
        _keep(job, actor, f"Told: {words}", symptom_evidence(name, scenes, sometimes, symptoms.when))
    for name in symptoms.seen:
        items = [replace(item, told=False) for item in symptom_evidence(name, scenes, False)]
        _keep(job, actor, f"Seen here: {BY_ID[name].words}", items)
    for name in symptoms.also:
        _keep(job, actor, f"Told: {TOLD[name].words}", [Evidence("past", name)])
    if symptoms.denied:
        words = "; ".join(BY_ID[name].words for name in symptoms.denied)
        log.write(job, actor, "symptom", f"Asked, and told that it does not: {words}")


def _keep(job: Job, actor: Person, words: str, items: Sequence[Evidence]) -> None:
    """Store evidence that needs no act on the bike, with a line in the log."""
    if not items:
        log.write(job, actor, "symptom", f"Not modelled on this bike. {words}")
        return
    for item in items:
        new_entry(job, actor, item)
    log.write(job, actor, "symptom", words)


@transaction.atomic
def keep_past(*, actor: Person, job: Job, found: Mapping[str, str]) -> None:
    """Let the evidence hold what was found of the bike's past, each at its place ("" where that is not
    known).

    What is no longer ticked is undone.
    """
    require_open(job, actor)
    rows = job.evidence.filter(round=job.round, kind="past", undone=False)
    standing = {(row.value, row.subject): row for row in rows if row.value in ARRIVAL}
    wanted = set(found.items())
    for key, row in standing.items():
        if key not in wanted:
            row.undone = True
            row.save(update_fields=["undone"])
    for value, place in sorted(wanted - set(standing)):
        item = Evidence("past", value, subject=place)
        new_entry(job, actor, item)


@transaction.atomic
def set_hand(*, actor: Person, job: Job, spares: Sequence[str], donor: Revision | None) -> None:
    """Say for which parts a known good one is to hand, and which bike may lend halves.

    Raises ValidationError where the donor is the bike itself."""
    require_open(job, actor)
    if donor is not None and donor.bike_id == job.revision.bike_id:
        raise ValidationError("Donor: choose another bike than this one.")
    known = {part.id: part.name for part in stands_of(job).parts}
    job.spares = [part for part in known if part in spares]
    job.donor = donor
    job.save(update_fields=["spares", "donor"])
    words = ", ".join(known[part].lower() for part in job.spares) or "no spare parts"
    lender = f"; donor: {donor.bike.label}" if donor else ""
    log.write(job, actor, "hand", f"To hand: {words}{lender}")


@transaction.atomic
def keep_told(*, actor: Person, job: Job, items: Sequence[Evidence]) -> None:
    """Store what a rider answered by telephone."""
    require_open(job, actor)
    words = ", ".join(f"{item.observable} {OBSERVABLES[item.observable].words(item.value)}" for item in items)
    _keep(job, actor, f"Told by telephone: {words}", items)


@transaction.atomic
def confirm_symptoms(*, actor: Person, job: Job, symptoms: Symptoms) -> None:
    """Add symptoms confirmed after the job was opened."""
    require_open(job, actor)
    add_symptoms(job, actor, symptoms)


def ready_core(job: Job, actor: Person) -> Bike:
    """Return the core bike of a job whose description may be changed; raises what stands in the way."""
    require_open(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk != job.revision_id:
        raise ValidationError(
            "The bike has a newer description than this job uses: use the newest on Arrive first."
        )
    return core_bike(newest)


@transaction.atomic
def keep_description(
    *, actor: Person, job: Job, core: Bike, station: str, what: str, how: str = "", same_things: bool = False
) -> None:
    """Store a changed description as the next revision of the bike and move the job onto it.

    `how` it is meant: "planned", or as a `ChangeDone.How`; "" as the job takes its edits. `same_things`:
    what comes with it was described before and is the same thing again.
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


PLANNED = "planned"
"""How an edit is meant that is still to be done on the bike."""


def _move_to_newest(actor: Person, job: Job, before: Way, how: str = "") -> None:
    """Let a job stand on the newest description of its bike, and take what is new in it as it is meant.

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
        fresh = [change for change in way_of(job).left if change not in open_before]
        keep_done(
            actor=actor, job=job, changes=fresh, how=meant, words=words_of(fresh, before.stands, plan_of(job))
        )
    lost = _lost_evidence(job)
    if lost:
        words = "; ".join(lost[:MOST_LOST])
        job.revision = old
        forget_way(job)
        raise ValidationError(f"Evidence of this job would lose its place; undo it first: {words}")
    job.save(update_fields=["revision"])
    _answer_asked(job, actor, before.stands)
    log.write(job, actor, "revision", f"Now uses revision {newest.number} of the bike (was {old.number})")


def _lost_evidence(job: Job) -> list[str]:
    """Return the evidence of this round that names what the bike as it stands does not have, in words.

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

    With two jobs open nobody can tell whose plan it is, and where evidence would lose its place somebody
    has to decide: the job then says that there is a newer description.
    """
    jobs = list(
        Job.objects.filter(revision__bike=revision.bike, status=Job.Status.OPEN).select_related("revision")
    )
    if len(jobs) != 1 or jobs[0].revision_id == revision.pk or jobs[0].revision.number != revision.number - 1:
        return
    job = jobs[0]
    try:
        with transaction.atomic():
            _move_to_newest(actor, job, way_of(job))
    except ValidationError:
        return


def edit_note(bike: BikeRow) -> str:
    """Return what editing the description of a bike means for its open job, "" where none is open."""
    jobs = list(Job.objects.filter(revision__bike=bike, status=Job.Status.OPEN))
    if not jobs:
        return ""
    if len(jobs) > 1:
        return (
            f"{len(jobs)} jobs are open on this bike: each of them says itself when it uses a newer "
            "description."
        )
    if jobs[0].plans:
        return f"{jobs[0]} plans on this bike: what you change here is still to be done, step by step."
    return f"{jobs[0]} is open on this bike: what you change here describes it as it stands."


def _answer_asked(job: Job, actor: Person, before: Bike) -> None:
    """Take "something more is on this line" out of the reckoning where the new description has it now."""
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


@transaction.atomic
def put_in_turn(*, actor: Person, jobs: Sequence[Job], on: date | None) -> None:
    """Put jobs of one list in an order for a day, the first of them first; None gives the order up.

    The order of a day is no history of a job: it is not logged, and no form goes stale by it.
    """
    require_active(actor)
    for place, job in enumerate(jobs):
        turn = place if on is not None else None
        Job.objects.filter(pk=job.pk).update(turn=turn, turn_on=on)


@dataclass(frozen=True, slots=True)
class Planned:
    """What is said of a job beside the work itself; see `Job`."""

    purposes: Sequence[str] = ()
    promised: date | None = None
    worker: Person | None = None
    waiting: str = ""
    place: str = ""
    decided: str = ""


@transaction.atomic
def plan_job(*, actor: Person, job: Job, planned: Planned) -> None:
    """Say what a job is for, for when, who has it, what it waits for, and what the customer decided."""
    require_open(job, actor)
    if planned.waiting and planned.waiting not in WAITS:
        raise ValidationError({"waiting": ["Choose one of the list."]})
    changed_before = changes_the_bike(job.purposes)
    job.purposes = [key for key in PURPOSE if key in planned.purposes]
    if changes_the_bike(job.purposes) and not changed_before:
        job.plans = True  # whoever comes to change a bike plans from now on; it can be said otherwise
    job.promised, job.worker, job.waiting = planned.promised, planned.worker, planned.waiting
    job.place, job.decided = planned.place.strip()[:80], planned.decided.strip()[:1000]
    job.save(update_fields=["purposes", "plans", "promised", "worker", "waiting", "place", "decided"])
    pieces = [
        ", ".join(purpose.title for purpose in purposes_of(job.purposes)),
        f"promised {job.promised}" if job.promised else "",
        f"with {job.worker}" if job.worker else "",
        WAITS.get(job.waiting, ""),
        f"now at {job.place}" if job.place else "",
        f"customer: {job.decided}" if job.decided else "",
    ]
    log.write(job, actor, "plan", "; ".join(filter(None, pieces)))
