"""Repairs and their proofs: rows of a job that several stations look at."""

from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.jobs.safety import require_pack_safe, require_safe
from brightcircuit.shop.models import Person
from brightcore.formats.plain import JsonObject
from brightcore.kinds.select import packs


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
    """Return whether a repair of this round has passed its proof."""
    return job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED).exists()


def confirmed_counts() -> dict[str, int]:
    """Return how often a proved repair confirmed a fault of each class, in this shop alone."""
    rows = Repair.objects.filter(proof=Repair.Proof.PASSED, imported=False).exclude(fault_class="")
    return dict(rows.values_list("fault_class").annotate(n=Count("id")).values_list("fault_class", "n"))


@transaction.atomic
def do_repair(*, actor: Person, job: Job, plan: RepairPlan) -> Repair:
    """Record that a repair was done; its proof is then asked for. One at the pack needs a safe pack."""
    require_open(job, actor)
    if touches_pack(job, plan.repair):
        require_pack_safe(job)
    if pending_repair(job):
        raise ValidationError("A repair already waits for its proof.")
    repair = job.repairs.create(
        round=job.round,
        repair=plan.repair,
        action=plan.action,
        fault=plan.fault,
        fault_class=plan.fault_class,
        root_cause=plan.root_cause,
        proof_title=plan.proof_title,
        proof_expected=plan.proof_expected,
        at=timezone.now(),
        by=actor,
        by_name=str(actor),
    )
    job.conclusion = plan.conclusion
    job.save(update_fields=["conclusion"])
    log.write(job, actor, "repair", f"Repair done: {plan.action}")
    return repair


def touches_pack(job: Job, repair_id: str) -> bool:
    """Return whether a repair (`part:…` or `join:…`) is at a pack or at a plug of one."""
    bike = core_bike(job.revision)
    own = {part.id for part in packs(bike)}
    _, _, rest = repair_id.partition(":")
    owner = rest.partition(":")[0]
    sides = {part for join in bike.joins if join.id == owner for part, _ in join.sides()}
    return bool(own & ({owner} | sides))


@transaction.atomic
def prove(*, actor: Person, job: Job, passed: bool) -> None:
    """Record the proof, which powers the bike. A failed one opens the next round."""
    require_open(job, actor)
    require_safe(job)
    repair = pending_repair(job)
    if repair is None:
        raise ValidationError("No repair waits for a proof.")
    repair.proof = Repair.Proof.PASSED if passed else Repair.Proof.FAILED
    repair.save(update_fields=["proof"])
    if passed:
        log.write(job, actor, "proof", f"Proof passed: {repair.proof_title or repair.action}")
        return
    job.round += 1
    job.save(update_fields=["round"])
    log.write(job, actor, "proof", f"Proof failed; round {job.round} begins with fresh evidence")


@transaction.atomic
def withdraw_repair(*, actor: Person, job: Job) -> None:
    """Undo "repair done" before its proof."""
    require_open(job, actor)
    repair = pending_repair(job)
    if repair is None:
        raise ValidationError("No repair waits for a proof.")
    log.write(job, actor, "repair", f"Taken back, was not done: {repair.action}")
    repair.delete()
