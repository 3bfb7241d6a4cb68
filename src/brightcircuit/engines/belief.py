"""Belief of a job, computed outside transactions."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcircuit.engines.holders import Holder, holder_for, known_holder, resting
from brightcircuit.jobs.evidence import EvidenceRow, active, core_evidence, standing
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.terms import terms_of
from brightcore.tracing.trace import Trace


@dataclass(frozen=True)
class JobTrace:
    """A job's evidence rows and, once its engine is ready for it, the belief from them."""

    holder: Holder
    entries: Sequence[EvidenceRow]
    trace: Trace | None
    questioned: Sequence[EvidenceRow] = ()


PERSON, PAGE, NOBODY = "person", "page", "nobody"
"""Who asks for a belief: somebody who waits for it, a page that shows the Line, a summary being stored."""


def job_trace(job: Job, wait_s: float = 0.0, who: str = PERSON) -> JobTrace:
    """Return the belief of a job's present round; `trace` is None while there is no engine ready for it.

    For a person the engine is prepared at once, for a page that shows evidence when nobody waits, else not.
    """
    rows = job.evidence.all()
    entries = active(rows, job.round)
    questioned = [row for row in standing(rows, job.round) if row.questioned]
    holder = _holder(job, who, bool(entries))
    if not holder.first.wait(wait_s) or holder.engine is None:
        return JobTrace(holder, entries, None, questioned)
    with holder.lock:
        trace = Trace(holder.engine, [core_evidence(entry) for entry in entries], holder.logs, terms_of(job))
    return JobTrace(holder, entries, trace, questioned)


def _holder(job: Job, who: str, has_evidence: bool) -> Holder:
    if who == PERSON:
        return holder_for(job.revision)
    known = known_holder(job.revision)
    if known is None and who == PAGE and has_evidence and job.is_open:
        return holder_for(job.revision, warm=True)
    return known or resting(job.revision)
