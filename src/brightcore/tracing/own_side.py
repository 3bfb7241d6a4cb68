"""Before a part is bought: the reading that would tell it from the plugs and cables in front of it.

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

Floats = NDArray[np.float64]

OWN_SIDE_MIN = 5.0
"""Only where it takes so few minutes (measured: without a limit it reads inside the motor)."""

TELLS_BITS = 0.2
"""Bits at even odds from which a reading tells the two apart."""

LEAST_IN_FRONT = 0.01
"""Share of the part's own belief from which what stands in front of it is still asked about."""

NEGLIGIBLE = 1e-4
"""What is believed less does not count for the choice."""

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
    """Return the id of the reading that stands before a part is replaced: the one that would tell
    it from the plugs and cables in front of it. None where nothing tells them apart any more."""
    if not repair.of_part:
        return None
    items = trace.engine.hypotheses.items
    part = [i for i, item in enumerate(items) if item.repair.id == repair.id]
    front = [i for i, item in enumerate(items) if item.repair.of_join or item.repair.of_cable]
    if not part or not front:
        return None
    likely = float(trace.belief[front].sum())
    if likely < LEAST_IN_FRONT * float(trace.belief[part].sum()):
        return None
    stack = trace.engine.stack()
    rows, state = [], present_state(trace)
    for n, table in enumerate(stack.tables):
        test = table.test
        if test.kind not in READ_KINDS or test.id in trace.made or test.id in trace.left_out:
            continue
        if minutes_of(trace, test, state) <= OWN_SIDE_MIN:
            rows.append(n)
    if not rows:
        return None
    columns = part + front
    belief = np.concatenate([_even(trace.belief[part]), _even(trace.belief[front])])
    keep = belief > NEGLIGIBLE
    sides = np.zeros((len(columns), 2))
    sides[: len(part), 0] = sides[len(part) :, 1] = 1.0
    outcomes = stack.padded(np.asarray(columns)[keep], rows)
    bits = expected_information(outcomes, belief[keep], sides[keep])
    best = int(np.argmax(bits))
    if bits[best] < TELLS_BITS:
        return None
    return stack.tables[rows[best]].test.id


def _even(belief: Floats) -> Floats:
    """Return a belief as half of the whole, by its own shares."""
    total = belief.sum()
    if total <= 0:
        return np.full(len(belief), 0.5 / len(belief))
    return np.asarray(0.5 * belief / total)
