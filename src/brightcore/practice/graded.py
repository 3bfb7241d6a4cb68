"""Twelve graded cases, from a loose plug to two faults, and the guided first one.

A case names the place of its fault by the end of its id, so that it is the same on the pattern it
is played on.
"""

from dataclasses import dataclass

from brightcore.analysis.bike import analysis_of
from brightcore.bike.model import Bike
from brightcore.errors import UnknownNameError
from brightcore.practice.case import Case

SEED = "GRADED"


@dataclass(frozen=True, slots=True)
class Graded:
    """One graded case: its key, bike, the faults it hides, and what it teaches, said afterwards."""

    key: str
    bike: str
    faults: tuple[str, ...]
    level: int
    teaches: str


GRADED: tuple[Graded, ...] = (
    Graded(
        "01",
        "hub-conversion",
        ("controller.display.key/contact/open",),
        1,
        "a plug that is not home",
    ),
    Graded(
        "02",
        "hub-conversion",
        ("display.inside.menu/assist-zero/full",),
        1,
        "settings before parts",
    ),
    Graded(
        "03", "hub-conversion", ("lever_left.plug.signal/stuck-closed/full",), 1, "a stuck cut-off"
    ),
    Graded("04", "folding", ("pack.inside.fuse/open/full",), 1, "energy first"),
    Graded("05", "hub-conversion", ("motor.halls.b/dead/full",), 2, "halls while the wheel turns"),
    Graded(
        "06",
        "mid-conversion",
        ("controller.throttle.ground/contact/open",),
        2,
        "the dangerous open ground",
    ),
    Graded(
        "07", "two-packs", ("combiner.out.plus/contact/open",), 2, "two good packs, nothing behind"
    ),
    Graded(
        "08", "hub-conversion", ("controller.phases.v/contact/open",), 2, "two phases are not three"
    ),
    Graded(
        "09",
        "two-motor-cart",
        ("controller_right.halls.a/contact/open",),
        3,
        "one side against the other",
    ),
    Graded(
        "10",
        "hub-conversion",
        ("controller.throttle.supply/short-to-ground/full",),
        3,
        "a supply down",
    ),
    Graded(
        "11",
        "mid-conversion",
        ("controller.phases.u/low-shorted/full",),
        3,
        "never lend before the phases",
    ),
    Graded(
        "12",
        "hub-conversion",
        ("lever_right.plug.signal/stuck-closed/full", "motor.halls.a/dead/full"),
        4,
        "two at once: prove before handing over",
    ),
)
GUIDED = Graded(
    "00",
    "hub-conversion",
    ("controller.throttle.signal/contact/open",),
    0,
    "one wire followed from end to end",
)
BY_KEY = {item.key: item for item in (GUIDED, *GRADED)}


def graded(key: str) -> Graded:
    """Return a graded case; raises UnknownNameError."""
    try:
        return BY_KEY[key]
    except KeyError:
        raise UnknownNameError("graded case", key, tuple(BY_KEY)) from None


def graded_case(key: str, bike: Bike) -> Case:
    """Return a graded case as it is played on its bike."""
    item = graded(key)
    known = {mode.id for mode in analysis_of(bike).circuit.faults}
    missing = [name for name in item.faults if name not in known]
    if missing:
        raise UnknownNameError("fault", missing[0], tuple(sorted(known)[:8]))
    return Case(bike, "two" if len(item.faults) > 1 else "anything", f"{SEED}{key}", item.faults)
