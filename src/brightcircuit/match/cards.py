"""What the Match page shows: chain, windows, variants side by side, charts, range, class, cost."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from django.conf import settings

from brightcircuit.library.models import LibraryPart
from brightcircuit.library.translate import core_entry
from brightcore.bike.model import Bike
from brightcore.describing.swap import swap_part
from brightcore.drawing.charts import ChainLink, Line, chain_svg, key_svg, line_chart
from brightcore.errors import BrightError, RangeError
from brightcore.findings import hint, render
from brightcore.formats.class_file import load_classes, shipped_classes
from brightcore.kinds.controls import ThrottleSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import at_place, is_pedalled, packs
from brightcore.matching.chain import current_chain, volt_windows
from brightcore.matching.cost import LEVELS, Option, build_tally, cost_option, usual_options
from brightcore.matching.drive import DRAG_AREA_M2, TYRES, Drive, arrangement, drive_of, envelope
from brightcore.matching.law import DECIDES, Facts, LegalClass, judge, places
from brightcore.matching.packs import ah_from_volts, charge_hours, equalise
from brightcore.matching.riding import (
    ROLL_BACK_C,
    ROUTES,
    Heating,
    Road,
    accelerate,
    best_gear,
    chain_force_n,
    climb_heat,
    motor_rpm,
    range_three_ways,
    rider_force_n,
    road_force_n,
    steepest_grade_ratio,
    top_speed_kmh,
)
from brightcore.matching.rules import match_findings
from brightcore.physics.machine import hub_free_kmh

SPRINT_KMH = 20.0
VARIED = {"pack": "energy", "controller": "controller", "motor": "motor"}
"""What a variant exchanges, by where it stands on the Line."""
OPTION_FIELDS = ("parts_cost", "minutes", "life_km", "resale")


@dataclass(frozen=True)
class Variant:
    """One column of the comparison: the drive, or why there is none."""

    name: str
    drive: Drive | None
    problem: str = ""


def all_classes() -> tuple[LegalClass, ...]:
    """Return the shipped legal classes and those of the shop's own `classes.yaml`."""
    own = Path(settings.DATA) / "classes.yaml"
    return shipped_classes() + (load_classes(own.read_text(encoding="utf-8")) if own.exists() else ())


def shaped(drive: Drive, plan: dict[str, Any], bike: Bike) -> Drive:
    """Return a drive with the rider, wind shape and tyres of a plan."""
    return replace(
        drive,
        mass_kg=bike.info.bike_mass_kg + plan["load_mass_kg"],
        rider_w=plan["rider_w"],
        drag_area_m2=DRAG_AREA_M2[plan["body"]],
        rolling_ratio=TYRES[plan["tyre"]],
    )


def variants_of(bike: Bike, plan: dict[str, Any]) -> list[Variant]:
    """Return the bike as it is and every variant of a plan."""
    found = []
    for wanted in ({"name": "as it is"}, *plan["variants"]):
        try:
            found.append(Variant(wanted["name"], shaped(_varied(bike, wanted), plan, bike)))
        except BrightError as error:
            found.append(Variant(wanted["name"], None, str(error)))
    return found


def _varied(bike: Bike, wanted: dict[str, Any]) -> Drive:
    slugs = [wanted[k] for k in ("pack", "controller", "motor", "second_pack") if k in wanted]
    rows = {p.slug: p for p in LibraryPart.objects.filter(slug__in=slugs)}
    missing = [s for s in slugs if s not in rows]
    if missing:
        raise BrightError(f"{missing[0]} is not in the library any more")
    for key, place in VARIED.items():
        if key in wanted:
            entry = core_entry(rows[wanted[key]])
            for part in at_place(bike, place):
                bike = swap_part(bike, part.id, entry.kind, entry.name, entry.spec, entry.ports).bike
    if "wheel_seat" in wanted:
        bike = replace(bike, info=replace(bike.info, bead_seat_mm=float(wanted["wheel_seat"])))
    drive = drive_of(bike, wanted["name"])
    if "chain_ring" in wanted and drive.is_mid:
        drive = replace(drive, chain_ring_teeth=wanted["chain_ring"])
    if "second_pack" in wanted:
        spec = core_entry(rows[wanted["second_pack"]]).spec
        if not isinstance(spec, PackSpec):
            raise BrightError("the second pack is no pack")
        if spec.series_count != packs(bike)[0].spec.series_count:
            raise BrightError("the second pack has another number of cells in series")
        together = 1 / (1 / drive.pack_ohm + 1 / spec.internal_ohm)
        drive = replace(
            drive,
            energy_wh=drive.energy_wh + spec.capacity_ah * spec.nominal_v(),
            capacity_ah=drive.capacity_ah + spec.capacity_ah,
            pack_ohm=together,
        )
    return drive


def chain_card(bike: Bike) -> dict[str, Any]:
    """Return the drawn chain, windows and findings of matching."""
    chain = current_chain(bike)
    rows = [
        ChainLink(
            link.title,
            f"{link.limit_a:.0f} A",
            f"{link.demand_a:.0f} A",
            link.demand_a / link.limit_a if link.known else 0.0,
            i == chain.weakest,
            link.known,
            link.sets_demand,
        )
        for i, link in enumerate(chain.links)
    ]
    words = [
        {
            "title": link.title,
            "limit": f"{link.limit_a:.0f} A" if link.known else "not described",
            "demand": f"{link.demand_a:.0f} A",
            "margin": f"{100 * link.margin_ratio:.0f} %" if link.known else "—",
            "note": link.note,
            "weakest": i == chain.weakest,
        }
        for i, link in enumerate(chain.links)
    ]
    findings = [{"finding": f, "text": render(f), "hint": hint(f)} for f in match_findings(bike)]
    windows = [
        {
            "w": w,
            "sag": f"{w.sag_v:.1f} V",
            "heat": f"{w.lead_heat_w:.0f} W",
            "full": f"{w.full_v:.1f} V",
            "nominal": f"{w.nominal_v:.1f} V",
            "empty": f"{w.empty_v:.1f} V",
            "trip": f"{w.trip_v:.1f} V",
            "most": f"{w.controller_max_v:.0f} V",
            "cutoff": f"{w.cutoff_v:.1f} V",
            "fits": w.full_v <= w.controller_max_v,
            "order": w.trip_v < w.cutoff_v,
        }
        for w in volt_windows(bike)
    ]
    return {"svg": chain_svg(rows), "words": words, "findings": findings, "windows": windows}


def ride_card(variants: list[Variant], plan: dict[str, Any]) -> dict[str, Any]:
    """Return the table of variants side by side, and the three charts."""
    hill = Road(plan["hill_percent"] / 100, plan["wind_kmh"])
    columns, heats = [], []
    for v in variants:
        column, heat = _column(v, plan, hill)
        columns.append(column)
        heats.append(heat)
    titles = list(dict.fromkeys(row[0] for column in columns for row in column["rows"]))
    lookup = [dict(column["rows"]) for column in columns]
    table = [{"title": t, "cells": [cells.get(t, "—") for cells in lookup]} for t in titles]
    return {"columns": columns, "table": table, "charts": charts(variants, heats, plan)}


def _column(v: Variant, plan: dict[str, Any], hill: Road) -> tuple[dict[str, Any], Heating | None]:
    if v.drive is None:
        return {"name": v.name, "problem": v.problem, "rows": []}, None
    d = v.drive
    flat = Road(0.0, plan["wind_kmh"])
    top, on_hill = top_speed_kmh(d, flat), top_speed_kmh(d, hill)
    sprint = accelerate(d, SPRINT_KMH)
    rows = [
        ("Top speed, flat", f"{top:.0f} km/h"),
        (f"On {plan['hill_percent']:g} %", f"{on_hill:.0f} km/h" if on_hill else "cannot climb it"),
        ("Steepest from standstill", f"{100 * steepest_grade_ratio(d, 0.0):.0f} %"),
        ("Steepest rolling at 10 km/h", f"{100 * steepest_grade_ratio(d, 10.0):.0f} %"),
        (
            f"To {SPRINT_KMH:g} km/h",
            f"{sprint.seconds:.1f} s, {sprint.metres:.0f} m" if sprint.reached else "does not reach it",
        ),
    ]
    heat = None
    try:
        heat = climb_heat(d, hill, plan["hill_min"])
        after = f"{heat.winding_c[-1]:.0f} °C after {plan['hill_min']:g} min"
        rows.append(
            (
                "Winding on the hill",
                after if heat.roll_back_min is None else f"roll back after {heat.roll_back_min:.0f} min",
            )
        )
        rows.append(
            (
                "Controller on the hill",
                f"{heat.controller_c[-1]:.0f} °C"
                if heat.controller_limit_min is None
                else f"too hot after {heat.controller_limit_min:.0f} min",
            )
        )
    except RangeError as error:
        rows.append(("Winding on the hill", str(error)))
    rows += (
        _gear_rows(d, max(on_hill, 5.0))
        if d.is_mid
        else [("Wheel free, no load", f"{hub_free_kmh(d.rpm_per_v, d.pack_v, d.circumference_m):.0f} km/h")]
    )
    return {"name": v.name, "problem": "", "rows": rows + _range_rows(d, plan)}, heat


def _gear_rows(d: Drive, speed: float) -> list[tuple[str, str]]:
    geared = best_gear(d, speed)
    return [
        ("Best sprocket on the hill", f"{geared.sprocket} teeth"),
        ("Motor turns there", f"{motor_rpm(geared, speed):.0f} /min"),
        ("Chain pull at most", f"{chain_force_n(geared, speed):.0f} N"),
    ]


def _range_rows(d: Drive, plan: dict[str, Any]) -> list[tuple[str, str]]:
    try:
        r = range_three_ways(
            d, ROUTES[plan["route"]], plan["wind_kmh"], plan.get("log_km"), plan.get("used_ah")
        )
    except RangeError as error:
        return [("Range, own log", str(error))]
    return [
        ("Range, flat rule", f"{r.flat_rule_km:.0f} km"),
        (
            f"Range, physics, {plan['route']}",
            f"{r.physics_km:.0f} km at {r.physics_wh_per_km:.1f} Wh/km"
            if r.physics_km and r.physics_wh_per_km
            else "—",
        ),
        (
            "Range, own log",
            f"{r.own_log_km:.0f} km at {r.own_wh_per_km:.1f} Wh/km"
            if r.own_log_km and r.own_wh_per_km
            else "no log yet",
        ),
        ("Charge from empty", f"{charge_hours(d.capacity_ah, plan['charger_a']):.1f} h"),
    ]


def charts(
    variants: list[Variant], heats: list[Heating | None], plan: dict[str, Any]
) -> list[dict[str, str]]:
    """Return power against speed, speed against grade, winding temperature against time."""
    drives = [(v.name, v.drive) for v in variants if v.drive is not None]
    if not drives:
        return []
    first = drives[0][1]
    power = []
    for name, d in drives:
        found = envelope(d)
        keep = found.force_n > 0.5
        power.append(
            Line(name, list(found.speed_kmh[keep]), list(found.force_n[keep] * found.speed_kmh[keep] / 3.6))
        )
    most = max(max(line.y, default=0.0) for line in power)
    speeds = envelope(first).speed_kmh[:121]
    for grade in (0.0, plan["hill_percent"] / 100):
        need = (
            (road_force_n(first, speeds, Road(grade, plan["wind_kmh"])) - rider_force_n(first, speeds))
            * speeds
            / 3.6
        )
        shown = [(s, p) for s, p in zip(speeds, need, strict=True) if 0 <= p <= most * 1.15]
        if shown:
            power.append(Line(f"road {100 * grade:g} %", [s for s, _ in shown], [p for _, p in shown], True))
    grades = [g / 100 for g in range(21)]
    climbing = [
        Line(name, [100 * g for g in grades], [top_speed_kmh(d, Road(g, plan["wind_kmh"])) for g in grades])
        for name, d in drives
    ]
    heat = [
        Line(v.name, list(h.minutes), list(h.winding_c))
        for v, h in zip(variants, heats, strict=True)
        if h is not None
    ]
    out = [
        {
            "title": "Power at the wheel",
            "svg": line_chart(
                "Power at the wheel against speed, with what the road asks for",
                "km/h",
                "W",
                power,
                y_top=most * 1.15,
            ),
        },
        {
            "title": "Speed on a grade",
            "svg": line_chart("Highest speed held against grade", "grade in %", "km/h", climbing),
        },
    ]
    if heat:
        title = f"Winding on {plan['hill_percent']:g} %"
        out.append(
            {
                "title": title,
                "svg": line_chart(
                    f"{title}, temperature against time",
                    "minutes",
                    "°C",
                    heat,
                    ((ROLL_BACK_C, "roll back"),),
                    180.0,
                ),
            }
        )
    return out


def key_of(variants: list[Variant]) -> list[dict[str, str]]:
    """Return the key of the charts."""
    return [
        {"name": v.name, "svg": key_svg(i)} for i, v in enumerate(x for x in variants if x.drive is not None)
    ]


def class_card(bike: Bike, variants: list[Variant], plan: dict[str, Any]) -> dict[str, Any]:
    """Return what the classes of the chosen place say of the bike as it is."""
    classes = all_classes()
    place = plan["place"] or (bike.info.place if bike.info.place in places(classes) else "European Union")
    drive = variants[0].drive
    verdicts: list[dict[str, Any]] = []
    if drive is not None:
        pedals = is_pedalled(bike) or "hand" in bike.info.description.lower()
        facts = Facts(
            drive.rated_w * drive.motor_count,
            top_speed_kmh(replace(drive, rider_w=0.0)),
            bool(bike.having(ThrottleSpec)),
            pedals,
        )
        verdicts = [{"v": v, "limits": _limits(v.legal_class)} for v in judge(facts, classes, place)]
    return {"place": place, "places": places(classes), "verdicts": verdicts, "decides": DECIDES}


def _limits(c: LegalClass) -> str:
    return ", ".join(
        t
        for t in (
            f"{c.rated_w:g} W" if c.rated_w else "",
            f"{c.assist_kmh:g} km/h" if c.assist_kmh else "",
            f"throttle {c.throttle}",
        )
        if t
    )


def packs_card(bike: Bike) -> dict[str, Any] | None:
    """Return how several packs stand to each other: shares, totals, and what joining them directly would
    do."""
    several = packs(bike)
    if len(several) < 2:
        return None
    how = {
        "combiner": (
            "through a combining module: one at a time carries the current, neither charges the other"
        ),
        "series": "in series: volts add, the smaller capacity counts",
        "parallel": "directly in parallel: they share by resistance",
        "apart": "not joined to each other",
    }[arrangement(bike)]
    rows = [
        {
            "name": p.name,
            "ah": f"{p.spec.capacity_ah:g} Ah",
            "wh": f"{p.spec.energy_wh():.0f} Wh",
            "volts": f"{p.spec.resting_v():.1f} V",
            "alone": f"{p.spec.bms_continuous_a:g} A",
        }
        for p in several
    ]
    flow = equalise(several[0].spec, several[1].spec)
    direct = "They rest at the same volts now."
    if flow.difference_v > 0.05:
        direct = (
            f"They differ by {flow.difference_v:.2f} V now. Joined directly, {flow.current_a:.0f} A would "
            f"flow at first, {flow.moved_ah:.2f} Ah would move and {flow.heat_wh:.1f} Wh turn into heat."
        )
    return {
        "how": how,
        "rows": rows,
        "direct": direct,
        "total": f"{sum(p.spec.energy_wh() for p in several):.0f} Wh",
    }


def log_ah(bike: Bike, plan: dict[str, Any]) -> float | None:
    """Return the amp-hours of the own log: as typed, or from rested volts before and after."""
    if plan.get("log_ah") is not None or plan.get("log_from_v") is None:
        return plan.get("log_ah")
    return ah_from_volts(packs(bike)[0].spec, plan["log_from_v"], plan["log_to_v"])


def tally_card(bike: Bike, plan: dict[str, Any]) -> dict[str, Any]:
    """Return what building this bike costs: a price per part, and labour."""
    rows = [{"id": p.id, "name": p.name, "price": plan["tally"].get(p.id, "")} for p in bike.parts]
    lines = tuple((p.name, float(plan["tally"].get(p.id, 0.0))) for p in bike.parts)
    return {
        "rows": rows,
        "minutes": plan["tally_min"],
        "total": f"{build_tally(lines, plan['tally_min'], plan['labour_per_hour']):.0f}",
    }


def cost_card(bike: Bike, plan: dict[str, Any], repair: Option | None) -> list[dict[str, Any]]:
    """Return repair and replacement side by side, cheapest per km first; the shop's own figures win."""
    energy = sum(p.spec.energy_wh() for p in packs(bike))
    options = (*((repair,) if repair else ()), *usual_options(energy, plan["locked"]))
    options = tuple(replace(o, **plan["options"].get(o.id, {})) for o in options)
    costed = sorted((cost_option(o, plan["labour_per_hour"]) for o in options), key=lambda c: c.per_km)
    return [
        {
            "c": c,
            "cost": f"{c.cost:.0f}",
            "per_km": f"{100 * c.per_km:.1f}",
            "is_repair": repair is not None and c.option.id == repair.id,
            "fields": [{"name": n, "value": f"{getattr(c.option, n):.0f}"} for n in OPTION_FIELDS],
        }
        for c in costed
    ]


def repair_option(title: str, minutes: float, cost_level: int) -> Option:
    """Return the repair that Trace names as an option."""
    return Option(
        "repair", title, LEVELS[min(cost_level, len(LEVELS) - 1)], minutes, 6000.0, 0.0, "everything", ""
    )
