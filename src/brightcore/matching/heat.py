"""How hot motor and controller get on a hill, and how fast a motor that stands."""

import math
from dataclasses import dataclass

import numpy as np

from brightcore.errors import RangeError, require
from brightcore.matching.drive import (
    CHAIN_EFFICIENCY,
    Drive,
    at_force,
    emf_v,
    full_demand,
)
from brightcore.matching.riding import (
    AMBIENT_C,
    Floats,
    Road,
    best_gear,
    rider_force_n,
    road_force_n,
    top_speed_kmh,
)
from brightcore.physics.copper import warmed_ratio
from brightcore.physics.heat_limits import CONTROLLER_LIMIT_C, HARM_C, ROLL_BACK_C, STOP_C
from brightcore.physics.warming import stalled_seconds, warming_of

CONTROLLER_J_PER_K, CONTROLLER_K_PER_W = 300.0, 1.2
"""Heat capacity and resistance to air of a controller (common practice)."""


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
