"""Repairs, proofs, closing and reopening."""

from dataclasses import dataclass
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.record.models import Repair
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active


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
    conclusion: dict[str, Any]


def _open(job: Job, actor: Person) -> None:
    require_active(actor)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")


def pending_repair(job: Job) -> Repair | None:
    """Return the repair of this round that waits for its proof."""
    return job.repairs.filter(round=job.round, proof="").last()


@transaction.atomic
def do_repair(*, actor: Person, job: Job, plan: RepairPlan) -> Repair:
    """Record that a repair was done; its proof is then asked for."""
    _open(job, actor)
    if pending_repair(job):
        raise ValidationError("A repair already waits for its proof.")
    repair = Repair.objects.create(
        job=job, round=job.round, repair=plan.repair, action=plan.action, fault=plan.fault, fault_class=plan.fault_class,
        root_cause=plan.root_cause, proof_title=plan.proof_title, proof_expected=plan.proof_expected,
        at=timezone.now(), by=actor, by_name=str(actor),
    )  # fmt: skip
    job.conclusion = plan.conclusion
    job.save(update_fields=["conclusion"])
    log.write(job, actor, "repair", f"Repair done: {plan.action}")
    return repair


@transaction.atomic
def prove(*, actor: Person, job: Job, passed: bool) -> None:
    """Record the proof. A failed proof opens the next round; earlier evidence is kept, inactive."""
    _open(job, actor)
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
    _open(job, actor)
    repair = pending_repair(job)
    if repair is None:
        raise ValidationError("No repair waits for a proof.")
    log.write(job, actor, "repair", f"Taken back, was not done: {repair.action}")
    repair.delete()


@transaction.atomic
def close_job(*, actor: Person, job: Job, reason: str) -> None:
    """Close a job. Without a passed proof in its last round a reason is needed."""
    _open(job, actor)
    proved = job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED).exists()
    if not proved and not reason.strip():
        raise ValidationError("No proof has passed: say why the job is closed without one.")
    job.status, job.closed, job.close_reason = Job.Status.CLOSED, timezone.now(), reason.strip()
    job.save(update_fields=["status", "closed", "close_reason"])
    log.write(job, actor, "closed", "Closed with proof" if proved else f"Closed without proof: {reason.strip()}")


@transaction.atomic
def reopen_job(*, actor: Person, job: Job) -> None:
    """Reopen a closed job; a proved round is over, so a new one begins."""
    require_active(actor)
    if job.is_open:
        raise ValidationError("The job is open.")
    if job.repairs.filter(round=job.round, proof=Repair.Proof.PASSED).exists():
        job.round += 1
    job.status, job.closed, job.close_reason = Job.Status.OPEN, None, ""
    job.save(update_fields=["status", "closed", "close_reason", "round"])
    log.write(job, actor, "reopened", "Reopened")
