"""Trace in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.evidence import entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import is_proved, pending_repair
from brightcircuit.stations.registry import NextThing, Restoring, Station
from brightcircuit.trace.models import Entry
from brightcore.formats.case_file import read_evidence
from brightcore.formats.plain import JsonObject
from brightcore.tracing.advice import conclude, propose

PROVE_RANK, MEASURE_RANK = 10, 50


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """A repair waits for its proof before anything else; otherwise the repair, or the next test."""
    repair = pending_repair(job)
    if repair:
        return NextThing(PROVE_RANK, f"Prove: {repair.proof_title or repair.action}")
    return NextThing(MEASURE_RANK, _measure(job, found))


def _measure(job: Job, found: JobTrace) -> str:
    if found.trace is None:
        return "Working out what to measure" if found.holder.is_wanted else "Find the fault: open Trace"
    with found.holder.lock:
        conclusion = conclude(found.trace)
        if conclusion.status == "nothing-found":
            return "No fault now: ride it with the rider"
        if conclusion.status in ("repair", "describe", "choose") and conclusion.repair:
            return conclusion.repair.action
        best = propose(found.trace, 1)
    return best[0].test.title if best else "Nothing left to measure"


def export(job: Job) -> JsonObject:
    """Return the tests left out; evidence stands beside the job."""
    return {"skipped_tests": job.skipped_tests}


def restore(restoring: Restoring) -> None:
    """Store the evidence with the names of those who made it."""
    job = restoring.job
    for i, raw in enumerate(restoring.document["evidence"]):
        own = {} if restoring.copy or "uuid" not in raw else {"uuid": raw["uuid"]}
        Entry.objects.create(
            job=job,
            round=raw.get("round", 1),
            at=restoring.dates.get(f"$.evidence[{i}].at", job.opened),
            minutes=raw.get("minutes", 0.0),
            undone=raw.get("undone", False),
            questioned=raw.get("questioned", "")[:200],
            **own,
            **restoring.who(raw),
            **entry_fields(read_evidence(raw)),
        )


STATION = Station(
    key="trace",
    name="Trace",
    shortcut="t",
    done=is_proved,
    next_thing=next_thing,
    export=export,
    restore=restore,
    log_words={
        "evidence": "reading or look",
        "undone": "evidence undone",
        "skipped": "test left out",
        "hand": "what is to hand",
        "caution": "caution acknowledged",
        "symptom": "symptom confirmed",
        "repair": "repair done or withdrawn",
        "proof": "proof passed or failed",
    },
)
