"""The stored summary of a job: what the Bench shows without computing anything."""

from typing import Any

from brightcircuit.arrive.queries import blocks, findings_of
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcircuit.record.services import pending_repair
from brightcircuit.trace.present import drawing_of
from brightcircuit.trace.queries import JobTrace, job_trace
from brightcore import ENGINE_VERSION
from brightcore.tracing.advice import conclude, propose
from brightcore.wiring.rules import REQUIRED_PLUG


def refresh_summary(job: Job, found: JobTrace | None = None) -> None:
    """Compute and store a job's summary; the engine may not be ready yet."""
    found = found or job_trace(job, patient=True)
    drawing = drawing_of(core_bike(job.revision))
    summary: dict[str, Any] = {
        "engine": ENGINE_VERSION,
        "small": drawing.small(drawing.lights(found.trace)),
        "next": next_thing(job, found),
    }
    Job.objects.filter(pk=job.pk).update(summary=summary)


def next_thing(job: Job, found: JobTrace) -> str:
    """Return the next thing to do on a job as one line."""
    if not job.is_open:
        return "Closed"
    repair = pending_repair(job)
    if repair:
        return f"Prove: {repair.proof_title or repair.action}"
    if job.repairs.filter(round=job.round, proof="passed").exists():
        return "Close the job"
    standing = blocks(job)
    if standing:
        return {"triage": "Look at the pack", "quarantine": "Quarantine: lead decides"}.get(
            standing[0].kind, "A danger finding stands: see Arrive"
        )
    if not found.entries and any(f.finding.code == REQUIRED_PLUG.code and not f.waived for f in findings_of(job)):
        return "Join what is free: see Wire"
    if found.trace is None:
        return "Working out what to measure"
    with found.holder.lock:
        conclusion = conclude(found.trace)
        if conclusion.status in ("repair", "choose") and conclusion.repair:
            return conclusion.repair.action
        best = propose(found.trace, 1, frozenset(job.skipped_tests))
    return best[0].test.title if best else "Nothing left to measure"
