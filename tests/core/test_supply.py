"""What a controller gets from the packs, what the motor stands, and what riding makes of it."""

import math
from dataclasses import replace
from unittest import TestCase

from brightcore.analysis.lead import leads
from brightcore.analysis.strings import strings
from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import controllers, is_pedalled, packs, pedals_unknown
from brightcore.matching.chain import current_chain, volt_windows
from brightcore.matching.drive import drive_of, full_demand
from brightcore.matching.heat import climb_heat
from brightcore.matching.packs import charge_at_v, equalise
from brightcore.matching.ranges import ROUTES, at_cruise, range_three_ways
from brightcore.matching.riding import Road, top_speed_kmh
from brightcore.matching.rules import match_findings
from brightcore.physics.cells import open_circuit_v
from brightcore.physics.contacts import GOOD_POWER_OHM
from brightcore.physics.copper import wire_ohm
from brightcore.physics.warming import warming_of
from brightcore.programming.derive import derive_settings
from brightcore.simulation.supply import supplies
from brightcore.wiring.rules import check_bike
from tests.bikes import with_spec
from tests.core.test_strings import string_bike

HUB = "hub-conversion"


def hub(part: str = "pack", **spec: object) -> Bike:
    return with_spec(make_pattern(HUB, "x"), part, **spec)


class SupplyTest(TestCase):
    def test_volts_at_the_controller_are_those_of_the_packs_at_every_charge(self) -> None:
        for name in PATTERNS:
            bike = make_pattern(name, name)
            spec: PackSpec = packs(bike)[0].spec
            count = max(len(string) for string in strings(bike))
            for controller in controllers(bike):
                with self.subTest(name, controller=controller.name):
                    found = supplies(bike)[controller.id]
                    for got, wanted in (
                        (found.full_v, spec.full_v()),
                        (found.nominal_v, spec.nominal_v()),
                        (found.empty_v, spec.empty_v()),
                        (found.found_v, spec.resting_v()),
                    ):
                        self.assertAlmostEqual(got / wanted / count, 1.0, delta=0.001)

    def test_the_way_is_the_sum_of_what_lies_on_it(self) -> None:
        """Cells and board, fuse and switch as the pack has them; the lead both ways; four
        contacts."""
        bike = make_pattern(HUB, "x")
        lead = bike.part("main_lead").spec
        inside = 0.11 + 0.010 + 0.003 + 0.004
        wires = 2 * wire_ohm(lead.length_m, lead.area_mm2)  # type: ignore[attr-defined]
        self.assertAlmostEqual(
            supplies(bike)["controller"].ohm, inside + wires + 4 * GOOD_POWER_OHM, delta=0.002
        )

    def test_a_string_gives_its_sum_and_an_open_lead_nothing(self) -> None:
        found = supplies(string_bike())
        self.assertAlmostEqual(found["controller"].full_v, 84.0, delta=0.05)
        bike = make_pattern(HUB, "x")
        lead = next(j for j in bike.joins if "pack" in dict(j.sides()))
        bare = remove_join(bike, lead.id)
        self.assertEqual(supplies(bare), {})
        self.assertAlmostEqual(drive_of(bare).pack_ohm, 0.11)
        self.assertFalse(volt_windows(bare)[0].connected)

    def test_two_controllers_share_the_drop(self) -> None:
        """Each drawing 15 A, the pack carries 30: twice the volts of one alone are lost in it."""
        cart = make_pattern("two-motor-cart", "x")
        left, right = supplies(cart).values()
        self.assertAlmostEqual(left.ohm, right.ohm, places=3)
        self.assertGreater(left.ohm, 2 * packs(cart)[0].spec.internal_ohm)
        self.assertAlmostEqual(drive_of(cart).pack_ohm, left.ohm / 2)

    def test_a_lead_is_the_way_of_the_current_not_every_lead(self) -> None:
        bike = make_pattern(HUB, "x")
        spec = bike.part("main_lead").spec
        lead = leads(bike)["controller"]
        self.assertEqual((lead.length_m, lead.area_mm2), (spec.length_m, spec.area_mm2))  # type: ignore[attr-defined]
        drop = 20 * 2 * wire_ohm(lead.length_m, lead.area_mm2)
        self.assertAlmostEqual(lead.drop_v, drop, places=6)
        self.assertAlmostEqual(lead.heat_w, 20 * drop, places=6)
        cart = leads(make_pattern("two-motor-cart", "x"))
        self.assertEqual(len(cart), 2)
        self.assertAlmostEqual(cart["controller_left"].length_m, cart["controller_right"].length_m)

    def test_it_cuts_out_where_sag_meets_the_cut_off(self) -> None:
        window = volt_windows(hub("controller", low_cutoff_v=44.0))[0]
        rest = 13 * open_circuit_v(window.cut_out_ratio) - window.sag_v
        self.assertAlmostEqual(rest, 44.0, delta=0.02)
        for volts, charge in ((20.0, 0.0), (60.0, 1.0), (13 * 3.751, 0.5)):
            self.assertAlmostEqual(charge_at_v([PackSpec()], volts), charge, places=3)

    def test_speeds_obey_the_cut_off(self) -> None:
        """Never more battery current than brings the controller to its cut-off; none below it."""
        drive = drive_of(hub("controller", low_cutoff_v=48.0))
        found = full_demand(drive, 15.0)
        self.assertAlmostEqual(float(found.battery_v[0]), 48.0, delta=0.1)
        self.assertLess(float(found.battery_a[0]), 15.0)
        self.assertEqual(top_speed_kmh(drive_of(hub("controller", low_cutoff_v=50.0))), 0.0)


class ShareTest(TestCase):
    def test_a_pack_of_its_own_feeds_only_its_own_controller(self) -> None:
        """Two controllers on one pack ask it for both; each on its own pack, for its own."""
        cart = make_pattern("two-motor-cart", "x")
        apart = remove_part(cart, "splitter").bike
        spec = cart.part("pack").spec
        apart = add_part(apart, "pack", "Second pack", spec, cart.part("pack").ports)
        second = apart.parts[-1].id
        apart = add_join(apart, "pack.main", "controller_left.battery")
        apart = add_join(apart, f"{second}.main", "controller_right.battery")
        for bike, demand, settings in ((cart, 40.0, 15.0), (apart, 20.0, 20.0)):
            weak = with_spec(bike, "pack", bms_continuous_a=30.0)
            with self.subTest(demand):
                links = {link.id: link for link in current_chain(weak).links}
                self.assertEqual(links["bms"].demand_a, demand)
                told = "W058" in {f.code for f in check_bike(weak)}
                self.assertEqual(told, demand > 30.0)
                derived = {
                    d.part: d.value for d in derive_settings(weak) if d.role == "current_limit_a"
                }
                self.assertEqual(derived["controller_left"], settings)

    def test_regeneration_is_told_where_it_harms(self) -> None:
        two = with_spec(make_pattern("two-packs", "x"), "motor", gear_ratio=1.0)
        direct = hub("motor", gear_ratio=1.0)
        for bike, regen, codes in (
            (two, "", {"M006"}),
            (two, "on", {"M006", "M012", "M013"}),
            (two, "off", set()),
            (direct, "", set()),
            (direct, "on", {"M012", "M013"}),
            (hub(), "on", set()),
        ):
            made = with_spec(bike, "controller", regen=regen)
            found = {f.code for f in match_findings(made)} & {"M006", "M012", "M013"}
            self.assertEqual(found, codes, regen)


class MotorTest(TestCase):
    def test_large_motors_take_longer_to_warm_and_give_more_away(self) -> None:
        sizes = [warming_of(watts) for watts in (250.0, 500.0, 1000.0, 3000.0)]
        self.assertEqual(sorted(sizes, key=lambda w: w.seconds), sizes)
        self.assertEqual(sorted(sizes, key=lambda w: -w.k_per_w), sizes)
        for one in sizes:
            self.assertAlmostEqual(one.minutes(one.loss_w(600.0)), 10.0)
            self.assertEqual(one.minutes(one.loss_w() * 0.99), math.inf)

    def test_a_stated_limit_is_a_fault_and_a_worked_out_one_is_advice(self) -> None:
        for stated, current, code in ((0.0, 400.0, "M009"), (60.0, 60.1, "M007"), (60.0, 60.0, "")):
            with self.subTest(current):
                bike = with_spec(
                    hub("motor", phase_limit_a=stated), "controller", phase_limit_a=current
                )
                told = {
                    f.code: f.severity for f in match_findings(bike) if "motor:" in f.subjects[0]
                }
                self.assertEqual(set(told), {code} - {""})
                self.assertNotIn("danger", told.values())

    def test_watts_of_another_volt_do_not_move_the_winding(self) -> None:
        """A motor's limit is its own: the same on 36 V as on 48 V."""
        limits = {
            link.limit_a
            for series in (10, 13)
            for link in current_chain(hub(series_count=series)).links
            if link.id == "motor:motor"
        }
        self.assertEqual(len(limits), 1)


class RidingTest(TestCase):
    def test_a_speed_limit_ends_assistance(self) -> None:
        bike = make_pattern(HUB, "x")
        limited = drive_of(replace(bike, info=replace(bike.info, speed_limit_kmh=25.0)))
        self.assertGreater(top_speed_kmh(drive_of(bike)), 30.0)
        self.assertAlmostEqual(top_speed_kmh(limited), 25.0, delta=0.6)

    def test_a_flat_pack_drives_nothing_and_breaks_nothing(self) -> None:
        for cell_v in (0.0, 2.0, 2.7, 4.6):
            with self.subTest(cell_v):
                drive = drive_of(hub(cell_v=cell_v))
                speed = top_speed_kmh(drive)
                self.assertEqual(speed > 0, cell_v > 4)
                found = range_three_ways(drive, ROUTES["rolling"])
                self.assertEqual(found.motor_km is None, cell_v < 4)

    def test_pedals_are_what_somebody_said(self) -> None:
        bike = make_pattern("two-motor-cart", "x")
        for said, pedalled, unknown in (
            ("", False, True),
            ("no", False, False),
            ("hand", True, False),
        ):
            told = replace(bike, info=replace(bike.info, pedals=said))
            self.assertEqual((is_pedalled(told), pedals_unknown(told)), (pedalled, unknown), said)
        self.assertTrue(is_pedalled(make_pattern("hand-cycle", "x")))

    def test_faster_cruising_costs_range(self) -> None:
        drive = drive_of(make_pattern(HUB, "x"))
        found = [
            range_three_ways(drive, at_cruise(ROUTES["flat"], v)).motor_km or 0
            for v in (15, 22, 30)
        ]
        self.assertEqual(sorted(found, reverse=True), found)
        self.assertEqual(at_cruise(ROUTES["hills"], 22.0), ROUTES["hills"])

    def test_a_warm_day_shows_in_the_winding(self) -> None:
        drive = drive_of(make_pattern(HUB, "x"))
        cold, warm = (climb_heat(drive, Road(0.02, temperature_c=c), 30.0) for c in (0.0, 35.0))
        self.assertGreater(warm.winding_c[-1] - cold.winding_c[-1], 20.0)

    def test_a_mid_drive_that_spins_fast_stays_cooler(self) -> None:
        drive = drive_of(make_pattern("mid-conversion", "x"))
        hot, cool = (
            climb_heat(replace(drive, kept_sprocket=teeth), Road(0.06), 20.0, 9.0)
            for teeth in (15, 32)
        )
        self.assertGreater(hot.winding_c[-1], cool.winding_c[-1] + 3.0)

    def test_equalising_follows_the_curves_and_not_a_line(self) -> None:
        """Charge moved in small steps until both rest at the same volts, also over the knee of the
        curve."""
        for one_v, two_v in ((4.15, 3.2), (3.6, 3.1), (3.9, 3.7)):
            one, two = (
                PackSpec(cell_v=one_v, capacity_ah=14.0),
                PackSpec(cell_v=two_v, capacity_ah=8.0),
            )
            found = equalise(one, two)
            with self.subTest(one_v):
                charges = [charge_at_v([p], p.resting_v()) for p in (one, two)]
                ends = [charges[0] - found.moved_ah / 14.0, charges[1] + found.moved_ah / 8.0]
                volts = [open_circuit_v(c) for c in ends]
                self.assertAlmostEqual(volts[0], volts[1], delta=0.004)
                self.assertLess(found.heat_wh, found.difference_v * found.moved_ah)
