"""The guided first case: ten minutes that teach how this works, one hint after the other."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from brightcore.practice.state import State

Keys = Sequence[tuple[str, str]]
"""What was done so far: (act, what it was told) in order."""


@dataclass(frozen=True, slots=True)
class Hint:
    """One step of the guide: what to do, why, and when it is done."""

    words: str
    why: str
    done: Callable[[State, Keys], bool]


def _did(act: str, part: str = "") -> Callable[[State, Keys], bool]:
    """Return whether an act was done, with some words in what it was told."""
    return lambda state, keys: any(name == act and part in said for name, said in keys)


def _times(act: str, keys: Keys) -> int:
    """Return how often an act was done."""
    return sum(name == act for name, _ in keys)


HINTS: tuple[Hint, ...] = (
    Hint(
        "Read what the rider says. Then put the wheel up.",
        (
            "Whatever may turn stands clear before anything is switched on. Otherwise it leaps "
            "off the stand."
        ),
        _did("wheel", "up"),
    ),
    Hint(
        "Switch it on and look what lights.",
        "The cheapest looks come first. A dark display and a dead controller look alike; a lit "
        "one leaves half of the suspects out.",
        _did("power", "on"),
    ),
    Hint(
        "Give it a touch of throttle.",
        "What the rider told you is of then. What you see is of now, and counts more.",
        _did("watch", "throttle"),
    ),
    Hint(
        "The meter stands on volts. Open the controller under “Leads”, put red on the signal of "
        "its throttle plug and black on the ground there.",
        (
            "Red goes where you expect volts, black on the ground of the same plug, so that the "
            "way is short."
        ),
        lambda state, keys: (
            (".throttle." in state.red and bool(state.black)) or _times("measure", keys) > 0
        ),
    ),
    Hint(
        "Hold the throttle open, then read.",
        "Expect before you read: 0.8 to 0.9 V at rest, 3.5 to 4.4 V pulled. A surprise is worth "
        "more than a number.",
        lambda state, keys: (
            any(name == "hold" and "grip" in said for name, said in keys)
            and any(name == "measure" for name, _ in keys)
        ),
    ),
    Hint(
        "Now the other side of the same plug: red on the throttle's own signal pin, read again.",
        "On a real job every suspect bears a percentage: how likely it is, given all that was "
        "read and seen. Two sides of one plug that differ send one suspect far up.",
        lambda state, keys: _times("measure", keys) >= 2,
    ),
    Hint(
        "Pack out, then discharge the capacitors.",
        "No plug is touched and no ohms are read with the pack in: it arcs, the meter's fuse "
        "goes, the number lies.",
        _did("drain"),
    ),
    Hint(
        "Look closely at the throttle plug, or read ohms across it from side to side.",
        (
            "OL from side to side is an open contact. A close look may show it bent, pushed "
            "back, green."
        ),
        lambda state, keys: _did("look", "inspect")(state, keys) or _times("measure", keys) >= 3,
    ),
    Hint(
        "Do the repair: clean and re-seat the throttle plug.",
        "Mend what was found, not what is near: a throttle bought now would be bought for nothing.",
        _did("repair"),
    ),
    Hint(
        "Show that it works: pack in, switch on, a touch of throttle. Then hand it over.",
        (
            "A repair is proven by the act that showed the fault. The debrief then tells what "
            "each act told."
        ),
        lambda state, keys: bool(state.ended),
    ),
)


def hint_of(state: State, keys: Keys) -> tuple[int, Hint] | None:
    """Return (number from 1, hint) of the first step that is not done yet; None once all are."""
    for number, hint in enumerate(HINTS, 1):
        if not hint.done(state, keys):
            return number, hint
    return None
