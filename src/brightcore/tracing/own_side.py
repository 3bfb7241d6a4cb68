"""Before a part is bought: the reading that would tell the part from the contacts of its own plug.

A contact in front of a part and the part itself look alike from most places, and the part is the
dearer mistake. Both are taken as equally likely here: what was already made unlikely by readings
elsewhere is what a slip, or a contact of another value than any level, would hide.
"""

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import expected_information
from brightcore.circuit.faults import RepairKind
from brightcore.tracing.engine import Engine
from brightcore.tracing.pace import Paced, minutes_of, present_state
from brightcore.tracing.tests import Test

Floats = NDArray[np.float64]

OWN_SIDE_MIN = 5.0
"""Only where it takes so few minutes (measured: without a limit it reads inside the motor)."""

TELLS_BITS = 0.1
"""Bits at even odds from which a reading tells the two apart."""

SIDES = 2
"""So many readings at the part's own plugs are enough: one on each side."""

READ_KINDS = ("volts", "ohms")


class Sided(Paced, Protocol):
    """A belief about a bike, and what was tested."""

    @property
    def engine(self) -> Engine: ...

    @property
    def belief(self) -> Floats: ...

    @property
    def made(self) -> frozenset[str]: ...

    @property
    def left_out(self) -> frozenset[str]: ...


def own_side_test(trace: Sided, repair: RepairKind) -> str | None:
    """Return the id of the reading at a part's own plugs that stands before its replacement, None
    where there is none, or where both sides were read."""
    if not repair.of_part:
        return None
    joins = _joins_of(trace.engine, repair.owner)
    if len(_made_there(trace, joins)) >= SIDES:
        return None
    items = trace.engine.hypotheses.items
    part = [i for i, item in enumerate(items) if item.repair.id == repair.id]
    plugs = [i for i, item in enumerate(items) if item.repair.id in {f"join:{j}" for j in joins}]
    if not part or not plugs:
        return None
    tables, stack = trace.engine.stack()
    rows, state = [], present_state(trace)
    for n, table in enumerate(tables):
        test = table.test
        if test.kind not in READ_KINDS or test.id in trace.made or test.id in trace.left_out:
            continue
        if minutes_of(trace, test, state) <= OWN_SIDE_MIN and _is_at(test, trace.engine, joins):
            rows.append(n)
    if not rows:
        return None
    columns = part + plugs
    belief = np.concatenate([_even(trace.belief[part]), _even(trace.belief[plugs])])
    sides = np.zeros((len(columns), 2))
    sides[: len(part), 0] = sides[len(part) :, 1] = 1.0
    outcomes = stack[rows][:, :, columns].astype(np.float64)
    bits = expected_information(outcomes, belief, sides)
    best = int(np.argmax(bits))
    if bits[best] < TELLS_BITS:
        return None
    return tables[rows[best]].test.id


def _even(belief: Floats) -> Floats:
    """Return a belief as half of the whole, by its own shares."""
    total = belief.sum()
    if total <= 0:
        return np.full(len(belief), 0.5 / len(belief))
    return np.asarray(0.5 * belief / total)


def _joins_of(engine: Engine, part: str) -> tuple[str, ...]:
    """Return the ids of the joins at a part."""
    found = []
    for join in engine.bike.joins:
        if part in (join.a_part, join.b_part):
            found.append(join.id)
    return tuple(found)


def _made_there(trace: Sided, joins: tuple[str, ...]) -> list[Test]:
    """Return the readings that were made at some joins."""
    found = []
    for name in trace.made:
        test = trace.engine.by_id.get(name)
        if test is not None and test.kind in READ_KINDS and _is_at(test, trace.engine, joins):
            found.append(test)
    return found


def _is_at(test: Test, engine: Engine, joins: tuple[str, ...]) -> bool:
    """Return whether both probes of a test stand at plugs of some joins."""
    ends = set()
    for join in engine.bike.joins:
        if join.id in joins:
            ends |= {f"{part}.{port}" for part, port in join.sides()}
    return all(pin.rpartition(".")[0] in ends for pin in (test.red, test.black))
