"""What the Trace page shows, as plain values for its templates."""

import uuid
from dataclasses import dataclass, replace
from typing import Any

from django.http import QueryDict

from brightcircuit.common.shown import Shown
from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import RepairPlan, confirmed_counts, pending_repair
from brightcircuit.jobs.safety import Block, blocks
from brightcircuit.stations.frame import percent
from brightcircuit.trace.forms import look_choices
from brightcircuit.trace.queries import acknowledged
from brightcore.belief.bayes import entropy_bits
from brightcore.circuit.faults import RepairKind
from brightcore.formats.engine_version import engine_version
from brightcore.kinds import REGISTRY
from brightcore.procedure.gates import GATES, standing_of
from brightcore.simulation.words import question_words
from brightcore.tracing.acts import act_of_test
from brightcore.tracing.advice import (
    Answer,
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
from brightcore.tracing.pairs import pair_explanations
from brightcore.tracing.tests import KINDS, Test, kind_of, test_id

BAR_WIDTH = 480
MOST_SUSPECTS = 8


@dataclass(frozen=True)
class SuspectRow:
    """One line of the ranking."""

    title: str
    percent: str
    bar: int
    repair: RepairKind
    minutes: str
    reasons: list[dict[str, str]]
    lead: int
    confirmed: int
    id: str
    special: bool


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


@dataclass(frozen=True, slots=True)
class TestRow:
    """One test in the list of all."""

    id: str
    title: str
    state: str


def all_tests(trace: Trace) -> list[dict[str, Any]]:
    """Return every test of the bike by family, for a technician who wants another one."""
    families: dict[str, list[TestRow]] = {kind.family: [] for kind in KINDS}
    for test in trace.engine.tests:
        rows = families[kind_of(test.kind).family]
        rows.append(TestRow(test.id, test.title, ", ".join(test.steps)))
    return [{"label": label, "tests": tests} for label, tests in families.items() if tests]


@dataclass(frozen=True, slots=True)
class GateRow:
    """A caution before a test: whether it stands already, and whether it was ticked in the form that came
    back."""

    id: str
    words: str
    done: bool
    ticked: bool


@dataclass(frozen=True, slots=True)
class LookRow:
    """One thing to look at, with its answers and what was chosen in the form that came back."""

    id: str
    question: str
    choices: list[tuple[str, str]]
    value: str
    soft: bool


@dataclass(frozen=True, slots=True)
class PlaceRow:
    """Where one probe goes."""

    colour: str
    words: str
    place: str


@dataclass(frozen=True, slots=True)
class AnswerRow:
    """One possible answer: label, likelihood, meaning, and what choosing it would enter."""

    label: str
    percent: str
    meaning: str
    bar: int
    looks: dict[str, str]
    value: str


@dataclass(frozen=True, slots=True)
class TestCard:
    """The large card of one test."""

    test: Test
    kicker: str
    minutes: str
    steps: tuple[str, ...]
    gates: list[GateRow]
    blocked: list[Block]
    unit: str
    hint: str
    looks: list[LookRow]
    choices: tuple[tuple[str, str], ...]
    answers: list[AnswerRow]
    value: str
    errors: dict[str, str]
    client: str
    places: list[PlaceRow]


def test_card(
    job: Job, trace: Trace, item: Proposal, typed: QueryDict | None, errors: dict[str, str]
) -> TestCard:
    """Return the large card of one test, with what was typed where its form came back."""
    test, kind = item.test, kind_of(item.test.kind)
    standing = acknowledged(job, standing_of(test.condition.power, test.gates))
    ticked = set(typed.getlist("gate")) if typed else set()
    risky = act_of_test(trace.engine, test).needs_safe_pack
    shown = trace.engine.table.scenes[test.scene].seen if test.scene else ()
    return TestCard(
        test=test,
        kicker=kind.kicker,
        minutes=_minutes(item.minutes),
        steps=test.steps,
        gates=[GateRow(g, GATES[g], g in standing, g in ticked) for g in test.gates],
        blocked=blocks(job) if risky else [],
        unit=kind.unit,
        hint=kind.hint,
        looks=[_look_row(trace, observable, typed) for observable in shown],
        choices=kind.choices,
        answers=[answer_row(answer) for answer in item.answers],
        value=_typed(typed, "value"),
        errors=errors,
        client=_typed(typed, "client") or uuid.uuid4().hex,
        places=_places(trace, test.red, test.black),
    )


def _typed(typed: QueryDict | None, name: str) -> str:
    return (typed.get(name) or "") if typed else ""


def _look_row(trace: Trace, observable: str, typed: QueryDict | None) -> LookRow:
    return LookRow(
        observable,
        question_words(trace.engine.bike, observable),
        look_choices(observable),
        _typed(typed, f"see-{observable}"),
        bool(_typed(typed, f"soft-{observable}")),
    )


def _places(trace: Trace, red: str, black: str) -> list[PlaceRow]:
    """Return where the probes go; a place that both share is named once."""
    rows = []
    for colour, pin in (("red", red), ("black", black)):
        if pin:
            _, _, own = trace.engine.bike.pin(pin)
            colour_words = f", {own.colour} wire" if own.colour else ""
            words = f"{trace.engine.nets.title(pin)}{colour_words}"
            rows.append(PlaceRow(colour, words, trace.engine.bench.where(pin)))
    if len(rows) == 2 and rows[0].place == rows[1].place:
        rows[0] = replace(rows[0], place="")
    return rows


def answer_row(answer: Answer) -> AnswerRow:
    """Return one answer: label, likelihood, meaning, and what choosing it would enter."""
    looks = {item.observable: item.value for item in answer.outcome.evidence if item.observable}
    return AnswerRow(
        answer.outcome.label,
        percent(answer.probability),
        answer.meaning,
        round(BAR_WIDTH * answer.probability),
        looks,
        "" if looks else answer.outcome.evidence[0].value,
    )


def suspect_row(trace: Trace, suspect: Suspect, confirmed: dict[str, int]) -> SuspectRow:
    """Return one line of the ranking with its reasons and how often the shop confirmed its class."""
    lead = max(suspect.members, key=lambda m: trace.belief[m])
    reasons = [
        {
            "title": evidence_title(trace.engine, e),
            "value": evidence_value(e),
            "expected": expectation(trace, e, lead),
        }
        for e in trace.evidence
    ]
    mode = trace.engine.hypotheses.items[lead].mode
    seen = confirmed.get(fault_class(mode), 0) if mode else 0
    return SuspectRow(
        title=suspect.title,
        percent=percent(suspect.probability),
        bar=round(420 * suspect.probability),
        repair=suspect.repair,
        minutes=_minutes(suspect.repair.minutes),
        reasons=reasons,
        lead=lead,
        confirmed=seen,
        id=suspect.id,
        special=mode is None,
    )


def evidence_rows(trace: Trace, found: JobTrace) -> list[dict[str, Any]]:
    """Return the evidence list, newest first, with what each piece moved."""
    odd = {i for i, _ in trace.contradicting} if trace.contradictory else set()
    rows = []
    for i, (entry, item, shift) in enumerate(zip(found.entries, trace.evidence, shifts(trace), strict=True)):
        moved = [f"{t}: {percent(a)} → {percent(b)}" for t, a, b in (*shift.raised, *shift.lowered)]
        rows.append(
            {
                "id": entry.pk,
                "title": evidence_title(trace.engine, item),
                "value": evidence_value(item),
                "odd": i in odd,
                "moved": moved,
                "by": entry.by_name,
                "at": entry.at,
                "remaining": shift.remaining,
            }
        )
    return rows[::-1]


def contradiction_card(trace: Trace) -> dict[str, Any] | None:
    """Return what does not fit together, the cheapest reading to repeat, and pairs of faults."""
    if not trace.contradictory:
        return None
    rows: list[dict[str, Any]] = []
    for i, _ in trace.contradicting:
        item = trace.evidence[i]
        test = trace.engine.by_id.get(test_id(item))
        rows.append(
            {
                "title": evidence_title(trace.engine, item),
                "value": evidence_value(item),
                "minutes": test.minutes if test else 9.0,
                "test": test.id if test else "",
            }
        )
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
        "status": conclusion.status,
        "repair": conclusion.repair,
        "percent": percent(conclusion.probability),
        "members": [
            {"title": s.title, "percent": percent(s.probability), "repair": s.repair}
            for s in conclusion.members
        ],
        "proof": conclusion.proof,
        "minutes": _minutes(conclusion.repair.minutes),
    }


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
        "engine": engine_version(),
        "fault": item.title,
        "minutes": item.repair.minutes,
        "cost_level": item.repair.cost_level,
        "probability": float(trace.belief[members].sum()),
        "ranking": [{"title": s.title, "probability": round(s.probability, 4)} for s in trace.suspects[:6]],
        "reasons": [
            {"title": evidence_title(trace.engine, e), "value": evidence_value(e)} for e in trace.evidence
        ],
    }
    return RepairPlan(
        repair_id,
        item.repair.action,
        item.repair.root_cause,
        item.id,
        fault_class(item.mode) if item.mode else "",
        proof.title if proof else "",
        proof.expected if proof else "",
        frozen,
    )


def proof_card(job: Job) -> Any:
    """Return the repair of this round that waits for its proof."""
    return pending_repair(job)


@dataclass(frozen=True)
class TracePage(Shown):
    """What Trace shows once the engine can answer."""

    conclusion: dict[str, Any] | None
    card: TestCard | None
    others: list[dict[str, str]]
    suspects: list[SuspectRow]
    suspect_count: int
    suspect_total: int
    groups: list[list[str]]
    evidence: list[dict[str, Any]]
    contradiction: dict[str, Any] | None
    left_out: list[dict[str, str]]
    minutes_to_go: int | None
    skipped: int
    computing: bool
    left_out_states: int
    held: list[Block]


def trace_context(
    job: Job,
    found: JobTrace,
    wanted: str,
    typed: QueryDict | None = None,
    errors: dict[str, str] | None = None,
) -> dict[str, Any]:
    """Return everything the Trace page needs once the engine can answer."""
    trace = found.trace
    assert trace is not None
    confirmed = confirmed_counts()
    with found.holder.lock:
        conclusion = conclude(trace)
        held = _held(job, trace)
        best = propose(trace, 8, held.tests | frozenset(job.skipped_tests), explained=1)
        chosen = _chosen(trace, best, wanted)
        show_test = chosen is not None and (bool(wanted) or conclusion.status == "measure")
        context: dict[str, Any] = TracePage(
            conclusion=conclusion_card(conclusion) if not wanted else None,
            card=test_card(job, trace, chosen, typed, errors or {}) if show_test and chosen else None,
            others=[
                {"id": p.test.id, "title": p.test.title, "minutes": _minutes(p.minutes)}
                for p in best
                if chosen is None or p.test.id != chosen.test.id
            ],
            suspects=[
                suspect_row(trace, s, confirmed)
                for s in trace.suspects[:MOST_SUSPECTS]
                if s.probability >= 0.005
            ],
            suspect_count=sum(s.probability >= 0.01 for s in trace.suspects),
            suspect_total=len(trace.suspects) - 2,
            groups=[[s.title for s in group] for group in trace.indistinct] if trace.engine.ready else [],
            evidence=evidence_rows(trace, found),
            contradiction=contradiction_card(trace),
            left_out=left_out(trace),
            minutes_to_go=minutes_to_go(trace, best),
            skipped=len(job.skipped_tests),
            computing=not found.holder.finished.is_set(),
            left_out_states=found.holder.left_out,
            held=held.why,
        ).context()
    return context


@dataclass(frozen=True, slots=True)
class Held:
    """Tests that are not proposed while a danger finding stands, and what stands."""

    tests: frozenset[str]
    why: list[Block]


def _held(job: Job, trace: Trace) -> Held:
    """Return what waits while a danger of the wiring stands: everything powered.

    While the pack itself is in question nothing is held back here: that stands in place of the test.
    """
    standing = blocks(job)
    if not standing or any(block.kind in ("quarantine", "triage") for block in standing):
        return Held(frozenset(), [])
    powered = frozenset(
        test.id for test in trace.engine.tests if act_of_test(trace.engine, test).needs_safe_pack
    )
    return Held(powered, standing) if len(powered) < len(trace.engine.tests) else Held(frozenset(), [])
