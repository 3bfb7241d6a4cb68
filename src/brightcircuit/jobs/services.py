"""Opening jobs, their symptoms, and the description they use."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.evidence import core_evidence, entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.circuit.undescribed import newly_described
from brightcore.errors import BrightError
from brightcore.procedure.purpose import BY_KEY as PURPOSE
from brightcore.procedure.purpose import WAITS, purposes_of
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


@transaction.atomic
def create_job(
    *, actor: Person, revision: Revision, complaint: str, symptoms: Symptoms, purposes: Sequence[str] = ()
) -> Job:
    """Create a job without what its stations begin with; `stations.opening.open_job` does both."""
    require_active(actor)
    job = Job.objects.create(
        number=next_number(),
        revision=revision,
        complaint=complaint,
        opened=timezone.now(),
        opened_by=actor,
        purposes=[key for key in PURPOSE if key in purposes],
        arrived=revision,
    )
    log.write(job, actor, "opened", f"Job opened for {revision.bike.label}: {complaint}")
    add_symptoms(job, actor, symptoms)
    return job


def add_symptoms(job: Job, actor: Person, symptoms: Symptoms) -> None:
    """Store symptoms as looks of then or now; what this bike's model does not have is logged."""
    scenes = Table(circuit_of(core_bike(job.revision)), [Row()]).scenes
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
        job.evidence.create(
            round=job.round, at=timezone.now(), by=actor, by_name=str(actor), **entry_fields(item)
        )
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
        job.evidence.create(
            round=job.round, at=timezone.now(), by=actor, by_name=str(actor), **entry_fields(item)
        )


@transaction.atomic
def set_hand(*, actor: Person, job: Job, spares: Sequence[str], donor: Revision | None) -> None:
    """Say for which parts a known good one is to hand, and which bike may lend halves.

    Raises ValidationError where the donor is the bike itself."""
    require_open(job, actor)
    if donor is not None and donor.bike_id == job.revision.bike_id:
        raise ValidationError("Donor: choose another bike than this one.")
    known = {part.id: part.name for part in core_bike(job.revision).parts}
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
def keep_description(*, actor: Person, job: Job, core: Bike, station: str, what: str) -> None:
    """Store a changed description as the next revision of the bike and move the job onto it."""
    ready_core(job, actor)
    add_revision(actor=actor, bike=job.revision.bike, core=core, base=job.revision.number, what=what)
    log.write(job, actor, station, what[:300])
    use_newest_revision(actor=actor, job=job)


def _lost_evidence(job: Job, newest: Revision) -> list[str]:
    """Return the evidence of a job that names what a description does not have, in words."""
    entries = list(job.evidence.filter(undone=False))
    if not entries:
        return []
    table = Table(circuit_of(core_bike(newest)), [Row()])
    lost = []
    for entry in entries:
        try:
            validate(table, core_evidence(entry))
        except BrightError as error:
            lost.append(f"{entry}: {error}")
    return lost


@transaction.atomic
def use_newest_revision(*, actor: Person, job: Job) -> None:
    """Let the job stand on the newest description of its bike.

    Raises ValidationError where evidence of this job names what the new description no longer has.
    """
    require_open(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk == job.revision_id:
        raise ValidationError("The job uses the newest description already.")
    lost = _lost_evidence(job, newest)
    if lost:
        words = "; ".join(lost[:MOST_LOST])
        raise ValidationError(f"Evidence of this job would lose its place; undo it first: {words}")
    before, old = job.revision, job.revision.number
    job.revision = newest
    job.save(update_fields=["revision"])
    _answer_asked(job, actor, before)
    log.write(job, actor, "revision", f"Now uses revision {newest.number} of the bike (was {old})")


def _answer_asked(job: Job, actor: Person, before: Revision) -> None:
    """Take "something more is on this line" out of the reckoning where the new description has it now."""
    nets, now = (circuit_of(core_bike(revision)).nets for revision in (before, job.revision))
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
    job.purposes = [key for key in PURPOSE if key in planned.purposes]
    job.promised, job.worker, job.waiting = planned.promised, planned.worker, planned.waiting
    job.place, job.decided = planned.place.strip()[:80], planned.decided.strip()[:1000]
    job.save(update_fields=["purposes", "promised", "worker", "waiting", "place", "decided"])
    pieces = [
        ", ".join(purpose.title for purpose in purposes_of(job.purposes)),
        f"promised {job.promised}" if job.promised else "",
        f"with {job.worker}" if job.worker else "",
        WAITS.get(job.waiting, ""),
        f"now at {job.place}" if job.place else "",
        f"customer: {job.decided}" if job.decided else "",
    ]
    log.write(job, actor, "plan", "; ".join(filter(None, pieces)))
