"""Changes at arrival."""

from collections.abc import Mapping

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.arrive.models import TRIAGE, Arrival, Waiver
from brightcircuit.arrive.queries import findings_of
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import add_symptoms
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active, require_lead


def _arrival(job: Job, actor: Person) -> Arrival:
    require_active(actor)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")
    return Arrival.objects.select_for_update().get(job=job)


@transaction.atomic
def answer_triage(*, actor: Person, job: Job, answers: Mapping[str, bool | None], note: str | None = None) -> None:
    """Store the answers about the pack. A new yes undoes an earlier lifting of the quarantine."""
    arrival = _arrival(job, actor)
    changed = [name for name, _ in TRIAGE if answers.get(name) is not None and answers[name] != arrival.triage.get(name)]
    arrival.triage = {name: answers.get(name, arrival.triage.get(name)) for name, _ in TRIAGE}
    if any(answers.get(name) for name in changed):
        arrival.lifted_reason, arrival.lifted_by = "", ""
    if note is not None and note != arrival.note:
        arrival.note = note
        log.write(job, actor, "arrival", f"Noted: {note}")
    arrival.save()
    words = dict(TRIAGE)
    for name in changed:
        log.write(job, actor, "triage", f"Pack: {words[name]} {'YES' if answers[name] else 'no'}")


@transaction.atomic
def lift_quarantine(*, actor: Person, job: Job, reason: str) -> None:
    """Lift the quarantine of a pack; only a lead, only with a reason."""
    require_lead(actor)
    arrival = _arrival(job, actor)
    if not reason.strip():
        raise ValidationError("Give the reason: what was checked, and how.")
    arrival.lifted_reason, arrival.lifted_by = reason.strip(), str(actor)
    arrival.save()
    log.write(job, actor, "quarantine", f"Quarantine lifted: {reason.strip()}")


@transaction.atomic
def waive_finding(*, actor: Person, job: Job, key: str, reason: str) -> None:
    """Accept a finding with a reason that stays on the job; danger findings need a lead."""
    require_active(actor)
    item = next((f for f in findings_of(job) if f.finding.key == key), None)
    if item is None:
        raise ValidationError("That finding does not stand any more.")
    if item.finding.severity == "danger":
        require_lead(actor)
    _arrival(job, actor)
    if not reason.strip():
        raise ValidationError("Give the reason why this is accepted.")
    fresh = {"reason": reason.strip(), "by": actor, "by_name": str(actor), "at": timezone.now()}
    Waiver.objects.update_or_create(job=job, key=key, defaults=fresh)
    log.write(job, actor, "waiver", f"{item.finding.code} accepted: {reason.strip()}")


@transaction.atomic
def confirm_symptoms(*, actor: Person, job: Job, symptoms: Mapping[str, bool]) -> None:
    """Add symptoms confirmed after the job was opened."""
    _arrival(job, actor)
    add_symptoms(job, actor, symptoms)
