"""Derived settings: what a device should be programmed to, why, and from which source."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike, Part
from brightcore.kinds.select import controllers, displays
from brightcore.programming.case import Aim, Case
from brightcore.programming.roles import role

NO_AIM = Aim()
"""Nothing is said of what the bike is to be."""

DIFFERENCE_RATIO = 0.01
"""A device set otherwise by more than this is told."""


@dataclass(frozen=True, slots=True)
class Derived:
    """A wanted value, its unit and reason, beside what the description says it is set to."""

    part: str
    role: str
    value: float
    unit: str
    reason: str
    source: str
    current: float | None

    @property
    def differs(self) -> bool:
        """Whether the device is set to something else (more than 1 %)."""
        return self.current is not None and differ(self.current, self.value)


def differ(one: float, other: float) -> bool:
    """Return whether two values differ by more than 1 % of the second."""
    return abs(one - other) > DIFFERENCE_RATIO * abs(other)


def held_by_kind(bike: Bike) -> dict[str, tuple[str, ...]]:
    """Return the roles of every device of which no profile is known: what every one of its kind
    has."""
    held: dict[str, tuple[str, ...]] = {
        part.id: ("low_cutoff_v", "current_limit_a") for part in controllers(bike)
    }
    counting: tuple[Part, ...] = displays(bike) or controllers(bike)
    for part in counting[:1]:
        held[part.id] = ("wheel_circumference_mm", *held.get(part.id, ()))
    return held


def derive_settings(
    bike: Bike, aim: Aim = NO_AIM, held: Mapping[str, tuple[str, ...]] | None = None
) -> tuple[Derived, ...]:
    """Return every derived setting of a bike: for each device, by the roles that it holds."""
    worked = as_measured(bike)
    roles = held_by_kind(bike) | dict(held or {})
    found = []
    for part in bike.parts:
        for name in roles.get(part.id, ()):
            of = role(name)
            want = of.derive(Case(worked, bike, worked.part(part.id), aim))
            if want is None:
                continue
            now = bike.setting(part.id, name, math.nan)
            current = None if math.isnan(now) else now
            found.append(
                Derived(
                    part.id, name, float(want.value), of.unit, want.reason, want.source, current
                )
            )
    return tuple(found)
