"""Wiring rules and derived settings."""

from pathlib import Path
from unittest import TestCase

from brightcore.describing.edit import add_join, remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.findings import hint, render
from brightcore.matching.chain import TYPES as MATCH_TYPES
from brightcore.programming.derive import derive_settings, wheel_circumference_mm
from brightcore.sources import SOURCES
from brightcore.wiring.rules import TYPES, check_bike
from tests.bikes import DEMO_BIKES, bike_of, changed, demo_bike
from tests.core.test_matching import with_spec

DOCS = Path(__file__).parent.parent.parent / "docs"
TRIGGERED = (
    # code, change to Fern that brings it
    ("W001", (("parts.pack.spec.series_count", 16),)),
    ("W002", (("parts.throttle.spec.supply_v", 10.0),)),
    ("W002", (("parts.cranks.spec.supply_v", 3.3),)),
    ("W003", (("joins.j-phases-c", None),)),
    ("W003", (("joins.j-front", None),)),
    ("W004", (("joins.j-lamp.map", [["plus", "plus"]]),)),
    ("W005", (("parts.pack.spec.bms_continuous_a", 15.0),)),
    ("W005", (("settings", [{"part": "controller", "role": "current_limit_a", "value": 45}]),)),
    ("W006", (("joins.j-brake-l", None), ("joins.j-brake-r", None))),
    ("W007", (("parts.main_lead.spec.area_mm2", 1.5),)),
    ("W008", (("parts.lamp.spec.rated_v", 6.0),)),
    ("W027", (("parts.lamp.spec.power_w", 30.0),)),
    ("W010", (("parts.display.spec.max_v", 48.0),)),
    ("W009", (("parts.pack.spec.series_count", 15), ("parts.controller.spec.max_v", 75.0))),
)
HUB, CART, TWO = "hub-conversion", "two-motor-cart", "two-packs"
REWIRED = (
    # code, pattern, joins taken apart, plugs joined pin by pin
    ("W012", HUB, ("j5", "j6"), (("controller.display", "throttle.plug", "vp-signal gnd-ground"),)),
    ("W013", HUB, ("j2",), (("main_lead.controller_end", "controller.battery", "plus-minus minus-plus"),)),
    ("W013", HUB, ("j6",), (("controller.throttle", "throttle.plug", "supply-ground ground-supply signal-signal"),)),
    ("W014", CART, ("j4", "j9"), (("controller_left.halls", "controller_right.halls", "supply-supply"),)),
    ("W015", TWO, ("j1", "j2"), (("pack_front.main", "pack_rear.main", "plus-plus minus-minus"),)),
    ("W016", HUB, ("j6", "j9"), (("throttle.plug", "cranks.plug", "signal-signal"),)),
    ("W017", HUB, ("j5",), (("controller.display", "display.plug", "vp-vp key-key gnd-gnd rx-tx tx-rx"),)),
    ("W018", HUB, ("j6",), (("controller.throttle", "throttle.plug", "supply-supply signal-signal"),)),
    ("W019", HUB, ("j6",), (("controller.throttle", "throttle.plug", "ground-ground signal-signal"),)),
    ("W020", HUB, ("j6",), (("controller.throttle", "throttle.plug", "ground-ground supply-supply"),)),
    ("W021", HUB, ("j7",), ()),
    ("W022", CART, (), ()),
    ("W023", HUB, ("j6", "j9"), ()),
    ("W024", HUB, ("j5",), (("controller.display", "display.plug", "vp-vp gnd-gnd"),)),
    ("W025", HUB, ("j1", "j3"), (("pack.main", "motor.phases", "plus-u"),)),
    ("W026", HUB, ("j3",), (("controller.phases", "motor.phases", "u-v v-u w-w"),)),
    ("W028", HUB, ("j1", "j10"), (("pack.main", "lamp.plug", "plus-plus minus-minus"),)),
)
WHEELS = ((47, 406, 1571), (50, 507, 1907), (54, 559, 2095), (57, 584, 2193), (47, 622, 2249), (47, 305, 1253), (60, 406, 1652))
"""Tyre width, bead seat, nominal circumference in mm: ISO 5775-1 [std]."""


class RulesTest(TestCase):
    def test_rules_of_modules_and_several_controllers(self) -> None:
        two, cart = make_pattern("two-packs", "x"), make_pattern("two-motor-cart", "x")
        for code, bike in (
            ("W010", with_spec(two, "combiner", max_v=50.0)),
            ("W010", with_spec(two, "display", max_v=50.0)),
            ("W010", with_spec(two, "tracker", max_v=50.0)),
            ("W011", with_spec(two, "combiner", rated_a=20.0)),
            ("W005", with_spec(cart, "pack", bms_continuous_a=30.0)),
        ):
            with self.subTest(code):
                self.assertEqual([f.code for f in check_bike(bike) if f.code not in ("W021", "W022")], [code])

    def test_each_rule_is_triggered_by_its_defect(self) -> None:
        for code, changes in TRIGGERED:
            with self.subTest(code, changes=changes):
                found = [f for f in check_bike(bike_of(changed("fern", *changes))) if f.code == code]
                self.assertTrue(found)
                self.assertNotIn("{", render(found[0]) + hint(found[0]))

    def test_every_rule_has_a_defect_in_the_table(self) -> None:
        self.assertEqual({t.code for t in TYPES}, {code for code, _ in TRIGGERED} | {code for code, *_ in REWIRED} | {"W011"})

    def test_each_net_rule_is_triggered_by_its_wiring(self) -> None:
        for code, pattern, apart, joins in REWIRED:
            bike = make_pattern(pattern, "x")
            before = {f.key for f in check_bike(bike)}
            for join in apart:
                bike = remove_join(bike, join)
            for one, two, pairs in joins:
                bike = add_join(bike, one, two, pairs=tuple(tuple(p.split("-")) for p in pairs.split()))  # type: ignore[misc]
            with self.subTest(code, apart=apart):
                found = [f for f in check_bike(bike) if f.code == code and (f.key not in before or not apart)]
                self.assertTrue(found, [f.code for f in check_bike(bike)])
                self.assertNotIn("{", render(found[0]) + hint(found[0]))

    def test_patterns_have_only_the_findings_that_belong_to_them(self) -> None:
        own = {"two-motor-cart": ["W021", "W022"], "hand-cycle": ["W021"]}
        for pattern in PATTERNS:
            with self.subTest(pattern):
                self.assertEqual(sorted({f.code for f in check_bike(make_pattern(pattern, "x"))}), own.get(pattern, []))

    def test_a_sound_bike_has_no_findings_and_otter_has_its_fuse(self) -> None:
        self.assertEqual(check_bike(demo_bike("fern")), ())
        self.assertEqual([f.code for f in check_bike(demo_bike("otter"))], ["W007"])

    def test_codes_are_documented_and_sources_named(self) -> None:
        text = (DOCS / "findings.md").read_text()
        for item in (*TYPES, *MATCH_TYPES):
            with self.subTest(item.code):
                self.assertIn(f"## {item.code}", text)
                self.assertIn(item.source, SOURCES)

    def test_gravest_findings_come_first(self) -> None:
        found = check_bike(bike_of(changed("fern", ("parts.pack.spec.series_count", 16), ("parts.lamp.spec.rated_v", 6.0))))
        order = ["danger", "fault", "advice"]
        ranks = [order.index(f.severity) for f in found]
        self.assertEqual(ranks, sorted(ranks))

    def test_a_key_changes_with_the_values_behind_it(self) -> None:
        """A waiver is tied to the key, so it lapses."""
        keys = {check_bike(bike_of(changed("fern", ("parts.pack.spec.bms_continuous_a", a))))[0].key for a in (15.0, 16.0)}
        self.assertEqual(len(keys), 2)


class DeriveTest(TestCase):
    def test_wheel_circumference_follows_the_standard(self) -> None:
        for width, seat, expected in WHEELS:
            with self.subTest(f"{width}-{seat}"):
                self.assertEqual(round(wheel_circumference_mm(seat, width)), expected)

    def test_low_voltage_cut_off_lies_in_the_usual_band(self) -> None:
        """About 30–31, 40–42, 43–45 V for 10, 13, 14S [cp]."""
        bands = {"teasel": (30, 31), "fern": (40, 42), "otter": (43, 45)}
        for name, (low, high) in bands.items():
            value = next(d.value for d in derive_settings(demo_bike(name)) if d.role == "low_cutoff_v")
            self.assertTrue(low <= value <= high, (name, value))

    def test_current_limit_is_the_lowest_of_controller_bms_and_fuse(self) -> None:
        for change, expected in (
            ((), 22.0),
            ((("parts.pack.spec.bms_continuous_a", 18.0),), 18.0),
            ((("parts.pack.spec.fuse_a", 25.0),), 20.0),
        ):
            bike = bike_of(changed("fern", *change))
            found = next(d for d in derive_settings(bike) if d.role == "current_limit_a")
            self.assertAlmostEqual(found.value, expected)
            self.assertEqual(found.differs, expected != 22.0)

    def test_each_value_gives_its_reason_and_a_known_source(self) -> None:
        for name in DEMO_BIKES:
            for item in derive_settings(demo_bike(name)):
                self.assertTrue(item.reason)
                self.assertIn(item.source, SOURCES)
