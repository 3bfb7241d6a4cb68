"""Changes to a job's evidence.

Cautions and gates follow from what the act is, never from what a caller says.
"""

from collections.abc import Sequence
from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.dangers import ReadDanger, note_dangers, read_well
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.evidence import core_evidence, current_rows
from brightcircuit.jobs.hazards import end_hazards, hazards_standing, note_hazards, note_limited
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import blocks
from brightcircuit.jobs.stale import require_fresh
from brightcircuit.shop.models import Person
from brightcircuit.trace.models import Acknowledgement, Entry, Submission
from brightcircuit.trace.places import place_of
from brightcircuit.trace.queries import acknowledged, more_gates
from brightcore.procedure.gates import GATES, standing_of
from brightcore.tracing.acts import Act, act_of
from brightcore.tracing.advice import evidence_title, evidence_value
from brightcore.tracing.context import is_ticked
from brightcore.tracing.doubts import danger_of, impossible, is_well, repeated
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hazard import is_short, left_to_check, seen_in
from brightcore.tracing.pace import present_state, setup_minutes
from brightcore.tracing.tests import validate
from brightcore.tracing.trace import Trace


class Blocked(Exception):
    """A caution, quarantine or finding stands before this test."""


class Again(Exception):
    """The same reading stands already: shall the new one replace it, or do both stand?"""

    def __init__(self, value: str) -> None:
        super().__init__(f"Here {value} was read before, in the same state.")
        self.value = value


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
    again: str = "",
) -> bool:
    """Store what was measured or seen. Returns False where this form came in before.

    Raises BrightError where it names what the bike does not have, Blocked where the pack, a danger
    finding or an unticked caution stands before the act, Stale where the job changed since the form
    was shown, Again where the same was read before and `again` says neither "replace" nor "both".
    What cannot be is kept in question.
    """
    require_open(job, actor)
    for item in items:
        validate(trace.engine.table, item)
    # Asked before the version: a form that came in twice was based on an older page the second
    # time, and is no conflict.
    if client and Submission.objects.filter(job=job, client=client).exists():
        return False
    require_fresh(job, version)
    older = _older(job, items) if again != "both" else []
    if older and again != "replace":
        raise Again(evidence_value(core_evidence(older[0])))
    # What the act is follows from the evidence. A form cannot claim that nothing was powered.
    act = act_of(trace.engine, items, trace.reached)
    act = replace(act, gates=(*act.gates, *more_gates(job, act.condition.power)))
    _require_clear(job, act, [place_of(item) for item in items])
    _acknowledge(actor, job, act, ticked)
    # Asked once more inside the transaction: two copies of one form may have come in side by side.
    if client and not _first_time(job, client):
        return False
    for row in older:
        row.undone = True
        row.save(update_fields=["undone"])
        log.write(job, actor, "undone", f"Replaced: {evidence_value(core_evidence(row))}")
    minutes = act.minutes + setup_minutes(present_state(trace), act.condition, act.gates)
    for item in items:
        questioned = impossible(trace.engine, item)[:200]
        new_entry(
            job, actor, item, minutes=minutes / len(items), client=client, questioned=questioned
        )
        log.write(
            job, actor, "evidence", f"{evidence_title(trace.engine, item)}: {evidence_value(item)}"
        )
        _note_danger(actor, job, trace, item)
    _note_hazards(actor, job, trace, items)
    return True


def _note_hazards(actor: Person, job: Job, trace: Trace, items: Sequence[Evidence]) -> None:
    """Store a hazard that was smelt or told; end what stands once every dead test is clean."""
    # A short that was measured counts as a hazard even where nobody smelt anything.
    shorted = any(is_short(trace.engine, item) for item in items)
    note_hazards(actor, job, (*seen_in(items), *(("short",) if shorted else ())))
    if hazards_standing(job):
        known = [*trace.evidence, *items]
        if not left_to_check(trace.engine, known, trace.left_out):
            end_hazards(actor, job)


def _note_danger(actor: Person, job: Job, trace: Trace, item: Evidence) -> None:
    """Keep a reading that is a danger at its points; a good one there ends what stood."""
    place = place_of(item)
    hazard, words = danger_of(trace.engine, item)
    if hazard is not None:
        note_dangers(actor, job, "trace", place, [ReadDanger(hazard.code, words, hazard.do)])
    elif is_well(trace.engine, item):
        read_well(actor, job, place)


def _older(job: Job, items: Sequence[Evidence]) -> list[Entry]:
    """Return the rows that stand at the same points in the same state as new readings."""
    rows = current_rows(job.evidence.all(), job.round)
    earlier = [core_evidence(row) for row in rows]
    found = (repeated(item, earlier) for item in items)
    return [rows[index] for index in found if index is not None]


@transaction.atomic
def confirm_reading(*, actor: Person, job: Job, entry_id: int) -> None:
    """Let a reading count that was in question."""
    require_open(job, actor)
    entry = (
        job.evidence.filter(pk=entry_id, undone=False, round=job.round)
        .exclude(questioned="")
        .first()
    )
    if entry is None:
        raise ValidationError("That reading is not in question any more.")
    entry.questioned = ""
    entry.save(update_fields=["questioned"])
    log.write(job, actor, "evidence", f"Confirmed as read: {entry.value}")


def _require_clear(job: Job, act: Act, again: Sequence[str]) -> None:
    """Raise Blocked where something stands before a powered act, or one that touches the pack."""
    if act.needs_safe_pack:
        in_the_way = blocks(job, again)
    else:
        in_the_way = []
    if in_the_way:
        raise Blocked(in_the_way[0].text)


def _acknowledge(actor: Person, job: Job, act: Act, ticked: Sequence[str]) -> None:
    """Keep the cautions ticked for an act; raises Blocked where one is neither ticked nor
    stands."""
    stands = standing_of(act.condition.power, act.gates)
    known = acknowledged(job, stands)
    wanted = [gate for gate in act.gates if gate not in known]
    missing = [gate for gate in wanted if gate not in ticked]
    if missing:
        raise Blocked(f"Tick the caution first: {GATES[missing[0]]}")
    for gate in wanted:
        Acknowledgement.objects.create(job=job, gate=gate, power=stands, at=now(), by=actor)
        log.write(job, actor, "caution", f"Acknowledged: {GATES[gate]}")
    note_limited(job, act.gates)


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
    if is_ticked(core_evidence(entry)):
        raise ValidationError("That was ticked on Arrive: take the tick away there.")
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
    """Propose all tests again."""
    require_open(job, actor)
    job.skipped_tests = []
    job.save(update_fields=["skipped_tests"])
    log.write(job, actor, "skipped", "Skipped tests restored")
