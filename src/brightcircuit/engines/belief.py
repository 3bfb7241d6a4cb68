"""Belief of a job, computed outside transactions."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcircuit.engines.holders import (
    Description,
    Holder,
    holder_for,
    known_holder,
    resting,
    unfinished,
)
from brightcircuit.jobs.evidence import EvidenceRow, active, core_evidence, current_rows
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.terms import terms_of
from brightcircuit.jobs.way import is_past, key_of, way_of, worked_stands
from brightcore.errors import BrightError
from brightcore.tracing.engine import Engine
from brightcore.tracing.tests import validate
from brightcore.tracing.trace import Trace


@dataclass(frozen=True)
class JobTrace:
    """A job's evidence rows and, once its engine is ready for it, the belief from them.

    `past`: rows that were read on the bike as it was before something at their place was changed.
    """

    holder: Holder
    entries: Sequence[EvidenceRow]
    trace: Trace | None
    questioned: Sequence[EvidenceRow] = ()
    past: Sequence[EvidenceRow] = ()


PERSON, PAGE, NOBODY = "person", "page", "nobody"
"""Who asks for a belief: somebody who waits for it, a page that shows the Line, a summary being
stored."""


def job_trace(job: Job, wait_s: float = 0.0, who: str = PERSON) -> JobTrace:
    """Return the belief of a job's present round; `trace` is None while there is no engine ready
    for it.

    For a person the engine is prepared at once, for a page that shows evidence when nobody waits,
    else not.
    """
    rows = job.evidence.all()
    way = way_of(job)
    counted = active(rows, job.round)
    entries: list[EvidenceRow] = [row for row in counted if not is_past(way, row)]
    past: list[EvidenceRow] = [row for row in counted if is_past(way, row)]
    questioned = [row for row in current_rows(rows, job.round) if row.questioned]
    holder = _holder(job, who, bool(entries))
    if not holder.first.wait(wait_s) or holder.engine is None:
        return JobTrace(holder, entries, None, questioned, past)
    with holder.lock:
        entries, gone = _still_there(holder.engine, entries)
        past += gone
        trace = holder.trace_of([core_evidence(entry) for entry in entries], terms_of(job))
    return JobTrace(holder, entries, trace, questioned, past)


def _still_there(
    engine: Engine, entries: Sequence[EvidenceRow]
) -> tuple[list[EvidenceRow], list[EvidenceRow]]:
    """Return the rows whose things the bike still has, and those that name what is gone.

    What was tried or asked outlives a change, but not the part that it was about.
    """
    kept, gone = [], []
    for row in entries:
        try:
            validate(engine.table, core_evidence(row))
        except BrightError:
            gone.append(row)
        else:
            kept.append(row)
    return kept, gone


def description_now(job: Job) -> Description:
    """Return the description of a job's bike as it stands."""
    return Description(worked_stands(job), key_of(job), job.revision.sha256)


def _holder(job: Job, who: str, has_evidence: bool) -> Holder:
    wanted = description_now(job)
    way = way_of(job)
    if not way.is_whole:
        # There is no circuit to speak of: nothing can be foretold until pack and controller are
        # there.
        return unfinished(wanted)
    if who == PERSON:
        return holder_for(wanted)
    known = known_holder(wanted)
    # While steps are being ticked the bike is another one at each; nothing is prepared until
    # somebody traces.
    settled = way.stands_as_planned
    if known is None and who == PAGE and has_evidence and job.is_open and settled:
        return holder_for(wanted, warm=True)
    return known or resting(wanted)
