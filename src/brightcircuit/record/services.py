"""Closing and reopening jobs."""

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.guard import DECIDING, require_open, require_unchanged
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.quarantine import standing
from brightcircuit.jobs.repairs import is_proved, unanswered_cause
from brightcircuit.jobs.safety import open_dangers
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import speaks_against, station_done


@transaction.atomic
def close_job(*, actor: Person, job: Job, reason: str) -> None:
    """Close a job. Without a passed proof in its last round a reason is needed."""
    require_open(job, actor)
    proved = is_proved(job) or station_done(job, "prove")
    failed = [*speaks_against(job), *(f"{d.finding.code} {d.text}" for d in open_dangers(job))]
    if failed and not (actor.is_lead and reason.strip()):
        words = "; ".join(failed)
        raise ValidationError(f"Not proven: {words}. A shop lead may let it go with a reason.")
    held = bool(standing(job))
    if held and not (actor.is_lead and reason.strip()):
        raise ValidationError(
            "The pack is in quarantine: a shop lead lifts it, or closes the job with a reason."
        )
    waiting = unanswered_cause(job)
    if waiting is not None and not reason.strip():
        raise ValidationError(f"Say first what the root cause was. To look for: {waiting.root_cause}.")
    if not proved and not reason.strip():
        raise ValidationError("No proof has passed: say why the job is closed without one.")
    job.status, job.closed, job.close_reason = Job.Status.CLOSED, timezone.now(), reason.strip()
    job.save(update_fields=["status", "closed", "close_reason"])
    words = "Closed with proof" if proved else "Closed without proof"
    if held:
        words += ", over the quarantine of its pack"
    log.write(job, actor, "closed", ": ".join(filter(None, (words, reason.strip()))))


@transaction.atomic
def reopen_job(*, actor: Person, job: Job) -> None:
    """Reopen a closed job; a proved round is over, so a new one begins."""
    require_active(actor)
    job.refresh_from_db(fields=DECIDING)
    require_unchanged(job)
    if job.is_open:
        raise ValidationError("The job is open.")
    if is_proved(job):
        job.round += 1
    job.status, job.closed, job.close_reason = Job.Status.OPEN, None, ""
    job.save(update_fields=["status", "closed", "close_reason", "round"])
    log.write(job, actor, "reopened", "Reopened")
