"""Matching against published tables, independent integration and common-practice values."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS
from brightcore.errors import BikeError, RangeError
from brightcore.kinds.pack import PackSpec
from brightcore.matching import packs
from brightcore.matching.cost import Option, build_tally, cost_option
from brightcore.matching.drive import Drive, arrangement, at_force, drive_of, full_demand
from brightcore.matching.heat import climb_heat
from brightcore.matching.ranges import (
    ROUTES,
    Stretch,
    energy_per_km,
    flat_rule_km,
    range_three_ways,
)
from brightcore.matching.riding import (
    ROTATING_KG,
    Road,
    accelerate,
    most_chain_n,
    most_force_n,
    motor_rpm,
    rider_force_n,
    road_force_n,
    steepest_grade_ratio,
    top_speed_kmh,
)
from brightcore.physics import cells, copper
from brightcore.physics.air import air_density
from brightcore.physics.gauges import awg_area_mm2
from brightcore.physics.machine import effective_pole_pairs, hub_free_kmh, torque_per_a
from brightcore.physics.warming import warming_of
from brightcore.physics.wheels import planetary_ratio, wheel_circumference_mm

HUB = drive_of(PATTERNS["hub-conversion"][1]())


MID = drive_of(PATTERNS["mid-conversion"][1]())


class TableTest(TestCase):
    def test_awg_resistances_follow_astm_b258(self) -> None:
        """Ω/km of solid copper at 20 °C [std], the usual handbook figures derived from the
        standard's diameters."""
        for gauge, ohm in (
            (8, 2.061),
            (10, 3.277),
            (12, 5.211),
            (14, 8.285),
            (16, 13.17),
            (18, 20.95),
            (20, 33.31),
            (22, 52.96),
            (24, 84.2),
        ):
            with self.subTest(gauge):
                self.assertAlmostEqual(
                    copper.COPPER_OHM_M * 1e9 / awg_area_mm2(gauge) / ohm, 1.0, delta=0.002
                )

    def test_flexible_leads_follow_iec_60228(self) -> None:
        """Maximum Ω/km of class 5 copper [std][mem]: both wires of a lead, within 4 % (stranding
        differs by size)."""
        for area, ohm in (
            (0.75, 26.0),
            (1.5, 13.3),
            (2.5, 7.98),
            (4.0, 4.95),
            (6.0, 3.30),
            (10.0, 1.91),
        ):
            with self.subTest(area):
                self.assertAlmostEqual(copper.lead_ohm(1000 / 10, area) * 5 / ohm, 1.0, delta=0.04)

    def test_cell_volts_follow_the_published_curve(self) -> None:
        """Chen et al. (2020) [std]."""
        for charge, volts in (
            (0.0, 2.5),
            (0.05, 3.109),
            (0.3, 3.581),
            (0.5, 3.751),
            (0.8, 4.042),
            (1.0, 4.2),
        ):
            self.assertAlmostEqual(cells.open_circuit_v(charge), volts, places=6)
            self.assertAlmostEqual(cells.charge_from_v(volts), charge, places=6)

    def test_wheel_circumferences_follow_iso_5775(self) -> None:
        """Nominal circumference in mm [std]."""
        for width, seat, mm in (
            (47, 406, 1571),
            (50, 507, 1907),
            (54, 559, 2095),
            (57, 584, 2193),
            (47, 622, 2249),
            (47, 305, 1253),
            (60, 406, 1652),
        ):
            self.assertEqual(round(wheel_circumference_mm(seat, width)), mm)

    def test_air_follows_the_standard_atmosphere(self) -> None:
        """ISO 2533 densities [std]; those above sea level [mem]."""
        for metres, density in ((0, 1.225), (1000, 1.1117), (2000, 1.0066), (5000, 0.7364)):
            self.assertAlmostEqual(air_density(metres), density, delta=0.0006)

    def test_motor_identities(self) -> None:
        """Hanselman ch. 4 and the Willis equation [std]; the figures of the trade beside them
        [cp]."""
        self.assertAlmostEqual(torque_per_a(8.6) * 8.6 * 2 * math.pi / 60, 1.0)
        self.assertEqual(planetary_ratio(64, 8), 9.0)
        self.assertAlmostEqual(planetary_ratio(64, 8) * 80 / 25, 28.8)
        self.assertEqual((effective_pole_pairs(16, 9), effective_pole_pairs(22)), (72.0, 11.0))
        self.assertAlmostEqual(hub_free_kmh(8.6, 48, 2.0515), 51, delta=0.5)

    def test_rules_of_thumb_of_the_trade(self) -> None:
        """Common practice [cp], no source."""
        for volts, amp_hours, miles in ((48, 24, 46), (48, 12.5, 24), (48, 22.5, 43)):
            self.assertEqual(round(flat_rule_km(volts * amp_hours) / 1.609344), miles)
        pouch = PackSpec(series_count=6, chemistry="pouch", cell_v=3.8)
        self.assertAlmostEqual(pouch.full_v(), 25.2)
        self.assertAlmostEqual(pouch.nominal_v(), 22.2)
        lead = copper.lead_ohm(1.0, 2.5)
        self.assertAlmostEqual(30 * lead, 0.48, delta=0.02)
        self.assertAlmostEqual(900 * lead, 14, delta=0.5)
        fast = replace(HUB, pack_v=52.0, circumference_m=2.0515)  # 47-559
        gain_mph = (top_speed_kmh(fast) - top_speed_kmh(replace(fast, pack_v=48.0))) / 1.609344
        self.assertIn(round(gain_mph), (1, 2))
        self.assertEqual(packs.label_v(PackSpec()) * 12.5, 600)


BARE = replace(
    HUB,
    pack_v=48.0,
    pack_ohm=0.1,
    battery_limit_a=20.0,
    phase_limit_a=50.0,
    rpm_per_v=8.6,
    phase_ohm=0.15,
    gear_ratio=1.0,
    motor_count=1,
    circumference_m=2.1,
    mass_kg=100.0,
    drag_area_m2=0.6,
    rolling_ratio=0.008,
    rider_w=0.0,
)


"""A direct-drive hub of round figures, for what is worked out by hand below."""


class ReferenceTest(TestCase):
    """Force, heat and losses by hand from printed formulas; nothing of the code is used for
    them."""

    def test_road_force_of_round_figures(self) -> None:
        """Martin 1998: ½ρCdA v² + mg(Crr cos + sin) + bearings (91 + 8.7 v) mN, at 10 m/s [std]."""
        level = 0.5 * 1.225 * 0.6 * 100 + 100 * 9.80665 * 0.008 + 0.178
        self.assertAlmostEqual(float(road_force_n(BARE, 36.0, Road())), level, delta=0.02)
        steep = 0.5 * 1.225 * 0.6 * 100 + 980.665 * (0.008 * 0.99504 + 0.0995) + 0.178
        self.assertAlmostEqual(float(road_force_n(BARE, 36.0, Road(0.1))), steep, delta=0.1)
        against = 0.5 * 1.225 * 0.6 * 225 + 7.845 + 0.178
        self.assertAlmostEqual(
            float(road_force_n(BARE, 36.0, Road(0.0, 18.0))), against, delta=0.05
        )

    def test_wheel_force_at_the_phase_limit(self) -> None:
        """Hanselman ch. 4: Kt = 60 ÷ 2π ÷ Kv; 50 A less 5 % of 500 W at 24 V, over C ÷ 2π [std]."""
        kt = 9.5493 / 8.6
        radius_m = 2.1 / 6.28319
        found = full_demand(BARE, 0.0)
        self.assertAlmostEqual(float(found.phase_a[0]), 50.0)
        self.assertAlmostEqual(float(found.force_n[0]), (50 - 25 / 24) * kt / radius_m, delta=0.1)

    def test_power_balance_of_the_machine(self) -> None:
        """P = E·I + I²·R with 0.15 Ω of winding and 12 mΩ of controller; E = n ÷ Kv [std,
        controller cp]."""
        for speed in (10.0, 25.0, 36.0):
            found = full_demand(BARE, speed)
            emf = speed / 3.6 / 2.1 * 60 / 8.6
            phase = float(found.phase_a[0])
            power = float(found.battery_a[0] * found.battery_v[0])
            self.assertAlmostEqual(power, emf * phase + phase**2 * 0.162, delta=0.01 * power)
            self.assertAlmostEqual(
                float(found.battery_v[0]), 48.0 - 0.1 * float(found.battery_a[0]), delta=0.05
            )
            loss = phase**2 * 0.012 + 0.02 * power
            self.assertAlmostEqual(float(found.controller_w[0]), loss, delta=0.02 * loss)

    def test_a_force_takes_the_current_that_gives_it(self) -> None:
        found = at_force(BARE, 25.0, 60.0)
        phase = 60.0 * (2.1 / 6.28319) / (9.5493 / 8.6) + 25 / 24
        self.assertAlmostEqual(float(found.phase_a[0]), phase, delta=0.02)

    def test_turning_wheels_weigh_as_if_they_were_heavier(self) -> None:
        """Two rims and tyres of about 0.7 kg count twice, 1.4 kg more than they weigh [cp]."""
        light, heavy = (accelerate(replace(BARE, mass_kg=m), 15.0) for m in (50.0, 100.0))
        roll = 9.80665 * 0.008
        gives = float(np.mean(full_demand(BARE, np.linspace(0, 15, 50)).force_n))
        ratio = (101.4 / (gives - 100 * roll)) / (51.4 / (gives - 50 * roll))
        self.assertAlmostEqual(heavy.seconds / light.seconds, ratio, delta=0.006)


class IntegrationTest(TestCase):
    """The same equations of motion, integrated by scipy's solve_ivp instead of our own formulas
    [lib]."""

    def final(self, drive: Drive, road: Road, seconds: float) -> tuple[np.ndarray, np.ndarray]:
        def motion(_t: float, state: np.ndarray) -> list[float]:
            speed = max(state[0], 0.0) * 3.6
            force = (
                most_force_n(drive, speed)
                + float(rider_force_n(drive, speed))
                - float(road_force_n(drive, speed, road))
            )
            return [force / (drive.mass_kg + ROTATING_KG), state[0]]

        found = solve_ivp(motion, (0, seconds), [0.0, 0.0], max_step=0.2, rtol=1e-7)
        return found.t, found.y

    def test_acceleration_takes_as_long_as_the_motion(self) -> None:
        for drive in (HUB, MID):
            t, state = self.final(drive, Road(), 20)
            when = float(np.interp(20 / 3.6, state[0], t))
            found = accelerate(drive, 20.0)
            self.assertAlmostEqual(found.seconds, when, delta=0.05)
            self.assertAlmostEqual(found.metres, float(np.interp(when, t, state[1])), delta=0.3)

    def test_winding_temperature_follows_the_same_equation(self) -> None:
        road, minutes = Road(0.05), 12.0
        found = climb_heat(HUB, road, minutes)
        warming = warming_of(HUB.rated_w)
        emf = found.speed_kmh / 3.6 / HUB.circumference_m * 60 / HUB.rpm_per_v
        need = float(road_force_n(HUB, found.speed_kmh, road))
        gear = need * found.speed_kmh / 3.6 * (1 / 0.97 - 1)
        iron = 0.05 * HUB.rated_w * emf / 24 + gear

        def heating(_t: float, temperature: np.ndarray) -> list[float]:
            copper = found.phase_a**2 * HUB.phase_ohm * (1 + 0.00393 * (temperature[0] - 20))
            return [(copper + iron - (temperature[0] - 20) / warming.k_per_w) / warming.j_per_k]

        end = solve_ivp(heating, (0, minutes * 60), [20.0], rtol=1e-8).y[0, -1]
        self.assertAlmostEqual(float(found.winding_c[-1]), float(end), delta=1.0)

    def test_energy_on_a_flat_stretch_is_power_over_speed(self) -> None:
        need = float(road_force_n(HUB, 22.0, Road()))
        at = at_force(HUB, 22.0, need, 40.0)
        by_hand = (
            float(at.battery_a[0]) * float(at.battery_v[0])
            + float(at.controller_w[0])
            + HUB.standby_w
        ) / 22.0
        self.assertAlmostEqual(energy_per_km(HUB, (Stretch(7.0),)), by_hand, places=9)
        self.assertGreater(by_hand, need * 1000 / 3600)

    def test_equalising_packs_meet_in_the_middle(self) -> None:
        """Charge moved in small steps until the open-circuit volts agree; heat is the area between
        the curves."""
        one, two = PackSpec(cell_v=3.95, capacity_ah=14.0), PackSpec(cell_v=3.75, capacity_ah=10.0)
        a, b, moved, heat = (cells.charge_from_v(3.95), cells.charge_from_v(3.75), 0.0, 0.0)
        step = 0.001
        while (gap := 13 * (cells.open_circuit_v(a) - cells.open_circuit_v(b))) > 0:
            a, b, moved, heat = a - step / 14, b + step / 10, moved + step, heat + gap * step
        found = packs.equalise(one, two)
        self.assertAlmostEqual(found.moved_ah / moved, 1.0, delta=0.12)
        self.assertAlmostEqual(found.heat_wh / heat, 1.0, delta=0.15)
        self.assertAlmostEqual(found.current_a, 2.6 / 0.23, delta=0.01)


class DriveTest(TestCase):
    def test_limits_hold_over_the_whole_range(self) -> None:
        for drive in (HUB, MID, drive_of(PATTERNS["two-motor-cart"][1]())):
            found = full_demand(drive, np.linspace(0, 60, 121))
            self.assertLessEqual(float(found.phase_a.max()), drive.phase_limit_a + 1e-6)
            self.assertLessEqual(float(found.battery_a.max()), drive.battery_limit_a * 1.002)
            self.assertTrue(np.isfinite(found.force_n).all())
            power_in = found.battery_a * found.battery_v
            self.assertTrue((found.output_w <= power_in + 1e-6).all())

    def test_mid_drives_climb_by_gear_and_hubs_do_not(self) -> None:
        self.assertGreater(
            steepest_grade_ratio(MID, 0.0), steepest_grade_ratio(MID.in_gear(11), 8.0) * 0.9
        )
        self.assertEqual(most_chain_n(HUB), 0.0)
        self.assertGreater(most_chain_n(MID), 300)
        self.assertAlmostEqual(
            motor_rpm(MID, 25.0) / motor_rpm(MID.in_gear(32), 25.0), MID.sprocket / 32
        )

    @settings(max_examples=25, deadline=None)
    @given(st.floats(60, 250), st.floats(0, 0.08), st.floats(0, 30))
    def test_more_weight_hill_or_wind_never_makes_it_faster(
        self, mass: float, grade: float, wind: float
    ) -> None:
        heavy = replace(HUB, mass_kg=mass)
        speed = top_speed_kmh(heavy, Road(grade, wind))
        self.assertLessEqual(
            top_speed_kmh(replace(heavy, mass_kg=mass + 20), Road(grade, wind)), speed + 1e-9
        )
        self.assertLessEqual(top_speed_kmh(heavy, Road(grade + 0.02, wind)), speed + 1e-9)
        self.assertLessEqual(top_speed_kmh(heavy, Road(grade, wind + 5)), speed + 1e-9)
        self.assertTrue(0 <= speed <= 110)

    def test_range_three_ways(self) -> None:
        found = range_three_ways(HUB, ROUTES["flat"], log_km=20.0, log_ah=5.0)
        self.assertAlmostEqual(found.own_log_km or 0, 4.0 * 14.0 * 0.9)
        self.assertAlmostEqual(found.own_wh_per_km or 0, HUB.energy_wh / 14.0 / 4.0)
        self.assertGreater(found.motor_km or 0, found.flat_rule_km)
        self.assertLess(range_three_ways(HUB, ROUTES["hills"]).motor_km or 0, found.motor_km or 0)
        self.assertIsNone(found.shared_km)
        pedalled = range_three_ways(replace(HUB, rider_w=60.0), ROUTES["flat"])
        self.assertGreater(pedalled.shared_km or 0, 1.3 * (found.motor_km or 0))
        self.assertAlmostEqual(
            pedalled.rider_ratio, 60 * 0.976 / (22 / 3.6) / float(road_force_n(HUB, 22.0, Road()))
        )
        strong = range_three_ways(replace(HUB, rider_w=600.0), ROUTES["flat"])
        self.assertLess(strong.shared_wh_per_km or 9, 4.0)
        self.assertAlmostEqual(strong.shared_km or 0, HUB.energy_wh * 0.9 / 4.0)

    def test_a_bike_without_a_wheel_or_weight_is_refused_by_name(self) -> None:
        bike = PATTERNS["hub-conversion"][1]()
        for change, field in (
            ({"bead_seat_mm": 0.0, "tyre_width_mm": 0.0}, "wheel_circumference_mm"),
            ({"bike_mass_kg": 0.0, "load_mass_kg": 0.0}, "mass_kg"),
        ):
            with self.assertRaises(RangeError) as caught:
                drive_of(replace(bike, info=replace(bike.info, **change)))
            self.assertEqual(caught.exception.field, field)

    def test_packs_in_series_add_volts(self) -> None:
        bike = PATTERNS["two-packs"][1]()
        self.assertEqual(arrangement(bike), "combiner")
        self.assertAlmostEqual(drive_of(bike).capacity_ah, 24.0)
        with self.assertRaises(BikeError):
            drive_of(Bike("x", bike.info, (), ()))


IMPOSSIBLE = (
    lambda: cells.open_circuit_v(1.2),
    lambda: cells.open_circuit_v(0.5, "lead"),
    lambda: packs.internal_ohm(48, 1, 47, 1.1),
    lambda: packs.internal_ohm(48, 1, 49, 20),
    lambda: copper.lead_ohm(-1, 2.5),
    lambda: packs.charge_hours(14, 0),
    lambda: packs.discharge_capacity([0, 1], [48], [1, 1], 14),
    lambda: packs.discharge_capacity([0, 0], [48, 48], [1, 1], 14),
    lambda: packs.discharge_capacity([0, 3600], [48, 48], [-1, -1], 14),
    lambda: packs.discharge_capacity([0, math.nan], [48, 48], [1, 1], 14),
    lambda: Road(0.9),
    lambda: Road(0.0, 200.0),
    lambda: Stretch(-1.0),
    lambda: Stretch(1.0, 0.0, 0.0),
    lambda: air_density(20_000),
    lambda: accelerate(HUB, 0.0),
    lambda: climb_heat(HUB, Road(0.35), 10),
    lambda: climb_heat(HUB, Road(0.05), 0.0),
    lambda: full_demand(HUB, 200.0),
    lambda: planetary_ratio(8, 64),
    lambda: copper.lead_ohm(1, 0.0),
    lambda: range_three_ways(HUB, ROUTES["flat"], log_km=5.0, log_ah=99.0),
    lambda: cost_option(Option("x", "x", -1.0, 1, 1, 0, "", ""), 60),
    lambda: cost_option(Option("x", "x", 1.0, 1, 0, 0, "", ""), 60),
    lambda: build_tally((("pack", -3.0),), 10, 60),
)


class ErrorTest(TestCase):
    def test_impossible_input_gives_a_named_error_and_never_a_number(self) -> None:
        for k, call in enumerate(IMPOSSIBLE):
            with self.subTest(k), self.assertRaises(RangeError) as caught:
                call()
            self.assertTrue(caught.exception.field)
