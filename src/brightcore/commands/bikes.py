"""Commands about one bike: findings, settings, match, joins, wiring, sheet, ways."""

import argparse
import csv
import json
from dataclasses import asdict
from datetime import date

from brightcore.commands.files import Out, read_text
from brightcore.describing.join_words import join_words
from brightcore.drawing.frame_map import frame_map_svg
from brightcore.drawing.plug_cards import plug_cards_svg
from brightcore.drawing.sheet_svg import sheet_svg
from brightcore.findings import hint, render
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.joins_csv import dump_joins_csv, read_joins_csv
from brightcore.formats.plain import JsonObject
from brightcore.matching.chain import current_chain, volt_windows
from brightcore.matching.drive import drive_of
from brightcore.matching.ranges import flat_rule_km
from brightcore.matching.riding import steepest_start_ratio, top_speed_kmh
from brightcore.matching.rules import match_findings
from brightcore.physics.machine import hub_free_kmh
from brightcore.procedure.first_power_up import find_first_power_up
from brightcore.procedure.work_order import whole_order
from brightcore.programming.derive import derive_settings
from brightcore.units import length_words
from brightcore.wiring.cut_list import cut_list
from brightcore.wiring.frames import FRAMES
from brightcore.wiring.offers import offers_of
from brightcore.wiring.routes import frame_of, guess_frame, runs_of, way_words
from brightcore.wiring.rules import check_bike, check_whole


def run_check(args: argparse.Namespace) -> Out:
    """Findings of the wiring rules."""
    found = check_whole(load_bike(read_text(args.file)), date.today())
    data = []
    for f in found:
        data.append(
            {
                "code": f.code,
                "severity": f.severity,
                "subjects": f.subjects,
                "text": render(f),
                "hint": hint(f),
                "source": f.type.source,
            }
        )
    lines = [f"{f.code} {f.severity:7} {render(f)}\n             {hint(f)}" for f in found]
    return {"findings": data}, lines or ["No findings."]


def run_derive(args: argparse.Namespace) -> Out:
    """Derived settings with their reasons."""
    found = derive_settings(load_bike(read_text(args.file)))
    data = []
    for d in found:
        data.append(
            {
                "part": d.part,
                "role": d.role,
                "value": d.value,
                "unit": d.unit,
                "reason": d.reason,
                "source": d.source,
                "current": d.current,
            }
        )
    lines = []
    for d in found:
        lines.append(
            f"{d.part}.{d.role} = {d.value:g} {d.unit}"
            + (f" (set to {d.current:g})" if d.differs else "")
            + f"\n    {d.reason}"
        )
    return {"settings": data}, lines


def run_match(args: argparse.Namespace) -> Out:
    """Current chain, volt windows, findings of matching, and what the bike will do."""
    bike = load_bike(read_text(args.file))
    chain, windows, found = current_chain(bike), volt_windows(bike), match_findings(bike)
    data: JsonObject = {
        "chain": [
            {
                "link": link.title,
                "limit_a": link.limit_a,
                "demand_a": link.demand_a,
                "margin_ratio": link.margin_ratio,
            }
            for link in chain.links
        ],
        "weakest": chain.links[chain.weakest].title,
        "windows": [asdict(w) for w in windows],
        "findings": [
            {"code": f.code, "severity": f.severity, "text": render(f), "hint": hint(f)}
            for f in found
        ],
    }
    lines = []
    for i, link in enumerate(chain.links):
        lines.append(
            f"{'▸' if i == chain.weakest else ' '} {link.title:34} {link.demand_a:5.0f} A of "
            + (f"{link.limit_a:.0f} A" if link.known else "not described")
        )
    for w in windows:
        lines.append(
            f"{w.controller}: {w.empty_v:.1f} to {w.full_v:.1f} V, cut-off {w.cutoff_v:g} V, "
            f"controller to {w.controller_max_v:g} V, sags {w.sag_v:.1f} V"
        )
    lines += [f"{f.code} {f.severity:7} {render(f)}" for f in found]
    drive = drive_of(bike)
    ride = {
        "top_speed_kmh": top_speed_kmh(drive),
        "steepest_from_standstill_ratio": steepest_start_ratio(drive),
        "range_flat_rule_km": flat_rule_km(drive.energy_wh),
        "hub_free_kmh": hub_free_kmh(
            drive.rpm_per_v / drive.motor_per_wheel_ratio, drive.pack_v, drive.circumference_m
        ),
    }
    data["ride"] = ride
    lines.append(
        f"Top speed {ride['top_speed_kmh']:.0f} km/h, "
        f"{100 * ride['steepest_from_standstill_ratio']:.0f} % from standstill, flat-rule range "
        f"{ride['range_flat_rule_km']:.0f} km"
    )
    return data, lines


def run_joins(args: argparse.Namespace) -> Out:
    """Joins as CSV; with --add, the bike file with the joins of a CSV file added."""
    bike = load_bike(read_text(args.file))
    if args.add:
        text = dump_bike(read_joins_csv(bike, read_text(args.add))[0])
        return json.loads(text), [text.rstrip("\n")]
    rows = dump_joins_csv(bike).splitlines()
    return {"joins": list(csv.DictReader(rows))}, rows


def run_wire(args: argparse.Namespace) -> Out:
    """What to join next and why, the smallest set of joins with which the motor must turn, and the
    order of work."""
    bike = load_bike(read_text(args.file))
    light = find_first_power_up(bike)
    order = whole_order(bike)
    steps = order.steps
    proposals = offers_of(bike).proposals
    needed = []
    for s in steps:
        if s.id.startswith("connect:") and s.id.partition(":")[2] in light.needed:
            needed.append(s.id.partition(":")[2])
    data = {
        "proposals": [
            {
                "from": p.one,
                "to": p.two,
                "pairs": p.pairs,
                "reason": p.reason,
                "certain": p.certain,
                "others": p.others,
            }
            for p in proposals
        ],
        "first_power_up": needed,
        "order": [asdict(s) for s in steps],
    }
    lines = []
    for p in proposals:
        lines.append(
            f"Connect {p.words}: {p.reason}"
            + ("" if p.certain else f" (not decided: {', '.join(p.others)} would do as well)")
        )
    lines += [
        "First power-up: "
        + (
            "; ".join(join_words(bike, bike.join(j)) for j in needed)
            or "the motor does not turn as it is connected"
        )
    ]
    return data, lines + [
        f"{n:3} {s.title}" + (f"  [{s.caution}]" if s.caution else "")
        for n, s in enumerate(steps, 1)
    ]


def run_sheet(args: argparse.Namespace) -> Out:
    """Whole wiring on one A4 page, as SVG; with --cards every plug and pin, with --ways the map of
    the frame."""
    bike = load_bike(read_text(args.file))
    heading = f"{bike.info.label}, {'plugs and pins' if args.cards else 'wiring'}"
    codes = tuple(dict.fromkeys(f.code for f in check_bike(bike, date.today())))
    if args.cards:
        text = plug_cards_svg(bike, heading)
    elif args.ways:
        text = frame_map_svg(bike)
    else:
        text = sheet_svg(bike, heading, codes)
    return {"svg": text}, [text]


def run_routes(args: argparse.Namespace) -> Out:
    """Way and length of every cable along the frame, and what to cut."""
    bike = load_bike(read_text(args.file))
    frame, runs = frame_of(bike), runs_of(bike)
    data: JsonObject = {
        "frame": bike.frame.pattern or guess_frame(bike),
        "runs": [
            {
                "title": r.title,
                "places": r.places,
                "stretches": [s.id for s in r.path],
                "along_m": r.along_m,
                "slack_m": r.slack_m,
                "wanted_m": r.wanted_m,
                "has_m": r.has_m,
                "verdict": r.verdict,
                "joints": r.joints,
                "risks": r.risks,
                "trouble": r.trouble,
            }
            for r in runs
        ],
        "cut_list": [asdict(c) for c in cut_list(bike)],
    }
    lines = [f"Frame: {FRAMES[data['frame']].title}"]
    for r in runs:
        lines.append(
            f"{r.verdict:8} {r.title}: {r.wanted_m:.2f} m needed"
            + (f", {r.has_m:.2f} m there" if r.has_m else "")
            + f", {way_words(frame, r)}"
        )
    for c in cut_list(bike):
        lines.append(
            f"{c.count} × {c.what}"
            + (f", {length_words(c.length_m)}" if c.length_m else "")
            + f": {c.note}"
        )
    return data, lines
