"""Derived settings: what a device should be programmed to, why, and from which source.

A role is one function and one line in `ROLES`.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from brightcore.bike.model import Bike


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
        return self.current is not None and abs(self.current - self.value) > 0.01 * abs(self.value)


def wheel_circumference_mm(bead_seat_mm: float, tyre_width_mm: float) -> float:
    """Return π × (bead seat + 2 × width), both in mm (source iso-5775).

    Roll-out under a rider is 1–3 % shorter (common practice).

    >>> round(wheel_circumference_mm(622, 47))
    2249
    """
    return math.pi * (bead_seat_mm + 2 * tyre_width_mm)


def wheel_circumference(bike: Bike) -> Iterator[Derived]:
    """Wheel circumference for whatever counts the speed."""
    value = round(wheel_circumference_mm(bike.info.bead_seat_mm, bike.info.tyre_width_mm))
    holders = bike.of_kind("display") or bike.of_kind("controller")
    for part in holders[:1]:
        reason = (
            f"Tyre {bike.info.tyre_width_mm:.0f}-{bike.info.bead_seat_mm:.0f}: π × ({bike.info.bead_seat_mm:.0f} + 2 × "
            f"{bike.info.tyre_width_mm:.0f}) mm, unloaded; measure the roll-out for the last percent"
        )
        yield _made(bike, part.id, "wheel_circumference_mm", value, "mm", reason, "iso-5775")


def low_cutoff(bike: Bike) -> Iterator[Derived]:
    """Low-voltage cut-off above what the BMS trips at."""
    for pack in bike.of_kind("pack")[:1]:
        cell = 3.1 if pack.spec.chemistry == "nickel" else 2.85
        value = round(pack.spec.series_count * cell)
        reason = (
            f"{pack.spec.series_count} cells × {cell:g} V under load: above the BMS trip at {pack.spec.trip_v():.1f} V, "
            "so that the controller lets go first and softly"
        )
        for part in bike.of_kind("controller"):
            yield _made(bike, part.id, "low_cutoff_v", value, "V", reason, "common-practice")


def current_limit(bike: Bike) -> Iterator[Derived]:
    """Battery current limit: no more than controller, BMS and 80 % of the fuse allow."""
    for part in bike.of_kind("controller"):
        limits = [("the controller's rating", part.spec.battery_limit_a)]
        for pack in bike.of_kind("pack"):
            limits.append((f"the BMS of the {pack.name}", pack.spec.bms_continuous_a))
            limits.append((f"80 % of the fuse of the {pack.name}", 0.8 * pack.spec.fuse_a))
        who, value = min(limits, key=lambda item: item[1])
        others = ", ".join(f"{name} {amp:g} A" for name, amp in limits)
        yield _made(bike, part.id, "current_limit_a", value, "A", f"{who[0].upper()}{who[1:]} is the lowest of: {others}", "common-practice")  # fmt: skip


def _made(bike: Bike, part: str, role: str, value: float, unit: str, reason: str, source: str) -> Derived:
    now = bike.setting(part, role, math.nan)
    return Derived(part, role, float(value), unit, reason, source, None if math.isnan(now) else now)


ROLES: tuple[Callable[[Bike], Iterator[Derived]], ...] = (wheel_circumference, low_cutoff, current_limit)


def derive_settings(bike: Bike) -> tuple[Derived, ...]:
    """Return every derived setting of a bike."""
    return tuple(item for role in ROLES for item in role(bike))
