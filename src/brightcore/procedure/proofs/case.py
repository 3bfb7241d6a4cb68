"""What proofs are worked out from, and what a proof is."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

from brightcore.bike.model import Bike, Part
from brightcore.errors import RangeError
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.kinds.select import at_place, controllers, motors
from brightcore.kinds.sensors import TorqueSpec
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.procedure.changes import DRIVING
from brightcore.units import parse_in

GROUPS = {
    "stand": "On the stand, wheel up",
    "bike": "At the bike",
    "road": "On the road: private ground, helmet, brakes first",
    "after": "Afterwards",
}
"""Where a check is made, in the order in which they are made."""


WHEEL_UP, ROAD = ("pack_safe", "wheel_up"), ("pack_safe", "road")


@dataclass(frozen=True, slots=True)
class Reading:
    """A value that a check asks for: its unit, what is right, and what can be at all."""

    unit: str
    low: float
    high: float
    least: float
    most: float

    def judge(self, text: str) -> tuple[float, bool]:
        """Return (value, whether it is right); raises RangeError, ReadingError."""
        value = parse_in(text, self.unit)
        if not self.least <= value <= self.most:
            raise RangeError(
                "value", value, f"it must lie from {self.least:g} to {self.most:g} {self.unit}"
            )
        return value, self.low <= value <= self.high


@dataclass(frozen=True, slots=True)
class ProofCheck:
    """One thing to prove.

    `method`: how; `expect`: what must be so; `reading`: what is typed, None where yes or no;
    `gates`: cautions to tick; `why`: what makes it belong to this job; `failed`: (station, what to
    do) otherwise; `live`: names of what a controller on a link reads meanwhile.
    """

    id: str
    group: str
    title: str
    method: str
    expect: str
    why: str
    failed: tuple[str, str]
    gates: tuple[str, ...] = WHEEL_UP
    reading: Reading | None = None
    live: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ProofCase:
    """A bike, and what a job has touched on it.

    `touched`: parts that were changed, set, programmed or repaired; `disturbed`: those whose plugs
    were; `drive_disturbed`: whether one of those plugs was between two parts that drive, feed, ask
    for or stop the motor; `whole`: all of it is to be proven; `limit_kmh`: where help is to end, 0
    where nothing says.
    """

    bike: Bike
    touched: frozenset[str] = frozenset()
    disturbed: frozenset[str] = frozenset()
    drive_disturbed: bool = False
    whole: bool = False
    limit_kmh: float = 0.0

    def any(self, parts: Iterable[Part]) -> bool:
        """Return whether any of some parts was touched, or all is to be proven."""
        ids = {part.id for part in parts}
        return bool(ids) and (self.whole or bool(ids & self.touched))

    def moved(self, parts: Sequence[Part]) -> bool:
        """Return whether any of some parts was touched or had a plug pulled, or all is to be
        proven.

        A lamp at the output of another controller has to light again.
        """
        ids = {part.id for part in parts}
        return self.any(parts) or bool(ids & self.disturbed)

    @property
    def turning(self) -> str:
        """How the motor is made to turn on this bike, in words."""
        if not self.bike.having(ThrottleSpec):
            return "cranks turned by hand, assist on"
        asks = any(isinstance(part.spec, (PedalSpec, TorqueSpec)) for part in self.bike.parts)
        if asks:
            return "half throttle or assist"
        return "half throttle"

    @property
    def drives(self) -> bool:
        """Whether the bike has something that turns."""
        return bool(motors(self.bike) and controllers(self.bike))

    @property
    def power_touched(self) -> bool:
        """Whether anything that drives, feeds, asks for or stops the motor was touched or
        unplugged.

        A lamp's plug at the controller is none of these: it proves the lamp.
        """
        own = {part.id for part in at_place(self.bike, *DRIVING)}
        return self.drives and (self.whole or self.drive_disturbed or bool(own & self.touched))

    def because(self, parts: Iterable[Part]) -> str:
        """Return why a check belongs to the job: the touched part, or all of it."""
        names = [part.name for part in parts if part.id in self.touched]
        if names:
            return f"{names[0]} was worked on"
        if self.whole:
            return "All of the bike is proven"
        return "What drives the bike was worked on"


Checks = Callable[[ProofCase], Iterator[ProofCheck]]
