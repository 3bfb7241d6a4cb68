"""What a route takes, and how far a charge goes, three ways."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from brightcore.errors import RangeError, require
from brightcore.matching.drive import (
    Drive,
    at_force,
)
from brightcore.matching.riding import (
    Road,
    best_gear,
    most_force_n,
    rider_force_n,
    road_force_n,
    top_speed_kmh,
)

WH_PER_MILE = 25.0
"""Flat rule: throttle only, about 20 mph on the flat (common practice)."""


FLOOR_WH_PER_KM = 4.0
"""Less than this nobody has logged with assistance switched on: below it the rider does the work
(common practice)."""


CRUISE_KMH = 22.0
"""Speed on the flat that the routes are written for."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """A piece of a route: length, grade, and the speed ridden where the drive can hold it."""

    length_km: float
    grade_ratio: float = 0.0
    speed_kmh: float = 22.0

    def __post_init__(self) -> None:
        require("length_km", self.length_km, 1e-6, 1000.0, "km")
        require("speed_kmh", self.speed_kmh, 1.0, 100.0, "km/h")


ROUTES: dict[str, tuple[Stretch, ...]] = {
    "flat": (Stretch(10.0),),
    "rolling": (Stretch(3.0, 0.03, 18.0), Stretch(3.0, -0.03, 28.0), Stretch(4.0)),
    "hills": (
        Stretch(2.0, 0.06, 14.0),
        Stretch(2.0, -0.06, 32.0),
        Stretch(1.0, 0.1, 10.0),
        Stretch(1.0, -0.1, 30.0),
        Stretch(4.0),
    ),
    "town": (Stretch(8.0, 0.0, 18.0), Stretch(1.0, 0.04, 14.0), Stretch(1.0, -0.04, 20.0)),
}
"""Route profiles to choose from (common practice)."""


def at_cruise(route: Sequence[Stretch], cruise_kmh: float) -> tuple[Stretch, ...]:
    """Return a route ridden at another speed on the flat; hills are ridden faster or slower by as
    much."""
    require("cruise_kmh", cruise_kmh, 5.0, 60.0, "km/h")
    share = cruise_kmh / CRUISE_KMH
    found = []
    for piece in route:
        found.append(replace(piece, speed_kmh=max(piece.speed_kmh * share, 1.0)))
    return tuple(found)


def energy_per_km(drive: Drive, route: Sequence[Stretch], wind_kmh: float = 0.0) -> float:
    """Return Wh per km drawn from the pack on a route, standby included. Downhill gives nothing
    back.

    Raises RangeError where a stretch is too steep for the drive.
    """
    total = length = 0.0
    for piece in route:
        road = Road(piece.grade_ratio, wind_kmh)
        need = float(road_force_n(drive, piece.speed_kmh, road)) - float(
            rider_force_n(drive, piece.speed_kmh)
        )
        length += piece.length_km
        if need <= 0:
            total += drive.standby_w * piece.length_km / piece.speed_kmh
            continue
        if most_force_n(drive, piece.speed_kmh) < need:
            held = top_speed_kmh(drive, road)
            if held < 2.0:
                raise RangeError(
                    "grade_ratio", piece.grade_ratio, "the drive cannot climb this stretch"
                )
            piece = Stretch(piece.length_km, piece.grade_ratio, held)
            need = max(
                float(road_force_n(drive, held, road)) - float(rider_force_n(drive, held)), 0.0
            )
        at = at_force(best_gear(drive, piece.speed_kmh), piece.speed_kmh, need, 40.0)
        power = float(at.battery_a[0] * at.battery_v[0] + at.controller_w[0] * drive.motor_count)
        power += drive.standby_w
        total += power * piece.length_km / piece.speed_kmh
    return total / length


def rider_share_ratio(drive: Drive, route: Sequence[Stretch], wind_kmh: float = 0.0) -> float:
    """Return the share of the work at the wheel that the rider does on a route, 0 to 1."""
    by_rider = whole = 0.0
    for piece in route:
        need = float(road_force_n(drive, piece.speed_kmh, Road(piece.grade_ratio, wind_kmh)))
        if need > 0:
            whole += need * piece.length_km
            by_rider += min(float(rider_force_n(drive, piece.speed_kmh)), need) * piece.length_km
    if whole > 0:
        return by_rider / whole
    return 0.0


@dataclass(frozen=True, slots=True)
class Range:
    """Range in km by three ways; None where there is no figure.

    Physics twice: with the motor alone, and with the rider's share of the work (None without
    pedals).
    """

    flat_rule_km: float
    motor_km: float | None
    motor_wh_per_km: float | None
    shared_km: float | None
    shared_wh_per_km: float | None
    rider_ratio: float
    own_log_km: float | None
    own_wh_per_km: float | None


def flat_rule_km(energy_wh: float) -> float:
    """Return km by the flat rule of 25 Wh per mile (common practice).

    >>> round(flat_rule_km(1152) / 1.609344)
    46
    """
    return energy_wh / WH_PER_MILE * 1.609344


def range_three_ways(
    drive: Drive,
    route: Sequence[Stretch],
    wind_kmh: float = 0.0,
    log_km: float | None = None,
    log_ah: float | None = None,
    usable_ratio: float = 0.9,
) -> Range:
    """Return the range by the flat rule, by physics on a route, and from this bike's own log
    (distance and Ah used).

    Physics counts `usable_ratio` of the cells' energy, the flat rule that of the label. Where the
    motor would give less than FLOOR_WH_PER_KM the range is told for that. Raises RangeError for
    impossible logs.
    """
    usable = drive.energy_wh * usable_ratio
    alone = _per_km(replace(drive, rider_w=0.0), route, wind_kmh)
    if drive.rider_w > 0:
        shared = _per_km(drive, route, wind_kmh)
    else:
        shared = None
    own = None
    if log_km is not None and log_ah is not None:
        require("log_km", log_km, 0.1, 10000.0, "km")
        require(
            "log_ah", log_ah, 0.01, drive.capacity_ah * 1.05, "Ah (no more than the pack holds)"
        )
        own = log_km / log_ah
    return Range(
        flat_rule_km=flat_rule_km(drive.label_wh or drive.energy_wh),
        motor_km=usable / max(alone, FLOOR_WH_PER_KM) if alone is not None else None,
        motor_wh_per_km=alone,
        shared_km=usable / max(shared, FLOOR_WH_PER_KM) if shared is not None else None,
        shared_wh_per_km=shared,
        rider_ratio=rider_share_ratio(drive, route, wind_kmh),
        own_log_km=own * drive.capacity_ah * usable_ratio if own else None,
        own_wh_per_km=drive.energy_wh / drive.capacity_ah / own if own else None,
    )


def _per_km(drive: Drive, route: Sequence[Stretch], wind_kmh: float) -> float | None:
    try:
        return energy_per_km(drive, route, wind_kmh)
    except RangeError:
        return None
