"""Command line on open files: trace, check, derive, joins, match, netlist, read, roles, routes, schema,
sheet, wire, and findings.

A bad file prints every problem with its JSON path on stderr and ends with status 2.
"""

import argparse
import csv
import json
import os
import sys
from collections.abc import Callable, Sequence
from dataclasses import asdict
from datetime import date
from pathlib import Path

from brightcore.analysis.rule import page_of
from brightcore.bike.roles import ROLES, mate
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.netlist import Circuit, compile_circuit
from brightcore.describing.edit import join_words
from brightcore.drawing.frame_map import frame_map_svg
from brightcore.drawing.plug_cards import plug_cards_svg
from brightcore.drawing.sheet_svg import sheet_svg
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.findings import hint, render
from brightcore.formats.bike_file import dump_bike, load_bike
from brightcore.formats.case_file import Case, check_evidence, load_case
from brightcore.formats.joins_csv import dump_joins_csv, read_joins_csv
from brightcore.formats.plain import JsonObject
from brightcore.formats.schema import bike_schema, case_schema, job_schema, parts_schema
from brightcore.formats.spice import spice_netlist
from brightcore.kinds import REGISTRY
from brightcore.matching.chain import current_chain, volt_windows
from brightcore.matching.drive import drive_of
from brightcore.matching.riding import flat_rule_km, steepest_grade_ratio, top_speed_kmh
from brightcore.matching.rules import RULES as MATCH_RULES
from brightcore.matching.rules import match_findings
from brightcore.physics.machine import hub_free_kmh
from brightcore.procedure.first_light import find_first_light
from brightcore.procedure.work_order import order_of_work
from brightcore.programming.derive import derive_settings
from brightcore.simulation.table import Row, Table
from brightcore.sources import SOURCES
from brightcore.tracing.advice import conclude, evidence_title, evidence_value, propose
from brightcore.tracing.engine import Engine, Trace
from brightcore.tracing.pairs import pair_explanations
from brightcore.units import format_quantity, length_words
from brightcore.wiring.cut_list import cut_list
from brightcore.wiring.frames import FRAMES
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.routes import frame_of, guess_frame, runs_of, way_words
from brightcore.wiring.rules import RULES as WIRING_RULES
from brightcore.wiring.rules import check_bike

Out = tuple[JsonObject, list[str]]


def read_text(path: str) -> str:
    """Return a file's text; raises FormatError where it cannot be read."""
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise FormatError((Problem("$", f"cannot read {path}: {error}"),)) from None


def run_check(args: argparse.Namespace) -> Out:
    """Findings of the wiring rules."""
    found = check_bike(load_bike(read_text(args.file)), date.today())
    data = [
        {
            "code": f.code,
            "severity": f.severity,
            "subjects": f.subjects,
            "text": render(f),
            "hint": hint(f),
            "source": f.type.source,
        }
        for f in found
    ]
    lines = [f"{f.code} {f.severity:7} {render(f)}\n             {hint(f)}" for f in found]
    return {"findings": data}, lines or ["No findings."]


def run_derive(args: argparse.Namespace) -> Out:
    """Derived settings with their reasons."""
    found = derive_settings(load_bike(read_text(args.file)))
    data = [
        {
            "part": d.part,
            "role": d.role,
            "value": d.value,
            "unit": d.unit,
            "reason": d.reason,
            "source": d.source,
            "current": d.current,
        }
        for d in found
    ]
    lines = [
        f"{d.part}.{d.role} = {d.value:g} {d.unit}"
        + (f" (set to {d.current:g})" if d.differs else "")
        + f"\n    {d.reason}"
        for d in found
    ]
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
            {"code": f.code, "severity": f.severity, "text": render(f), "hint": hint(f)} for f in found
        ],
    }
    lines = [
        f"{'▸' if i == chain.weakest else ' '} {link.title:34} {link.demand_a:5.0f} A of "
        + (f"{link.limit_a:.0f} A" if link.known else "not described")
        for i, link in enumerate(chain.links)
    ]
    lines += [
        f"{w.controller}: {w.empty_v:.1f} to {w.full_v:.1f} V, cut-off {w.cutoff_v:g} V, controller to "
        f"{w.controller_max_v:g} V, sags {w.sag_v:.1f} V"
        for w in windows
    ]
    lines += [f"{f.code} {f.severity:7} {render(f)}" for f in found]
    drive = drive_of(bike)
    ride = {
        "top_speed_kmh": top_speed_kmh(drive),
        "steepest_from_standstill_ratio": steepest_grade_ratio(drive, 0.0),
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


def run_netlist(args: argparse.Namespace) -> Out:
    """SPICE netlist of one condition, with a fault where asked."""
    circuit = compile_circuit(load_bike(read_text(args.file)), REGISTRY)
    condition = parse_condition(circuit, args.condition)
    row, table = _one_row(circuit, args.fault)
    volts = table.solution(condition).volts[:, 0]
    guess = {node: float(volts[i]) for i, node in enumerate(circuit.nodes)}
    text = spice_netlist(circuit, condition, (*row.overrides, *table.latched(0)), first_guess=guess)
    return {"netlist": text}, [text.rstrip("\n")]


def _one_row(circuit: Circuit, fault: str) -> tuple[Row, Table]:
    mode = circuit.fault(fault) if fault else None
    row = Row(mode.overrides, frozenset(mode.traits)) if mode else Row()
    return row, Table(circuit, [row])


def run_read(args: argparse.Namespace) -> Out:
    """What a meter would show on the bike, healthy or with a fault."""
    bike = load_bike(read_text(args.file))
    circuit = compile_circuit(bike, REGISTRY)
    if args.list_faults:
        return {"faults": [f.id for f in circuit.faults]}, [f"{f.id}  —  {f.title}" for f in circuit.faults]
    if args.list_conditions:
        names = [
            "on",
            "off",
            "out",
            *(
                f"{c}={v}"
                for c, (_, control) in circuit.controls.items()
                for v in control.values
                if control.id != "power"
            ),
        ]
        names += [f"unplug {join.id}" for join in bike.joins]
        return {"conditions": names}, [*names, "Combine with semicolons: 'on; throttle.grip=full'"]
    if args.list_pins:
        pins = [f"{p.id}.{q.id}.{pin.name}" for p in bike.parts for q in p.ports for pin in q.pins]
        return {"pins": pins}, pins
    if not (args.red and args.black):
        raise FormatError((Problem("--from/--to", "name the two pins, or use --list-pins"),))
    for pin in (args.red, args.black):
        bike.pin(pin)
    condition = parse_condition(circuit, args.condition)
    _, table = _one_row(circuit, args.fault)
    ohms = condition.power == "out" and not any(c.endswith(".diode") for c, _ in condition.settings)
    found = (table.read_ohms if ohms else table.read_volts)(condition, args.red, args.black)
    unit = "Ω" if ohms else "V"
    value, sigma = float(found.mean[0]), float(found.sigma[0])
    floating, uncertain = bool(found.floating[0]), bool(found.uncertain[0])
    note = (
        "over limit"
        if ohms and floating
        else "floating: a meter shows about this, not a real voltage"
        if floating
        else ""
    )
    note = "uncertain: more than one state is possible" if uncertain else note
    data = {
        "value": value if abs(value) < 1e12 else None,
        "unit": unit,
        "sigma": sigma,
        "floating": floating,
        "uncertain": uncertain,
    }
    line = f"{format_quantity(value, unit)}  ± {format_quantity(sigma, unit)}" if value < 1e12 else "OL"
    return data, [f"{line}  {note}".rstrip()]


def run_trace(args: argparse.Namespace) -> Out:
    """Ranking, groups, next test and contradictions of a case."""
    case = load_case(read_text(args.file))
    engine = Engine(case.bike)
    check_evidence(engine.table, case.evidence)
    say: Callable[[int, int], None] | None = None
    if sys.stderr.isatty():

        def say(done: int, total: int) -> None:
            print(f"\r{100 * done // total} %", end="", file=sys.stderr, flush=True)

    engine.prepare(say)
    return describe_trace(case, Trace(engine, case.evidence))


def describe_trace(case: Case, trace: Trace) -> Out:
    """Return a trace as data and as lines of text."""
    conclusion = conclude(trace)
    best = propose(trace, 3)
    suspects = [s for s in trace.suspects if s.probability >= 0.01][:12]
    contradictions = (
        [
            {
                "evidence": evidence_title(trace.engine, trace.evidence[i]),
                "value": evidence_value(trace.evidence[i]),
                "ratio": ratio,
            }
            for i, ratio in trace.contradicting
        ]
        if trace.contradictory
        else []
    )
    pairs = pair_explanations(trace) if trace.contradictory else ()
    data = {
        "bike": case.bike.info.label,
        "status": conclusion.status,
        "suspects": [
            {
                "title": s.title,
                "probability": s.probability,
                "repair": s.repair.action,
                "faults": [trace.engine.hypotheses.items[m].id for m in s.members],
            }
            for s in suspects
        ],
        "groups": [[s.title for s in group] for group in trace.indistinct],
        "next": [
            {
                "test": p.test.id,
                "title": p.test.title,
                "condition": p.test.condition.id,
                "steps": p.test.steps,
                "red": p.test.red,
                "black": p.test.black,
                "bits": p.bits,
                "minutes": p.minutes,
                "cautions": p.test.gates,
                "answers": [
                    {"answer": a.outcome.label, "probability": a.probability, "meaning": a.meaning}
                    for a in p.answers
                ],
            }
            for p in best
        ],
        "contradictions": contradictions,
        "pairs": [{"first": a, "second": b, "share": w} for a, b, w in pairs],
        "repair": conclusion.repair.action if conclusion.repair and conclusion.status == "repair" else None,
        "proof": None
        if conclusion.proof is None
        else {"do": conclusion.proof.title, "expect": conclusion.proof.expected},
    }
    return data, list(_trace_lines(data))


def _trace_lines(data: JsonObject) -> Sequence[str]:
    lines = [f"{data['bike']}: {data['status']}", "", "Suspects"]
    lines += [f"  {100 * s['probability']:5.1f} %  {s['title']}  →  {s['repair']}" for s in data["suspects"]]
    lines += [f"  No test on the list tells these apart: {'; '.join(group)}" for group in data["groups"]]
    for item in data["contradictions"]:
        lines.append(f"  Does not fit: {item['evidence']} = {item['value']}. Repeat it.")
    lines += [
        f"  Two faults? {p['first']} with {p['second']} ({100 * p['share']:.0f} %)" for p in data["pairs"]
    ]
    if data["repair"]:
        lines += ["", f"Repair: {data['repair']}"]
    if data["proof"]:
        lines.append(f"Proof: {data['proof']['do']}: {data['proof']['expect']}")
    if data["status"] == "measure" and data["next"]:
        test = data["next"][0]
        lines += [
            "",
            f"Next, about {test['minutes']:.0f} min: {test['title']}",
            f"  State: {', '.join(test['steps'])}",
        ]
        if test["red"]:
            lines.append(f"  Red {test['red']}, black {test['black']}")
        lines += [
            f"  {a['answer']} ({100 * a['probability']:.0f} %): {a['meaning']}" for a in test["answers"]
        ]
    return lines


def run_joins(args: argparse.Namespace) -> Out:
    """Joins as CSV; with --add, the bike file with the joins of a CSV file added."""
    bike = load_bike(read_text(args.file))
    if args.add:
        text = dump_bike(read_joins_csv(bike, read_text(args.add))[0])
        return json.loads(text), [text.rstrip("\n")]
    rows = dump_joins_csv(bike).splitlines()
    return {"joins": list(csv.DictReader(rows))}, rows


def run_wire(args: argparse.Namespace) -> Out:
    """What to join next and why, the smallest set of joins with which the motor must turn, and the order of
    work."""
    bike = load_bike(read_text(args.file))
    light = find_first_light(bike)
    steps = order_of_work(bike, light)
    proposals = propose_joins(bike)
    needed = [
        s.id.partition(":")[2]
        for s in steps
        if s.id.startswith("plug:") and s.id.partition(":")[2] in light.needed
    ]
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
        "first_light": needed,
        "order": [asdict(s) for s in steps],
    }
    lines = [
        f"Join {p.words}: {p.reason}"
        + ("" if p.certain else f" (not decided: {', '.join(p.others)} would do as well)")
        for p in proposals
    ]
    lines += [
        "First light: "
        + (
            "; ".join(join_words(bike, bike.join(j)) for j in needed)
            or "the motor does not turn as it is joined"
        )
    ]
    return data, lines + [
        f"{n:3} {s.title}" + (f"  [{s.caution}]" if s.caution else "") for n, s in enumerate(steps, 1)
    ]


def run_sheet(args: argparse.Namespace) -> Out:
    """Whole wiring on one A4 page, as SVG; with --cards every plug and pin, with --ways the map of the
    frame."""
    bike = load_bike(read_text(args.file))
    heading = f"{bike.info.label}, {'plugs and pins' if args.cards else 'wiring'}"
    codes = tuple(dict.fromkeys(f.code for f in check_bike(bike, date.today())))
    text = (
        plug_cards_svg(bike, heading)
        if args.cards
        else frame_map_svg(bike)
        if args.ways
        else sheet_svg(bike, heading, codes)
    )
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
    lines += [
        f"{r.verdict:8} {r.title}: {r.wanted_m:.2f} m needed"
        + (f", {r.has_m:.2f} m there" if r.has_m else "")
        + f", {way_words(frame, r)}"
        for r in runs
    ]
    lines += [
        f"{c.count} × {c.what}" + (f", {length_words(c.length_m)}" if c.length_m else "") + f": {c.note}"
        for c in cut_list(bike)
    ]
    return data, lines


FINDINGS_HEAD = """# Findings

Findings of the wiring (`W…`) stand on Arrive, those of matching (`M…`) on Match. Every finding has a
permanent code, severity, words, hint and source. *Danger* findings stand before powered tests until they
are put right or a lead accepts them with a reason; that lapses when a value behind one changes.

This page is written by `./bright core findings`.
"""


def run_findings(_: argparse.Namespace) -> Out:
    """Every rule as a page: code, severity, words, what it looks at, what to do, source."""
    rules = (*WIRING_RULES, *MATCH_RULES)
    text = page_of(rules, {source.id: source.text for source in SOURCES.values()})
    data = {
        "findings": [{"code": r.type.code, "severity": r.type.severity, "text": r.type.text} for r in rules]
    }
    return data, [f"{FINDINGS_HEAD}\n{text}".rstrip("\n")]


def run_roles(_: argparse.Namespace) -> Out:
    """Every role of a pin: what it is for, its level, what it mates with."""
    rows = [asdict(role) for role in ROLES]
    lines = [
        "# Roles of pins",
        "",
        "What a contact is for (`bike/roles.py`). Two pins belong on one contact if they are mates;",
        "a plain wire takes what its far end has. This page is written by `./bright core roles`.",
        "",
    ]
    lines += ["| role | meaning | polarity | level | way | mates with |", "|---|---|---|---|---|---|"]
    for role in ROLES:
        mates = ", ".join(
            f"`{other.name}`" for other in ROLES if mate(role.name, other.name) and role.name != "wire"
        )
        own = mates if role.name != "wire" else "anything"
        lines.append(
            f"| `{role.name}` | {role.meaning} | {role.polarity} | {role.level} | {role.way} | {own} |"
        )
    return {"roles": rows}, lines


def run_schema(args: argparse.Namespace) -> Out:
    """JSON Schema of one of the open formats."""
    schema = {"bike": bike_schema, "case": case_schema, "job": job_schema, "parts": parts_schema}[args.file](
        REGISTRY
    )
    return schema, [json.dumps(schema, indent=1, ensure_ascii=False)]


COMMANDS: dict[str, Callable[[argparse.Namespace], Out]] = {
    "trace": run_trace,
    "check": run_check,
    "derive": run_derive,
    "match": run_match,
    "netlist": run_netlist,
    "read": run_read,
    "joins": run_joins,
    "wire": run_wire,
    "sheet": run_sheet,
    "routes": run_routes,
    "schema": run_schema,
    "findings": run_findings,
    "roles": run_roles,
}


def parser() -> argparse.ArgumentParser:
    """Return the argument parser of all commands."""
    top = argparse.ArgumentParser(prog="brightcore", description=__doc__)
    commands = top.add_subparsers(dest="command", required=True)
    for name, run in COMMANDS.items():
        sub = commands.add_parser(name, help=run.__doc__)
        if name == "schema":
            sub.add_argument("file", choices=("bike", "case", "job", "parts"))
        elif name not in ("findings", "roles"):
            sub.add_argument("file", help="a case file" if name == "trace" else "a bike file")
        sub.add_argument("--json", action="store_true", help="print JSON")
        if name in ("netlist", "read"):
            sub.add_argument("--fault", default="", help="id of a fault, see read --list-faults")
            sub.add_argument("--condition", default=Condition().id, help="such as 'on; throttle.grip=full'")
        if name == "joins":
            sub.add_argument("--add", default="", help="a CSV file: from, to, wire")
        if name == "sheet":
            sub.add_argument("--cards", action="store_true", help="cards of the plugs instead of the drawing")
            sub.add_argument("--ways", action="store_true", help="map of the frame instead of the drawing")
        if name == "read":
            sub.add_argument("--from", dest="red", default="", help="pin of the red probe, part.port.pin")
            sub.add_argument("--to", dest="black", default="", help="pin of the black probe")
            for what in ("faults", "conditions", "pins"):
                sub.add_argument(f"--list-{what}", action="store_true")
    return top


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return the exit status."""
    args = parser().parse_args(argv)
    try:
        data, lines = COMMANDS[args.command](args)
    except FormatError as error:
        for problem in error.problems:
            print(problem, file=sys.stderr)
        return 2
    except BrightError as error:
        print(error, file=sys.stderr)
        return 2
    text = json.dumps(data, ensure_ascii=False, indent=1) if args.json else "\n".join(lines)
    try:
        print(text, flush=True)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())  # who read it has seen enough
    return 0


if __name__ == "__main__":
    sys.exit(main())
