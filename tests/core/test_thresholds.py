"""Every threshold from both sides: the value just within, and the value just beyond.

Rules of the wiring and of matching on changed patterns, currents by their tables, derived settings
by their formulas.
"""

import math
from collections.abc import Callable
from dataclasses import replace
from datetime import date, timedelta
from typing import Any
from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.loads import drawn_a
from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.join_edits import add_join
from brightcore.describing.patterns import make_pattern
from brightcore.kinds import REGISTRY
from brightcore.kinds.lamp import LampSpec
from brightcore.kinds.modules import ConverterSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs
from brightcore.matching.rules import match_findings
from brightcore.physics.cells import open_circuit_v
from brightcore.physics.contacts import GOOD_POWER_OHM
from brightcore.physics.copper import lead_ohm
from brightcore.physics.fuses import fuse_long_a
from brightcore.physics.gauges import stripped_mm
from brightcore.physics.heating import (
    allowed_rise_k,
    ampacity_a,
    current_for_rise_a,
    temperature_rise_k,
    time_constant_s,
)
from brightcore.programming.derive import Derived, derive_settings
from brightcore.simulation.supply import supplies
from brightcore.wiring.conductors import ConductorRow
from brightcore.wiring.rules import check_bike
from brightcore.wiring.rules.motors import cores_of
from tests.bikes import with_spec
from tests.core.test_rules import HUB, TWO, described


def hub(part: str, **spec: Any) -> Bike:
    return with_spec(make_pattern(HUB, "x"), part, **spec)


def two(part: str, **spec: Any) -> Bike:
    return with_spec(make_pattern(TWO, "x"), part, **spec)


def side_by_side(**rear: Any) -> Bike:
    """Return two packs straight in parallel, without a module between, the rear one changed."""
    bike = remove_part(make_pattern(TWO, "x"), "combiner").bike
    lead = next(
        j
        for j in make_pattern(HUB, "x").joins
        if set(dict(j.sides())) == {"main_lead", "controller"}
    )
    sides = [
        replace(lead, id=f"x{i}", a_part=pack, a_port="main", b_part="controller", b_port="battery")
        for i, pack in enumerate(("pack_front", "pack_rear"))
    ]
    return with_spec(replace(bike, joins=(*bike.joins, *sides)), "pack_rear", **rear)


PACK = PackSpec()


FULL_V, NOMINAL_V = PACK.full_v(), PACK.nominal_v()


MOTOR = make_pattern(HUB, "x").part("motor")


CORES_MM = stripped_mm(cores_of(make_pattern(HUB, "x"), MOTOR))


TWO_AH = sum(pack.spec.capacity_ah for pack in packs(make_pattern(TWO, "x")))


CUTS_V = [
    13 * open_circuit_v(charge) - 20 * supplies(make_pattern(HUB, "x"))["controller"].ohm
    for charge in (0.25, 0.6)
]


"""Cut-offs at which 20 A bring the controller there with a quarter, or 60 %, of the charge left."""

RULE_TABLE: tuple[tuple[str, Callable[[float], Bike], float, float], ...] = (
    # code, bike of a value, the value just within, the value just beyond
    ("W001", lambda v: hub("controller", max_v=v), FULL_V, FULL_V - 0.01),
    ("W002", lambda v: hub("throttle", supply_v=v), 5.0 / 0.8, 5.0 / 0.8 + 0.01),
    ("W002", lambda v: hub("throttle", supply_v=v), 5.0 / 1.25, 5.0 / 1.25 - 0.01),
    ("W005", lambda v: hub("pack", bms_continuous_a=v), 10.1, 10.0),
    ("W058", lambda v: hub("pack", bms_continuous_a=v), 20.0, 19.9),
    ("W058", lambda v: hub("pack", bms_continuous_a=v), 10.0, 10.1),
    ("W007", lambda v: hub("pack", fuse_a=v), 2 * ampacity_a(4.0) - 0.1, 2 * ampacity_a(4.0)),
    ("W057", lambda v: hub("pack", fuse_a=v), 1.1 * ampacity_a(4.0), 1.1 * ampacity_a(4.0) + 0.1),
    ("W057", lambda v: hub("pack", fuse_a=v), 2 * ampacity_a(4.0), 2 * ampacity_a(4.0) - 0.1),
    ("W008", lambda v: hub("lamp", rated_v=v), 12.0 / 0.8, 12.0 / 0.8 + 0.01),
    ("W008", lambda v: hub("lamp", rated_v=v), 12.0 / 1.25, 12.0 / 1.25 - 0.01),
    (
        "W009",
        lambda v: with_spec(hub("controller", max_v=90.0), "pack", series_count=int(v)),
        14,
        15,
    ),
    ("W010", lambda v: hub("display", max_v=v), FULL_V, FULL_V - 0.1),
    ("W010", lambda v: two("tracker", max_v=v), FULL_V, FULL_V - 0.1),
    ("W011", lambda v: two("combiner", rated_a=v), 22.0 * 1.2, 22.0 * 1.2 - 0.1),
    ("W027", lambda v: hub("lamp", power_w=v), 12.0, 12.2),
    ("W033", lambda v: hub("motor", axle_bore_mm=v), CORES_MM, CORES_MM - 0.01),
    ("W036", lambda v: two("tracker", cover_mm=v), 14.0, 13.9),
    ("W039", lambda v: two("tracker", standby_a=v), TWO_AH / 24 / 60, TWO_AH / 24 / 59.9),
    ("W053", lambda v: hub("pack", fuse_v=v), FULL_V, FULL_V - 0.1),
    ("W052", lambda v: hub("pack", fuse_a=v), 25.0, 24.9),
    ("M001", lambda v: hub("motor", rated_w=v), 20 * NOMINAL_V * 1.15, 20 * NOMINAL_V * 1.151),
    ("M001", lambda v: hub("motor", rated_w=v), 20 * NOMINAL_V * 0.35, 20 * NOMINAL_V * 0.349),
    ("M002", lambda v: hub("controller", low_cutoff_v=v), PACK.trip_v(), PACK.trip_v() - 0.01),
    (
        "M003",
        lambda v: hub("controller", low_cutoff_v=v),
        PACK.empty_v() * 1.08,
        PACK.empty_v() * 1.08 + 0.01,
    ),
    ("M005", lambda v: side_by_side(cell_v=v), 3.8 - 0.19 / 13, 3.8 - 0.21 / 13),
    ("W078", lambda v: hub("controller", battery_limit_a=v), 45.0, 45.1),
    ("W079", lambda v: hub("controller", battery_limit_a=v), 90.0, 90.2),
    ("W064", lambda v: hub("pack", cell_v=v), 2.5, 2.49),
    ("W064", lambda v: hub("pack", chemistry="lfp", series_count=16, cell_v=v), 2.0, 1.99),
    ("W065", lambda v: hub("pack", cell_v=v), 2.7, 2.69),
    ("W065", lambda v: hub("pack", cell_v=v), 2.49, 2.5),
    ("W066", lambda v: hub("pack", cell_v=v), 4.23, 4.24),
    ("W068", lambda v: hub("motor", phase_ohm=v), 1.0, 1.01),
    ("W068", lambda v: hub("motor", phase_ohm=v), 0.02, 0.019),
    ("M007", lambda v: hub("motor", phase_limit_a=v), 45.0, 44.9),
    ("M010", lambda v: hub("controller", low_cutoff_v=v), CUTS_V[0] - 0.05, CUTS_V[0] + 0.05),
    ("M011", lambda v: hub("controller", low_cutoff_v=v), CUTS_V[1] - 0.05, CUTS_V[1] + 0.05),
)


def codes(bike: Bike) -> set[str]:
    return {f.code for f in (*check_bike(bike), *match_findings(bike))}


class RuleThresholdTest(TestCase):
    def test_each_rule_speaks_just_beyond_its_threshold_and_not_before(self) -> None:
        for code, bike_of, within, beyond in RULE_TABLE:
            with self.subTest(code, within=within):
                self.assertNotIn(code, codes(bike_of(within)))
                self.assertIn(code, codes(bike_of(beyond)))

    def test_a_lead_may_lose_three_percent(self) -> None:
        """By the formula of copper: 20 A through both wires of 4 mm² against the volts of 13
        cells."""
        silent, told = 2.0, 12.0
        while told - silent > 0.05:
            middle = (silent + told) / 2
            if "W051" in codes(hub("main_lead", length_m=middle)):
                told = middle
            else:
                silent = middle
        share = 20.0 * lead_ohm(told, 4.0) / NOMINAL_V
        self.assertAlmostEqual(share, 0.03, delta=0.003)

    def test_a_renewal_is_told_thirty_days_before(self) -> None:
        today = date(2027, 3, 1)
        for days, told in ((31, False), (30, True), (-1, True)):
            bike = two("tracker", renew_on=(today + timedelta(days=days)).isoformat())
            found = [f for f in check_bike(bike, today) if f.code == "W038"]
            self.assertEqual(bool(found), told, days)

    def test_the_thinnest_wire_of_a_lead_decides_about_its_fuse(self) -> None:
        """A thick cable behind a thin tail: 40 A on 1 mm² burns, whatever follows."""
        bike = hub("main_lead", area_mm2=6.0)
        tail = next(j for j in bike.joins_of("pack"))
        self.assertFalse({"W007", "W057"} & codes(bike))
        for area, told in ((4.0, False), (0.75, True)):
            thin = replace(tail, wire=replace(tail.wire, area_mm2=area, length_m=0.1))
            made = replace(bike, joins=tuple(thin if j.id == tail.id else j for j in bike.joins))
            self.assertEqual("W007" in codes(made), told, area)

    def test_half_an_ampere_parts_signals_from_what_carries_current(self) -> None:
        for ampere, signal in ((0.49, True), (0.5, False)):
            row = ConductorRow("j", "x", "y", ampere, 1.0, 0.5, 0.0, 0.0, 6.0)
            self.assertEqual(row.is_signal, signal, ampere)

    def test_a_signal_may_lie_a_little_above_five_volts(self) -> None:
        """A throttle on the lamp output: its signal is 0.8 or so of that."""
        bike = described(
            make_pattern(HUB, "x"), "controller", {}, {"throttle.supply": "accessory_plus"}
        )
        ratio = bike.part("throttle").spec.full_ratio
        for volt, told in ((5.2 / ratio, False), (5.25 / ratio, True)):
            made = with_spec(
                with_spec(bike, "controller", accessory_v=volt), "throttle", supply_v=volt
            )
            self.assertEqual("W041" in codes(made), told, volt)


class ConverterTest(TestCase):
    def converted(self) -> float:
        """Return what a converter to 6 V with a lamp of 3 W takes at the lamp output, in A."""
        bike = remove_part(make_pattern(HUB, "x"), "lamp").bike
        for kind, spec in (("converter", ConverterSpec(out_v=6.0)), ("lamp", LampSpec(6.0, 3.0))):
            bike = add_part(bike, kind, kind.capitalize(), spec, REGISTRY[kind].ports(spec))
        bike = add_join(
            bike,
            "controller.lamp",
            "converter.supply",
            pairs=(("plus", "plus"), ("minus", "minus")),
        )
        bike = add_join(bike, "converter.out", "lamp.plug")
        case = analysis_of(bike)
        (place,) = case.places_of(bike.part("converter"), lambda role: role.name == "convert_in")
        return drawn_a(case, place)

    def test_the_volts_at_its_input_decide_what_it_takes(self) -> None:
        """0.5 A at 6 V over 85 %, at the 12 V of the lamp output, and its own 20 mA [cp]."""
        self.assertAlmostEqual(self.converted(), 0.02 + 0.5 * 6 / (12 * 0.85), places=4)


CHAIN = (
    # what, its value by the formula worked out by hand
    ("main fuse of 40 A for long", fuse_long_a(40.0), 32.0),
    ("rise at the ampacity", temperature_rise_k(ampacity_a(4.0), 4.0), 40.0),
    ("4 mm² in a bundle of three", ampacity_a(4.0, bundle_count=3) / ampacity_a(4.0), 0.8),
    ("4 mm² in a bundle of four", ampacity_a(4.0, bundle_count=4) / ampacity_a(4.0), 0.7),
    ("hot air leaves less room", allowed_rise_k(57.5), 32.5),
    (
        "for a time as long as the wire needs, the current is what heats it by 63 %",
        ampacity_a(4.0, seconds=time_constant_s(4.0)) / ampacity_a(4.0),
        1 / math.sqrt(1 - math.exp(-1)),
    ),
    ("a good power contact", GOOD_POWER_OHM, 0.001),
)


VDE_0298_A = (
    (0.75, 15.0),
    (1.0, 19.0),
    (1.5, 24.0),
    (2.5, 32.0),
    (4.0, 42.0),
    (6.0, 54.0),
    (10.0, 73.0),
    (16.0, 98.0),
    (25.0, 129.0),
)


"""mm² and A of single flexible cores with PVC (70 °C), free in air at 30 °C, for long: DIN VDE
0298-4 [std, mem]."""

NEAR_LIMIT: tuple[tuple[float, set[str]], ...] = (
    (1.0, set()),
    (1.01, {"W059"}),
    (1.24, {"W059"}),
    (1.26, {"W050"}),
    (1.99, {"W050"}),
    (2.01, {"W060"}),
)


"""Current over what a wire stands, and what is told of it."""


class CurrentTest(TestCase):
    def test_currents_are_those_of_the_standard(self) -> None:
        for area, ampere in VDE_0298_A:
            found = ampacity_a(area, ambient_c=30.0, insulation_c=70.0)
            self.assertAlmostEqual(found / ampere, 1.0, delta=0.08, msg=area)

    def test_ten_times_the_copper_carries_about_four_times_the_current(self) -> None:
        for area in (0.25, 1.0, 2.5):
            exponent = math.log10(ampacity_a(10 * area) / ampacity_a(area))
            self.assertTrue(0.55 < exponent < 0.72, exponent)

    def test_rise_and_current_are_one_law(self) -> None:
        for area in (0.25, 2.5, 16.0):
            for rise in (10.0, 40.0, 120.0):
                current = current_for_rise_a(area, rise)
                self.assertAlmostEqual(temperature_rise_k(current, area), rise, places=3)

    def test_a_minute_is_more_for_a_thick_wire_than_for_a_thin_one(self) -> None:
        ratios = [ampacity_a(a, seconds=60.0) / ampacity_a(a) for a in (0.25, 1.5, 4.0, 10.0)]
        self.assertEqual(ratios, sorted(ratios))
        self.assertTrue(1.0 < ratios[0] < 1.1 and ratios[-1] > 1.7, ratios)

    def test_how_far_over_its_limit_decides_how_grave_it_is(self) -> None:
        """The main lead of the hub conversion, whose 20 A are brought to so many times what 4 mm²
        stand."""
        for ratio, told in NEAR_LIMIT:
            limit = ratio * ampacity_a(4.0)
            bike = hub("controller", battery_limit_a=limit)
            bike = with_spec(bike, "pack", bms_continuous_a=200.0, fuse_a=40.0)
            self.assertEqual({"W050", "W059", "W060"} & set(codes(bike)), told, ratio)


class FigureTest(TestCase):
    def test_figures_of_practice_are_what_they_are_said_to_be(self) -> None:
        for what, found, expected in CHAIN:
            self.assertAlmostEqual(found, expected, places=6, msg=what)


DERIVED: tuple[tuple[str, Bike, float], ...] = (
    ("current_limit_a", hub("pack", fuse_a=30.0, bms_continuous_a=40.0), 20.0),
    ("current_limit_a", hub("pack", fuse_a=20.0, bms_continuous_a=40.0), 16.0),
    ("current_limit_a", hub("pack", fuse_a=40.0, bms_continuous_a=12.0), 12.0),
    ("low_cutoff_v", hub("pack", series_count=10), round(10 * PACK.cells.cutoff_v)),
    ("low_cutoff_v", hub("pack", series_count=13), round(13 * PACK.cells.cutoff_v)),
)


class DerivedTest(TestCase):
    def test_settings_follow_their_formulas(self) -> None:
        for role, bike, expected in DERIVED:
            found = {d.value for d in derive_settings(bike) if d.role == role}
            self.assertEqual(found, {expected}, role)

    def test_a_cut_off_lies_between_trip_and_nominal(self) -> None:
        """Cells of 3.6 V nominal let go at about 3.0 V under load (common practice): 39 V of 13 in
        series."""
        found = next(d for d in derive_settings(make_pattern(HUB, "x")) if d.role == "low_cutoff_v")
        self.assertTrue(PACK.trip_v() < found.value < 13 * 3.3, found.value)

    def test_a_device_set_otherwise_by_more_than_a_percent_is_told(self) -> None:
        for now, differs in ((20.2, False), (20.21, True), (19.8, False), (19.79, True)):
            made = Derived("controller", "current_limit_a", 20.0, "A", "", "", now)
            self.assertEqual(made.differs, differs, now)
