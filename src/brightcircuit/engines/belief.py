"""Belief of a job, computed outside transactions."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcircuit.engines.holders import Holder, holder_for
from brightcircuit.jobs.evidence import EvidenceRow, active, core_evidence
from brightcircuit.jobs.models import Job
from brightcore.tracing.engine import Trace


@dataclass(frozen=True)
class JobTrace:
    """A job's evidence rows and, once its engine is ready for it, the belief from them."""

    holder: Holder
    entries: Sequence[EvidenceRow]
    trace: Trace | None


def job_trace(job: Job, wait_s: float = 0.0, patient: bool = False) -> JobTrace:
    """Return the belief of a job's present round; `trace` is None while the engine starts.

    `patient`: the caller only shows what is there; a new engine may wait until the bike's description rests.
    """
    holder = holder_for(job.revision)
    if not patient:
        holder.wanted.set()
    entries = active(job.evidence.all(), job.round)
    if not holder.first.wait(wait_s) or holder.engine is None:
        return JobTrace(holder, entries, None)
    with holder.lock:
        trace = Trace(holder.engine, [core_evidence(entry) for entry in entries], holder.logs)
    return JobTrace(holder, entries, trace)
