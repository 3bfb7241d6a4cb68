"""Derived settings: what a device should be programmed to, why, and from which source.

A role is one function and one line in `ROLES`.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.loads import drawing_on
from brightcore.analysis.strings import strings
from brightcore.bike.measured import ROLLED, circumference_mm, measured_value
from brightcore.bike.model import Bike, Part
from brightcore.kinds.select import controllers, displays, packs
from brightcore.physics.fuses import fuse_long_a


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
        return self.current is not None and abs(self.current - self.value) > DIFFERENCE_RATIO * abs(
            self.value
        )


def wheel_circumference(bike: Bike) -> Iterator[Derived]:
    """Wheel circumference for whatever counts the speed."""
    width, seat = bike.info.tyre_width_mm, bike.info.bead_seat_mm
    value = round(circumference_mm(bike))
    rolled = measured_value(bike, "", ROLLED)
    reason = (
        f"Measured {rolled.on}: {rolled.words}"
        if rolled
        else f"Tyre {width:.0f}-{seat:.0f}: π × ({seat:.0f} + 2 × {width:.0f}) mm, unloaded; "
        "measure the roll-out for the last percent"
    )
    holders: tuple[Part, ...] = displays(bike) or controllers(bike)
    for part in holders[:1]:
        yield _made(bike, part, "wheel_circumference_mm", value, "mm", reason, "iso-5775")


def low_cutoff(bike: Bike) -> Iterator[Derived]:
    """Low-voltage cut-off above what the BMS trips at."""
    for string in strings(bike)[:1]:
        value = round(sum(pack.spec.series_count * pack.spec.cells.cutoff_v for pack in string))
        cells = " + ".join(
            f"{pack.spec.series_count} cells × {pack.spec.cells.cutoff_v:g} V" for pack in string
        )
        trip = sum(pack.spec.trip_v() for pack in string)
        reason = (
            f"{cells} under load: above the BMS trip at {trip:.1f} V, "
            "so that the controller cuts out first and softly"
        )
        for part in controllers(bike):
            yield _made(bike, part, "low_cutoff_v", value, "V", reason, "common-practice")


def current_limit(bike: Bike) -> Iterator[Derived]:
    """Battery current limit: no more than controller, BMS and 80 % of the fuse allow."""
    case = analysis_of(bike)
    for part in controllers(bike):
        limits = [("the controller's rating", part.spec.battery_limit_a)]
        for pack in packs(bike):
            drawing = drawing_on(case, pack)
            if part not in drawing:
                continue
            share = f", shared by {len(drawing)} controllers" if len(drawing) > 1 else ""
            bms, fuse = pack.spec.bms_continuous_a, fuse_long_a(pack.spec.fuse_a)
            limits.append((f"the BMS of the {pack.name}{share}", bms / len(drawing)))
            if fuse:
                limits.append((f"80 % of the fuse of the {pack.name}{share}", fuse / len(drawing)))
        who, value = min(limits, key=lambda item: item[1])
        others = ", ".join(f"{name} {amp:g} A" for name, amp in limits)
        reason = f"{who[0].upper()}{who[1:]} is the lowest of: {others}"
        yield _made(bike, part, "current_limit_a", value, "A", reason, "common-practice")


def _made(bike: Bike, part: Part, role: str, value: float, unit: str, reason: str, source: str) -> Derived:
    now = bike.setting(part.id, role, math.nan)
    return Derived(part.id, role, float(value), unit, reason, source, None if math.isnan(now) else now)


DIFFERENCE_RATIO = 0.01
"""A device set otherwise by more than this is told."""

ROLES: tuple[Callable[[Bike], Iterator[Derived]], ...] = (wheel_circumference, low_cutoff, current_limit)


def derive_settings(bike: Bike) -> tuple[Derived, ...]:
    """Return every derived setting of a bike."""
    return tuple(item for role in ROLES for item in role(bike))
