"""Closing and reopening jobs."""

from collections.abc import Mapping, Sequence

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import DECIDING, require_open, require_unchanged
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.dangers import let_danger_go
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import is_proved
from brightcircuit.record.models import LetGo
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import OpenItem, station_done
from brightcircuit.stations.whats_open import whats_open


@transaction.atomic
def close_job(
    *, actor: Person, job: Job, reason: str = "", reasons: Mapping[str, str] | None = None
) -> None:
    """Close a job.

    A technician closes it only when nothing is open on it; a shop lead lets each open thing go with
    a reason of its own, by its key. Where nothing was proven because nothing was to be proven, it
    says why it is closed. Raises ValidationError, by the keys where reasons are missing.
    """
    require_open(job, actor)
    still_open = whats_open(job)
    proved = is_proved(job) or station_done(job, "prove")
    said = {key: words.strip() for key, words in (reasons or {}).items()}
    if still_open and not actor.is_lead:
        raise ValidationError(
            f"Open: {_named(still_open)}. A shop lead may let it go with a reason for each."
        )
    missing = {
        item.key: [f"Say why this is let go: {item.words}."]
        for item in still_open
        if not said.get(item.key)
    }
    if missing:
        raise ValidationError(missing)
    if not proved and not still_open and not reason.strip():
        raise ValidationError("Nothing was to be proven: say why the job is closed.")
    for item in still_open:
        LetGo.objects.create(
            job=job,
            key=item.key[:500],
            station=item.station,
            words=item.words[:500],
            reason=said[item.key][:500],
            at=now(),
            by=actor,
            by_name=str(actor),
        )
        log.write(job, actor, "closed", f"Let go, {item.words}: {said[item.key]}")
        if item.key.startswith("reading:"):
            let_danger_go(
                actor=actor, job=job, uuid=item.key.partition(":")[2], reason=said[item.key]
            )
    job.status, job.closed, job.close_reason = Job.Status.CLOSED, now(), reason.strip()
    job.save(update_fields=["status", "closed", "close_reason"])
    if proved and not still_open:
        words = "Closed with proof"
    else:
        words = "Closed without proof"
    log.write(job, actor, "closed", ": ".join(filter(None, (words, reason.strip()))))


MOST_NAMED = 6
"""Open things named in one message, at most; the list on Record has all of them."""


def _named(items: Sequence[OpenItem]) -> str:
    named = "; ".join(item.words for item in items[:MOST_NAMED])
    more = len(items) - MOST_NAMED
    if more > 0:
        return f"{named}; and {more} more"
    return named


@transaction.atomic
def reopen_job(*, actor: Person, job: Job) -> None:
    """Reopen a closed job; a proved round is over, so a new one begins."""
    require_active(actor)
    job.refresh_from_db(fields=DECIDING)
    require_unchanged(job)
    if job.is_open:
        raise ValidationError("The job is open.")
    if is_proved(job):
        # What is proved is over. Evidence of a bike that comes back belongs to another fault.
        job.round += 1
    job.status, job.closed, job.close_reason = Job.Status.OPEN, None, ""
    job.save(update_fields=["status", "closed", "close_reason", "round"])
    log.write(job, actor, "reopened", "Reopened")
