"""Jobs as files: out, and in from another copy of the app. Each station adds its part and takes it
back."""

import uuid as uuids
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from brightcircuit.bikes.models import Revision, RiderContact
from brightcircuit.bikes.services import set_contact, store_bike
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.evidence import entry_document
from brightcircuit.jobs.models import Job, LogEntry
from brightcircuit.jobs.services import next_number
from brightcircuit.jobs.way import plan_of
from brightcircuit.shop.models import Person
from brightcircuit.stations.danger_file import dangers_part, restore_dangers
from brightcircuit.stations.registry import Restoring, stations
from brightcircuit.stations.way_file import arrival_of, restore_way, way_part
from brightcore.bike.model import Bike
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_writing import bike_document
from brightcore.formats.case_file import check_evidence, read_evidence
from brightcore.formats.job_file import check_parts, job_document, load_job
from brightcore.formats.plain import JsonObject
from brightcore.simulation.table import Row, Table

Dates = dict[str, datetime]


YEARS = range(2000, 2101)
"""Years in which something may have happened."""


def export_job(job: Job) -> JsonObject:
    """Return the job as a job-file document: canonical, without export time."""
    head: JsonObject = {
        "uuid": str(job.uuid),
        "number": job.number,
        "status": job.status,
        "complaint": job.complaint,
        "round": job.round,
        "opened": job.opened.isoformat(),
        "closed": job.closed.isoformat() if job.closed else None,
    }
    parts: JsonObject = {}
    for station in stations():
        added = station.export(job)
        if station.schema is None:
            head |= added
        elif added:
            parts[station.key] = added
    if parts:
        head["stations"] = parts
    entries = [entry_document(entry) for entry in job.evidence.all()]
    lines = []
    for e in job.log.all():
        lines.append({"at": e.at.isoformat(), "by": e.by, "what": e.what, "text": e.text})
    head |= way_part(job) | dangers_part(job)
    return job_document(bike_document(plan_of(job)), head, entries, lines)


def with_contact(document: JsonObject, job: Job) -> JsonObject:
    """Return a job document with the rider's contact, for who asked for it."""
    contact = RiderContact.objects.filter(bike__revisions=job.revision).first()
    if contact is None:
        return document
    return document | {
        "job": document["job"]
        | {"contact": {"name": contact.name, "reach": contact.reach, "note": contact.note}}
    }


def import_job(*, actor: Person, text: str | bytes) -> tuple[Job, str]:
    """Take a job file in; returns (job, "new", "here" or "copy"). Raises FormatError, changing
    nothing.

    The number is this shop's own: where it is taken, the job gets the next one, and a file that
    differs in its number only is the same job.
    """
    require_active(actor)
    bike, document = load_job(text)
    check_parts(document, {s.key: s.schema for s in stations() if s.schema is not None})
    _require_evidence(bike, document)
    _require_own_names(document)
    dates = _dates(document)
    with transaction.atomic():
        known = (
            Job.objects.filter(uuid=document["job"]["uuid"])
            .select_related("arrival", "revision")
            .first()
        )
        if known and _same(export_job(known), document):
            return known, "here"
        revision = store_bike(actor=actor, bike=bike).revision
        job = _store(actor, revision, document, dates, copy=known is not None)
    return job, "copy" if known else "new"


def _same(ours: JsonObject, theirs: JsonObject) -> bool:
    """Return whether two job documents say the same, number, attachments and contact aside."""

    def core(document: JsonObject) -> JsonObject:
        head = {}
        for k, v in document["job"].items():
            if k not in ("number", "attachments", "contact"):
                head[k] = v
        return document | {"job": head}

    return core(ours) == core(theirs)


def _require_evidence(bike: Bike, document: JsonObject) -> None:
    """Raise FormatError where evidence names what the bike never had: neither as planned nor as it
    arrived."""
    bikes = [bike, *arrival_of(document)]
    problems: tuple[Problem, ...] = ()
    for i, raw in enumerate(document["evidence"]):
        found: list[Problem] = []
        for known in bikes:
            try:
                check_evidence(Table(circuit_of(known), [Row()]), (read_evidence(raw),))
                break
            except FormatError as error:
                found = []
                for p in error.problems:
                    found.append(Problem(p.path.replace("[0]", f"[{i}]", 1), p.message))
        else:
            problems += tuple(found)
    if problems:
        raise FormatError(problems)


def _require_own_names(document: JsonObject) -> None:
    """Raise FormatError where two pieces of evidence or two waivers bear one name."""
    problems = []
    for path, rows, name in (
        ("$.evidence", document["evidence"], "uuid"),
        ("$.job.waivers", document["job"].get("waivers", []), "key"),
    ):
        seen: set[str] = set()
        for i, row in enumerate(rows):
            if row.get(name) in seen:
                problems.append(Problem(f"{path}[{i}].{name}", f"{row[name]!r} is used twice"))
            if name in row:
                seen.add(row[name])
    if problems:
        raise FormatError(tuple(problems))


def _dated(head: JsonObject) -> list[tuple[str, list[JsonObject]]]:
    """Return (path, rows) of what stations have added that bears times."""
    found: list[tuple[str, list[JsonObject]]] = []
    for key, part in head.get("stations", {}).items():
        for name, rows in part.items():
            if isinstance(rows, list):
                found.append(
                    (f"$.job.stations.{key}.{name}", [row for row in rows if isinstance(row, dict)])
                )
    return found


def _dates(document: JsonObject) -> Dates:
    """Return every time stamp of a document, parsed; raises FormatError for what is none."""
    head = document["job"]
    places = {"$.job.opened": head["opened"]}
    if head.get("closed"):
        places["$.job.closed"] = head["closed"]
    for path, rows in (
        *_dated(head),
        ("$.job.repairs", head.get("repairs", [])),
        ("$.job.waivers", head.get("waivers", [])),
        ("$.job.dangers", head.get("dangers", [])),
        ("$.job.offers", head.get("offers", [])),
        ("$.job.costs", head.get("costs", [])),
        ("$.job.way.done", head.get("way", {}).get("done", [])),
        ("$.job.way.marks", head.get("way", {}).get("marks", [])),
        ("$.evidence", document["evidence"]),
        ("$.log", document["log"]),
    ):
        places |= {f"{path}[{i}].at": row["at"] for i, row in enumerate(rows) if "at" in row}
        for i, row in enumerate(rows):
            if row.get("ended"):
                places[f"{path}[{i}].ended"] = row["ended"]
        for i, row in enumerate(rows):
            if row.get("began"):
                places[f"{path}[{i}].began"] = row["began"]
    found, problems = {}, []
    for path, text in places.items():
        try:
            value = datetime.fromisoformat(text)
            if value.year not in YEARS:
                raise ValueError
            found[path] = value if value.tzinfo else timezone.make_aware(value)
        except (ValueError, OverflowError):
            problems.append(
                Problem(path, f"{text!r} is not a time such as 2026-01-31T09:30:00+00:00")
            )
    if problems:
        raise FormatError(tuple(problems))
    return found


def _store(
    actor: Person, revision: Revision, document: JsonObject, dates: Dates, copy: bool
) -> Job:
    head = document["job"]
    number = head.get("number", 0)
    job = Job.objects.create(
        uuid=uuids.uuid4() if copy else head["uuid"],
        number=next_number()
        if not number or Job.objects.filter(number=number).exists()
        else number,
        revision=revision,
        complaint=head["complaint"],
        status=head["status"],
        round=head["round"],
        opened=dates["$.job.opened"],
        opened_by=actor,
        closed=dates.get("$.job.closed"),
        close_reason=head.get("close_reason", ""),
        conclusion=head.get("conclusion", {}),
        skipped_tests=head.get("skipped_tests", []),
        arrived=revision,
        follows=True,
    )
    if head.get("contact") and not RiderContact.objects.filter(bike=revision.bike).exists():
        set_contact(
            actor=actor,
            bike=revision.bike,
            **{"name": "", "reach": "", "note": ""} | head["contact"],
        )
    restoring = Restoring(actor, job, document, dates, copy)
    restore_way(restoring)
    restore_dangers(restoring)
    for station in stations():
        station.restore(restoring)
    LogEntry.objects.bulk_create(
        LogEntry(
            job=job,
            at=dates[f"$.log[{i}].at"],
            by=line["by"][:150],
            what=line["what"],
            text=line["text"],
            imported=True,
        )
        for i, line in enumerate(document["log"])
    )
    if copy:
        log.write(
            job,
            actor,
            "imported",
            "Taken in from a job file as a copy: the job here says otherwise",
        )
    return job
