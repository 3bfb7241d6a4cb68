"""Cautions stand before their act, and belong to this one."""

from unittest import TestCase

from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.procedure.first_power_up import bench_cautions
from brightcore.procedure.gates import is_high
from brightcore.tracing.engine import Engine
from brightcore.tracing.tests import kind_of
from tests.bikes import DEMO_BIKES, demo_bike, with_spec

SAFE_ORDER = ("Switch off, pack out", "Capacitors under 5 V", "Unplug", "Pack in", "Switch on")
"""Beginnings of the acts around a plug, in the only order in which they are safe."""


class OrderTest(TestCase):
    def test_no_test_of_any_bike_asks_to_pull_a_plug_under_power(self) -> None:
        tried = 0
        for bike in (
            *(demo_bike(n) for n in DEMO_BIKES),
            *(make_pattern(n, "x") for n in PATTERNS),
        ):
            for test in Engine(bike).tests:
                known = [
                    k for step in test.steps for k, w in enumerate(SAFE_ORDER) if step.startswith(w)
                ]
                with self.subTest(bike.info.label, test=test.id):
                    self.assertEqual(known, sorted(known))
                    if test.condition.unplugged:
                        tried += 1
                        self.assertEqual(known[:3], [0, 1, 2])
                        self.assertEqual(test.condition.power == "on", known[-1] == 4)
                        phases = any(
                            "phase" in s.lower() for s in test.steps if s.startswith("Unplug")
                        )
                        self.assertEqual(
                            phases, any("by hand alone" in s for s in test.steps), test.steps
                        )
                    if "road" in test.gates:
                        self.assertNotIn("wheel_up", test.gates)
        self.assertGreater(tried, 50)

    def test_over_60_v_the_tests_say_so_and_not_only_the_findings(self) -> None:
        """14S is 58.8 V when full, 15S 63 V."""
        for series, high in ((14, False), (15, True)):
            bike = with_spec(make_pattern("hub-conversion", "x"), "pack", series_count=series)
            made = Engine(bike)
            for test in made.tests:
                probed = test.condition.power != "out" and kind_of(test.kind).touches
                with self.subTest(series=series, test=test.id):
                    self.assertEqual("high_volts" in test.gates, high and probed)
            self.assertEqual(any("Over 60 V" in words for words in bench_cautions(bike)), high)
        string = make_pattern("two-packs", "x")
        for name in ("pack_front", "pack_rear"):
            for join in tuple(string.joins_of(name)):
                string = remove_join(string, join.id)
        apart = string
        string = add_join(string, "pack_front.main", "pack_rear.main", pairs=(("plus", "minus"),))
        self.assertEqual((is_high(apart), is_high(string)), (False, True))

    def test_first_power_up_says_how_power_is_cut(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        self.assertTrue(
            any("within reach: Left brake lever" in words for words in bench_cautions(bike))
        )
        for lever in ("lever_left", "lever_right"):
            for join in tuple(bike.joins_of(lever)):
                bike = remove_join(bike, join.id)
        words = bench_cautions(bike)
        self.assertTrue(any("No brake cut-off on this bike" in text for text in words))
        self.assertTrue(any("torque arm" in text for text in words))
