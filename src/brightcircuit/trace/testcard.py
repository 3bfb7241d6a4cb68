"""The large card of one test, and the list of all tests, as plain values."""

import uuid
from dataclasses import dataclass, replace

from django.http import QueryDict
from django.template.defaultfilters import pluralize

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block, blocks
from brightcircuit.shop.queries import meter_choices
from brightcircuit.stations.frame import percent
from brightcircuit.trace.codes import CODE
from brightcircuit.trace.forms import look_choices
from brightcircuit.trace.places import place_of_test
from brightcircuit.trace.queries import acknowledged, more_gates
from brightcore.procedure.gates import GATES, standing_of
from brightcore.simulation.words import question_words
from brightcore.tracing.acts import act_of_test
from brightcore.tracing.advice import Answer, Proposal, answers
from brightcore.tracing.pace import minutes_of, present_state
from brightcore.tracing.tests import KINDS, Test, kind_of
from brightcore.tracing.trace import Trace

BAR_WIDTH = 480


def minutes_words(value: float) -> str:
    """Return a time in minutes (> 0) as words."""
    return f"about {max(round(value), 1)} minute{pluralize(round(value))}"


def chosen_proposal(trace: Trace, best: tuple[Proposal, ...], wanted: str) -> Proposal | None:
    """Return the test asked for with its answers, else the best; None where there is none."""
    if not wanted:
        if best:
            return best[0]
        return None
    for item in best:
        if item.test.id == wanted:
            table = trace.engine.outcome(wanted)
            if table and not item.answers:
                return replace(item, answers=answers(trace, table))
            return item
    test = trace.engine.by_id.get(wanted)
    if test is None:
        return None
    table = trace.engine.outcome(wanted)
    minutes = minutes_of(trace, test, present_state(trace))
    return Proposal(test, 0.0, minutes, answers(trace, table) if table else ())


@dataclass(frozen=True, slots=True)
class TestRow:
    """One test in the list of all."""

    id: str
    title: str
    state: str


@dataclass(frozen=True, slots=True)
class Family:
    """The tests of a family."""

    label: str
    tests: list[TestRow]


def all_tests(trace: Trace) -> list[Family]:
    """Return every test of the bike by family, for a technician who wants another one."""
    families: dict[str, list[TestRow]] = {kind.family: [] for kind in KINDS}
    for test in trace.engine.tests:
        rows = families[kind_of(test.kind).family]
        rows.append(TestRow(test.id, test.title, ", ".join(test.steps)))
    return [
        Family(
            label=label,
            tests=tests,
        )
        for label, tests in families.items()
        if tests
    ]


@dataclass(frozen=True, slots=True)
class GateRow:
    """A caution before a test: whether it stands already, and whether it was ticked in the form
    that came back."""

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
    code: str
    errors: dict[str, str]
    client: str
    places: list[PlaceRow]
    meters: list[tuple[int, str]]


def test_card(
    job: Job, trace: Trace, item: Proposal, typed: QueryDict | None, errors: dict[str, str]
) -> TestCard:
    """Return the large card of one test, with what was typed where its form came back."""
    test, kind = item.test, kind_of(item.test.kind)
    standing = acknowledged(job, standing_of(test.condition.power, test.gates))
    if typed:
        ticked = set(typed.getlist("gate"))
    else:
        ticked = set()
    gates = (*test.gates, *more_gates(job, test.condition.power))
    risky = act_of_test(trace.engine, test).needs_safe_pack
    if test.scene:
        shown = trace.engine.table.scenes[test.scene].seen
    else:
        shown = ()
    return TestCard(
        test=test,
        kicker=kind.kicker,
        minutes=minutes_words(item.minutes),
        steps=test.steps,
        gates=[GateRow(g, GATES[g], g in standing, g in ticked) for g in gates],
        blocked=blocks(job, (place_of_test(test),)) if risky else [],
        unit=kind.unit,
        hint=kind.hint,
        looks=[_look_row(trace, observable, typed) for observable in shown],
        choices=kind.choices,
        answers=[answer_row(answer) for answer in item.answers],
        value=_typed(typed, "value"),
        code=_typed(typed, CODE),
        errors=errors,
        client=_typed(typed, "client") or uuid.uuid4().hex,
        places=_places(trace, test.red, test.black),
        meters=meter_choices() if kind.entry == "number" else [],
    )


def _typed(typed: QueryDict | None, name: str) -> str:
    if typed:
        return typed.get(name) or ""
    return ""


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
            if own.colour:
                colour_words = f", {own.colour} wire"
            else:
                colour_words = ""
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
