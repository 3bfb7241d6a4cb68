"""One drive as numbers: pack, limits, motor, gearing and bike; and the force it gives at the wheel.

The motor is the equivalent DC machine (source hanselman): Kt = 60/(2π·Kv), R between two phases.
The controller is a lossless converter with a battery-side and a phase-side current limit, plus its
own conduction loss. Validity: motoring, below field weakening.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from brightcore.analysis.loads import battery_limit_a, phase_limit_a
from brightcore.analysis.strings import in_series
from brightcore.bike.measured import circumference_mm
from brightcore.bike.model import Bike, Part
from brightcore.errors import BikeError, require
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Draw
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.mid_motor import MidMotorSpec
from brightcore.kinds.select import combiners, controllers, displays, motors, packs
from brightcore.matching.packs import label_v
from brightcore.physics.copper import warmed_ratio
from brightcore.physics.machine import torque_per_a
from brightcore.physics.wheels import wheel_rpm
from brightcore.simulation.supply import supplies

Floats = NDArray[np.float64]

IRON_RATIO, IRON_V = 0.05, 24.0
"""Loss without load as a share of printed watts while the back-EMF is so many volts; it grows with
the turns, so it is a constant drag (common practice)."""

REDUCTION_RATIO = {1: 0.97, 2: 0.93}
"""Efficiency of a hub's inner gear and of a mid drive's reduction (common practice)."""

CHAIN_EFFICIENCY = 0.976
"""Chain drive (source martin-1998)."""

CONTROLLER_OHM = 0.012
"""Conduction resistance of a controller in the phase path (common practice)."""

CONTROLLER_RATIO = 0.02
"""Share of its power that a controller loses besides conduction (common practice)."""

TYRES = {"smooth": 0.006, "touring": 0.008, "knobbly": 0.012, "cart": 0.018}
DRAG_AREA_M2 = {"racing": 0.35, "upright": 0.6, "cargo": 0.8, "recumbent": 0.35, "cart": 0.9}
"""Rolling coefficients and drag areas by kind of bike (source wilson)."""


@dataclass(frozen=True, slots=True)
class Drive:
    """Everything that decides how a bike goes. `motor_per_wheel_ratio` is motor turns per wheel
    turn.

    `kept_sprocket`: the rear sprocket it stays in, 0 for the best at each speed; `limit_kmh`: where
    assistance ends, 0 for nowhere; `standby_w`: what controllers and display take; `label_wh`:
    energy by the printed volts, `energy_wh` by the cells.
    """

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
    kept_sprocket: int = 0
    rider_w: float = 0.0
    limit_kmh: float = 0.0
    standby_w: float = 0.0
    label_wh: float = 0.0

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
        if self.gear_ratio > 1.0:
            return REDUCTION_RATIO[1]
        return 1.0

    @property
    def no_load_a(self) -> float:
        """Phase current in A that turns the motor without load."""
        return IRON_RATIO * self.rated_w / IRON_V

    @property
    def gears(self) -> tuple[int, ...]:
        """The sprockets to choose from: the one it stays in, or all; (0,) where it has no chain."""
        if self.kept_sprocket:
            return (self.kept_sprocket,)
        return self.sprocket_teeth or (0,)

    def in_gear(self, sprocket: int) -> "Drive":
        """Return the drive in another rear sprocket; the same where it has no chain."""
        if self.is_mid:
            return replace(self, sprocket=sprocket)
        return self


def drive_of(bike: Bike, name: str = "") -> Drive:
    """Return the drive of a bike as described, its packs as they were found.

    Raises BikeError where pack, controller or motor is missing, RangeError for no wheel.
    """
    feeding, driving, turning = packs(bike), controllers(bike), motors(bike)
    if not (feeding and driving and turning):
        raise BikeError("to say what a bike will do it needs a pack, a controller and a motor")
    controller, motor = driving[0], turning[0].spec
    count = min(len(turning), len(driving)) or 1
    series = arrangement(bike) == "series"
    pack_v, pack_ohm = _fed(bike, controller, count)
    amp_hours = [p.spec.capacity_ah for p in feeding]
    round_mm = circumference_mm(bike)
    require("wheel_circumference_mm", round_mm, 300.0, 4000.0, "mm")
    mass = bike.info.bike_mass_kg + bike.info.load_mass_kg
    require("mass_kg", mass, 5.0, 1500.0, "kg")
    if isinstance(motor, MidMotorSpec):
        sprockets = tuple(sorted(motor.sprocket_teeth))
    else:
        sprockets = ()
    return Drive(
        name=name or bike.info.label,
        pack_v=pack_v,
        pack_ohm=pack_ohm,
        energy_wh=sum(p.spec.energy_wh() for p in feeding),
        capacity_ah=min(amp_hours) if series else sum(amp_hours),
        battery_limit_a=sum(battery_limit_a(bike, c) for c in driving[:count]),
        phase_limit_a=phase_limit_a(bike, controller),
        low_cutoff_v=bike.setting(controller.id, "low_cutoff_v", controller.spec.low_cutoff_v),
        rpm_per_v=motor.rpm_per_v,
        phase_ohm=motor.phase_ohm,
        gear_ratio=motor.gear_ratio,
        rated_w=motor.rated_w,
        motor_count=count,
        circumference_m=round_mm / 1000,
        mass_kg=mass,
        chain_ring_teeth=motor.chain_ring_teeth if isinstance(motor, MidMotorSpec) else 0,
        sprocket_teeth=sprockets,
        sprocket=sprockets[len(sprockets) // 2] if sprockets else 0,
        limit_kmh=bike.info.speed_limit_kmh,
        standby_w=pack_v
        * sum(draw.ampere for part in (*driving, *displays(bike)) for draw in _own(part)),
        label_wh=sum(p.spec.capacity_ah * label_v(p.spec) for p in feeding),
    )


def _own(part: Part) -> Iterator[Draw]:
    """Yield what a part takes itself, without what hangs on its outputs."""
    return (draw for draw in REGISTRY[part.kind].draws(part) if not draw.passes)


def _fed(bike: Bike, controller: Part[ControllerSpec], count: int) -> tuple[float, float]:
    """Return (volts at rest, resistance to all drives together) at a controller, from the circuit.

    Where no pack reaches it yet, as if the packs were connected by leads without resistance.
    """
    supply = supplies(bike).get(controller.id)
    if supply is not None:
        return supply.found_v, supply.ohm / count
    series = arrangement(bike) == "series"
    volts = [pack.spec.resting_v() for pack in packs(bike)]
    ohms = [pack.spec.internal_ohm for pack in packs(bike)]
    if series:
        return sum(volts), sum(ohms)
    if combiners(bike):
        # A combining module lets one pack carry at a time.
        return max(volts), max(ohms)
    return max(volts), 1 / sum(1 / ohm for ohm in ohms)


def arrangement(bike: Bike) -> str:
    """Return how several packs stand: `one`, `combiner`, `series`, `parallel` or `apart`."""
    several = packs(bike)
    if len(several) < 2:
        return "one"
    if combiners(bike):
        return "combiner"
    if in_series(bike):
        return "series"
    if all(any(bike.joins_of(pack.id)) for pack in several):
        return "parallel"
    return "apart"


@dataclass(frozen=True)
class Working:
    """The drive at full demand over speeds [N]: wheel force, motor and battery current, losses,
    battery volts."""

    force_n: Floats
    phase_a: Floats
    battery_a: Floats
    battery_v: Floats
    controller_w: Floats
    output_w: Floats


def full_demand(
    drive: Drive, speed_kmh: Floats | float, winding_c: float = 20.0, throttle: float = 1.0
) -> Working:
    """Return what the drive gives at full demand (or a share of its currents) at road speeds in
    km/h.

    Raises RangeError for speeds outside 0–120 km/h.
    """
    v = np.atleast_1d(np.asarray(speed_kmh, dtype=float)) / 3.6
    require("speed_kmh", float(v.max() * 3.6) if len(v) else 0.0, 0.0, 120.0, "km/h")
    emf = v / drive.circumference_m * 60 * drive.motor_per_wheel_ratio / drive.rpm_per_v
    ohm = drive.phase_ohm * warmed_ratio(winding_c) + CONTROLLER_OHM
    each_a = min(drive.battery_limit_a, _above_cutoff_a(drive)) / drive.motor_count * throttle
    phase_limit = drive.phase_limit_a * throttle
    volts = np.full_like(v, max(drive.pack_v, 1.0))
    phase, battery = np.zeros_like(v), np.zeros_like(v)
    for _ in range(12):
        by_battery = (-emf + np.sqrt(emf**2 + 4 * ohm * volts * each_a)) / (2 * ohm)
        phase = np.maximum(
            np.minimum(np.minimum(phase_limit, by_battery), (volts - emf) / ohm), 0.0
        )
        battery = (emf + phase * ohm) * phase / volts
        volts = 0.5 * volts + 0.5 * np.maximum(
            drive.pack_v - drive.pack_ohm * battery * drive.motor_count, 1.0
        )
    kt = torque_per_a(drive.rpm_per_v)
    motor_nm = np.maximum(kt * (phase - drive.no_load_a), 0.0)
    wheel_nm = motor_nm * drive.motor_per_wheel_ratio * drive.efficiency_ratio * drive.motor_count
    force = wheel_nm * 2 * math.pi / drive.circumference_m
    if drive.limit_kmh:
        force = np.where(v * 3.6 > drive.limit_kmh, 0.0, force)
    return Working(
        force,
        phase,
        battery * drive.motor_count,
        volts,
        phase**2 * CONTROLLER_OHM + CONTROLLER_RATIO * battery * volts,
        force * v,
    )


def _above_cutoff_a(drive: Drive) -> float:
    """Return the battery current in A that brings the volts at the controller down to its
    cut-off."""
    return max((drive.pack_v - drive.low_cutoff_v) / drive.pack_ohm, 0.0)


def emf_v(drive: Drive, speed_kmh: float) -> float:
    """Return the back-EMF of a motor in V at a road speed."""
    return (
        wheel_rpm(speed_kmh, drive.circumference_m) * drive.motor_per_wheel_ratio / drive.rpm_per_v
    )


def at_force(drive: Drive, speed_kmh: float, force_n: float, winding_c: float = 20.0) -> Working:
    """Return what the drive does to give a force in N at a speed; limits are not looked at (see
    `Envelope`)."""
    v = speed_kmh / 3.6
    ratio = drive.motor_per_wheel_ratio
    emf = emf_v(drive, speed_kmh)
    ohm = drive.phase_ohm * warmed_ratio(winding_c) + CONTROLLER_OHM
    wheel_nm = max(force_n, 0.0) * drive.circumference_m / (2 * math.pi)
    phase = (
        wheel_nm
        / (torque_per_a(drive.rpm_per_v) * ratio * drive.efficiency_ratio * drive.motor_count)
        + drive.no_load_a
    )
    power = (emf + phase * ohm) * phase * drive.motor_count
    volts = max(drive.pack_v, 1.0)
    for _ in range(12):
        volts = max(0.5 * volts + 0.5 * (drive.pack_v - drive.pack_ohm * power / volts), 1.0)
    battery = power / volts
    one = np.ones(1)
    control = phase**2 * CONTROLLER_OHM + CONTROLLER_RATIO * power / drive.motor_count
    return Working(
        force_n * one, phase * one, battery * one, volts * one, control * one, force_n * v * one
    )


@dataclass(frozen=True)
class Envelope:
    """The most a drive gives over speed [N], each speed in its best gear."""

    speed_kmh: Floats
    force_n: Floats
    sprocket: NDArray[np.int64]


@lru_cache(maxsize=512)
def envelope(drive: Drive) -> Envelope:
    """Return the envelope of a drive from 0 to 110 km/h in steps of 0.5 km/h."""
    speeds = np.arange(0.0, 110.5, 0.5)
    gears = drive.gears
    forces = np.stack([full_demand(drive.in_gear(s), speeds).force_n for s in gears])
    best = forces.argmax(axis=0)
    return Envelope(
        speeds, forces[best, np.arange(len(speeds))], np.asarray(gears, dtype=np.int64)[best]
    )
