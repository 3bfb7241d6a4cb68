"""Jobs as files: out, and in from another copy of the app."""

import uuid as uuids
from datetime import datetime
from typing import Any

from django.db import transaction
from django.utils import timezone

from brightcircuit.arrive.models import CIRCUMSTANCES, TRIAGE, WIRES, Arrival, Waiver
from brightcircuit.bikes.models import Revision, RiderContact
from brightcircuit.bikes.services import set_contact, store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job, LogEntry
from brightcircuit.jobs.services import next_number
from brightcircuit.match.models import MatchPlan
from brightcircuit.record.models import Repair
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active
from brightcircuit.trace.models import Entry
from brightcircuit.trace.translate import entry_document, entry_fields
from brightcore.circuit.netlist import compile_circuit
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import bike_document
from brightcore.formats.case_file import check_evidence, read_evidence
from brightcore.formats.job_file import job_document, load_job
from brightcore.formats.schema import REPAIR_TEXTS
from brightcore.kinds import REGISTRY
from brightcore.tracing.table import Row, Table

Dates = dict[str, datetime]


def export_job(job: Job) -> dict[str, Any]:
    """Return the job as a job-file document: canonical, without export time."""
    arrival = job.arrival
    head = {
        "uuid": str(job.uuid), "number": job.number, "status": job.status, "complaint": job.complaint, "round": job.round,
        "arrival_note": arrival.note, "triage": arrival.triage,
        "circumstances": arrival.circumstances, "wires": arrival.wires, "match": _match(job),
        "attachments": [{"name": f"{p.uuid}.jpg", "size": p.size, "sha256": p.sha256, "caption": p.caption} for p in job.photos.all()],
        "quarantine_lifted": arrival.lifted_reason, "quarantine_lifted_by": arrival.lifted_by,
        "opened": job.opened.isoformat(), "closed": job.closed.isoformat() if job.closed else None,
        "close_reason": job.close_reason, "conclusion": job.conclusion, "skipped_tests": job.skipped_tests,
        "repairs": [_repair_document(repair) for repair in job.repairs.all()],
        "waivers": [{"key": w.key, "reason": w.reason, "by": w.by_name, "at": w.at.isoformat()} for w in job.waivers.order_by("id")],
    }  # fmt: skip
    entries = [entry_document(entry) for entry in job.evidence.all()]
    lines = [{"at": e.at.isoformat(), "by": e.by, "what": e.what, "text": e.text} for e in job.log.all()]
    return job_document(bike_document(core_bike(job.revision)), head, entries, lines)


def with_contact(document: dict[str, Any], job: Job) -> dict[str, Any]:
    """Return a job document with the rider's contact, for who asked for it."""
    contact = RiderContact.objects.filter(bike__revisions=job.revision).first()
    if contact is None:
        return document
    return document | {"job": document["job"] | {"contact": {"name": contact.name, "reach": contact.reach, "note": contact.note}}}


def _match(job: Job) -> dict[str, Any]:
    plan = MatchPlan.objects.filter(job=job).first()
    return dict(plan.data) if plan else {}


def _repair_document(repair: Repair) -> dict[str, Any]:
    texts = {name: getattr(repair, name) for name in REPAIR_TEXTS}
    return texts | {"round": repair.round, "proof": repair.proof, "by": repair.by_name, "at": repair.at.isoformat()}


def import_job(*, actor: Person, text: str | bytes) -> tuple[Job, str]:
    """Take a job file in; returns (job, "new", "here" or "copy"). Raises FormatError, changing nothing.

    The number is this shop's own: where it is taken, the job gets the next one, and a file that
    differs in its number only is the same job.
    """
    require_active(actor)
    bike, document = load_job(text)
    table = Table(compile_circuit(bike, REGISTRY), [Row()])
    check_evidence(table, tuple(read_evidence(item) for item in document["evidence"]))
    dates = _dates(document)
    with transaction.atomic():
        known = Job.objects.filter(uuid=document["job"]["uuid"]).select_related("arrival", "revision").first()
        if known and _same(export_job(known), document):
            return known, "here"
        revision = store_bike(actor=actor, bike=bike).revision
        job = _store(actor, revision, document, dates, copy=known is not None)
    return job, "copy" if known else "new"


def _same(ours: dict[str, Any], theirs: dict[str, Any]) -> bool:
    """Return whether two job documents say the same, number, attachments and contact aside."""

    def core(document: dict[str, Any]) -> dict[str, Any]:
        head = {k: v for k, v in document["job"].items() if k not in ("number", "attachments", "contact")}
        return document | {"job": head}

    return core(ours) == core(theirs)


def _dates(document: dict[str, Any]) -> Dates:
    """Return every time stamp of a document, parsed; raises FormatError for what is none."""
    head = document["job"]
    places = {"$.job.opened": head["opened"]}
    if head.get("closed"):
        places["$.job.closed"] = head["closed"]
    for path, rows in (("$.job.repairs", head.get("repairs", [])), ("$.job.waivers", head.get("waivers", [])),
                       ("$.evidence", document["evidence"]), ("$.log", document["log"])):  # fmt: skip
        places |= {f"{path}[{i}].at": row["at"] for i, row in enumerate(rows) if "at" in row}
    found, problems = {}, []
    for path, text in places.items():
        try:
            value = datetime.fromisoformat(text)
            found[path] = value if value.tzinfo else timezone.make_aware(value)
        except ValueError:
            problems.append(Problem(path, f"{text!r} is not a time such as 2026-01-31T09:30:00+00:00"))
    if problems:
        raise FormatError(tuple(problems))
    return found


def _store(actor: Person, revision: Revision, document: dict[str, Any], dates: Dates, copy: bool) -> Job:
    head = document["job"]
    number = head.get("number", 0)
    job = Job.objects.create(
        uuid=uuids.uuid4() if copy else head["uuid"],
        number=next_number() if not number or Job.objects.filter(number=number).exists() else number,
        revision=revision, complaint=head["complaint"], status=head["status"], round=head["round"],
        opened=dates["$.job.opened"], opened_by=actor, closed=dates.get("$.job.closed"),
        close_reason=head.get("close_reason", ""), conclusion=head.get("conclusion", {}), skipped_tests=head.get("skipped_tests", []),
    )  # fmt: skip
    triage = {name: head.get("triage", {}).get(name) for name, _ in TRIAGE}
    Arrival.objects.create(
        job=job, triage=triage, note=head.get("arrival_note", ""), lifted_reason=head.get("quarantine_lifted", ""),
        circumstances=[c for c, _ in CIRCUMSTANCES if c in head.get("circumstances", [])],
        wires=[w for w, _ in WIRES if w in head.get("wires", [])],
        lifted_by=head.get("quarantine_lifted_by", "")[:150],
    )  # fmt: skip
    if head.get("match"):
        MatchPlan.objects.create(job=job, data=head["match"])
    if head.get("contact") and not RiderContact.objects.filter(bike=revision.bike).exists():
        set_contact(actor=actor, bike=revision.bike, **{"name": "", "reach": "", "note": ""} | head["contact"])
    _store_rows(actor, job, document, dates, copy)
    LogEntry.objects.bulk_create(
        LogEntry(job=job, at=dates[f"$.log[{i}].at"], by=e["by"][:150], what=e["what"], text=e["text"])
        for i, e in enumerate(document["log"])
    )
    if copy:
        log.write(job, actor, "imported", "Taken in from a job file as a copy: the job here says otherwise")
    return job


def _store_rows(actor: Person, job: Job, document: dict[str, Any], dates: Dates, copy: bool) -> None:
    """Store evidence, repairs and waivers with the names of those who made them."""

    def who(row: dict[str, Any]) -> dict[str, Any]:
        return {"by": actor, "by_name": (row.get("by") or str(actor))[:150]}

    for i, raw in enumerate(document["evidence"]):
        own = {} if copy or "uuid" not in raw else {"uuid": raw["uuid"]}
        Entry.objects.create(
            job=job, round=raw.get("round", 1), at=dates.get(f"$.evidence[{i}].at", job.opened), minutes=raw.get("minutes", 0.0),
            undone=raw.get("undone", False), **own, **who(raw), **entry_fields(read_evidence(raw)),
        )  # fmt: skip
    for i, raw in enumerate(document["job"].get("repairs", [])):
        texts = {name: raw.get(name, "") for name in REPAIR_TEXTS}
        Repair.objects.create(job=job, round=raw["round"], proof=raw["proof"], at=dates[f"$.job.repairs[{i}].at"], **who(raw), **texts)
    for i, raw in enumerate(document["job"].get("waivers", [])):
        Waiver.objects.create(job=job, key=raw["key"], reason=raw["reason"], at=dates[f"$.job.waivers[{i}].at"], **who(raw))
