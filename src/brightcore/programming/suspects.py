"""Settings that are a fault by themselves: what a device shows, said of the repairs that Trace
knows.

A cut-off that was read as wrong is evidence, as a look at a plug is. Only what is clearly right or
clearly wrong says something; what lies between is left to whoever measures.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from brightcore.bike.model import Bike
from brightcore.circuit.faults import RepairKind
from brightcore.kinds import REGISTRY

GOOD, WRONG = "good", "wrong"
"""What a setting that was read says, as `tracing.tests.as_set` takes it."""

CUT_OFF_RIGHT, CUT_OFF_WRONG = 1.03, 1.10
"""A cut-off so far above the derived one is as good as right; from here it cuts out early (a tenth
of a pack's volts is about half its charge; common practice)."""

LIMIT_RIGHT, LIMIT_WRONG = 0.97, 0.85
"""A limit so far below the derived one is not felt; from here a rider complains (common
practice)."""

WHEEL_RIGHT, WHEEL_WRONG = 0.02, 0.05
"""A wheel that is off by less shows no other speed; from here the shown speed is wrong (a tyre's
own tolerance is about 2 %; common practice)."""


@dataclass(frozen=True, slots=True)
class Shown:
    """A value that a device was found with, and the one that the bike wants; both in the role's
    unit."""

    role: str
    value: float
    wanted: float


def _above(right: float, wrong: float) -> Callable[[Shown], str]:
    def judge(shown: Shown) -> str:
        if shown.value >= wrong * shown.wanted:
            return WRONG
        if shown.value <= right * shown.wanted:
            return GOOD
        return ""

    return judge


def _below(right: float, wrong: float) -> Callable[[Shown], str]:
    def judge(shown: Shown) -> str:
        if shown.value <= wrong * shown.wanted:
            return WRONG
        if shown.value >= right * shown.wanted:
            return GOOD
        return ""

    return judge


def _off(shown: Shown) -> str:
    off = abs(shown.value - shown.wanted)
    if off >= WHEEL_WRONG * shown.wanted:
        return WRONG
    if off <= WHEEL_RIGHT * shown.wanted:
        return GOOD
    return ""


def _same(shown: Shown) -> str:
    if shown.value == shown.wanted:
        return GOOD
    return WRONG


def _zero(shown: Shown) -> str:
    # A level above zero says nothing: the rider may have pressed it down since it was switched on.
    if shown.value == 0 and shown.wanted > 0:
        return WRONG
    return ""


RULES: dict[str, dict[str, Callable[[Shown], str]]] = {
    "cutoff": {"low_cutoff_v": _above(CUT_OFF_RIGHT, CUT_OFF_WRONG)},
    "limit": {
        "speed_limit_kmh": _below(LIMIT_RIGHT, LIMIT_WRONG),
        "current_limit_a": _below(LIMIT_RIGHT, LIMIT_WRONG),
    },
    "wheel": {"wheel_circumference_mm": _off, "speed_magnets": _same},
    "assist": {"start_level": _zero},
}
"""By what a repair sets (`RepairKind.id` ends in it): how each role that it is about is judged."""

NAMES = {
    "cutoff": "low-voltage cut-off",
    "limit": "limits",
    "wheel": "wheel size",
    "assist": "level after switching on",
}
"""What is set, in words."""


def judged(what: str, held: Iterable[str], shown: Iterable[Shown]) -> str:
    """Return what the values of a device say of one setting: GOOD, WRONG, "" for nothing.

    One wrong value is enough; good needs every role that the device holds (`held`) to be read.
    """
    rules = RULES[what]
    said = {item.role: rules[item.role](item) for item in shown if item.role in rules}
    if WRONG in said.values():
        return WRONG
    needed = [role for role in rules if role in set(held)]
    if needed and all(said.get(role) == GOOD for role in needed):
        return GOOD
    return ""


def setting_repairs(bike: Bike, part: str) -> dict[str, str]:
    """Return the id of the repair that sets each thing (a key of `RULES`) which a device can show.

    A display often holds what its controller goes by: where the device has no such repair itself,
    the only one on the bike is meant, and none where there are several.
    """
    found: dict[str, list[RepairKind]] = {}
    for item in bike.parts:
        seen = set()
        for mode in REGISTRY[item.kind].faults(item):
            if mode.repair.of_setting and mode.repair.id not in seen:
                seen.add(mode.repair.id)
                found.setdefault(mode.repair.id.rpartition(":")[2], []).append(mode.repair)
    chosen = {}
    for what, repairs in found.items():
        own = [repair for repair in repairs if repair.owner == part]
        candidates = own or repairs
        if what in RULES and len(candidates) == 1:
            chosen[what] = candidates[0].id
    return chosen
