"""Thresholds and sums that decide quietly, from both sides: each was once changed without any test
noticing."""

import math
from dataclasses import replace
from types import SimpleNamespace
from typing import Any, cast
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from brightcore.analysis.loads import battery_demand_a, battery_limit_a
from brightcore.kinds.controller import ControllerSpec
from brightcore.kinds.controller_rules import ControllerRules
from brightcore.kinds.lamp import Lamp, LampSpec
from brightcore.kinds.pack import PackSpec
from brightcore.matching.law import Facts, LegalClass, judge
from brightcore.physics.cells import CHEMISTRIES
from brightcore.physics.gauges import core_mm, stripped_mm
from brightcore.programming.case import Aim, Case
from brightcore.programming.roles.current import battery_limit
from brightcore.tracing.acts import act_of
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.proving import _proof_by_meter
from brightcore.tracing.tests import kind_of, log_likelihood
from brightcore.tracing.trace import Trace
from brightcore.wiring import propose
from tests.bikes import engine, make_pattern, small_engine


class SumsTest(TestCase):
    def test_a_sleeve_is_filled_by_seven_tenths(self) -> None:
        bore = stripped_mm([1.5])
        self.assertAlmostEqual((core_mm(1.5) / bore) ** 2, 0.7)
        self.assertAlmostEqual(stripped_mm([1.5] * 4), 2 * bore)

    def test_controllers_draw_together(self) -> None:
        for name, count in (("hub-conversion", 1), ("two-motor-cart", 2)):
            bike = make_pattern(name, "Bike")
            limits = [battery_limit_a(bike, c) for c in bike.having(ControllerSpec)]
            self.assertEqual(len(limits), count)
            self.assertAlmostEqual(battery_demand_a(bike), math.fsum(limits))

    def test_two_controllers_share_what_their_pack_gives(self) -> None:
        bike = make_pattern("two-motor-cart", "Cart")
        first, pack = bike.having(ControllerSpec)[0], bike.having(PackSpec)[0]
        # A rating far above, so that only the BMS and the fuse can decide.
        strong = bike.with_part(
            replace(first, spec=replace(first.spec, battery_limit_a=500.0))
        ).with_part(replace(pack, spec=replace(pack.spec, bms_continuous_a=30.0, fuse_a=90.0)))
        limit = battery_limit(Case(strong, strong, strong.part(first.id), Aim()))
        assert limit is not None
        self.assertAlmostEqual(limit.value, 15.0)


class CellTest(TestCase):
    def test_a_cell_is_never_charged_from_below_these_volts(self) -> None:
        """From memory of data sheets: 2.0 V for both kinds of lithium iron, 2.5 V for nickel."""
        found = {name: kind.dead_v for name, kind in CHEMISTRIES.items()}
        self.assertEqual((found["nickel"], found["lfp"]), (2.5, 2.0))


class LawTest(TestCase):
    def test_half_a_kilometre_an_hour_over_a_class_is_within_it(self) -> None:
        """A speed sensor with a few magnets counts no finer (common practice)."""
        own = LegalClass("own", "Here", "Own", 250.0, 25.0, "none", 0.0, "", "")
        for top, fits in ((25.0, True), (25.4, True), (25.6, False)):
            (verdict,) = judge(Facts(250.0, top, False, True), (own,), own.place)
            self.assertEqual(verdict.fits, fits, top)


class ProposalTest(TestCase):
    def test_a_poor_fit_is_not_proposed(self) -> None:
        bike = replace(make_pattern("hub-conversion", "Bike"), joins=())
        for score, some in ((0.54, False), (0.55, True)):
            with patch.object(propose, "_fit", return_value=(score, ())):
                self.assertEqual(bool(propose._round(bike)), some, score)


class BehaviourTest(TestCase):
    def test_a_lamp_is_lit_from_fifty_five_percent_of_its_volts(self) -> None:
        seen: dict[str, Any] = {}
        view = SimpleNamespace(
            has=lambda name: True,
            volts=lambda *_: np.array([6.5, 6.7]),
            limit=lambda usual, low, high: usual,
            trait=lambda *_: np.array([False, False]),
            see=lambda name, *rows, **more: seen.update({name: rows[0][0]}),
        )
        part = cast(Any, SimpleNamespace(id="lamp", spec=LampSpec(12.0, 3.0)))
        Lamp.behave(cast(Any, SimpleNamespace()), part, cast(Any, view))
        self.assertEqual(list(seen["lamp"]), [False, True])

    def test_phases_are_open_from_twenty_five_ohms(self) -> None:
        loops = np.array([[0.2, 24.0, 26.0, 26.0], [0.2, 24.0, 0.2, 26.0], [0.2, 24.0, 26.0, 26.0]])
        view = SimpleNamespace(
            phase_ohm=lambda _: loops,
            limit=lambda usual, low, high: usual,
            trait=lambda *_: np.zeros(4, dtype=bool),
        )
        rules = SimpleNamespace(
            view=view, part=SimpleNamespace(id="controller"), nominal_ohm=lambda: 0.2
        )
        count = ControllerRules.phases(cast(Any, rules))[0]
        self.assertEqual(list(count), [0, 0, 1, 2])
        joined = ControllerRules.phases_joined(cast(Any, rules))
        self.assertEqual(list(joined), [True, True, True, False])


class TraceTest(TestCase):
    def test_a_rider_may_be_wrong_about_any_fault(self) -> None:
        made = engine("fern")
        item = Evidence("look", "silent", scene="throttle", observable="motor")
        told = replace(item, told=True)
        chance = np.exp(log_likelihood(made.table, made.hypotheses, told))
        # A loose contact is told as steady in three of ten cases; a rider is wrong in 15 of 100.
        least = 0.3 * 0.15 * float(kind_of("look").anything(told))
        self.assertGreaterEqual(float(chance.min()), least)
        seen = np.exp(log_likelihood(made.table, made.hypotheses, item))
        self.assertLess(float(seen.min()), least)

    def test_what_no_scene_shows_is_proved_by_a_reading_that_separates(self) -> None:
        """Eight of ten of the answers that the fault gives are none that a sound bike gives."""
        trace = Trace(engine("fern"), [])
        tables = {item.test.id: item for item in trace.engine.stack().tables}
        proved = 0
        for lead, item in enumerate(trace.engine.hypotheses.items):
            proof = _proof_by_meter(trace, lead) if item.mode else None
            if proof:
                chances = tables[proof.test_id].probability
                common = float(np.minimum(chances[:, lead], chances[:, 0]).sum())
                self.assertLess(common, 0.2)
                proved += 1
        self.assertGreater(proved, 300)

    def test_whatever_has_power_is_risky_and_so_is_a_pack_without(self) -> None:
        made = small_engine("fern")
        for condition, red, black, risky in (
            ("on", "controller.front.throttle", "controller.front.gnd", True),
            ("off", "controller.front.throttle", "controller.front.gnd", True),
            ("out", "controller.front.throttle", "controller.front.gnd", False),
            ("out", "pack.main.plus", "pack.main.minus", True),
        ):
            item = Evidence("volts", "0", condition=condition, red=red, black=black)
            self.assertEqual(act_of(made, [item]).needs_safe_pack, risky, (condition, red))
