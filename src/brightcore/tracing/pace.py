"""Minutes of a test from the bike's present state, at the pace of this shop."""

from collections.abc import Mapping
from typing import Protocol

from brightcore.circuit.conditions import Condition
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.terms import Terms
from brightcore.tracing.tests import Test, test_id

PACK_MIN, SWITCH_MIN, PLUG_MIN, WHEEL_MIN = 1.2, 0.2, 0.6, 0.4
"""Minutes to take the pack out or put it in, to switch, to part a plug, to lift the wheel (common
practice)."""


class Tested(Protocol):
    """The tests of an engine by their ids."""

    @property
    def by_id(self) -> Mapping[str, Test]: ...


class Paced(Protocol):
    """What the minutes are reckoned from: what was done so far, and the pace of this shop."""

    @property
    def engine(self) -> Tested: ...

    @property
    def evidence(self) -> tuple[Evidence, ...]: ...

    @property
    def reached(self) -> frozenset[str]: ...

    terms: Terms


def setup_minutes(before: Condition | None, after: Condition, gates: tuple[str, ...]) -> float:
    """Return the minutes to bring the bike from one state to another (common practice)."""
    if before is None:
        before = Condition("off")
    minutes = 0.0
    if (before.power == "out") != (after.power == "out"):
        minutes += PACK_MIN
    elif before.power != after.power:
        minutes += SWITCH_MIN
    minutes += PLUG_MIN * len(set(before.unplugged) ^ set(after.unplugged))
    if "wheel_up" in gates and before.power != "on":
        minutes += WHEEL_MIN
    return minutes


def minutes_of(trace: Paced, test: Test, state: Condition | None) -> float:
    """Return the minutes of a test from the bike's present state, at the pace of this shop; a plug
    that was reached before is reached no more."""
    own = test.minutes_after(trace.reached)
    return trace.terms.minutes(test.kind, own) + setup_minutes(state, test.condition, test.gates)


def present_state(trace: Paced) -> Condition | None:
    """Return the bike's state after the last evidence, None before any."""
    for item in reversed([item for item in trace.evidence if not item.told]):
        test = trace.engine.by_id.get(test_id(item))
        if test is not None:
            return test.condition
    return None
