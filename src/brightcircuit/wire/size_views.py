"""Wire size, the load on each wire, and unknown three-wire plugs."""

import uuid
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, render

from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.frame import job_frame
from brightcore.bike.model import Bike
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError
from brightcore.wiring.conductors import ConductorRow, conductor_table, size_conductor


@dataclass(frozen=True, slots=True)
class LoadRow:
    """A conductor with its figures in words."""

    r: ConductorRow
    current: str
    limit: str
    drop: str
    contacts: str
    rise: str
    area: str
    length: str


@dataclass(frozen=True)
class SizePage(Shown):
    """What the page of wire sizes shows."""

    tables: list[tuple[str, list[LoadRow]]]
    sized: dict[str, str] | None
    errors: dict[str, str]
    asked: QueryDict


def size_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the load on each wire of a bike, and the wire for what is asked."""
    job = get_object_or_404(whole_job(job_uuid))
    errors: dict[str, str] = {}
    sized = _sized(request, errors)
    page = SizePage(_tables(_rows(plan_of(job))), sized, errors, request.GET)
    context = {**job_frame(job, "wire"), **page.context()}
    return render(request, "wire/size.html", context, status=status_of(errors))


def _rows(bike: Bike) -> list[LoadRow]:
    """Return every conductor with its figures in words."""
    found: list[LoadRow] = []
    for r in conductor_table(bike):
        found.append(
            LoadRow(
                r=r,
                current=f"{r.current_a:.2g} A" if r.current_a < 1 else f"{r.current_a:.0f} A",
                limit=f"{r.limit_a:.0f} A"
                + (f", {r.stands_a:.0f} A for a minute" if r.short_run else ""),
                drop=f"{1000 * r.drop_v:.0f} mV",
                contacts=f"{1000 * r.contact_v:.0f} mV",
                rise=f"{r.rise_k:.0f} K",
                area=f"{r.area_mm2:g} mm²",
                length=f"{r.length_m:g} m",
            )
        )
    return found


def _tables(rows: list[LoadRow]) -> list[tuple[str, list[LoadRow]]]:
    """Return the conductors in two tables: those that carry current, and the thin ones under a
    heading of their own."""
    thin = [row for row in rows if row.r.is_signal and row.r.fits]
    thick = [row for row in rows if row not in thin]
    if thin:
        return [("", thick), (f"Signals {len(thin)}", thin)]
    return [("", thick)]


def _sized(request: HttpRequest, errors: dict[str, str]) -> dict[str, str] | None:
    """Return the conductor for what was asked in the address, or note what is wrong with it."""
    if "current_a" not in request.GET:
        return None
    try:
        bundle_count = whole_number(request.GET.get("bundle") or "1", 0)
        s = size_conductor(
            parse_measure(request.GET.get("current_a", ""), "a"),
            parse_measure(request.GET.get("length_m", ""), "m"),
            parse_measure(request.GET.get("drop_v", ""), "v"),
            ambient_c=parse_measure(request.GET.get("ambient_c") or "25", "c"),
            bundle_count=bundle_count,
        )
    except BrightError as error:
        errors["size"] = str(error)
        return None
    return {
        "area": f"{s.area_mm2:g} mm²",
        "awg": f"{s.awg} AWG",
        "drop": f"{s.drop_v:.2f} V",
        "heat": f"{s.heat_w:.1f} W",
        "rise": f"{s.rise_k:.0f} K",
        "why": f"{s.by_drop_mm2:.2f} mm² by drop, {s.by_heat_mm2:.2f} mm² by heat",
    }
