"""The Record station and its files."""

import uuid
from dataclasses import dataclass, replace

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.models import RiderContact
from brightcircuit.common.actor import actor
from brightcircuit.common.downloads import download
from brightcircuit.common.posted import Act, Posted, act_on, as_typed
from brightcircuit.common.shown import Context, Shown
from brightcircuit.engines.belief import job_trace
from brightcircuit.engines.holders import forget_engines
from brightcircuit.engines.paper import make_ready, picture
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.entries import words_now
from brightcircuit.jobs.evidence import EvidenceRow, core_evidence
from brightcircuit.jobs.models import Job, LogEntry, Repair
from brightcircuit.jobs.quarantine import standing_quarantines
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import answer_cause, is_proved, unanswered_cause, undo_proof
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import drawn_of, stands_of
from brightcircuit.record.facts import Accepted, accepted_in, rider_facts
from brightcircuit.record.models import CostLine, LetGo, Offer, Warranty
from brightcircuit.record.pdf import pdf_of
from brightcircuit.record.pictures import Picture, pictures_of
from brightcircuit.record.queries import lines_of, offers_of, tally_of, warranty_of
from brightcircuit.record.services import close_job, reopen_job
from brightcircuit.shop.models import Shop
from brightcircuit.shop.people import the_shop
from brightcircuit.stations.files import export_job, with_contact
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.proven_line import proven_lights
from brightcircuit.stations.registry import OpenItem, RecordPart, station_done, stations
from brightcircuit.stations.whats_open import whats_open
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.csv_cells import csv_text
from brightcore.procedure.costing import Tally
from brightcore.procedure.rider import rider_sheet
from brightcore.tracing.advice import evidence_value

MOST_FOR_RIDER = 6
"""Pictures on the rider's sheet, at most."""

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


@dataclass(frozen=True, slots=True)
class OpenGroup:
    """What is open at one station, with what was typed as the reason to let it go."""

    title: str
    items: list[tuple[OpenItem, str]]


def _grouped(items: list[tuple[OpenItem, str]]) -> list[OpenGroup]:
    """Return what is open by the station where it is seen to, in the order of work."""
    groups = []
    for station in stations():
        own = [row for row in items if row[0].station == station.key]
        if own:
            groups.append(OpenGroup(station.name, own))
    return groups


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
    open_items: list[tuple[OpenItem, str]]
    open_groups: list[OpenGroup]
    let_go: QuerySet[LetGo]
    is_lead: bool
    changes: tuple[str, ...]
    accepted: list[Accepted]
    offers: QuerySet[Offer]
    lines: QuerySet[CostLine]
    tally: Tally
    warranty: Warranty | None
    photos: list[Picture]
    shop: Shop


def _reopen(posted: Posted, job: Job) -> str:
    reopen_job(actor=posted.who, job=job)
    return ""


def _undo_proof(posted: Posted, job: Job) -> str:
    undo_proof(actor=posted.who, job=job)
    forget_engines()
    return "Undone: the repair waits for its proof again."


def _cause(posted: Posted, job: Job) -> str:
    answer_cause(actor=posted.who, job=job, cause=posted.text("cause"))
    return ""


def _close(posted: Posted, job: Job) -> str:
    close_job(
        actor=posted.who, job=job, reason=posted.text("reason"), reasons=_reasons(posted.request)
    )
    forget_engines()
    return f"Job {job.number} is closed."


ACTS: dict[str, Act[Job]] = {
    "reopen": _reopen,
    "undo-proof": _undo_proof,
    "cause": _cause,
    "close": _close,
}


def record_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the sheet; close and reopen the job."""
    job = changing(request, job_uuid)
    error, status = "", 200
    if request.method == "POST":
        try:
            posted = Posted(request)
            said = act_on(ACTS, posted.text("action"), posted, job)
            if said:
                messages.success(request, said)
            return redirect("record", job.uuid)
        except (ValidationError, PermissionDenied) as problem:
            status = 422
            if isinstance(problem, ValidationError):
                error = " ".join(problem.messages)
            else:
                error = str(problem)
    typed = as_typed(request, error)
    shown = sheet_of(
        job, error, typed.get("reason", ""), typed.get("cause", ""), reasons=_reasons(request)
    )
    context = replace(shown, is_lead=actor(request).is_lead).context()
    page = {**job_frame(job, "record"), **context}
    make_ready()
    return render(request, "record/record.html", page, status=status)


REASON = "reason-"
"""How the fields begin in which a lead says why something open is let go."""


def _reasons(request: HttpRequest) -> dict[str, str]:
    """Return the reasons that were posted, by the key of what is let go."""
    names = [name for name in request.POST if name.startswith(REASON)]
    return {name.removeprefix(REASON): request.POST.get(name, "") for name in names}


def sheet_of(
    job: Job,
    error: str = "",
    reason: str = "",
    cause: str = "",
    paper: bool = False,
    reasons: dict[str, str] | None = None,
) -> RecordPage:
    """Return what the shop's sheet of a job shows; on paper, pictures are part of it."""
    said = reasons or {}
    if job.is_open:
        still_open = [(item, said.get(item.key, "")) for item in whats_open(job)]
    else:
        still_open = []
    entries = []
    for e, title in zip(job.evidence.all(), _titles(job), strict=True):
        entries.append({"entry": e, "value": evidence_value(core_evidence(e)), "title": title})
    lines = lines_of(job)
    return RecordPage(
        entries=entries,
        log=job.log.all(),
        repairs=job.repairs.all(),
        error=error,
        reason=reason,
        proved=(is_proved(job) or station_done(job, "prove")) and not still_open,
        open_items=still_open,
        open_groups=_grouped(still_open),
        let_go=LetGo.objects.filter(job=job),
        is_lead=False,
        changes=changes_of(job).words,
        waiting=unanswered_cause(job) if job.is_open else None,
        cause=cause,
        quarantined=job.is_open and bool(standing_quarantines(job)),
        parts=[part for station in stations() for part in station.record(job)],
        has_contact=RiderContact.objects.filter(bike=job.revision.bike).exists(),
        accepted=accepted_in(job),
        offers=offers_of(job),
        lines=lines,
        tally=tally_of(lines),
        warranty=warranty_of(job),
        photos=pictures_of(job, paper),
        shop=the_shop(),
    )


def _titles(job: Job) -> list[str]:
    """Return every piece of evidence of a job in words, in its order."""
    # The words of the day it was read; rows from before words were kept are worded from the present
    # description.
    return [entry.words or words_now(job, core_evidence(entry)) for entry in job.evidence.all()]


def rider_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the rider's sheet, to be printed and handed over with the bike."""
    job = get_object_or_404(whole_job(job_uuid))
    make_ready()
    return render(request, "record/rider.html", {**job_frame(job, "record"), **rider_of(job)})


def rider_of(job: Job, paper: bool = False) -> Context:
    """Return what the rider's sheet of a job shows."""
    if job.closed:
        on = timezone.localdate(job.closed)
    else:
        on = timezone.localdate()
    return {
        "parts": rider_sheet(stands_of(job), rider_facts(job), on),
        "on": on,
        "shop": the_shop(),
        "warranty": warranty_of(job),
        "photos": pictures_of(job, paper)[:MOST_FOR_RIDER],
    }


def _line_of(job: Job) -> str:
    """Return the Line of a job as it is lit: by what is believed while it is open, by what was
    proven afterwards."""
    drawing = drawing_of(drawn_of(job))
    if job.is_open:
        return drawing.line(drawing.lights(job_trace(job, 3.0).trace))
    return drawing.line(proven_lights(job, drawing))


def sheet_pdf(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the shop's sheet as PDF, with its pictures."""
    job = get_object_or_404(whole_job(job_uuid))
    context = sheet_of(job, paper=True).context() | {"line_picture": picture(_line_of(job))}
    return pdf_of(request, job, "record/sheet.html", context, "sheet")


def rider_pdf(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the rider's sheet as PDF."""
    job = get_object_or_404(whole_job(job_uuid))
    return pdf_of(request, job, "record/rider_sheet.html", rider_of(job, paper=True), "rider")


def job_file(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the job as a job file."""
    job = get_object_or_404(whole_job(job_uuid))
    document = export_job(job)
    if request.GET.get("contact") == "1":
        document = with_contact(document, job)
    return download(
        canonical_json(document),
        "application/json",
        f"job-{job.number}-{job.revision.bike.label}.json",
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
    return download(_line_of(job), "image/svg+xml", f"job-{job.number}-line.svg")
