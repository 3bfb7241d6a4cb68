"""Changes at arrival."""

from collections.abc import Mapping

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.arrive.models import CIRCUMSTANCES, TRIAGE, WIRES, Arrival, Waiver
from brightcircuit.arrive.queries import findings_of
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import add_symptoms
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active, require_lead
from brightcircuit.trace.translate import core_evidence
from brightcore.errors import BrightError
from brightcore.tracing.evidence import validate
from brightcore.tracing.table import Row, Table


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
def note_found(*, actor: Person, job: Job, circumstances: list[str], wires: list[str]) -> None:
    """Store under what circumstances it happened, and the condition of wires and plugs."""
    arrival = _arrival(job, actor)
    found = []
    for field, chosen, known in (("circumstances", circumstances, dict(CIRCUMSTANCES)), ("wires", wires, dict(WIRES))):
        kept = [name for name in known if name in chosen]
        if kept != getattr(arrival, field):
            setattr(arrival, field, kept)
            found.append(f"{field}: {', '.join(known[name].lower() for name in kept) or 'none'}")
    arrival.save()
    if found:
        log.write(job, actor, "arrival", f"Found at arrival, {'; '.join(found)}")


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
    _arrival(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk == job.revision_id:
        raise ValidationError("The job stands on the newest description already.")
    lost = _lost_evidence(job, newest)
    if lost:
        raise ValidationError(f"Evidence of this job would lose its place; undo it first: {'; '.join(lost[:4])}")
    old = job.revision.number
    job.revision = newest
    job.save(update_fields=["revision"])
    log.write(job, actor, "revision", f"Stands on revision {newest.number} of the bike now (was {old})")


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
