"""Arrive in the registry of stations."""

from datetime import date

from brightcircuit.arrive.help import HELP
from brightcircuit.arrive.models import CIRCUMSTANCES, WIRES, Arrival, Waiver
from brightcircuit.arrive.questions import TRIAGE, first_asked, packs_asked, questions
from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs import quarantine
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import findings_of, open_dangers
from brightcircuit.stations.registry import OpenItem, Restoring, Section, Station
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import (
    NextThing,
    danger_read,
    look_at_pack,
    mend_danger,
    quarantined,
)
from brightcore.procedure.purpose import BY_KEY as PURPOSE
from brightcore.procedure.purpose import WAITS


def opened(job: Job) -> None:
    """Begin with unanswered questions about every pack."""
    Arrival.objects.create(
        job=job,
        triage=dict.fromkeys((q.key for q in questions(job)), None),
        triage_pack=first_asked(job),
    )


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """What stands before powered work comes first."""
    held = quarantine.standing_quarantines(job)
    if held:
        return quarantined(dict.fromkeys(why for row in held for why in row.why))
    job.arrival.refresh_from_db()
    open_questions = sum(job.arrival.triage.get(q.key) is None for q in questions(job))
    if open_questions:
        return look_at_pack(open_questions)
    read = standing_dangers(job)
    if read:
        first_read = read[0]
        return danger_read(first_read.words, first_read.do, first_read.station, len(read) - 1)
    dangers = open_dangers(job)
    if dangers:
        first = dangers[0]
        return mend_danger(first.finding.code, first.text, first.hint, len(dangers) - 1)
    return None


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """Questions about a pack that nobody has answered: whatever the job is for."""
    job.arrival.refresh_from_db()
    asked = [q for q in questions(job) if job.arrival.triage.get(q.key) is None]
    if not asked:
        return []
    return [OpenItem("pack", "arrive", f"{len(asked)} questions about the pack are not answered")]


def left_open(job: Job) -> list[str]:
    """Return the findings that were accepted in a job, and why."""
    accepted = [item for item in findings_of(job) if item.waived]
    return [f"{item.finding.code} {item.text.rstrip('.')}: {item.waived}" for item in accepted]


def export(job: Job) -> JsonObject:
    """Return what was found at arrival, photos by hash, and accepted findings."""
    arrival = job.arrival
    photos = []
    for p in job.photos.all():
        photos.append(
            {"name": f"{p.uuid}.jpg", "size": p.size, "sha256": p.sha256, "caption": p.caption}
            | ({"place": p.place} if p.place else {})
        )
    waivers = []
    for w in job.waivers.order_by("id"):
        waivers.append(
            {"key": w.key, "reason": w.reason, "by": w.by_name, "at": w.at.isoformat()}
            | ({"words": w.words} if w.words else {})
        )
    return _plan(job) | {
        "arrival_note": arrival.note,
        "triage": arrival.said,
        "circumstances": arrival.circumstances,
        "wires": arrival.wires,
        "wire_places": arrival.wire_places,
        "attachments": photos,
        "quarantine_lifted": arrival.lifted_reason,
        "quarantine_lifted_by": arrival.lifted_by,
        "waivers": waivers,
    }


def _plan(job: Job) -> JsonObject:
    """Return what is said of a job beside its work, nothing where nobody has said anything."""
    plan: JsonObject = {
        "purposes": job.purposes,
        "promised": job.promised.isoformat() if job.promised else "",
        "worker": str(job.worker) if job.worker else "",
        "waiting": job.waiting,
        "place": job.place,
        "decided": job.decided,
    }
    plan = {name: value for name, value in plan.items() if value}
    if plan:
        return {"plan": plan}
    return {}


def _restore_plan(job: Job, plan: JsonObject) -> None:
    """Store the plan of another shop; who had it there is none of ours."""
    job.purposes = [key for key in plan.get("purposes", []) if key in PURPOSE]
    try:
        job.promised = date.fromisoformat(plan["promised"]) if plan.get("promised") else None
    except ValueError:
        job.promised = None
    job.waiting = plan.get("waiting", "") if plan.get("waiting", "") in WAITS else ""
    job.place, job.decided = plan.get("place", "")[:80], plan.get("decided", "")[:1000]
    job.save(update_fields=["purposes", "promised", "waiting", "place", "decided"])


def restore(restoring: Restoring) -> None:
    """Store arrival and waivers as history; photos travel only in an archive.

    A quarantine lifted elsewhere stands here until a shop lead lifts it, too.
    """
    head = restoring.head
    _restore_plan(restoring.job, head.get("plan", {}))
    asked = {q.key for q in questions(restoring.job)} | {name for name, _ in TRIAGE}
    wire_places = {}
    for w, place in head.get("wire_places", {}).items():
        if w in dict(WIRES):
            wire_places[w] = str(place)
    answers = {key: answer for key, answer in head.get("triage", {}).items() if key in asked}
    Arrival.objects.create(
        job=restoring.job,
        # A yes holds here too. A no was said of what the pack was then, by somebody of another
        # shop.
        triage={key: True if answer else None for key, answer in answers.items()},
        elsewhere={key: answer for key, answer in answers.items() if answer is not None},
        triage_pack=first_asked(restoring.job),
        note=head.get("arrival_note", ""),
        lifted_reason=head.get("quarantine_lifted", ""),
        circumstances=[c for c, _ in CIRCUMSTANCES if c in head.get("circumstances", [])],
        wires=[w for w, _ in WIRES if w in head.get("wires", [])],
        wire_places=wire_places,
        lifted_by=head.get("quarantine_lifted_by", "")[:150],
    )
    said = restoring.job.arrival.dangers
    if said:
        quarantine.begin(restoring.job, restoring.actor, said, packs_asked(restoring.job))
    for i, raw in enumerate(head.get("waivers", [])):
        at = restoring.dates[f"$.job.waivers[{i}].at"]
        said_elsewhere = {"key": raw["key"], "reason": raw["reason"], "at": at, "imported": True}
        said_elsewhere["words"] = raw.get("words", "")
        Waiver.objects.create(job=restoring.job, **said_elsewhere, **restoring.who(raw))


STATION = Station(
    help=HELP,
    key="arrive",
    name="Arrive",
    shortcut="a",
    done=lambda job: job.arrival.is_complete,
    sections=(
        Section("Pack and findings", "arrive"),
        Section("Purpose and plan", "arrive-plan"),
        Section("What was found", "arrive-found"),
        Section("What is fitted", "arrive-fitted"),
    ),
    opened=opened,
    open=whats_open,
    left_open=left_open,
    next_thing=next_thing,
    export=export,
    restore=restore,
    log_words={
        "arrival": "what was found at arrival",
        "triage": "answers about the pack",
        "danger": "a danger that was read, read well again, or let go",
        "quarantine": "quarantine lifted",
        "waiver": "finding accepted",
        "photo": "photo saved or deleted",
        "plan": "purpose, promised date, who has it, what it waits for",
    },
)
