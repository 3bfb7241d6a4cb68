"""Opening, importing and exporting jobs."""

import uuid as uuids
from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from brightcircuit.arrive.models import TRIAGE, Arrival
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.services import store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job, LogEntry
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
from brightcore.kinds import REGISTRY
from brightcore.tracing.symptoms import BY_ID, symptom_evidence
from brightcore.tracing.table import Row, Table


def next_number() -> int:
    """Return the number of the next job."""
    return (Job.objects.aggregate(Max("number"))["number__max"] or 0) + 1


@transaction.atomic
def open_job(*, actor: Person, revision: Revision, complaint: str, symptoms: Mapping[str, bool]) -> Job:
    """Open a job; confirmed symptoms (id → only sometimes) become evidence."""
    require_active(actor)
    job = Job.objects.create(number=next_number(), revision=revision, complaint=complaint, opened=timezone.now(), opened_by=actor)
    Arrival.objects.create(job=job, triage=dict.fromkeys((name for name, _ in TRIAGE), None))
    log.write(job, actor, "opened", f"Job opened for {revision.bike.label}: {complaint}")
    add_symptoms(job, actor, symptoms)
    return job


def add_symptoms(job: Job, actor: Person, symptoms: Mapping[str, bool]) -> None:
    """Store confirmed symptoms as looks; what this bike's model does not have is logged."""
    table = Table(compile_circuit(core_bike(job.revision), REGISTRY), [Row()])
    for symptom_id, sometimes in symptoms.items():
        item = symptom_evidence(symptom_id, table.scenes, sometimes)
        words = BY_ID[symptom_id].words + (", sometimes" if sometimes else "")
        if item is None:
            log.write(job, actor, "symptom", f"Confirmed, but not modelled on this bike: {words}")
            continue
        Entry.objects.create(job=job, round=job.round, at=timezone.now(), by=actor, **entry_fields(item))
        log.write(job, actor, "symptom", f"Confirmed: {words}")


def export_job(job: Job) -> dict[str, Any]:
    """Return the job as a job-file document: canonical, without export time."""
    arrival = job.arrival
    repair = job.repairs.last()
    head = {
        "uuid": str(job.uuid),
        "number": job.number,
        "status": job.status,
        "complaint": job.complaint,
        "arrival_note": arrival.note,
        "opened": job.opened.isoformat(),
        "closed": job.closed.isoformat() if job.closed else None,
        "round": job.round,
        "triage": arrival.triage,
        "quarantine_lifted": arrival.lifted_reason,
        "repair": repair.action if repair else "",
        "proof": repair.proof if repair else "",
        "close_reason": job.close_reason,
        "conclusion": job.conclusion,
    }
    entries = [entry_document(entry) for entry in job.evidence.select_related("by")]
    lines = [{"at": e.at.isoformat(), "by": e.by, "what": e.what, "text": e.text} for e in job.log.all()]
    return job_document(bike_document(core_bike(job.revision)), head, entries, lines)


def import_job(*, actor: Person, text: str | bytes) -> tuple[Job, str]:
    """Take a job file in; returns (job, "new", "here" or "copy"). Raises FormatError, changing nothing."""
    require_active(actor)
    bike, document = load_job(text)
    table = Table(compile_circuit(bike, REGISTRY), [Row()])
    check_evidence(table, tuple(read_evidence(item) for item in document["evidence"]))
    dates = _dates(document)
    with transaction.atomic():
        known = Job.objects.filter(uuid=document["job"]["uuid"]).first()
        if known and export_job(known) == document:
            return known, "here"
        revision = store_bike(actor=actor, bike=bike).revision
        return _store(actor, revision, document, dates, copy=known is not None), "copy" if known else "new"


def _dates(document: dict[str, Any]) -> dict[str, datetime]:
    """Return every time stamp of a document, parsed; raises FormatError for what is none."""
    places = {"$.job.opened": document["job"]["opened"]}
    if document["job"].get("closed"):
        places["$.job.closed"] = document["job"]["closed"]
    places |= {f"$.evidence[{i}].at": e["at"] for i, e in enumerate(document["evidence"]) if "at" in e}
    places |= {f"$.log[{i}].at": e["at"] for i, e in enumerate(document["log"])}
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


def _store(actor: Person, revision: Revision, document: dict[str, Any], dates: dict[str, datetime], copy: bool) -> Job:
    head = document["job"]
    number = head.get("number", 0)
    job = Job.objects.create(
        uuid=uuids.uuid4() if copy else head["uuid"],
        number=next_number() if not number or Job.objects.filter(number=number).exists() else number,
        revision=revision, complaint=head["complaint"], status=head["status"], round=head["round"],
        opened=dates["$.job.opened"], opened_by=actor, closed=dates.get("$.job.closed"),
        close_reason=head.get("close_reason", ""), conclusion=head.get("conclusion", {}),
    )  # fmt: skip
    triage = {name: head.get("triage", {}).get(name) for name, _ in TRIAGE}
    Arrival.objects.create(job=job, triage=triage, note=head.get("arrival_note", ""), lifted_reason=head.get("quarantine_lifted", ""))
    for i, raw in enumerate(document["evidence"]):
        entry = Entry.objects.create(
            job=job, round=raw.get("round", 1), at=dates.get(f"$.evidence[{i}].at", job.opened), by=actor,
            minutes=raw.get("minutes", 0.0), undone=raw.get("undone", False), **entry_fields(read_evidence(raw)),
        )  # fmt: skip
        if not copy and "uuid" in raw:
            Entry.objects.filter(pk=entry.pk).update(uuid=raw["uuid"])
    LogEntry.objects.bulk_create(
        LogEntry(job=job, at=dates[f"$.log[{i}].at"], by=e["by"], what=e["what"], text=e["text"]) for i, e in enumerate(document["log"])
    )
    if head.get("repair"):
        Repair.objects.create(
            job=job, round=job.round, repair="imported", action=head["repair"], proof=head.get("proof", ""),
            at=job.closed or job.opened, by=actor,
        )  # fmt: skip
    return job
