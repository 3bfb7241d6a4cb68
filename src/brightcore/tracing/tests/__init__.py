"""Kinds of test, one class a file. A new kind is one file here and one line in `KINDS`."""

from collections.abc import Iterable

import numpy as np

from brightcore.circuit.conditions import Condition
from brightcore.errors import UnknownNameError
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
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
from brightcore.tracing.tests.diode import Diode
from brightcore.tracing.tests.inspection import Inspection
from brightcore.tracing.tests.look import Look, Unplug
from brightcore.tracing.tests.ohms import Ohms
from brightcore.tracing.tests.swap import Swap
from brightcore.tracing.tests.swing import Swing
from brightcore.tracing.tests.volts import Volts

KINDS: tuple[TestKind, ...] = (Look(), Unplug(), Volts(), Swing(), Ohms(), Diode(), Inspection(), Swap())
"""Every kind of test, the cheap families first."""

EVIDENCE_KINDS = tuple(dict.fromkeys(kind.evidence for kind in KINDS))
"""Kinds of evidence that tests give."""

LEAST_LIKELIHOOD = 1e-12
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


def validate(table: Table, item: Evidence) -> None:
    """Raise BrightError where the evidence names what this bike does not have."""
    if item.kind not in EVIDENCE_KINDS:
        raise UnknownNameError("kind of evidence", item.kind, EVIDENCE_KINDS)
    kind_of(item.kind).validate(table, item)


def test_id(item: Evidence) -> str:
    """Return the id of the test that evidence is an answer to."""
    return kind_of(item.kind).test_id(item)


def outcome_table(table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
    """Return the outcomes of a test, or None where every hypothesis gives the same answer."""
    return kind_of(test.kind).outcomes(table, hypotheses, test)


def log_likelihood(table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
    """Return the log likelihood [H] of one piece of evidence under every hypothesis.

    The hypothesis "not modelled" expects what the modelled faults together would give, mixed with anything at
    all.
    """
    kind = kind_of(item.kind)
    modelled = kind.likelihood(table, hypotheses, item)[: hypotheses.rows]
    prior = hypotheses.prior[: hypotheses.rows]
    together = float(modelled @ prior / prior.sum())
    broad = (1 - BROAD_SHARE) * together + BROAD_SHARE * kind.anything(item)
    full = np.append(modelled, broad)
    return np.asarray(item.weight * np.log(np.maximum(full, LEAST_LIKELIHOOD)))


def prepare(table: Table, tests: Iterable[Test]) -> None:
    """Compute together what tests read between two points, state by state."""
    points: dict[Condition, list[tuple[str, str]]] = {}
    for test in tests:
        for state in kind_of(test.kind).states(table, test):
            points.setdefault(state, []).append((test.red, test.black))
    for state, pairs in points.items():
        table.prepare_probes(state, pairs)


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
    "validate",
    "where",
]
