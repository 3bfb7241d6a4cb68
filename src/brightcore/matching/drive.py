"""One drive as numbers: pack, limits, motor, gearing and bike; and the force it gives at the wheel.

The motor is the equivalent DC machine (source hanselman): Kt = 60/(2π·Kv), R between two phases. The
controller is a lossless converter with a battery-side and a phase-side current limit, plus its own
conduction loss. Validity: motoring, below field weakening.
"""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcore.bike.model import MOTOR_KINDS, Bike, Join, Part
from brightcore.errors import BikeError, require
from brightcore.matching.packs import lead_ohm
from brightcore.programming.derive import wheel_circumference_mm

Floats = NDArray[np.float64]

NO_LOAD_A = 0.6
"""No-load current, taken as a constant drag torque (common practice)."""

REDUCTION_RATIO = {1: 0.97, 2: 0.93}
"""Efficiency of a hub's inner gear and of a mid drive's reduction (common practice)."""

CHAIN_EFFICIENCY = 0.976
"""Chain drive (source martin-1998)."""

CONTROLLER_OHM = 0.012
"""Conduction resistance of a controller in the phase path (common practice)."""

TYRES = {"smooth": 0.006, "touring": 0.008, "knobbly": 0.012, "cart": 0.018}
DRAG_AREA_M2 = {"racing": 0.35, "upright": 0.6, "cargo": 0.8, "recumbent": 0.35, "cart": 0.9}
"""Rolling coefficients and drag areas by kind of bike (source wilson)."""


@dataclass(frozen=True, slots=True)
class Drive:
    """Everything that decides how a bike goes. `motor_per_wheel_ratio` is motor turns per wheel turn."""

    name: str
    pack_v: float
    pack_ohm: float
    energy_wh: float
    capacity_ah: float
    battery_limit_a: float
    phase_limit_a: float
    low_cutoff_v: float
    rpm_per_v: float
    phase_ohm: float
    gear_ratio: float
    rated_w: float
    motor_count: int
    circumference_m: float
    mass_kg: float
    drag_area_m2: float = 0.6
    rolling_ratio: float = 0.008
    chain_ring_teeth: int = 0
    sprocket_teeth: tuple[int, ...] = ()
    sprocket: int = 0
    rider_w: float = 0.0

    @property
    def is_mid(self) -> bool:
        """Whether the motor drives through the chain."""
        return self.chain_ring_teeth > 0

    @property
    def motor_per_wheel_ratio(self) -> float:
        """Motor turns per wheel turn, on the scale of `rpm_per_v`."""
        if not self.is_mid:
            return 1.0
        return self.gear_ratio * self.sprocket / self.chain_ring_teeth

    @property
    def efficiency_ratio(self) -> float:
        """Mechanical efficiency from motor to wheel."""
        if self.is_mid:
            return REDUCTION_RATIO[2] * CHAIN_EFFICIENCY
        return REDUCTION_RATIO[1] if self.gear_ratio > 1.0 else 1.0

    def in_gear(self, sprocket: int) -> "Drive":
        """Return the drive in another rear sprocket; the same where it has no chain."""
        return replace(self, sprocket=sprocket) if self.is_mid else self


def torque_per_a(rpm_per_v: float) -> float:
    """Return Kt in N·m/A from Kv in rpm/V (identity, source hanselman).

    >>> round(torque_per_a(8.6), 2)
    1.11
    """
    return 60.0 / (2 * math.pi * rpm_per_v)


def drive_of(bike: Bike, name: str = "", charge_v: float | None = None) -> Drive:
    """Return the drive of a bike as described. Raises BikeError where pack, controller or motor is missing, RangeError for no wheel."""
    packs, controllers, motors = bike.of_kind("pack"), bike.of_kind("controller"), bike.of_kind(*MOTOR_KINDS)
    if not (packs and controllers and motors):
        raise BikeError("to say what a bike will do it needs a pack, a controller and a motor")
    controller, motor = controllers[0].spec, motors[0].spec
    count = min(len(motors), len(controllers)) or 1
    limit = sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in controllers[:count])
    series = arrangement(bike) == "series"
    volts = [p.spec.series_count * (p.spec.cell_v if charge_v is None else charge_v) for p in packs]
    ohms = [p.spec.internal_ohm for p in packs]
    amp_hours = [p.spec.capacity_ah for p in packs]
    mid = motors[0].kind == "mid_motor"
    sprockets = tuple(sorted(motor.sprocket_teeth)) if mid else ()
    circumference = require(
        "wheel_circumference_mm", wheel_circumference_mm(bike.info.bead_seat_mm, bike.info.tyre_width_mm), 300.0, 4000.0, "mm"
    )
    require("mass_kg", bike.info.bike_mass_kg + bike.info.load_mass_kg, 5.0, 1500.0, "kg")
    return Drive(
        name or bike.info.label, sum(volts) if series else max(volts),
        (sum(ohms) if series else 1 / sum(1 / r for r in ohms)) + main_lead_ohm(bike),
        sum(p.spec.capacity_ah * p.spec.nominal_v() for p in packs), min(amp_hours) if series else sum(amp_hours),
        limit, count * bike.setting(controllers[0].id, "phase_limit_a", controller.phase_limit_a) / count,
        bike.setting(controllers[0].id, "low_cutoff_v", controller.low_cutoff_v), motor.rpm_per_v, motor.phase_ohm,
        motor.gear_ratio, motor.rated_w, count, circumference / 1000,
        bike.info.bike_mass_kg + bike.info.load_mass_kg, chain_ring_teeth=motor.chain_ring_teeth if mid else 0,
        sprocket_teeth=sprockets, sprocket=sprockets[len(sprockets) // 2] if sprockets else 0,
    )  # fmt: skip


def arrangement(bike: Bike) -> str:
    """Return how several packs stand: `one`, `combiner`, `series`, `parallel` or `apart`."""
    packs = bike.of_kind("pack")
    if len(packs) < 2:
        return "one"
    if bike.of_kind("combiner"):
        return "combiner"
    if any(_in_series(bike, j) for j in bike.joins):
        return "series"
    return "parallel" if all(any(bike.joins_of(p.id)) for p in packs) else "apart"


def _in_series(bike: Bike, join: Join) -> bool:
    """Return whether a join brings one pack's plus to another's minus."""
    ports = [bike.part(p).port(q) for p, q in join.sides()]
    both = all(bike.part(p).kind == "pack" for p, _ in join.sides())
    return both and any(ports[0].pin(a).role != ports[1].pin(b).role for a, b in join.pairs)


def main_lead(bike: Bike) -> tuple[float, float]:
    """Return (length in m, thinnest area in mm²) of the way from pack to controller; (0, 0) where it is not described."""
    length, area = 0.0, math.inf
    for join in bike.joins:
        kinds = {bike.part(p).kind for p, _ in join.sides()}
        power = {pin.role for p, q in join.sides() for pin in bike.part(p).port(q).pins}
        if join.wire.area_mm2 > 0 and power & {"pack_plus", "battery_plus"}:
            length, area = length + join.wire.length_m, min(area, join.wire.area_mm2)
        if "cable" in kinds and power & {"battery_plus"}:
            cable = next(bike.part(p) for p, _ in join.sides() if bike.part(p).kind == "cable")
            length, area = length + cable.spec.length_m, min(area, cable.spec.area_mm2)
    return (length, area) if math.isfinite(area) else (0.0, 0.0)


def main_lead_ohm(bike: Bike) -> float:
    """Return the resistance of the main lead, both wires; 0 where it is not described."""
    length, area = main_lead(bike)
    return lead_ohm(length, area) if length > 0 else 0.0


def owner_motor(bike: Bike) -> Part:
    """Return the first motor of a bike."""
    return bike.of_kind(*MOTOR_KINDS)[0]


@dataclass(frozen=True)
class Working:
    """The drive at full demand over speeds [N]: wheel force, motor and battery current, losses, battery volts."""

    force_n: Floats
    phase_a: Floats
    battery_a: Floats
    battery_v: Floats
    copper_w: Floats
    controller_w: Floats
    output_w: Floats


def full_demand(drive: Drive, speed_kmh: Floats | float, winding_c: float = 20.0, throttle: float = 1.0) -> Working:
    """Return what the drive gives at full demand (or a share of its currents) at road speeds in km/h.

    Raises RangeError for speeds outside 0–120 km/h.
    """
    v = np.atleast_1d(np.asarray(speed_kmh, dtype=float)) / 3.6
    require("speed_kmh", float(v.max() * 3.6) if len(v) else 0.0, 0.0, 120.0, "km/h")
    wheel_rpm = v / drive.circumference_m * 60
    emf = wheel_rpm * drive.motor_per_wheel_ratio / drive.rpm_per_v
    ohm = drive.phase_ohm * (1 + 0.00393 * (winding_c - 20.0)) + CONTROLLER_OHM
    each_a = drive.battery_limit_a / drive.motor_count * throttle
    phase_limit = drive.phase_limit_a * throttle
    volts = np.full_like(v, drive.pack_v)
    phase, battery = np.zeros_like(v), np.zeros_like(v)
    for _ in range(12):
        by_battery = (-emf + np.sqrt(emf**2 + 4 * ohm * volts * each_a)) / (2 * ohm)
        phase = np.maximum(np.minimum(np.minimum(phase_limit, by_battery), (volts - emf) / ohm), 0.0)
        battery = (emf + phase * ohm) * phase / volts
        volts = 0.5 * volts + 0.5 * np.maximum(drive.pack_v - drive.pack_ohm * battery * drive.motor_count, 1.0)
    kt = torque_per_a(drive.rpm_per_v)
    motor_nm = np.maximum(kt * (phase - NO_LOAD_A), 0.0)
    wheel_nm = motor_nm * drive.motor_per_wheel_ratio * drive.efficiency_ratio * drive.motor_count
    force = wheel_nm * 2 * math.pi / drive.circumference_m
    copper = phase**2 * (ohm - CONTROLLER_OHM)
    return Working(force, phase, battery * drive.motor_count, volts, copper, phase**2 * CONTROLLER_OHM + 0.02 * battery * volts, force * v)


def at_force(drive: Drive, speed_kmh: float, force_n: float, winding_c: float = 20.0) -> Working:
    """Return what the drive does to give a force in N at a speed; limits are not looked at (see `Envelope`)."""
    v = speed_kmh / 3.6
    ratio = drive.motor_per_wheel_ratio
    emf = v / drive.circumference_m * 60 * ratio / drive.rpm_per_v
    ohm = drive.phase_ohm * (1 + 0.00393 * (winding_c - 20.0)) + CONTROLLER_OHM
    wheel_nm = max(force_n, 0.0) * drive.circumference_m / (2 * math.pi)
    phase = wheel_nm / (torque_per_a(drive.rpm_per_v) * ratio * drive.efficiency_ratio * drive.motor_count) + NO_LOAD_A
    power = (emf + phase * ohm) * phase * drive.motor_count
    volts = drive.pack_v
    for _ in range(12):
        volts = max(0.5 * volts + 0.5 * (drive.pack_v - drive.pack_ohm * power / volts), 1.0)
    battery = power / volts
    one = np.ones(1)
    copper = phase**2 * (ohm - CONTROLLER_OHM)
    control = phase**2 * CONTROLLER_OHM + 0.02 * power / drive.motor_count
    return Working(force_n * one, phase * one, battery * one, volts * one, copper * one, control * one, force_n * v * one)


@dataclass(frozen=True)
class Envelope:
    """The most a drive gives over speed [N], each speed in its best gear."""

    speed_kmh: Floats
    force_n: Floats
    sprocket: NDArray[np.int64]


@lru_cache(maxsize=64)
def envelope(drive: Drive) -> Envelope:
    """Return the envelope of a drive from 0 to 110 km/h in steps of 0.5 km/h."""
    speeds = np.arange(0.0, 110.5, 0.5)
    gears = drive.sprocket_teeth or (0,)
    forces = np.stack([full_demand(drive.in_gear(s), speeds).force_n for s in gears])
    best = forces.argmax(axis=0)
    return Envelope(speeds, forces[best, np.arange(len(speeds))], np.asarray(gears, dtype=np.int64)[best])


def hub_free_kmh(rpm_per_v: float, volts: float, circumference_m: float) -> float:
    """Return the no-load road speed in km/h of a wheel-speed hub (identity).

    >>> round(hub_free_kmh(8.6, 48.0, 2.095))
    52
    """
    return rpm_per_v * volts * circumference_m * 60 / 1000


def planetary_ratio(ring_teeth: int, sun_teeth: int) -> float:
    """Return the ratio of a planetary gear, ring fixed, sun in, carrier out (source willis).

    >>> planetary_ratio(64, 8)
    9.0
    """
    require("ring_teeth", ring_teeth, 3, 400)
    require("sun_teeth", sun_teeth, 3, ring_teeth)
    return 1 + ring_teeth / sun_teeth


def effective_pole_pairs(magnet_count: int, ratio: float = 1.0) -> float:
    """Return electrical turns per measured turn: pole pairs × reduction (identity).

    >>> effective_pole_pairs(16, 9.0)
    72.0
    """
    return magnet_count / 2 * ratio
