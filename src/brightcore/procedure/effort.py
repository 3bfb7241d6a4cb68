"""What each step of the work takes: minutes of practised hands, and the tools to lay out.

Common practice, no published source. Keyed by the family of a step: what stands before the colon of
its id.
"""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Effort:
    """Minutes and tools of one step."""

    minutes: float
    tools: str = ""


USUAL = Effort(2.0)
"""A step of which nothing else is known."""

EFFORTS: dict[str, Effort] = {
    "checked": Effort(5.0, "the order, good light"),
    "labels": Effort(5.0, "camera, labels, pen"),
    "disconnect": Effort(1.5),
    "remove": Effort(6.0, "hex keys, bags"),
    "wheel-out": Effort(8.0, "axle spanner, camera, bags"),
    "plain-wheel": Effort(12.0, "axle spanner, tyre levers"),
    "rim": Effort(6.0, "rim tape, tyre levers"),
    "over": Effort(15.0, "tyre levers, freewheel tool, torque wrench, thread-lock"),
    "fit": Effort(8.0, "hex keys, torque wrench"),
    "arm": Effort(5.0, "hex keys, torque arm, clamp"),
    "nuts": Effort(5.0, "torque wrench, paint pen"),
    "cranks": Effort(12.0, "crank puller, bracket tool"),
    "plain-cranks": Effort(15.0, "bracket tool, torque wrench"),
    "ring": Effort(10.0, "lock-ring tool, torque wrench"),
    "grips": Effort(8.0, "hex keys, air or thin screwdriver, alcohol"),
    "brakes": Effort(10.0, "hex keys"),
    "lugs": Effort(6.0, "torque screwdriver"),
    "cover": Effort(4.0, "torque screwdriver"),
    "left-over": Effort(5.0, "caps, ties, labels"),
    "caps": Effort(2.0, "caps, tape"),
    "ready": Effort(5.0),
    "mark": Effort(10.0, "paint pen, camera, puller"),
    "inside": Effort(45.0, "iron, heat-shrink, camera"),
    "cable": Effort(12.0, "knife, sleeve"),
    "end": Effort(10.0, "crimper or iron, heat-shrink"),
    "shut": Effort(15.0, "soft hammer, torque screwdriver"),
    "sleeve": Effort(1.0, "heat-shrink"),
    "connect": Effort(1.5),
    "pack-out": Effort(1.0, "key"),
    "pack-in": Effort(1.0, "key"),
    "wheel-up": Effort(2.0, "stand"),
    "power-up": Effort(5.0, "meter"),
    "set": Effort(10.0, "meter"),
    "longer": Effort(10.0, "extension, crimper"),
    "route": Effort(20.0, "ties, sleeve"),
    "move": Effort(5.0),
    "heard": Effort(3.0),
    "prove": Effort(10.0, "stand"),
    "fix": Effort(8.0, "epoxy, gloves, tie"),
    "tie": Effort(8.0, "ties, cutter"),
}
"""One line a family."""


PROOF_MIN, ROAD_PROOF_MIN = 2.0, 6.0
"""A check at the stand or at the bike, and one on the road (common practice)."""

SETTING_MIN, SETTING_EACH_MIN = 3.0, 0.7
"""An instrument laid out and put away, and each reading typed into it (common practice)."""

MENU_MIN, VALUE_MIN = 3.0, 0.5
"""The way into a menu and out of it, and each value looked up or entered (common practice)."""


def proof_minutes(check_ids: Iterable[str]) -> float:
    """Return the minutes that checks take together."""
    found = 0.0
    for check_id in check_ids:
        found += ROAD_PROOF_MIN if check_id.startswith("road") else PROOF_MIN
    return found


def setting_minutes(readings: Iterable[int]) -> float:
    """Return the minutes of calibrations, each with so many readings."""
    return sum(SETTING_MIN + SETTING_EACH_MIN * count for count in readings)


def menu_minutes(values_each: Iterable[int]) -> float:
    """Return the minutes of devices, each with so many values looked up or entered by hand."""
    return sum(MENU_MIN + VALUE_MIN * count for count in values_each)


def effort_of(step_id: str) -> Effort:
    """Return what a step takes."""
    return EFFORTS.get(step_id.partition(":")[0], USUAL)


def minutes_of(step_ids: Iterable[str]) -> int:
    """Return the minutes that steps take together."""
    return round(sum(effort_of(step_id).minutes for step_id in step_ids))
