"""Kinds of test, one class a file. A new kind is one file here and one line in `KINDS`."""

from collections.abc import Iterable, Iterator

import numpy as np

from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import DEFAULT_METER
from brightcore.circuit.metered import Feeding
from brightcore.errors import UnknownNameError
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.states import STATES, UPHILL, state_of
from brightcore.tracing.tests.as_set import AsSet
from brightcore.tracing.tests.ask import Ask
from brightcore.tracing.tests.base import (
    BROAD_SHARE,
    MAX_OUTCOMES,
    Bench,
    Floats,
    Outcome,
    OutcomeTable,
    Test,
    TestKind,
    where,
)
from brightcore.tracing.tests.behind import WhatIsBehind
from brightcore.tracing.tests.capacity import Capacity
from brightcore.tracing.tests.current import Current
from brightcore.tracing.tests.diode import Diode
from brightcore.tracing.tests.drain import Drain
from brightcore.tracing.tests.feel import Feel
from brightcore.tracing.tests.half import Half
from brightcore.tracing.tests.inspection import Inspection
from brightcore.tracing.tests.insulation import Insulation
from brightcore.tracing.tests.listen import Listen
from brightcore.tracing.tests.look import Look, Unplug, in_state
from brightcore.tracing.tests.ohms import Ohms
from brightcore.tracing.tests.other_order import OtherOrder
from brightcore.tracing.tests.overspeed import Overspeed
from brightcore.tracing.tests.rigged import Bridge, Charge, Clipped, HallSteps
from brightcore.tracing.tests.smell import Smell
from brightcore.tracing.tests.swap import Swap
from brightcore.tracing.tests.swing import Swing
from brightcore.tracing.tests.tried import Past, Tried
from brightcore.tracing.tests.volts import Volts
from brightcore.tracing.tests.warmth import Warmth
from brightcore.tracing.tests.wiggle import Wiggle

KINDS: tuple[TestKind, ...] = (
    Look(),
    Unplug(),
    HallSteps(),
    Bridge(),
    Clipped(),
    Charge(),
    Ask(),
    Wiggle(),
    Feel(),
    Warmth(),
    Listen(),
    Smell(),
    Overspeed(),
    Insulation(),
    Volts(),
    Current(),
    Drain(),
    Swing(),
    Ohms(),
    Diode(),
    Inspection(),
    OtherOrder(),
    Swap(),
    Half(),
    WhatIsBehind(),
    Capacity(),
    Tried(),
    AsSet(),
    Past(),
)
"""Every kind of test, the cheap families first."""

EVIDENCE_KINDS = tuple(dict.fromkeys(kind.evidence for kind in KINDS))
"""Kinds of evidence that tests give."""

LEAST_LIKELIHOOD = 1e-12

RIDER_WRONG = 0.15
"""How often what a rider tells is not what happened (common practice)."""

LOOSE_SOMETIMES, STEADY_SOMETIMES, NOTHING_SOMETIMES = 0.7, 0.15, 0.4
"""How often "sometimes" is said of a fault that comes and goes, of one that stays, where there is
none now (common practice)."""
_BY_NAME = {kind.name: kind for kind in KINDS}


def kind_of(name: str) -> TestKind:
    """Return the kind of a test or of evidence; raises UnknownNameError."""
    try:
        return _BY_NAME[name]
    except KeyError:
        raise UnknownNameError("kind of evidence", name, EVIDENCE_KINDS) from None


def enumerate_tests(bench: Bench) -> tuple[Test, ...]:
    """Return every candidate test of a bike, each id once."""
    found = (test for kind in KINDS for test in kind.candidates(bench))
    return tuple({test.id: test for test in found}.values())


def tests_by_state(bench: Bench) -> Iterator[Test]:
    """Yield the looks in every state that may bring out what comes and goes."""
    for test in _BY_NAME["look"].candidates(bench):
        for state in STATES:
            if state.id != UPHILL or "road" in test.gates:
                yield in_state(test, state)


def validate(table: Table, item: Evidence) -> None:
    """Raise BrightError where the evidence names what this bike does not have."""
    if item.kind not in EVIDENCE_KINDS:
        raise UnknownNameError("kind of evidence", item.kind, EVIDENCE_KINDS)
    if item.state:
        state_of(item.state)
    kind_of(item.kind).validate(table, item)


def test_id(item: Evidence) -> str:
    """Return the id of the test that evidence is an answer to."""
    return kind_of(item.kind).test_id(item)


def outcome_table(table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
    """Return the outcomes of a test, or None where every hypothesis gives the same answer."""
    return kind_of(test.kind).outcomes(table, hypotheses, test)


def log_likelihood(table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
    """Return the log likelihood [H] of one piece of evidence under every hypothesis.

    The hypothesis "not modelled" expects what the modelled faults together would give, mixed with
    anything at all.
    """
    kind = kind_of(item.kind)
    modelled = kind.likelihood(table, hypotheses, item)
    if kind.by_rows:
        modelled = hypotheses.of_rows(modelled, item.state, always=item.sometimes or item.told)
    anything = kind.anything(item)
    if item.told:
        modelled = (1 - RIDER_WRONG) * modelled + RIDER_WRONG * anything
        # A rider brings a bike because something happened. What was told then says nothing about
        # whether it is well now.
        modelled[0] = anything
    modelled = modelled * _coming_and_going(hypotheses, item)
    prior = hypotheses.prior[: hypotheses.modelled]
    # What is not modelled is not magic: it tends to look like the faults that are, a little
    # broader.
    together = float(modelled @ prior / prior.sum())
    full = np.append(modelled, (1 - BROAD_SHARE) * together + BROAD_SHARE * anything)
    return np.asarray(np.log(np.maximum(full, LEAST_LIKELIHOOD)))


def _coming_and_going(hypotheses: HypothesisSet, item: Evidence) -> Floats:
    """Return how likely hypotheses [H-1] are to be told or seen as only sometimes, or as always."""
    if not (item.sometimes or item.told):
        return np.ones(hypotheses.modelled)
    found = np.where(hypotheses.loose, LOOSE_SOMETIMES, STEADY_SOMETIMES)
    found[0] = NOTHING_SOMETIMES
    return np.asarray(found if item.sometimes else 1.0 - found)


def prepare(table: Table, tests: Iterable[Test]) -> None:
    """Compute together what tests read between two points, state by state."""
    points: dict[tuple[Condition, Feeding | None], list[tuple[str, str]]] = {}
    for test in tests:
        kind = kind_of(test.kind)
        for state in kind.states(table, test):
            points.setdefault((state, kind.feeding(DEFAULT_METER)), []).append(
                (test.red, test.black)
            )
    for (state, feeding), pairs in points.items():
        if feeding is None:
            table.prepare_probes(state, pairs)
        else:
            table.prepare_fed(state, pairs, feeding)


__all__ = [
    "EVIDENCE_KINDS",
    "KINDS",
    "MAX_OUTCOMES",
    "Bench",
    "Outcome",
    "OutcomeTable",
    "Test",
    "TestKind",
    "enumerate_tests",
    "kind_of",
    "log_likelihood",
    "outcome_table",
    "prepare",
    "test_id",
    "tests_by_state",
    "validate",
    "where",
]
