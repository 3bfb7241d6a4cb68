"""What a drive will do on the road: speed, grade, acceleration, heat, range.

Road load after Martin et al. (source martin-1998): air with wind, rolling, wheel bearings, slope,
kinetic.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from brightcore.errors import require
from brightcore.matching.drive import (
    CHAIN_EFFICIENCY,
    Drive,
    envelope,
    full_demand,
)
from brightcore.physics.air import GRAVITY, air_density
from brightcore.physics.wheels import CHAIN_PITCH_M, wheel_rpm

Floats = NDArray[np.float64]


ROTATING_KG = 1.4
"""Wheels' inertia as extra mass (common practice)."""


AMBIENT_C = 20.0
"""The air around motor and controller (common practice)."""


STEEPEST_RATIO = 0.4
"""Steeper than this nobody asks: whoever climbs it is told as climbing that or more."""


ROLLING_KMH = 5.0
"""A start is made when the bike rolls so fast."""


@dataclass(frozen=True, slots=True)
class Road:
    """A stretch of road. Grade as a ratio (0.1 is 10 %), head wind positive."""

    grade_ratio: float = 0.0
    wind_kmh: float = 0.0
    altitude_m: float = 0.0
    temperature_c: float | None = None

    def __post_init__(self) -> None:
        require("grade_ratio", self.grade_ratio, -STEEPEST_RATIO, STEEPEST_RATIO)
        require("wind_kmh", self.wind_kmh, -80.0, 80.0, "km/h")


def road_force_n(drive: Drive, speed_kmh: Floats | float, road: Road) -> Floats:
    """Return the force in N that holds a speed in km/h on a road (source martin-1998, without the
    kinetic term)."""
    v = np.asarray(speed_kmh, dtype=float) / 3.6
    air = v + road.wind_kmh / 3.6
    angle = math.atan(road.grade_ratio)
    weight = drive.mass_kg * GRAVITY
    density = air_density(road.altitude_m, road.temperature_c)
    # v·|v| keeps the sign: a strong wind from behind pushes.
    drag = 0.5 * density * drive.drag_area_m2 * air * np.abs(air)
    bearings = (91 + 8.7 * v) * 1e-3
    return np.asarray(
        drag + weight * (drive.rolling_ratio * math.cos(angle) + math.sin(angle)) + bearings
    )


def rider_force_n(drive: Drive, speed_kmh: Floats | float) -> Floats:
    """Return the rider's share at the wheel; at walking pace limited to what 2 m/s gives."""
    v = np.maximum(np.asarray(speed_kmh, dtype=float) / 3.6, 2.0)
    return np.asarray(drive.rider_w * CHAIN_EFFICIENCY / v)


def surplus_n(drive: Drive, road: Road) -> Floats:
    """Return the force left to speed up at full demand, in N, at every speed of the envelope."""
    found = envelope(drive)
    return np.asarray(
        found.force_n
        + rider_force_n(drive, found.speed_kmh)
        - road_force_n(drive, found.speed_kmh, road)
    )


def best_gear(drive: Drive, speed_kmh: float) -> Drive:
    """Return the drive in the sprocket that gives the most force at a speed."""
    if not drive.is_mid:
        return drive
    found = envelope(drive)
    return drive.in_gear(int(found.sprocket[min(round(speed_kmh / 0.5), len(found.sprocket) - 1)]))


def most_force_n(drive: Drive, speed_kmh: float) -> float:
    """Return the most the drive gives at a speed, in its best gear."""
    # Solved at the speed itself: near the end of its volts the force of a small wheel falls from
    # all to nothing within one step of the envelope.
    gears = (drive.in_gear(sprocket) for sprocket in drive.gears)
    return max(float(full_demand(geared, speed_kmh).force_n[0]) for geared in gears)


def top_speed_kmh(drive: Drive, road: Road = Road()) -> float:
    """Return the highest speed the drive holds on a road, in its best gear; 0 where it cannot
    start.

    At most 110 km/h.
    """
    speeds, left = envelope(drive).speed_kmh, surplus_n(drive, road)
    if left[2] <= 0:
        return 0.0
    short = np.flatnonzero(left[2:] <= 0)
    if len(short) == 0:
        return float(speeds[-1])
    k = int(short[0]) + 2

    def surplus(speed_kmh: float) -> float:
        gives = most_force_n(drive, speed_kmh) + float(rider_force_n(drive, speed_kmh))
        return gives - float(road_force_n(drive, speed_kmh, road))

    low, high = float(speeds[k - 1]), float(speeds[k])
    # Where assistance ends by law the force is cut, not crossed: both ends then have one sign.
    if surplus(low) <= 0 or surplus(high) >= 0:
        return low
    return float(brentq(surplus, low, high, xtol=1e-3))


def steepest_grade_ratio(drive: Drive, speed_kmh: float) -> float:
    """Return the steepest grade on which the drive holds a speed, STEEPEST_RATIO at most."""
    return _steepest(drive, [speed_kmh])


def steepest_start_ratio(drive: Drive) -> float:
    """Return the steepest grade on which the drive gets from standstill to ROLLING_KMH.

    STEEPEST_RATIO at most. What it gives at standstill alone is no start: it has to have force
    left all the way.
    """
    return _steepest(drive, [float(v) for v in np.linspace(0.0, ROLLING_KMH, 11)])


def _steepest(drive: Drive, speeds_kmh: Sequence[float]) -> float:
    gives = []
    for v in speeds_kmh:
        gives.append(most_force_n(drive, v) + float(rider_force_n(drive, v)))

    def left(grade: float) -> float:
        asked = (float(road_force_n(drive, v, Road(grade))) for v in speeds_kmh)
        return min(have - need for have, need in zip(gives, asked, strict=True))

    if left(0.0) <= 0:
        return 0.0
    if left(STEEPEST_RATIO) > 0:
        return STEEPEST_RATIO
    return float(brentq(left, 0.0, STEEPEST_RATIO, xtol=1e-5))


@dataclass(frozen=True, slots=True)
class Sprint:
    """Acceleration from standstill."""

    reached: bool
    seconds: float
    metres: float


def accelerate(drive: Drive, to_kmh: float, road: Road = Road(), step_s: float = 0.05) -> Sprint:
    """Return seconds and metres from standstill to a speed in the best gear (midpoint rule), 60 s
    at most."""
    require("to_kmh", to_kmh, 1.0, 110.0, "km/h")
    speeds = np.linspace(0.0, to_kmh, 111)
    found = envelope(drive)
    gives = np.interp(speeds, found.speed_kmh, found.force_n)
    left = gives + rider_force_n(drive, speeds) - road_force_n(drive, speeds, road)
    if (left[:-1] <= 0.5).any():
        return Sprint(False, math.inf, math.inf)
    mass = drive.mass_kg + ROTATING_KG
    middle = 0.5 * (left[1:] + left[:-1])
    dv = np.diff(speeds) / 3.6
    seconds = mass * dv / middle
    metres = seconds * 0.5 * (speeds[1:] + speeds[:-1]) / 3.6
    return Sprint(True, float(seconds.sum()), float(metres.sum()))


def motor_rpm(drive: Drive, speed_kmh: float) -> float:
    """Return turns per minute of the motor on the scale of its rpm per volt."""
    return wheel_rpm(speed_kmh, drive.circumference_m) * drive.motor_per_wheel_ratio


def most_chain_n(drive: Drive) -> float:
    """Return the most a mid drive's motor pulls in the chain, in N (pitch 12.7 mm); 0 for a hub.

    That is at standstill, where its current is highest, and the same in every rear sprocket. The
    rider's own pull comes on top.
    """
    if not drive.is_mid:
        return 0.0
    geared = drive.in_gear(drive.gears[0])
    forces = full_demand(geared, np.linspace(0.0, 30.0, 61)).force_n
    wheel_nm = float(forces.max()) * drive.circumference_m / (2 * math.pi)
    return wheel_nm / (geared.sprocket * CHAIN_PITCH_M / (2 * math.pi))
