"""Trace in the registry of stations."""

from brightcircuit.engines.belief import NOBODY, JobTrace, job_trace
from brightcircuit.jobs.evidence import entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import is_proved, pending_repair
from brightcircuit.jobs.way import way_of
from brightcircuit.stations.registry import OpenItem, Restoring, Station
from brightcircuit.trace.help import HELP
from brightcircuit.trace.models import Entry
from brightcore.formats.case_file import read_evidence
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing, prove
from brightcore.procedure.purpose import looks_for_faults
from brightcore.tracing.advice import minutes_left, propose
from brightcore.tracing.endings import conclude
from brightcore.tracing.trace import Trace

REPAIRS = {
    "repair": "Trace is {sure} sure of it.",
    "describe": "It is on a line that may be the trouble.",
    "choose": "The likeliest, {sure}; no test separates the rest.",
}
"""Endings of Trace that name something to do, and why."""

MINUTES_FROM = 4
"""So many of the best tests are asked for the minutes to go."""


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """A repair waits for its proof before anything else; otherwise the repair, or the next test."""
    repair = pending_repair(job)
    if repair:
        return prove(repair.proof_title or repair.action, repair.proof_expected)
    if found.trace is not None:
        with found.holder.lock:
            return _traced(found.trace)
    wanted = found.holder.is_wanted
    return _thing(
        "measure", "Working out what to measure" if wanted else "Find the fault: open Trace"
    )


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """A repair that waits for its proof, always; a fault that was sought and not repaired."""
    repair = pending_repair(job)
    if repair is not None:
        return [OpenItem(f"repair:{repair.round}", "trace", f"Not proven yet: {repair.action}")]
    if not looks_for_faults(job.purposes) or is_proved(job) or way_of(job).changes:
        return []
    found = job_trace(job, who=NOBODY)
    if found.trace is not None and found.entries:
        with found.holder.lock:
            if conclude(found.trace).status == "nothing-found":
                return []
    return [
        OpenItem(
            "trace",
            "trace",
            "No repair was made and proven: the fault is still there, or was not found",
        )
    ]


def _traced(trace: Trace) -> NextThing:
    """Return the repair that Trace names, or the next test and the minutes it reckons with."""
    conclusion = conclude(trace)
    if conclusion.status == "nothing-found":
        return _thing("measure", "No fault now: ride it with the rider")
    if conclusion.status == "not-shown":
        return _thing("measure", "Not brought about: make the ride or the test that was skipped")
    if conclusion.repair and conclusion.status in REPAIRS:
        why = REPAIRS[conclusion.status]
        sure = f"{conclusion.probability:.0%}".replace("%", " %")
        return _thing("repair", conclusion.repair.action, why.format(sure=sure))
    best = propose(trace, MINUTES_FROM, explained=0)
    if not best:
        return _thing("measure", "No test separates these")
    return _thing("measure", best[0].test.title, minutes=minutes_left(trace, best))


def _thing(step: str, words: str, why: str = "", minutes: int | None = None) -> NextThing:
    return NextThing(step, "trace", words, why, minutes)


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the minutes of what was measured and looked at here, and of what was repaired."""
    minutes = 0.0
    for entry in job.evidence.all():
        # What Set measured counts there.
        if not entry.undone and not entry.client.startswith("set-"):
            minutes += entry.minutes
    repaired = sum(repair.minutes for repair in job.repairs.all() if not repair.imported)
    return [("Finding the fault", minutes), ("Repair", repaired)]


def export(job: Job) -> JsonObject:
    """Return the tests left out; evidence stands beside the job."""
    return {"skipped_tests": job.skipped_tests}


def restore(restoring: Restoring) -> None:
    """Store the evidence with the names of those who made it."""
    job = restoring.job
    for i, raw in enumerate(restoring.document["evidence"]):
        if restoring.copy or "uuid" not in raw:
            own = {}
        else:
            own = {"uuid": raw["uuid"]}
        Entry.objects.create(
            job=job,
            round=raw.get("round", 1),
            at=restoring.dates.get(f"$.evidence[{i}].at", job.opened),
            minutes=raw.get("minutes", 0.0),
            undone=raw.get("undone", False),
            questioned=raw.get("questioned", "")[:200],
            words=raw.get("words", ""),
            **own,
            **restoring.who(raw),
            **entry_fields(read_evidence(raw)),
        )


STATION = Station(
    help=HELP,
    key="trace",
    name="Trace",
    shortcut="t",
    done=is_proved,
    next_thing=next_thing,
    open=whats_open,
    labour=labour,
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
