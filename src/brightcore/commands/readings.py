"""Commands about readings: netlist, predicted values, a case traced."""

import argparse
import sys
from collections.abc import Callable, Sequence

from brightcore.circuit.conditions import parse_condition
from brightcore.circuit.netlist import Circuit, compile_circuit
from brightcore.commands.files import Out, read_text
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import load_bike
from brightcore.formats.case_file import Case, check_evidence, load_case
from brightcore.formats.plain import JsonObject
from brightcore.formats.spice import spice_netlist
from brightcore.kinds import REGISTRY
from brightcore.simulation.table import Row, Table
from brightcore.tracing.advice import evidence_title, evidence_value, propose
from brightcore.tracing.endings import conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.pairs import pair_explanations
from brightcore.tracing.trace import Trace
from brightcore.units import format_quantity


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
        return {"faults": [f.id for f in circuit.faults]}, [
            f"{f.id}  —  {f.title}" for f in circuit.faults
        ]
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
        pins = [pin for part in bike.parts for pin in part.pin_ids]
        return {"pins": pins}, pins
    if not (args.red and args.black):
        raise FormatError((Problem("--from/--to", "name the two pins, or use --list-pins"),))
    for pin in (args.red, args.black):
        bike.pin(pin)
    condition = parse_condition(circuit, args.condition)
    _, table = _one_row(circuit, args.fault)
    ohms = condition.power == "out"
    found = (table.read_ohms if ohms else table.read_volts)(condition, args.red, args.black)
    unit = "Ω" if ohms else "V"
    value, sigma = float(found.mean[0]), float(found.sigma[0])
    floating, uncertain = bool(found.floating[0]), bool(found.uncertain[0])
    if ohms and floating:
        note = "over limit"
    elif floating:
        note = "floating: a meter shows about this, not a real voltage"
    else:
        note = ""
    if uncertain:
        note = "uncertain: more than one state is possible"
    else:
        note = note
    data = {
        "value": value if abs(value) < 1e12 else None,
        "unit": unit,
        "sigma": sigma,
        "floating": floating,
        "uncertain": uncertain,
    }
    if value < 1e12:
        line = f"{format_quantity(value, unit)}  ± {format_quantity(sigma, unit)}"
    else:
        line = "OL"
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
    if trace.contradictory:
        contradictions = []
        for i, ratio in trace.contradicting:
            contradictions.append(
                {
                    "evidence": evidence_title(trace.engine, trace.evidence[i]),
                    "value": evidence_value(trace.evidence[i]),
                    "ratio": ratio,
                }
            )
    else:
        contradictions = []
    pairs = pair_explanations(trace) if trace.contradictory else ()
    groups = []
    for group in trace.indistinct:
        groups.append([s.title for s in group])
    own_suspects = []
    for s in suspects:
        own_suspects.append(
            {
                "title": s.title,
                "probability": s.probability,
                "repair": s.repair.action,
                "faults": [trace.engine.hypotheses.items[m].id for m in s.members],
            }
        )
    nexts = []
    for p in best:
        answers = []
        for a in p.answers:
            answers.append(
                {"answer": a.outcome.label, "probability": a.probability, "meaning": a.meaning}
            )
        nexts.append(
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
                "answers": answers,
            }
        )
    data = {
        "bike": case.bike.info.label,
        "status": conclusion.status,
        "suspects": own_suspects,
        "groups": groups,
        "next": nexts,
        "contradictions": contradictions,
        "pairs": [{"first": a, "second": b, "share": w} for a, b, w in pairs],
        "repair": conclusion.repair.action
        if conclusion.repair and conclusion.status == "repair"
        else None,
        "proof": None
        if conclusion.proof is None
        else {"do": conclusion.proof.title, "expect": conclusion.proof.expected},
    }
    return data, list(_trace_lines(data))


def _trace_lines(data: JsonObject) -> Sequence[str]:
    lines = [f"{data['bike']}: {data['status']}", "", "Suspects"]
    for s in data["suspects"]:
        lines.append(f"  {100 * s['probability']:5.1f} %  {s['title']}  →  {s['repair']}")
    for group in data["groups"]:
        lines.append(f"  No test on the list tells these apart: {'; '.join(group)}")
    for item in data["contradictions"]:
        lines.append(f"  Does not fit: {item['evidence']} = {item['value']}. Repeat it.")
    for p in data["pairs"]:
        lines.append(f"  Two faults? {p['first']} with {p['second']} ({100 * p['share']:.0f} %)")
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
        for a in test["answers"]:
            lines.append(f"  {a['answer']} ({100 * a['probability']:.0f} %): {a['meaning']}")
    return lines
