"""What brings out a fault that comes and goes: states that a rider names and a test can be done in.

Where they act is common practice.
"""

from dataclasses import dataclass

from brightcore.errors import UnknownNameError


@dataclass(frozen=True, slots=True)
class State:
    """One state: id, what the rider says, what the technician does for it, minutes until it stands,
    and where it acts: words of places (`kinds.base.PLACES`), or of `plugs` and `cables`;
    cautions before it is brought about."""

    id: str
    told: str
    done: str
    minutes: float
    acts_on: tuple[str, ...]
    gates: tuple[str, ...] = ()


UPHILL = "uphill"
"""The state of riding under load: no look with the wheel up is made in it."""

AGAIN = "again"
"""The state of trying more than once: for what comes and goes without anybody knowing when."""

STATES = (
    State(AGAIN, "only sometimes", "tried ten times over", 1.0, ()),
    State(
        "bars-left",
        "only with the bars turned left",
        "bars turned fully left",
        0.3,
        ("cables", "bar"),
    ),
    State(
        "bars-right",
        "only with the bars turned right",
        "bars turned fully right",
        0.3,
        ("cables", "bar"),
    ),
    State(
        "folded",
        "only after folding, or in one position",
        "folded and unfolded once",
        1.0,
        ("cables",),
    ),
    State(
        "bumps",
        "only on bumps",
        "bike shaken and tapped along its cables",
        1.0,
        ("cables", "plugs", "sensor"),
    ),
    State(
        "warm",
        "only when warm",
        "after it has run warm",
        12.0,
        ("motor", "controller", "energy"),
        ("hot",),
    ),
    State("cold", "only when cold", "before it has run", 0.0, ("plugs", "energy")),
    State(
        "wet",
        "only when wet",
        "with plugs misted with water, pack out meanwhile",
        6.0,
        ("plugs", "bar", "sensor"),
        ("wet",),
    ),
    State(
        UPHILL,
        "only uphill or under load",
        "under load, off the road",
        5.0,
        ("energy", "plugs", "motor"),
    ),
    State("stood", "only after standing", "after it has stood", 0.0, ("energy", "plugs")),
)
BY_ID = {state.id: state for state in STATES}


def state_of(name: str) -> State:
    """Return the state of that id; raises UnknownNameError."""
    try:
        return BY_ID[name]
    except KeyError:
        raise UnknownNameError("state", name, tuple(BY_ID)) from None
