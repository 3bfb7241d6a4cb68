"""The Record station and its files."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.models import RiderContact
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.downloads import download
from brightcircuit.common.shown import Shown
from brightcircuit.engines.belief import job_trace
from brightcircuit.engines.holders import forget_engines
from brightcircuit.jobs.changed import changes_of, repaired_parts
from brightcircuit.jobs.evidence import EvidenceRow, core_evidence
from brightcircuit.jobs.models import Job, LogEntry, Repair
from brightcircuit.jobs.quarantine import standing
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import answer_cause, is_proved, unanswered_cause, undo_proof
from brightcircuit.jobs.stale import changing
from brightcircuit.record.services import close_job, reopen_job
from brightcircuit.shop.people import the_shop
from brightcircuit.stations.files import export_job, with_contact
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.registry import RecordPart, speaks_against, station_done, stations, worked_parts
from brightcore.formats.bike_file import canonical_json
from brightcore.formats.csv_cells import csv_text
from brightcore.procedure.rider import rider_sheet
from brightcore.tracing.advice import evidence_value
from brightcore.tracing.plain_words import plain_bench, plain_title

COLUMNS = (
    "at",
    "by",
    "round",
    "undone",
    "kind",
    "condition",
    "red",
    "black",
    "scene",
    "observable",
    "subject",
    "value",
    "sometimes",
    "told",
    "state",
    "questioned",
    "minutes",
)


@dataclass(frozen=True)
class RecordPage(Shown):
    """What Record shows."""

    entries: list[dict[str, object]]
    log: QuerySet[LogEntry]
    repairs: QuerySet[Repair]
    error: str
    reason: str
    proved: bool
    waiting: Repair | None
    cause: str
    quarantined: bool
    parts: list[RecordPart]
    has_contact: bool
    against: list[str]
    changes: tuple[str, ...]
    waivers: QuerySet[Any]


def record_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the sheet; close and reopen the job."""
    job = changing(request, job_uuid)
    error, status = "", 200
    if request.method == "POST":
        try:
            if request.POST.get("action") == "reopen":
                reopen_job(actor=actor(request), job=job)
            elif request.POST.get("action") == "undo-proof":
                undo_proof(actor=actor(request), job=job)
                forget_engines()
                messages.success(request, "Undone: the repair waits for its proof again.")
            elif request.POST.get("action") == "cause":
                answer_cause(actor=actor(request), job=job, cause=request.POST.get("cause", ""))
            else:
                close_job(actor=actor(request), job=job, reason=request.POST.get("reason", ""))
                forget_engines()
                messages.success(request, f"Job {job.number} is closed.")
            return redirect("record", job.uuid)
        except (ValidationError, PermissionDenied) as problem:
            status = 422
            error = problem.messages[0] if isinstance(problem, ValidationError) else str(problem)
    entries = [
        {"entry": e, "value": evidence_value(core_evidence(e)), "title": title}
        for e, title in zip(job.evidence.all(), _titles(job), strict=True)
    ]
    against = speaks_against(job) if job.is_open else []
    context = RecordPage(
        entries=entries,
        log=job.log.all(),
        repairs=job.repairs.all(),
        error=error,
        reason=request.POST.get("reason", ""),
        proved=(is_proved(job) or station_done(job, "prove")) and not against,
        against=against,
        changes=changes_of(job).words,
        waiting=unanswered_cause(job) if job.is_open else None,
        cause=request.POST.get("cause", ""),
        quarantined=job.is_open and bool(standing(job)),
        parts=[part for station in stations() for part in station.record(job)],
        has_contact=RiderContact.objects.filter(bike=job.revision.bike).exists(),
        waivers=job.waivers.all(),
    ).context()
    return render(request, "record/record.html", {**job_frame(job, "record"), **context}, status=status)


def _titles(job: Job) -> list[str]:
    """Return every piece of evidence of a job in words, in its order."""
    entries = list(job.evidence.all())
    if not entries:
        return []
    bench = plain_bench(circuit_of(core_bike(job.revision)))
    repairs = {row.repair: row.action for row in job.repairs.all()}
    return [plain_title(bench, core_evidence(entry), repairs) for entry in entries]


def rider_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the rider's sheet, to be printed and handed over with the bike."""
    job = get_object_or_404(whole_job(job_uuid))
    bike, changes = core_bike(job.revision), changes_of(job)
    repairs = [row.action for row in job.repairs.exclude(proof=Repair.Proof.FAILED)]
    touched = changes.touched | repaired_parts(job) | worked_parts(job)
    on = timezone.localdate(job.closed) if job.closed else timezone.localdate()
    later = [words for station in stations() for words in station.later(job)]
    context = {
        "parts": rider_sheet(bike, [*repairs, *changes.words], frozenset(touched), on, later),
        "on": on,
        "shop": the_shop(),
    }
    return render(request, "record/rider.html", {**job_frame(job, "record"), **context})


def job_file(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the job as a job file."""
    job = get_object_or_404(whole_job(job_uuid))
    document = export_job(job)
    if request.GET.get("contact") == "1":
        document = with_contact(document, job)
    return download(
        canonical_json(document), "application/json", f"job-{job.number}-{job.revision.bike.label}.json"
    )


def readings_csv(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the evidence as CSV; a leading = + - @ is quoted against spreadsheet formulas."""
    job = get_object_or_404(whole_job(job_uuid))
    rows = ([_cell(entry, column) for column in COLUMNS] for entry in job.evidence.all())
    return download(csv_text(COLUMNS, rows), "text/csv", f"job-{job.number}-readings.csv")


def _cell(entry: EvidenceRow, column: str) -> str:
    if column == "at":
        return entry.at.isoformat()
    return str(getattr(entry, "by_name" if column == "by" else column))


def line_file(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the Line as it is lit now."""
    job = get_object_or_404(whole_job(job_uuid))
    drawing = drawing_of(core_bike(job.revision))
    svg = drawing.line(drawing.lights(job_trace(job, 3.0).trace))
    return download(svg, "image/svg+xml", f"job-{job.number}-line.svg")
