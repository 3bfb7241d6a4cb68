"""Evidence in words without an engine: for sheets and records, where nothing is being traced."""

from collections.abc import Mapping

import numpy as np

from brightcore.circuit.conditions import describe, parse_condition
from brightcore.circuit.netlist import Circuit
from brightcore.errors import BrightError
from brightcore.simulation.table import Row, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests import kind_of
from brightcore.tracing.tests.base import Bench
from brightcore.tracing.tests.tried import place_title

NO_HYPOTHESES = HypothesisSet(
    (),
    np.zeros(0),
    (),
    np.zeros(0, dtype=np.intp),
    np.zeros(0, dtype=np.intp),
    np.zeros(0),
    np.zeros((2, 0), dtype=np.intp),
)


def plain_bench(circuit: Circuit) -> Bench:
    """Return what titles are made from, with a healthy circuit and no suspects."""
    return Bench(circuit, NO_HYPOTHESES, Table(circuit, [Row()]))


def plain_title(bench: Bench, item: Evidence, repairs: Mapping[str, str]) -> str:
    """Return evidence in words without its value; `repairs`: actions by the id of a repair.

    What a changed bike no longer has keeps the words that it was stored with.
    """
    try:
        return _title(bench, item, repairs)
    except (BrightError, KeyError):
        places = " to ".join(filter(None, (item.red, item.black)))
        return f"{item.kind} {places or item.subject or item.observable}".replace("_", " ")


def _title(bench: Bench, item: Evidence, repairs: Mapping[str, str]) -> str:
    kind = kind_of(item.kind)
    if item.subject and item.subject in repairs:
        if item.kind == "tried":
            return f"Repair done: {repairs[item.subject]}"
        return repairs[item.subject]
    words = kind.title(bench, item)
    if item.subject and item.subject in words:
        words = words.replace(item.subject, place_title(bench.bike, item.subject))
    if item.red:
        state = ", ".join(describe(bench.circuit, parse_condition(bench.circuit, item.condition)))
        if state:
            words = f"{words}; {state[0].lower()}{state[1:]}"
        else:
            words = words
    return words
