"""The quarantine of a pack: it begins with any yes, and ends only when a shop lead lifts it with a
reason."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job, Quarantine
from brightcircuit.shop.models import Person
from brightcore.kinds.select import packs


def marks_of(revision: Revision) -> set[str]:
    """Return what is marked on the packs of a bike as described."""
    return {pack.spec.mark.strip().lower() for pack in packs(core_bike(revision))} - {""}


def standing_quarantines(job: Job) -> list[Quarantine]:
    """Return the quarantines that hold for a job: of its bike, or of a pack by its mark.

    A mark counts that was on the pack when the quarantine began, or was written down since.
    """
    active = list(Quarantine.objects.filter(lifted=None).select_related("bike", "job"))
    if not active:
        return []
    newest = latest_revision(job.revision.bike)
    marks = marks_of(job.revision) | marks_of(newest)

    def holds(row: Quarantine) -> bool:
        if row.bike_id == newest.bike_id:
            return True
        return bool(marks & (set(row.marks) | marks_of(latest_revision(row.bike))))

    return [row for row in active if holds(row)]


def begin(job: Job, actor: Person, why: Sequence[str]) -> None:
    """Begin a quarantine, or add to the one that this job began."""
    known = next((row for row in standing_quarantines(job) if row.job_id == job.pk), None)
    if known is None:
        Quarantine.objects.create(
            bike=job.revision.bike,
            marks=sorted(marks_of(job.revision)),
            job=job,
            why=list(why),
            begun=timezone.now(),
            begun_by_name=str(actor),
        )
        return
    known.why = list(dict.fromkeys((*known.why, *why)))
    known.save(update_fields=["why"])


@transaction.atomic
def lift(*, actor: Person, job: Job, reason: str) -> None:
    """Lift every quarantine that holds for a job; only a shop lead, only with a reason."""
    require_lead(actor)
    require_open(job, actor)
    if not reason.strip():
        raise ValidationError("Give the reason: what was checked, and how.")
    rows = standing_quarantines(job)
    if not rows:
        raise ValidationError("There is no quarantine any more.")
    for row in rows:
        row.lifted, row.lifted_reason, row.lifted_by_name = (
            timezone.now(),
            reason.strip(),
            str(actor),
        )
        row.save(update_fields=["lifted", "lifted_reason", "lifted_by_name"])
    log.write(job, actor, "quarantine", f"Quarantine lifted: {reason.strip()}")
