"""What values are derived from: the bike, and what it is to be."""

from collections.abc import Callable
from dataclasses import dataclass

from brightcore.bike.measured import measured_value
from brightcore.bike.model import Bike, MeasuredValue, Part

STYLES = {
    "even": "even steps",
    "progressive": "small steps first",
    "torque": "by the rider's torque",
}


@dataclass(frozen=True, slots=True)
class Aim:
    """What the bike is to be: the speed at which help ends (0 where none is set) and why, style,
    units.

    `throttle`: what local law leaves of a throttle: "" as wanted, "walk" to walking pace, "none".
    """

    limit_kmh: float = 0.0
    limit_why: str = ""
    style: str = "even"
    miles: bool = False
    throttle: str = ""


@dataclass(frozen=True, slots=True)
class Want:
    """A wanted value in the role's unit, with its reason in words and its source."""

    value: float
    reason: str
    source: str = "common-practice"


@dataclass(frozen=True, slots=True)
class Case:
    """One device of a bike to be programmed; `bike` as it is worked with, `described` as
    described."""

    bike: Bike
    described: Bike
    part: Part
    aim: Aim

    def measured(self, part: str, name: str) -> MeasuredValue | None:
        """Return what Set measured of a part, None where it did not."""
        return measured_value(self.described, part, name)


@dataclass(frozen=True, slots=True)
class Role:
    """One function of a device: name, title, unit, choices as (value, words), and what it should
    be.

    `derive` returns None where the bike does not say; then the device's own value stands. `digits`:
    decimals that are shown.
    """

    name: str
    title: str
    unit: str
    derive: Callable[[Case], Want | None]
    choices: tuple[tuple[float, str], ...] = ()
    digits: int = 0


def stays(case: Case) -> Want | None:
    """Leave the device's own value: nothing on the bike says better."""
    return None
