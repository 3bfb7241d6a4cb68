"""What the Trace page shows, as plain values for its templates."""

import uuid
from dataclasses import replace
from typing import Any

from brightcircuit.arrive.queries import blocks
from brightcircuit.jobs.models import Job
from brightcircuit.record.queries import confirmed_counts
from brightcircuit.record.services import RepairPlan, pending_repair
from brightcircuit.trace.forms import HINTS, look_choices
from brightcircuit.trace.frame import percent
from brightcircuit.trace.queries import JobTrace, acknowledged
from brightcore import ENGINE_VERSION
from brightcore.belief.bayes import entropy_bits
from brightcore.kinds import REGISTRY
from brightcore.tracing.advice import (
    Conclusion,
    Proposal,
    answers,
    conclude,
    evidence_title,
    evidence_value,
    expectation,
    present_state,
    proof_of,
    propose,
    setup_minutes,
    shifts,
)
from brightcore.tracing.engine import Suspect, Trace
from brightcore.tracing.hypotheses import fault_class
from brightcore.tracing.outcomes import question_words
from brightcore.tracing.pairs import pair_explanations
from brightcore.tracing.tests import GATES

BAR_WIDTH = 480
MOST_SUSPECTS = 8


def trace_context(job: Job, found: JobTrace, wanted: str, typed: Any = None, errors: dict[str, str] | None = None) -> dict[str, Any]:
    """Return everything the Trace page needs once the engine can answer."""
    trace = found.trace
    assert trace is not None
    confirmed = confirmed_counts()
    with found.holder.lock:
        conclusion = conclude(trace)
        best = propose(trace, 8, frozenset(job.skipped_tests), explained=1)
        chosen = _chosen(trace, best, wanted)
        show_test = chosen is not None and (bool(wanted) or conclusion.status == "measure")
        context: dict[str, Any] = {
            "conclusion": conclusion_card(conclusion) if not wanted else None,
            "card": test_card(job, trace, chosen, typed, errors or {}) if show_test and chosen else None,
            "others": [
                {"id": p.test.id, "title": p.test.title, "minutes": _minutes(p.minutes)}
                for p in best
                if chosen is None or p.test.id != chosen.test.id
            ],
            "suspects": [suspect_row(trace, s, confirmed) for s in trace.suspects[:MOST_SUSPECTS] if s.probability >= 0.005],
            "suspect_count": sum(s.probability >= 0.01 for s in trace.suspects),
            "suspect_total": len(trace.suspects) - 2,
            "groups": [[s.title for s in group] for group in trace.indistinct] if trace.engine.ready else [],
            "evidence": evidence_rows(trace, found),
            "contradiction": contradiction_card(trace),
            "left_out": left_out(trace),
            "minutes_to_go": minutes_to_go(trace, best),
            "skipped": len(job.skipped_tests),
            "computing": not found.holder.finished.is_set(),
        }
    return context


def left_out(trace: Trace) -> list[dict[str, str]]:
    """Return what the model leaves out, by kind of part on this bike."""
    kinds = {part.kind: REGISTRY[part.kind] for part in trace.engine.bike.parts}
    return [{"kind": kind.title, "what": ", ".join(kind.not_modelled)} for kind in kinds.values()]


def _chosen(trace: Trace, best: tuple[Proposal, ...], wanted: str) -> Proposal | None:
    if not wanted:
        return best[0] if best else None
    for item in best:
        if item.test.id == wanted:
            table = trace.engine.outcome(wanted)
            return replace(item, answers=answers(trace, table)) if table and not item.answers else item
    test = trace.engine.by_id.get(wanted)
    if test is None:
        return None
    table = trace.engine.outcome(wanted)
    minutes = test.minutes + setup_minutes(present_state(trace), test.condition, test.gates)
    return Proposal(test, 0.0, minutes, answers(trace, table) if table else ())


def _minutes(value: float) -> str:
    return f"about {max(round(value), 1)} minute{'s' if round(value) > 1 else ''}"


def all_tests(trace: Trace) -> list[dict[str, Any]]:
    """Return every test of the bike by family, for a technician who wants another one."""
    names = {"look": "Look", "unplug": "Unplug and see", "volts": "Volts", "swing": "Volts while turning", "ohms": "Ohms, pack out",
             "diode": "Diode test", "inspect": "Look closely", "swap": "Lend a known good part"}  # fmt: skip
    rows: dict[str, list[dict[str, str]]] = {label: [] for label in names.values()}
    for test in trace.engine.tests:
        rows[names[test.kind]].append({"id": test.id, "title": test.title, "state": ", ".join(test.steps)})
    return [{"label": label, "tests": tests} for label, tests in rows.items() if tests]


def test_card(job: Job, trace: Trace, item: Proposal, typed: Any, errors: dict[str, str]) -> dict[str, Any]:
    """Return the large card of one test."""
    test = item.test
    standing = acknowledged(job, test.condition.power)
    ticked = set(typed.getlist("gate")) if typed else set()
    blocked = blocks(job) if needs_safe_pack(trace, test.condition.power, test.red, test.black) else []
    unit, hint = HINTS.get(test.kind, ("", ""))
    looks = []
    if test.scene:
        for observable in trace.engine.table.scenes[test.scene].seen:
            looks.append({
                "id": observable, "question": question_words(trace.engine.bike, observable), "choices": look_choices(observable),
                "value": typed.get(f"see-{observable}", "") if typed else "",
                "soft": bool(typed and typed.get(f"soft-{observable}")),
            })  # fmt: skip
    return {
        "test": test, "minutes": _minutes(item.minutes), "bits": f"{item.bits:.2f}", "steps": test.steps,
        "gates": [{"id": g, "words": GATES[g], "done": g in standing, "ticked": g in ticked} for g in test.gates],
        "blocked": blocked, "unit": unit, "hint": hint, "looks": looks,
        "choices": {"inspect": (("good", "Looks good"), ("damaged", "Yes: damage or wrong setting seen")),
                    "swap": (("gone", "Trouble gone"), ("same", "Trouble the same"))}.get(test.kind, ()),
        "answers": [answer_row(trace, a) for a in item.answers],
        "value": typed.get("value", "") if typed else "", "errors": errors,
        "client": (typed.get("client") if typed else None) or uuid.uuid4().hex,
        "places": _places(trace, test.red, test.black),
    }  # fmt: skip


def _places(trace: Trace, red: str, black: str) -> list[dict[str, str]]:
    from brightcore.tracing.tests import where

    rows = []
    for colour, pin in (("red", red), ("black", black)):
        if pin:
            _, _, own = trace.engine.bike.pin(pin)
            colour_words = f", {own.colour} wire" if own.colour else ""
            words = f"{trace.engine.nets.title(pin)}{colour_words}"
            rows.append({"colour": colour, "words": words, "place": where(trace.engine.circuit, pin)})
    if len(rows) == 2 and rows[0]["place"] == rows[1]["place"]:
        rows[0]["place"] = ""
    return rows


def needs_safe_pack(trace: Trace, power: str, red: str, black: str) -> bool:
    """Return whether a test is powered or touches the pack."""
    bike = trace.engine.bike
    touches = any(bike.part(pin.split(".")[0]).kind == "pack" for pin in (red, black) if pin)
    return power in ("on", "off") or touches


def answer_row(trace: Trace, answer: Any) -> dict[str, Any]:
    """Return one answer: label, likelihood, meaning, and what choosing it would enter."""
    looks = {item.observable: item.value for item in answer.outcome.evidence if item.kind == "look"}
    value = answer.outcome.evidence[0].value if not looks else ""
    return {
        "label": answer.outcome.label, "percent": percent(answer.probability), "meaning": answer.meaning,
        "bar": round(BAR_WIDTH * answer.probability), "looks": looks, "value": value,
    }  # fmt: skip


def suspect_row(trace: Trace, suspect: Suspect, confirmed: dict[str, int]) -> dict[str, Any]:
    """Return one line of the ranking with its reasons and how often the shop confirmed its class."""
    lead = max(suspect.members, key=lambda m: trace.belief[m])
    reasons = [
        {"title": evidence_title(trace, e), "value": evidence_value(e), "expected": expectation(trace, e, lead)} for e in trace.evidence
    ]
    mode = trace.engine.hypotheses.items[lead].mode
    seen = confirmed.get(fault_class(mode), 0) if mode else 0
    return {
        "title": suspect.title, "percent": percent(suspect.probability), "bar": round(420 * suspect.probability),
        "repair": suspect.repair, "minutes": _minutes(suspect.repair.minutes), "reasons": reasons, "lead": lead,
        "confirmed": seen, "id": suspect.id, "special": mode is None,
    }  # fmt: skip


def evidence_rows(trace: Trace, found: JobTrace) -> list[dict[str, Any]]:
    """Return the evidence list, newest first, with what each piece moved."""
    odd = {i for i, _ in trace.contradicting} if trace.contradictory else set()
    rows = []
    for i, (entry, item, shift) in enumerate(zip(found.entries, trace.evidence, shifts(trace), strict=True)):
        moved = [f"{t}: {percent(a)} → {percent(b)}" for t, a, b in (*shift.raised, *shift.lowered)]
        rows.append({
            "id": entry.pk, "title": evidence_title(trace, item), "value": evidence_value(item), "odd": i in odd,
            "moved": moved, "by": entry.by_name, "at": entry.at, "remaining": shift.remaining,
        })  # fmt: skip
    return rows[::-1]


def contradiction_card(trace: Trace) -> dict[str, Any] | None:
    """Return what does not fit together, the cheapest reading to repeat, and pairs of faults."""
    if not trace.contradictory:
        return None
    rows = []
    for i, _ in trace.contradicting:
        item = trace.evidence[i]
        test = trace.engine.by_id.get(item.test_id)
        rows.append({"title": evidence_title(trace, item), "value": evidence_value(item), "minutes": test.minutes if test else 9.0,
                     "test": test.id if test else ""})  # fmt: skip
    rows.sort(key=lambda r: r["minutes"])
    pairs = [{"first": a, "second": b, "percent": percent(w)} for a, b, w in pair_explanations(trace)]
    return {"readings": rows, "pairs": pairs}


def minutes_to_go(trace: Trace, best: tuple[Proposal, ...]) -> int | None:
    """Return a rough number of minutes to the repair: bits left over bits per minute of the best test."""
    if not best or trace.stopped:
        return None
    left = float(entropy_bits(trace.repair_belief))
    rate = max(best[0].bits / best[0].minutes, 0.02)
    return max(1, min(round(left / rate), 60))


def conclusion_card(conclusion: Conclusion) -> dict[str, Any] | None:
    """Return the card of a conclusion, None while there is something to measure."""
    if conclusion.status == "measure" or conclusion.repair is None:
        return None
    return {
        "status": conclusion.status, "repair": conclusion.repair, "percent": percent(conclusion.probability),
        "members": [{"title": s.title, "percent": percent(s.probability), "repair": s.repair} for s in conclusion.members],
        "proof": conclusion.proof, "minutes": _minutes(conclusion.repair.minutes),
    }  # fmt: skip


def repair_plan(trace: Trace, repair_id: str) -> RepairPlan | None:
    """Return the plan of a repair with the ranking, reasons and engine version frozen."""
    h = trace.engine.hypotheses
    members = [i for i, item in enumerate(h.items) if item.repair.id == repair_id]
    if not members:
        return None
    lead = max(members, key=lambda m: trace.belief[m])
    item = h.items[lead]
    proof = proof_of(trace, repair_id)
    frozen = {
        "engine": ENGINE_VERSION,
        "fault": item.title,
        "minutes": item.repair.minutes,
        "cost_level": item.repair.cost_level,
        "probability": float(trace.belief[members].sum()),
        "ranking": [{"title": s.title, "probability": round(s.probability, 4)} for s in trace.suspects[:6]],
        "reasons": [{"title": evidence_title(trace, e), "value": evidence_value(e)} for e in trace.evidence],
    }
    return RepairPlan(
        repair_id, item.repair.action, item.repair.root_cause, item.id, fault_class(item.mode) if item.mode else "",
        proof.title if proof else "", proof.expected if proof else "", frozen,
    )  # fmt: skip


def proof_card(job: Job) -> Any:
    """Return the repair of this round that waits for its proof."""
    return pending_repair(job)
