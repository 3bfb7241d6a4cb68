"""The Record station and its files."""

import csv
import io
import uuid

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.bikes.models import RiderContact
from brightcircuit.bikes.translate import core_bike
from brightcircuit.bikes.views import download
from brightcircuit.jobs.files import export_job, with_contact
from brightcircuit.jobs.queries import whole_job
from brightcircuit.record.services import close_job, reopen_job
from brightcircuit.trace.engines import forget_engines
from brightcircuit.trace.frame import job_frame
from brightcircuit.trace.present import drawing_of
from brightcircuit.trace.queries import job_trace
from brightcircuit.trace.summary import refresh_summary
from brightcircuit.trace.translate import core_evidence
from brightcore.formats.bike_file import canonical_json
from brightcore.tracing.advice import evidence_value

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
    "minutes",
)


def record_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the sheet; close and reopen the job."""
    job = get_object_or_404(whole_job(job_uuid))
    error = ""
    if request.method == "POST":
        try:
            if request.POST.get("action") == "reopen":
                reopen_job(actor=request.user, job=job)
            else:
                close_job(actor=request.user, job=job, reason=request.POST.get("reason", ""))
                forget_engines()
                messages.success(request, f"Job {job.number} is closed.")
            job.refresh_from_db()
            refresh_summary(job)
            return redirect("record", job.uuid)
        except (ValidationError, PermissionDenied) as problem:
            error = problem.messages[0] if isinstance(problem, ValidationError) else str(problem)
    entries = [{"entry": e, "value": evidence_value(core_evidence(e)), "title": _title(e)} for e in job.evidence.all()]
    context = {
        "entries": entries, "log": job.log.all(), "repairs": job.repairs.all(), "error": error,
        "reason": request.POST.get("reason", ""), "proved": job.repairs.filter(round=job.round, proof="passed").exists(),
        "has_contact": RiderContact.objects.filter(bike=job.revision.bike).exists(), "waivers": job.waivers.all(),
    }  # fmt: skip
    return render(request, "record/record.html", {**job_frame(job, "record"), **context}, status=422 if error else 200)


def _title(entry: object) -> str:
    item = core_evidence(entry)  # type: ignore[arg-type]
    if item.kind == "look":
        return f"{item.observable.replace('_', ' ')}, {item.scene.replace('_', ' ')}"
    if item.kind in ("inspect", "swap"):
        return f"{'Looked closely at' if item.kind == 'inspect' else 'Known good'} {item.subject}"
    return f"{item.kind} {item.red} → {item.black} ({item.condition})"


def job_file(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the job as a job file."""
    job = get_object_or_404(whole_job(job_uuid))
    document = export_job(job)
    if request.GET.get("contact") == "1":
        document = with_contact(document, job)
    return download(canonical_json(document), "application/json", f"job-{job.number}-{job.revision.bike.label}.json")


def readings_csv(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the evidence as CSV; a leading = + - @ is quoted against spreadsheet formulas."""
    job = get_object_or_404(whole_job(job_uuid))
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for entry in job.evidence.all():
        cells = [entry.at.isoformat() if c == "at" else str(getattr(entry, "by_name" if c == "by" else c)) for c in COLUMNS]
        writer.writerow(["'" + c if c[:1] in "=+@" or (c[:1] == "-" and not c[1:2].isdigit()) else c for c in cells])
    return download(out.getvalue(), "text/csv", f"job-{job.number}-readings.csv")


def line_file(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the Line as it is lit now."""
    job = get_object_or_404(whole_job(job_uuid))
    drawing = drawing_of(core_bike(job.revision))
    svg = drawing.line(drawing.lights(job_trace(job, 3.0).trace))
    return download(svg, "image/svg+xml", f"job-{job.number}-line.svg")
