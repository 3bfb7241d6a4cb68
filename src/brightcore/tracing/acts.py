"""What evidence was, as an act on the bike: power, cautions, minutes, whether it is powered or
touches the pack.

Gates follow from this, never from what a caller says.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.kinds import REGISTRY
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import Test, kind_of, test_id

UNLISTED_MIN = 1.5
"""Minutes of a reading that is on no list (common practice)."""


@dataclass(frozen=True, slots=True)
class Act:
    """An act: the state it is done in, its cautions, its minutes, and whether it needs a safe
    pack."""

    condition: Condition
    gates: tuple[str, ...]
    minutes: float
    needs_safe_pack: bool


def act_of(engine: Engine, items: Sequence[Evidence], reached: frozenset[str] = frozenset()) -> Act:
    """Return the act that gave some evidence; that of several items joins their cautions.

    `reached`: joins whose plugs were reached before. Raises BrightError where the evidence names
    what the bike does not have.
    """
    acts = [_act(engine, item, reached) for item in items]
    gates = tuple(dict.fromkeys(gate for act in acts for gate in act.gates))
    first = acts[0]
    return Act(
        first.condition,
        gates,
        # Several looks of one act take the time of the longest; they are seen in one go.
        max(act.minutes for act in acts),
        any(act.needs_safe_pack for act in acts),
    )


def act_of_test(engine: Engine, test: Test, reached: frozenset[str] = frozenset()) -> Act:
    """Return the act of a listed test; `reached` as in `act_of`."""
    pins = tuple(pin for pin in (test.red, test.black) if pin)
    risky = "pack_safe" in test.gates or _risky(engine, test.condition, pins, test.subject)
    return Act(test.condition, test.gates, test.minutes_after(reached), risky)


def _act(engine: Engine, item: Evidence, reached: frozenset[str]) -> Act:
    listed = engine.by_id.get(test_id(item))
    if listed is not None:
        return act_of_test(engine, listed, reached)
    condition = parse_condition(engine.circuit, item.condition)
    pins = tuple(pin for pin in (item.red, item.black) if pin)
    risky = _risky(engine, condition, pins, item.subject)
    return Act(condition, kind_of(item.kind).gates(condition, engine.bike), UNLISTED_MIN, risky)


def _risky(engine: Engine, condition: Condition, pins: tuple[str, ...], subject: str) -> bool:
    """Return whether an act is powered, or touches the pack."""
    touched = {pin.split(".")[0] for pin in pins} | set(subject.split(":"))
    # A plug is touched at both its sides: what is wiggled at the pack's plug is the pack's.
    for join in engine.bike.joins:
        if join.id in touched:
            touched |= {join.a_part, join.b_part}
    packs = set()
    for part in engine.bike.parts:
        if REGISTRY[part.kind].grounds:
            packs.add(part.id)
    # Power decides, and the pack itself: a probe on a swollen pack is no harmless act with
    # everything switched off.
    return condition.power != "out" or bool(touched & packs)
