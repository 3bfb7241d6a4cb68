"""Changes to a job's evidence."""

from collections.abc import Sequence

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from brightcircuit.arrive.queries import blocks
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active
from brightcircuit.trace.models import Acknowledgement, Entry, Submission
from brightcircuit.trace.queries import acknowledged
from brightcircuit.trace.translate import entry_fields
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import GATES


class StaleForm(Exception):
    """The job has changed since the form was shown."""


class Blocked(Exception):
    """A caution, quarantine or finding stands before this test."""


def _open(job: Job, actor: Person) -> None:
    require_active(actor)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")


@transaction.atomic
def add_evidence(
    *, actor: Person, job: Job, items: Sequence[Evidence], words: Sequence[str], power: str, gates: Sequence[str],
    ticked: Sequence[str], minutes: float, client: str, version: int, needs_safe_pack: bool,
) -> bool:  # fmt: skip
    """Store evidence that has passed `validate`. Returns False where this form came in before.

    Raises Blocked where the pack, a danger finding or an unticked caution stands before the
    test, StaleForm where the job changed since the form was shown.
    """
    _open(job, actor)
    if client and Submission.objects.filter(job=job, client=client).exists():
        return False
    if Job.objects.select_for_update().get(pk=job.pk).version != version:
        raise StaleForm
    if needs_safe_pack:
        standing = blocks(job)
        if standing:
            raise Blocked(standing[0].text)
    standing_gates = acknowledged(job, power)
    missing = [g for g in gates if g not in ticked and g not in standing_gates]
    if missing:
        raise Blocked(f"Tick the caution first: {GATES[missing[0]]}")
    now = timezone.now()
    for gate in ticked:
        if gate in gates and gate not in standing_gates:
            Acknowledgement.objects.create(job=job, gate=gate, power=power, at=now, by=actor)
            log.write(job, actor, "caution", f"Acknowledged: {GATES[gate]}")
    if client:
        try:
            with transaction.atomic():
                Submission.objects.create(job=job, client=client)
        except IntegrityError:
            return False
    for item, text in zip(items, words, strict=True):
        Entry.objects.create(
            job=job,
            round=job.round,
            at=now,
            by=actor,
            by_name=str(actor),
            minutes=minutes / len(items),
            client=client,
            **entry_fields(item),
        )
        log.write(job, actor, "evidence", text)
    return True


@transaction.atomic
def undo_evidence(*, actor: Person, job: Job, entry_id: int, words: str) -> None:
    """Take one piece of evidence out of the reckoning; it stays in the record."""
    _open(job, actor)
    entry = job.evidence.filter(pk=entry_id, undone=False, round=job.round).first()
    if entry is None:
        raise ValidationError("That evidence is not in this round any more.")
    entry.undone = True
    entry.save(update_fields=["undone"])
    log.write(job, actor, "undone", f"Undone: {words}")


@transaction.atomic
def skip_test(*, actor: Person, job: Job, test_id: str, words: str) -> None:
    """Leave a test out of the proposals of this job."""
    _open(job, actor)
    if test_id not in job.skipped_tests:
        job.skipped_tests = [*job.skipped_tests, test_id]
        job.save(update_fields=["skipped_tests"])
        log.write(job, actor, "skipped", f"Cannot do: {words}")


@transaction.atomic
def unskip_tests(*, actor: Person, job: Job) -> None:
    """Offer all tests again."""
    _open(job, actor)
    job.skipped_tests = []
    job.save(update_fields=["skipped_tests"])
    log.write(job, actor, "skipped", "All tests offered again")
