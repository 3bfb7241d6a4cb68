"""What Match tells of riding, beside a motion and a machine of this file's own [lib].

Nothing of the drive's computation is used: volts, currents, force, heat and hill are worked out
here from the numbers of the drive alone, solved by scipy's `brentq` and `solve_ivp`.
"""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from brightcore.describing.patterns import make_pattern
from brightcore.matching.drive import Drive, drive_of
from brightcore.matching.heat import climb_heat, stall_heat
from brightcore.matching.riding import (
    Road,
    most_chain_n,
    most_force_n,
    steepest_grade_ratio,
    steepest_start_ratio,
    top_speed_kmh,
)
from tests.bikes import demo_bike

COPPER_PER_K = 0.00393
CONTROLLER_OHM = 0.012
"""What a controller's switches have in the phase path, as the drive takes them."""


def phase_current(drive: Drive, emf: float, ohm: float) -> float:
    """Return the most phase amps at a back-EMF, by bisection instead of a formula."""
    each = drive.battery_limit_a / drive.motor_count
    over = (drive.pack_v - drive.low_cutoff_v) / drive.pack_ohm / drive.motor_count

    def battery_a(phase: float) -> float:
        power = (emf + phase * ohm) * phase
        # pack volts under load: V·I = P with V = V0 − R·n·I, the upper of both roots
        load = drive.pack_ohm * drive.motor_count
        root = drive.pack_v**2 - 4 * load * power
        return (drive.pack_v - math.sqrt(root)) / (2 * load) if root >= 0 else math.inf

    def room(phase: float) -> float:
        drawn = battery_a(phase)
        volts = drive.pack_v - drive.pack_ohm * drive.motor_count * drawn
        return min(min(each, over) - drawn, volts - emf - phase * ohm)

    if room(0.0) <= 0:
        return 0.0
    if room(drive.phase_limit_a) >= 0:
        return drive.phase_limit_a
    return float(brentq(room, 0.0, drive.phase_limit_a, xtol=1e-6))


def force_n(drive: Drive, kmh: float) -> float:
    """Return the force at the wheel in the strongest sprocket."""
    found = []
    for sprocket in drive.gears:
        ratio = drive.gear_ratio * sprocket / drive.chain_ring_teeth if drive.is_mid else 1.0
        rpm = kmh / 3.6 / drive.circumference_m * 60 * ratio
        emf = rpm / drive.rpm_per_v
        phase = phase_current(drive, emf, drive.phase_ohm + CONTROLLER_OHM)
        kt = 60 / (2 * math.pi * drive.rpm_per_v)
        shaft = max(phase - drive.no_load_a, 0.0) * kt * drive.motor_count
        wheel = shaft * ratio * drive.efficiency_ratio
        found.append(wheel / (drive.circumference_m / (2 * math.pi)))
    if drive.limit_kmh and kmh > drive.limit_kmh:
        return 0.0
    return max(found)


def road_n(drive: Drive, kmh: float, grade: float) -> float:
    """Return what air at sea level and 15 °C, tyres, bearings and slope ask for."""
    v, angle = kmh / 3.6, math.atan(grade)
    air = 0.5 * 1.225 * drive.drag_area_m2 * v * v
    weight = drive.mass_kg * 9.80665
    rolling = weight * drive.rolling_ratio * math.cos(angle)
    return air + rolling + weight * math.sin(angle) + (91 + 8.7 * v) * 1e-3


def rider_n(drive: Drive, kmh: float) -> float:
    return drive.rider_w * 0.976 / max(kmh / 3.6, 2.0)


def settles_kmh(drive: Drive, grade: float, seconds: float = 200.0) -> float:
    """Return the speed after a ride from standstill; rolling back is held by the brake."""

    def motion(_t: float, state: np.ndarray) -> list[float]:
        kmh = max(state[0], 0.0) * 3.6
        net = force_n(drive, kmh) + rider_n(drive, kmh) - road_n(drive, kmh, grade)
        held = state[0] <= 0 and net < 0
        return [0.0 if held else net / (drive.mass_kg + 1.4)]

    end = solve_ivp(motion, (0, seconds), [0.0], max_step=5.0, rtol=1e-4, atol=1e-4)
    return float(end.y[0, -1]) * 3.6


def drives() -> dict[str, Drive]:
    hub = drive_of(demo_bike("fern"))
    mid = drive_of(make_pattern("mid-conversion", "m"))
    return {
        "hub": hub,
        "hub in a 12-inch wheel": replace(hub, circumference_m=0.94, limit_kmh=0.0),
        "hub in a 16-inch wheel": replace(hub, circumference_m=1.25, limit_kmh=0.0),
        "weak pack": replace(hub, pack_ohm=0.3, limit_kmh=0.0),
        "mid": mid,
        "mid kept in its smallest": replace(mid, kept_sprocket=mid.sprocket_teeth[0]),
        "mid kept in its largest": replace(mid, kept_sprocket=mid.sprocket_teeth[-1]),
        "loaded": replace(hub, mass_kg=220.0, rider_w=100.0),
    }


class OwnIntegrationTest(TestCase):
    def test_top_speed_is_where_a_ride_settles(self) -> None:
        for name, drive in drives().items():
            for grade in (0.0, 0.05):
                with self.subTest(name, grade=grade):
                    own = settles_kmh(drive, grade)
                    self.assertAlmostEqual(
                        top_speed_kmh(drive, Road(grade)), own, delta=0.02 * own + 0.1
                    )

    def test_force_is_that_of_a_machine_solved_by_bisection(self) -> None:
        for name, drive in drives().items():
            for kmh in (0.0, 3.3, 11.2, 16.7):
                with self.subTest(name, kmh=kmh):
                    self.assertAlmostEqual(most_force_n(drive, kmh), force_n(drive, kmh), delta=1.5)

    def test_it_starts_just_below_its_steepest_hill_and_not_above(self) -> None:
        for name, drive in drives().items():
            most = steepest_start_ratio(drive)
            if most >= 0.4:
                self.assertGreater(settles_kmh(drive, 0.39, 60.0), 3.0, name)
                continue
            with self.subTest(name, most=most):
                self.assertGreater(settles_kmh(drive, most - 0.004, 60.0), 4.9)
                self.assertLess(settles_kmh(drive, most + 0.004, 60.0), 5.0)

    def test_the_steepest_hill_at_a_speed_balances_there(self) -> None:
        for name, drive in drives().items():
            most = steepest_grade_ratio(drive, 10.0)
            if not 0 < most < 0.4:
                continue
            with self.subTest(name):
                left = force_n(drive, 10.0) + rider_n(drive, 10.0)
                self.assertAlmostEqual(road_n(drive, 10.0, most), left, delta=2.0)

    def test_the_chain_is_pulled_most_by_the_whole_phase_current(self) -> None:
        """Torque of the motor's shaft times its reduction over the radius of the chain ring."""
        mid = drives()["mid"]
        kt = 60 / (2 * math.pi * mid.rpm_per_v)
        phase = max(phase_current(mid, emf, mid.phase_ohm + CONTROLLER_OHM) for emf in (0.0, 1.0))
        inner = mid.efficiency_ratio
        torque = (phase - mid.no_load_a) * kt * mid.gear_ratio * inner
        radius = mid.chain_ring_teeth * 0.0127 / (2 * math.pi)
        self.assertAlmostEqual(most_chain_n(mid), torque / radius, delta=0.02 * torque / radius)
        self.assertEqual(most_chain_n(drives()["hub"]), 0.0)

    def test_a_stalled_winding_warms_as_copper_alone(self) -> None:
        """m·c of the copper by the rule of 18 A by the root of the ohms for a minute and 75 K."""
        hub = drives()["hub"]
        phase = phase_current(hub, 0.0, hub.phase_ohm + CONTROLLER_OHM)
        held = 324.0 * 60 / 75

        def heating(_t: float, t: np.ndarray) -> list[float]:
            return [phase**2 * hub.phase_ohm * (1 + COPPER_PER_K * (t[0] - 20)) / held]

        def at_95(_t: float, t: np.ndarray) -> float:
            return float(t[0] - 95.0)

        found = solve_ivp(heating, (0, 4000), [20.0], events=at_95, max_step=2.0)
        own = float(found.t_events[0][0])
        self.assertAlmostEqual(stall_heat(hub).roll_back_s, own, delta=0.03 * own)
        self.assertGreater(stall_heat(hub).harm_s, stall_heat(hub).roll_back_s)

    def test_a_climb_that_overheats_ends_there_and_says_when(self) -> None:
        heavy = replace(drives()["hub"], mass_kg=150.0, rider_w=0.0)
        speed = top_speed_kmh(heavy, Road(0.07))
        self.assertGreater(speed, 0.0)
        heat = climb_heat(heavy, Road(0.07), 240.0, 0.6 * speed)
        self.assertIsNotNone(heat.stop_min)
        self.assertLess(heat.roll_back_min or 0, heat.stop_min or 0)
        self.assertLess(float(heat.winding_c[-1]), 140.0)
