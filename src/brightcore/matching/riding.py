"""What a drive will do on the road: speed, grade, acceleration, heat, range.

Road load after Martin et al. (source martin-1998): air with wind, rolling, wheel bearings, slope,
kinetic.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from brightcore.errors import RangeError, require
from brightcore.matching.drive import (
    CHAIN_EFFICIENCY,
    Drive,
    at_force,
    emf_v,
    envelope,
    full_demand,
)
from brightcore.physics.air import GRAVITY, air_density
from brightcore.physics.copper import warmed_ratio
from brightcore.physics.heat_limits import CONTROLLER_LIMIT_C, HARM_C, ROLL_BACK_C, STOP_C
from brightcore.physics.warming import stalled_seconds, warming_of
from brightcore.physics.wheels import CHAIN_PITCH_M, wheel_rpm

Floats = NDArray[np.float64]

ROTATING_KG = 1.4
"""Wheels' inertia as extra mass (common practice)."""

WH_PER_MILE = 25.0
"""Flat rule: throttle only, about 20 mph on the flat (common practice)."""

AMBIENT_C = 20.0
"""The air around motor and controller (common practice)."""

CONTROLLER_J_PER_K, CONTROLLER_K_PER_W = 300.0, 1.2
"""Heat capacity and resistance to air of a controller (common practice)."""

FLOOR_WH_PER_KM = 4.0
"""Less than this nobody has logged with assistance switched on: below it the rider does the work
(common practice)."""

STEEPEST_RATIO = 0.4
"""Steeper than this nobody asks: whoever climbs it is told as climbing that or more."""

ROLLING_KMH = 5.0
"""A start is made when the bike rolls so fast."""

CRUISE_KMH = 22.0
"""Speed on the flat that the routes are written for."""


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


@dataclass(frozen=True)
class Heating:
    """Winding and controller temperature on a climb, over time.

    It ends where the motor has to stop (`stop_min`): from there on nothing is known, a controller
    with a thermistor lets go and one without burns the winding.
    """

    minutes: Floats
    winding_c: Floats
    controller_c: Floats
    speed_kmh: float
    phase_a: float
    roll_back_min: float | None
    controller_limit_min: float | None
    stop_min: float | None = None


def climb_heat(drive: Drive, road: Road, minutes: float, speed_kmh: float | None = None) -> Heating:
    """Return temperatures while climbing at a speed (or the highest it holds) in the best gear.

    One thermal mass for the motor and one for the controller (300 J/K, 1.2 K/W, limit 85 °C: common
    practice). Raises RangeError where the climb cannot be held.
    """
    require("minutes", minutes, 0.1, 600.0, "min")
    held = top_speed_kmh(drive, road)
    speed = held if speed_kmh is None else speed_kmh
    if held <= 0 or speed > held + 0.05:
        raise RangeError(
            "speed_kmh", speed, f"on this grade the drive holds at most {held:.0f} km/h"
        )
    geared = best_gear(drive, max(speed, 1.0))
    warming = warming_of(drive.rated_w)
    need = max(float(road_force_n(drive, speed, road)) - float(rider_force_n(drive, speed)), 0.0)
    count = 241
    times = np.linspace(0.0, minutes * 60, count)
    winding, control = np.empty(count), np.empty(count)
    winding[0] = control[0] = AMBIENT_C if road.temperature_c is None else road.temperature_c
    ambient, step = winding[0], times[1]
    at = at_force(geared, speed, need)
    phase, loss_control = float(at.phase_a[0]), float(at.controller_w[0])
    wasted = drive.no_load_a * emf_v(geared, speed) + _gear_loss_w(geared, speed, need)
    cooling = step / (CONTROLLER_J_PER_K * CONTROLLER_K_PER_W)
    told = count
    for k in range(1, count):
        copper = phase**2 * drive.phase_ohm * warmed_ratio(winding[k - 1])
        winding[k] = _relax(
            winding[k - 1], ambient + (copper + wasted) * warming.k_per_w, step / warming.seconds
        )
        control[k] = _relax(control[k - 1], ambient + loss_control * CONTROLLER_K_PER_W, cooling)
        if winding[k] >= STOP_C:
            told = k + 1
            break
    times, winding, control = times[:told], winding[:told], control[:told]
    return Heating(
        times / 60,
        winding,
        control,
        speed,
        phase,
        _first(times, winding, ROLL_BACK_C),
        _first(times, control, CONTROLLER_LIMIT_C),
        _first(times, winding, STOP_C),
    )


@dataclass(frozen=True, slots=True)
class Stall:
    """A motor held at full demand while the wheel stands: phase current, and seconds until its
    winding is where power is reduced and where magnets and glue go."""

    phase_a: float
    roll_back_s: float
    harm_s: float


def stall_heat(drive: Drive, air_c: float = AMBIENT_C) -> Stall:
    """Return what standing at full demand does to the winding, from the air's temperature."""
    phase = float(full_demand(best_gear(drive, 0.0), 0.0).phase_a[0])
    start = min(air_c, ROLL_BACK_C)
    roll_back, harm = (
        stalled_seconds(phase, drive.phase_ohm, start, limit) for limit in (ROLL_BACK_C, HARM_C)
    )
    return Stall(phase, roll_back, harm)


def _gear_loss_w(drive: Drive, speed_kmh: float, force_n: float) -> float:
    """Return what the motor's own gear turns into heat, in W of one motor; the chain keeps its
    own."""
    inside = drive.efficiency_ratio / (CHAIN_EFFICIENCY if drive.is_mid else 1.0)
    at_wheel = force_n * speed_kmh / 3.6 / drive.motor_count
    return at_wheel * (1.0 / inside - 1.0)


def _relax(now: float, towards: float, step: float) -> float:
    return towards + (now - towards) * math.exp(-step)


def _first(times: Floats, values: Floats, limit: float) -> float | None:
    above = np.flatnonzero(values >= limit)
    if len(above) == 0:
        return None
    return float(times[above[0]] / 60)


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
