"""Changes to a job's evidence.

Cautions and gates follow from what the act is, never from what a caller says.
"""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.evidence import entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import blocks
from brightcircuit.jobs.stale import require_fresh
from brightcircuit.shop.models import Person
from brightcircuit.trace.models import Acknowledgement, Entry, Submission
from brightcircuit.trace.queries import acknowledged
from brightcore.procedure.gates import GATES, standing_of
from brightcore.tracing.acts import Act, act_of
from brightcore.tracing.advice import evidence_title, evidence_value, present_state, setup_minutes
from brightcore.tracing.engine import Trace
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import validate


class Blocked(Exception):
    """A caution, quarantine or finding stands before this test."""


@transaction.atomic
def add_evidence(
    *,
    actor: Person,
    job: Job,
    trace: Trace,
    items: Sequence[Evidence],
    ticked: Sequence[str],
    client: str,
    version: int,
) -> bool:
    """Store what was measured or seen. Returns False where this form came in before.

    Raises BrightError where it names what the bike does not have, Blocked where the pack, a danger finding or
    an unticked caution stands before the act, Stale where the job changed since the form was shown.
    """
    require_open(job, actor)
    for item in items:
        validate(trace.engine.table, item)
    if client and Submission.objects.filter(job=job, client=client).exists():
        return False
    require_fresh(job, version)
    act = act_of(trace.engine, items)
    _require_clear(job, act)
    _acknowledge(actor, job, act, ticked)
    if client and not _first_time(job, client):
        return False
    minutes = act.minutes + setup_minutes(present_state(trace), act.condition, act.gates)
    for item in items:
        Entry.objects.create(
            job=job,
            round=job.round,
            at=timezone.now(),
            by=actor,
            by_name=str(actor),
            minutes=minutes / len(items),
            client=client,
            **entry_fields(item),
        )
        log.write(job, actor, "evidence", f"{evidence_title(trace.engine, item)}: {evidence_value(item)}")
    return True


def _require_clear(job: Job, act: Act) -> None:
    """Raise Blocked where something stands before a powered act, or one that touches the pack."""
    standing = blocks(job) if act.needs_safe_pack else []
    if standing:
        raise Blocked(standing[0].text)


def _acknowledge(actor: Person, job: Job, act: Act, ticked: Sequence[str]) -> None:
    """Keep the cautions ticked for an act; raises Blocked where one is neither ticked nor stands."""
    stands = standing_of(act.condition.power, act.gates)
    standing = acknowledged(job, stands)
    wanted = [gate for gate in act.gates if gate not in standing]
    missing = [gate for gate in wanted if gate not in ticked]
    if missing:
        raise Blocked(f"Tick the caution first: {GATES[missing[0]]}")
    for gate in wanted:
        Acknowledgement.objects.create(job=job, gate=gate, power=stands, at=timezone.now(), by=actor)
        log.write(job, actor, "caution", f"Acknowledged: {GATES[gate]}")


def _first_time(job: Job, client: str) -> bool:
    """Return whether a form's client id comes in for the first time, and remember it."""
    try:
        with transaction.atomic():
            Submission.objects.create(job=job, client=client)
    except IntegrityError:
        return False
    return True


@transaction.atomic
def undo_evidence(*, actor: Person, job: Job, entry_id: int, words: str) -> None:
    """Take one piece of evidence out of the reckoning; it stays in the record."""
    require_open(job, actor)
    entry = job.evidence.filter(pk=entry_id, undone=False, round=job.round).first()
    if entry is None:
        raise ValidationError("That evidence is not in this round any more.")
    entry.undone = True
    entry.save(update_fields=["undone"])
    log.write(job, actor, "undone", f"Undone: {words}")


@transaction.atomic
def skip_test(*, actor: Person, job: Job, test_id: str, words: str) -> None:
    """Leave a test out of the proposals of this job."""
    require_open(job, actor)
    if test_id not in job.skipped_tests:
        job.skipped_tests = [*job.skipped_tests, test_id]
        job.save(update_fields=["skipped_tests"])
        log.write(job, actor, "skipped", f"Cannot do: {words}")


@transaction.atomic
def unskip_tests(*, actor: Person, job: Job) -> None:
    """Offer all tests again."""
    require_open(job, actor)
    job.skipped_tests = []
    job.save(update_fields=["skipped_tests"])
    log.write(job, actor, "skipped", "All tests offered again")
