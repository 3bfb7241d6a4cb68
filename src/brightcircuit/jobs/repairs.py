"""Repairs and their proofs: rows of a job that several stations look at."""

from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Count

from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.descriptions import PLANNED, keep_description, ready_core
from brightcircuit.jobs.entries import carried, new_entry
from brightcircuit.jobs.evidence import core_evidence, current_rows
from brightcircuit.jobs.models import ChangeDone, Job, Repair
from brightcircuit.jobs.safety import require_pack_safe, require_safe
from brightcircuit.jobs.way import plan_of, stands_of, undo_done
from brightcircuit.library.models import LibraryPart
from brightcircuit.library.translate import core_entry
from brightcircuit.shop.models import Person
from brightcore.circuit.faults import RepairKind
from brightcore.describing.compare import replaced_words
from brightcore.describing.edit import marked
from brightcore.describing.swap import swap_part
from brightcore.formats.plain import JsonObject
from brightcore.kinds.select import packs
from brightcore.procedure.stands import shape_of
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.rounds import outlives, stands_on


@dataclass(frozen=True, slots=True)
class RepairPlan:
    """What the engine says about a repair, frozen when it is done."""

    repair: str
    action: str
    root_cause: str
    fault: str
    fault_class: str
    proof_title: str
    proof_expected: str
    conclusion: JsonObject


def pending_repair(job: Job) -> Repair | None:
    """Return the repair of this round that waits for its proof."""
    return job.repairs.filter(round=job.round, proof=Repair.Proof.OPEN).last()


def is_proved(job: Job) -> bool:
    """Return whether a repair of this round has passed its proof; while a job is open, here."""
    found = job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED)
    if job.is_open:
        # What a file brings is history: nobody closes a job with the proof of another shop.
        found = found.filter(imported=False)
    return found.exists()


def confirmed_counts() -> dict[str, int]:
    """Return how often a proved repair confirmed a fault of each class, in this shop alone."""
    rows = Repair.objects.filter(proof=Repair.Proof.PASSED, imported=False, counted=True)
    rows = rows.exclude(fault_class="")
    return dict(
        rows.values_list("fault_class").annotate(n=Count("id")).values_list("fault_class", "n")
    )


@dataclass(frozen=True, slots=True)
class NewThing:
    """What a repair puts in the place of what it replaces.

    `library`: slug of a description of the library, "" for like for like; `mark`: its serial number
    or the shop's own.
    """

    library: str = ""
    mark: str = ""


LIKE_FOR_LIKE = NewThing()


@transaction.atomic
def do_repair(
    *,
    actor: Person,
    job: Job,
    plan: RepairPlan,
    decision: str = "",
    thing: NewThing = LIKE_FOR_LIKE,
) -> Repair:
    """Record that a repair was done; its proof is then asked for. One at the pack needs a safe
    pack.

    A repair that replaces makes another thing: its plugs, its settings and its proof follow as for
    any other.
    """
    require_open(job, actor)
    if touches_pack(job, plan.repair):
        require_pack_safe(job)
    if pending_repair(job):
        raise ValidationError("A repair already waits for its proof.")
    # Asked once: what was decided on the quote or on the plan is what the repair was done for.
    decision = (decision.strip() or job.decided)[:200]
    repair = job.repairs.create(
        round=job.round,
        repair=plan.repair,
        action=plan.action,
        fault=plan.fault,
        fault_class=plan.fault_class,
        root_cause=plan.root_cause,
        decision=decision,
        proof_title=plan.proof_title,
        proof_expected=plan.proof_expected,
        probability=plan.conclusion.get("probability"),
        minutes=float(plan.conclusion.get("minutes") or 0.0),
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    job.conclusion = plan.conclusion
    job.decided = job.decided or decision
    job.save(update_fields=["conclusion", "decided"])
    log.write(job, actor, "repair", f"Repair done: {plan.action}")
    if repair.decision:
        log.write(job, actor, "repair", f"The customer decided: {repair.decision}")
    _replace(actor, job, repair, thing)
    return repair


def _replace(actor: Person, job: Job, repair: Repair, thing: NewThing) -> None:
    """Put another thing in the place of the part that a repair replaces, connected as the old one
    was."""
    part_id = RepairKind(repair.repair, "", 0, "").replaces
    planned = {part.id: part for part in plan_of(job).parts}
    # A job from before things had an identity describes what stands by itself; nothing is exchanged
    # in it.
    if not job.follows or part_id not in planned:
        return
    old = planned[part_id]
    kind, name, spec, ports = old.kind, old.name, old.spec, old.ports
    if thing.library:
        row = LibraryPart.objects.filter(slug=thing.library, retired=False).first()
        if row is None:
            raise ValidationError("Replaced by: choose a part of the library, or like for like.")
        entry = core_entry(row)
        kind, name, spec, ports = entry.kind, entry.name, entry.spec, entry.ports
    before = job.revision
    changed = swap_part(ready_core(job, actor), part_id, kind, name, spec, ports)
    core = marked(changed.bike, changed.made, thing.mark)
    what = replaced_words(old.name, core.part(changed.made).name)
    keep_description(
        actor=actor, job=job, core=core, station="repair", what=what, how=ChangeDone.How.REPAIR
    )
    fresh = (part for part in plan_of(job).parts if part.replaces == part_id)
    repair.made = next((part.id for part in fresh), "")
    repair.before, repair.after = before, job.revision
    repair.save(update_fields=["made", "before", "after"])


def touches_pack(job: Job, repair_id: str) -> bool:
    """Return whether a repair (`part:…` or `join:…`) is at a pack or at a plug of one."""
    bike = stands_of(job)
    own = {part.id for part in packs(bike)}
    _, _, rest = repair_id.partition(":")
    owner = rest.partition(":")[0]
    sides = {part for join in bike.joins if join.id == owner for part, _ in join.sides()}
    return bool(own & ({owner} | sides))


@transaction.atomic
def prove(*, actor: Person, job: Job, passed: bool, keep: bool = True, cause: str = "") -> None:
    """Record the proof, which powers the bike. A failed one opens the next round.

    The failed repair is evidence there, and so is what was told and found at arrival. `keep`:
    readings that the repair did not touch stand, too. `cause`: what the root cause was, where that
    is known already.
    """
    require_open(job, actor)
    require_safe(job)
    repair = pending_repair(job)
    if repair is None:
        raise ValidationError("No repair waits for a proof.")
    repair.proof = Repair.Proof.PASSED if passed else Repair.Proof.FAILED
    repair.shape = shape_of(stands_of(job))
    repair.save(update_fields=["proof", "shape"])
    if passed:
        log.write(job, actor, "proof", f"Proof passed: {repair.proof_title or repair.action}")
        if cause.strip():
            answer_cause(actor=actor, job=job, cause=cause)
        return
    before = current_rows(job.evidence.all(), job.round)
    job.round += 1
    job.save(update_fields=["round"])
    bike = stands_of(job)
    kept = [row for row in before if stands_on(bike, core_evidence(row), repair.repair, keep)]
    for row in kept:
        carried(job, row, core_evidence(row))
    # What failed to cure it is the thing that stands there now: a new part is not suspected anew.
    if repair.made:
        subject = f"part:{repair.made}"
    else:
        subject = repair.repair
    failed = Evidence("tried", "failed", subject=subject)
    new_entry(job, actor, failed)
    readings = sum(not outlives(core_evidence(row)) for row in kept)
    if readings:
        words = f"{readings} readings kept"
    else:
        words = "with fresh readings"
    log.write(job, actor, "proof", f"Proof failed; round {job.round} begins, {words}")


@transaction.atomic
def undo_proof(*, actor: Person, job: Job) -> None:
    """Undo "proof passed": the repair waits for its proof again. Only while the job is open."""
    require_open(job, actor)
    repair = job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED).last()
    if repair is None:
        raise ValidationError("No proof of this round has passed.")
    repair.proof = Repair.Proof.OPEN
    repair.save(update_fields=["proof"])
    log.write(job, actor, "proof", f"Undone: proof passed, {repair.proof_title or repair.action}")


@transaction.atomic
def answer_cause(*, actor: Person, job: Job, cause: str) -> None:
    """Say what the root cause of the last proved repair was."""
    require_open(job, actor)
    repair = unanswered_cause(job)
    if repair is None:
        raise ValidationError("No proved repair waits for its root cause.")
    if not cause.strip():
        raise ValidationError(
            "Root cause: say what it was, or that it was looked for and not found."
        )
    repair.cause = cause.strip()
    repair.save(update_fields=["cause"])
    log.write(job, actor, "repair", f"Root cause: {repair.cause}")


def unanswered_cause(job: Job) -> Repair | None:
    """Return the proved repair of this round whose root cause nobody has answered."""
    rows = job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED, cause="")
    return rows.exclude(root_cause="").last()


@transaction.atomic
def forget_counts(*, actor: Person, fault_class: str) -> int:
    """Let the proved repairs of a class move the priors of this shop no more; only a shop lead.
    Returns how many."""
    require_lead(actor)
    rows = Repair.objects.filter(fault_class=fault_class, counted=True, imported=False)
    return rows.update(counted=False)


@transaction.atomic
def withdraw_repair(*, actor: Person, job: Job) -> None:
    """Undo "repair done" before its proof."""
    require_open(job, actor)
    repair = pending_repair(job)
    if repair is None:
        raise ValidationError("No repair waits for a proof.")
    log.write(job, actor, "repair", f"Undone: repair, {repair.action}")
    before, after, at = repair.before, repair.after, repair.at
    repair.delete()
    if after is None or before is None:
        return
    # Only what this repair did: a step that somebody ticked meanwhile stays done.
    undo_done(
        job, list(job.changes_done.filter(how=ChangeDone.How.REPAIR, undone=False, at__gte=at))
    )
    if job.revision_id == after.pk:
        what = f"As in revision {before.number} again"
        core = core_bike(before)
        keep_description(
            actor=actor,
            job=job,
            core=core,
            station="repair",
            what=what,
            how=PLANNED,
            same_things=True,
        )
