"""Wire size, the load on each wire, and unknown three-wire plugs."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.bikes.describe import Refused
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.stale import changing
from brightcircuit.stations.frame import job_frame
from brightcircuit.wire.edit import WIRES, read_three
from brightcircuit.wire.views import change
from brightcore.bike.model import Bike
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError
from brightcore.wiring.conductors import conductor_table, size_conductor
from brightcore.wiring.propose import HOW_TO_FIND, order_found, three_wire_plugs


@dataclass(frozen=True)
class SizePage(Shown):
    """What the page of wire sizes shows."""

    tables: list[tuple[str, list[dict[str, Any]]]]
    sized: dict[str, str] | None
    errors: dict[str, str]
    asked: QueryDict


def size_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the load on each wire of a bike, and the wire for what is asked."""
    job = get_object_or_404(whole_job(job_uuid))
    errors: dict[str, str] = {}
    sized = _sized(request, errors)
    page = SizePage(_tables(_rows(core_bike(job.revision))), sized, errors, request.GET)
    context = {**job_frame(job, "wire"), **page.context()}
    return render(request, "wire/size.html", context, status=422 if errors else 200)


@dataclass(frozen=True)
class UnknownPage(Shown):
    """What the page of unknown wires shows."""

    how_to_find: str
    three: dict[str, Any]
    errors: dict[str, str]
    asked: QueryDict


def unknown_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what three unknown wires are; describe the plug as it was found."""
    job = changing(request, job_uuid)
    errors: dict[str, str] = {}
    asked = request.POST if request.method == "POST" else request.GET
    if request.method == "POST":
        try:
            change(request, job, "three")
            return redirect("wire-unknown", job.uuid)
        except ValidationError as error:
            errors = {"three": error.messages[0]}
        except Refused as error:
            errors = error.errors
        except BrightError as error:
            errors = {"three": str(error)}
    three = _three(asked, core_bike(job.revision), errors)
    page = UnknownPage(HOW_TO_FIND, three, errors, asked)
    context = {**job_frame(job, "wire"), **page.context()}
    return render(request, "wire/unknown.html", context, status=422 if errors else 200)


def _rows(bike: Bike) -> list[dict[str, Any]]:
    """Return every conductor with its figures in words."""
    return [
        {
            "r": r,
            "current": f"{r.current_a:.2g} A" if r.current_a < 1 else f"{r.current_a:.0f} A",
            "limit": f"{r.limit_a:.0f} A" + (f", {r.stands_a:.0f} A for a minute" if r.short_run else ""),
            "drop": f"{1000 * r.drop_v:.0f} mV",
            "contacts": f"{1000 * r.contact_v:.0f} mV",
            "rise": f"{r.rise_k:.0f} K",
            "area": f"{r.area_mm2:g} mm²",
            "length": f"{r.length_m:g} m",
        }
        for r in conductor_table(bike)
    ]


def _tables(rows: list[dict[str, Any]]) -> list[tuple[str, list[dict[str, Any]]]]:
    """Return the conductors in two tables: those that carry current, and the thin ones under a heading of
    their own."""
    thin = [row for row in rows if row["r"].is_signal and row["r"].fits]
    thick = [row for row in rows if row not in thin]
    return [("", thick), (f"Signals {len(thin)}", thin)] if thin else [("", thick)]


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


def _three(asked: QueryDict, bike: Bike, errors: dict[str, str]) -> dict[str, Any]:
    """Return what three unknown wires are, from the volts that were typed, and whether the chosen plug is
    described otherwise."""
    context: dict[str, Any] = {
        "plugs": three_wire_plugs(bike),
        "rows": [(n, asked.get(f"open_{n}", ""), asked.get(f"loaded_{n}", "")) for n in WIRES],
    }
    if "open_1" not in asked:
        return context
    try:
        found = read_three(asked)
    except BrightError as error:
        errors["three"] = str(error)
        return context
    context["words"] = f"Wire {found.words}" if found.supply and found.ground else found.words
    part_id, _, port_id = asked.get("plug", "").partition(".")
    if found.signal and asked.get("plug") in dict(context["plugs"]):
        port = bike.part(part_id).port(port_id)
        context["otherwise"] = order_found(port, found) != tuple(pin.name for pin in port.pins)
        context["as_described"] = not context["otherwise"]
    return context
