"""Opening jobs, their symptoms, and the description they use."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.jobs.way import (
    drawn_of,
    keep_done,
    plan_of,
    stands_of,
)
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import workers
from brightcore.behaviour.vocabulary import OBSERVABLES
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


@dataclass(frozen=True, slots=True)
class Symptoms:
    """What a rider told (symptom → only sometimes), what was seen here, when it happens ("" not
    known), what else was told, by id of a leaning, and what the rider said does not happen,
    which is written down only."""

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

    `described`: "stands", "shall", or "" for what is usual with its purpose. `new_parts`: where it
    is described as it shall be, the parts that are not on the bike yet; none named means all of
    them.
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
        opened=now(),
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
        # A cable that leads to a new part came with it, unless somebody has named it or its far end
        # is old too.
        ends = {end for join in bike.joins_of(part.id) for end, _ in join.sides()} - {part.id}
        if is_cable(part) and ends and ends <= new:
            new.add(part.id)
    there = [Change(FIT, part.id) for part in bike.parts if part.id not in new]
    joins = [join for join in bike.joins if not new & {join.a_part, join.b_part}]
    there += [Change(CONNECT, join.id) for join in joins]
    keep_done(actor=actor, job=job, changes=there, how=ChangeDone.How.FOUND)
    names = ", ".join(part.name for part in bike.parts if part.id in new)
    log.write(job, actor, "plan", f"Described as it shall be; new on it: {names}"[:300])


def add_symptoms(job: Job, actor: Person, symptoms: Symptoms) -> None:
    """Store symptoms as looks of then or now; what this bike's model does not have is logged."""
    scenes = Table(circuit_of(drawn_of(job)), [Row()]).scenes
    for name, sometimes in symptoms.told.items():
        words = BY_ID[name].words + (", sometimes" if sometimes else "")
        words += f", {state_of(symptoms.when).told}" if symptoms.when else ""
        _keep(
            job, actor, f"Told: {words}", symptom_evidence(name, scenes, sometimes, symptoms.when)
        )
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
    """Let the evidence hold what was found of the bike's past, each at its place ("" where that is
    not known).

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
    if donor:
        lender = f"; donor: {donor.bike.label}"
    else:
        lender = ""
    log.write(job, actor, "hand", f"To hand: {words}{lender}")


@transaction.atomic
def keep_told(*, actor: Person, job: Job, items: Sequence[Evidence]) -> None:
    """Store what a rider answered by telephone."""
    require_open(job, actor)
    words = ", ".join(
        f"{item.observable} {OBSERVABLES[item.observable].words(item.value)}" for item in items
    )
    _keep(job, actor, f"Told by telephone: {words}", items)


@transaction.atomic
def confirm_symptoms(*, actor: Person, job: Job, symptoms: Symptoms) -> None:
    """Add symptoms confirmed after the job was opened."""
    require_open(job, actor)
    add_symptoms(job, actor, symptoms)


@transaction.atomic
def put_in_turn(*, actor: Person, jobs: Sequence[Job], on: date | None) -> None:
    """Put jobs of one list in an order for a day, the first of them first; None gives the order up.

    The order of a day is no history of a job: it is not logged, and no form goes stale by it.
    """
    require_active(actor)
    for place, job in enumerate(jobs):
        turn = place if on is not None else None
        Job.objects.filter(pk=job.pk).update(turn=turn, turn_on=on)


@transaction.atomic
def hand_over(*, actor: Person, job: Job, worker_id: int) -> Person:
    """Put a job into somebody's hands, a job that waits too; returns whose it is now.

    Raises ValidationError where nobody of that key works here.
    """
    require_open(job, actor)
    worker = workers().filter(pk=worker_id).first()
    if worker is None:
        raise ValidationError(NOBODY)
    job.worker = worker
    job.turn = job.turn_on = None
    job.save(update_fields=["worker", "turn", "turn_on"])
    log.write(job, actor, "plan", f"Handed over to {worker}")
    return worker


NOBODY = "Nobody of that name works on jobs here."


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
    """Say what a job is for, for when, who has it, what it waits for, and what the customer
    decided."""
    require_open(job, actor)
    if planned.worker is not None and planned.worker not in workers():
        raise ValidationError({"worker": [NOBODY]})
    if planned.waiting and planned.waiting not in WAITS:
        raise ValidationError({"waiting": ["Choose one of the list."]})
    changed_before = changes_the_bike(job.purposes)
    job.purposes = [key for key in PURPOSE if key in planned.purposes]
    if changes_the_bike(job.purposes) and not changed_before:
        job.plans = (
            True  # whoever comes to change a bike plans from now on; it can be said otherwise
        )
    job.promised, job.worker, job.waiting = planned.promised, planned.worker, planned.waiting
    job.place, job.decided = planned.place.strip()[:80], planned.decided.strip()[:1000]
    job.save(
        update_fields=["purposes", "plans", "promised", "worker", "waiting", "place", "decided"]
    )
    pieces = [
        ", ".join(purpose.title for purpose in purposes_of(job.purposes)),
        f"promised {job.promised}" if job.promised else "",
        f"with {job.worker}" if job.worker else "",
        WAITS.get(job.waiting, ""),
        f"now at {job.place}" if job.place else "",
        f"customer: {job.decided}" if job.decided else "",
    ]
    log.write(job, actor, "plan", "; ".join(filter(None, pieces)))
