"""The wiring sheet: to print, and as SVG, PDF, CSV and SPICE."""

import uuid
from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.downloads import download
from brightcircuit.common.shown import Context, Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import findings_of
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.frame import job_frame
from brightcircuit.wire.join_views import CutRow, cut_rows, frame_context, tie_rows
from brightcircuit.wire.pdf import make_ready, sheet_as_pdf
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import parse_condition
from brightcore.drawing.plug_cards import plug_card_pages, plug_cards_svg
from brightcore.drawing.sheet import layout_sheet
from brightcore.drawing.sheet_svg import sheet_svg
from brightcore.formats.csv_cells import csv_text
from brightcore.formats.joins_csv import dump_joins_csv
from brightcore.formats.spice import spice_netlist
from brightcore.simulation.table import Row, Table
from brightcore.wiring.cut_list import Cut, Joint, cut_list, joint_list

CUT_COLUMNS = ("what", "count", "area_mm2", "gauge", "colour", "length_m", "note")


def _job(job_uuid: uuid.UUID) -> tuple[Job, Bike]:
    job = get_object_or_404(whole_job(job_uuid))
    return job, plan_of(job)


def _heading(job: Job, what: str) -> str:
    return f"{job.revision.bike.label}, {what}, revision {job.revision.number}"


def _drawing(job: Job, bike: Bike, page: bool = True) -> str:
    codes = dict.fromkeys(item.finding.code for item in findings_of(job) if not item.waived)
    return sheet_svg(bike, _heading(job, "wiring"), tuple(codes), page=page)


@dataclass(frozen=True, slots=True)
class JointRow:
    """One joint to make."""

    n: int
    j: Joint
    minutes: str


@dataclass(frozen=True)
class ListsPage(Shown):
    """What to cut and what to join."""

    cuts: list[CutRow]
    joints: list[JointRow]
    minutes: str


def _lists(bike: Bike) -> ListsPage:
    made = joint_list(bike)
    joints = []
    for n, j in enumerate(made, 1):
        joints.append(
            JointRow(
                n=n,
                j=j,
                minutes=f"{j.minutes:g} min",
            )
        )
    return ListsPage(
        cuts=cut_rows(bike),
        joints=joints,
        minutes=f"{sum(j.minutes for j in made):g}",
    )


def _context(job: Job, bike: Bike) -> Context:
    return {
        "drawing": _drawing(job, bike),
        "cards": plug_cards_svg(bike, _heading(job, "plugs and pins")),
        **_lists(bike).context(),
        **frame_context(bike).context(),
        "findings": [f for f in findings_of(job) if not f.waived],
        "waived": [f for f in findings_of(job) if f.waived],
    }


def sheet_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the wiring sheet: the drawing, a card for every join, cut list, joints, findings still
    open."""
    job, bike = _job(job_uuid)
    make_ready()
    return render(
        request,
        "wire/sheet.html",
        {
            **job_frame(job, "wire"),
            **_context(job, bike),
            "drawing": _drawing(job, bike, page=False),
        },
    )


def cards_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show a card for every plug: its face, its pins and the volts to expect."""
    job, bike = _job(job_uuid)
    context = {
        **job_frame(job, "wire"),
        "cards": plug_cards_svg(bike, _heading(job, "plugs and pins")),
    }
    return render(request, "wire/cards.html", context)


def lists_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what to cut, what to join and where to tie."""
    job, bike = _job(job_uuid)
    context = {**job_frame(job, "wire"), **_lists(bike).context(), **tie_rows(bike).context()}
    return render(request, "wire/lists.html", context)


def sheet_pdf(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the whole sheet as PDF."""
    job, bike = _job(job_uuid)
    wide, high = layout_sheet(bike).page
    lie = "lying" if wide > high else "standing"
    cards = plug_card_pages(bike, _heading(job, "plugs and pins"))
    context = {
        "heading": _heading(job, "wiring sheet"),
        "job": job,
        "lie": lie,
        **_context(job, bike),
    }
    try:
        made = sheet_as_pdf(context, _drawing(job, bike), cards)
    except ValidationError as error:
        return render(
            request,
            "wire/sheet.html",
            {**job_frame(job, "wire"), **context, "error": error.messages[0]},
            status=503,
        )
    response = HttpResponse(made, content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="job-{job.number}-wiring.pdf"'
    return response


def wiring_svg(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the drawing as SVG."""
    job, bike = _job(job_uuid)
    return download(_drawing(job, bike), "image/svg+xml", f"job-{job.number}-wiring.svg")


def plugs_svg(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the cards as SVG."""
    job, bike = _job(job_uuid)
    return download(
        plug_cards_svg(bike, _heading(job, "plugs and pins")),
        "image/svg+xml",
        f"job-{job.number}-plugs.svg",
    )


def joins_csv(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the joins as CSV."""
    job, bike = _job(job_uuid)
    return download(dump_joins_csv(bike), "text/csv", f"job-{job.number}-joins.csv")


def cut_csv(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the cut list as CSV: what, count, area, gauge, colour, length in m, note."""
    job, bike = _job(job_uuid)
    rows = (_cut_row(cut) for cut in cut_list(bike))
    return download(csv_text(CUT_COLUMNS, rows), "text/csv", f"job-{job.number}-cut-list.csv")


def _cut_row(cut: Cut) -> tuple[str | int, ...]:
    area = f"{cut.area_mm2:g}" if cut.area_mm2 else ""
    length = f"{cut.length_m:g}" if cut.length_m else ""
    return cut.what, cut.count, area, cut.gauge, cut.colour, length, cut.note


def wiring_spice(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Download the circuit as a SPICE netlist, switched on, at rest."""
    job, bike = _job(job_uuid)
    circuit = circuit_of(bike)
    condition, table = parse_condition(circuit, "on"), Table(circuit, [Row()])
    volts = table.solution(condition).volts[:, 0]
    guess = {node: float(volts[i]) for i, node in enumerate(circuit.nodes)}
    return download(
        spice_netlist(circuit, condition, table.latched(0), first_guess=guess),
        "text/plain",
        f"job-{job.number}.cir",
    )
