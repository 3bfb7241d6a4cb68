"""Belief of a job, computed outside transactions."""

from dataclasses import dataclass

from brightcircuit.jobs.models import Job
from brightcircuit.trace.engines import Holder, holder_for
from brightcircuit.trace.models import Acknowledgement, Entry
from brightcircuit.trace.translate import active, core_evidence
from brightcore.tracing.engine import Trace


@dataclass(frozen=True)
class JobTrace:
    """A job's evidence rows and, once its engine is ready for it, the belief from them."""

    holder: Holder
    entries: list[Entry]
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
        trace = Trace(holder.engine, [core_evidence(e) for e in entries], holder.logs)
    return JobTrace(holder, entries, trace)


def acknowledged(job: Job, power: str) -> set[str]:
    """Return the cautions that stand for this power state: ticked since the bike last left it."""
    found: set[str] = set()
    for gate, at_power in Acknowledgement.objects.filter(job=job).order_by("-id").values_list("gate", "power")[:40]:
        if at_power != power:
            break
        found.add(gate)
    return found
