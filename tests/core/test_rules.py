"""Wiring rules and derived settings."""

from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any
from unittest import TestCase

from brightcore.__main__ import COMMANDS, parser
from brightcore.bike.model import Bike, BikeInfo, Pin
from brightcore.describing.builder import Builder
from brightcore.describing.edit import remove_part
from brightcore.describing.join_edits import add_join, remove_join, repin
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.findings import hint, render
from brightcore.matching.rules import RULES as MATCH_RULES
from brightcore.physics.gauges import core_mm, stripped_mm
from brightcore.physics.wheels import wheel_circumference_mm
from brightcore.programming.derive import derive_settings
from brightcore.sources import SOURCES
from brightcore.wiring.rules import RULES, check_bike
from brightcore.wiring.rules.levels import divider
from tests.bikes import DEMO_BIKES, bike_of, changed, demo_bike, with_spec

DOCS = Path(__file__).parent.parent.parent / "docs"
TRIGGERED = (
    # code, change to Fern that brings it
    ("W001", (("parts.pack.spec.series_count", 16),)),
    ("W002", (("parts.throttle.spec.supply_v", 10.0),)),
    ("W002", (("parts.cranks.spec.supply_v", 3.3),)),
    ("W003", (("joins.j-phases-c", None),)),
    ("W003", (("joins.j-front", None),)),
    ("W004", (("joins.j-lamp.map", [["plus", "plus"]]),)),
    ("W005", (("parts.pack.spec.bms_continuous_a", 10.0),)),
    ("W058", (("parts.pack.spec.bms_continuous_a", 15.0),)),
    ("W058", (("settings", [{"part": "controller", "role": "current_limit_a", "value": 45}]),)),
    ("W006", (("joins.j-brake-l", None), ("joins.j-brake-r", None))),
    ("W007", (("parts.main_lead.spec.area_mm2", 0.5),)),
    ("W057", (("parts.main_lead.spec.area_mm2", 1.5),)),
    ("W008", (("parts.lamp.spec.rated_v", 6.0),)),
    ("W027", (("parts.lamp.spec.power_w", 30.0),)),
    ("W010", (("parts.display.spec.max_v", 48.0),)),
    ("W009", (("parts.pack.spec.series_count", 15), ("parts.controller.spec.max_v", 75.0))),
)
HUB, CART, TWO = "hub-conversion", "two-motor-cart", "two-packs"
REWIRED = (
    # code, pattern, joins taken apart, plugs joined pin by pin
    ("W012", HUB, ("j5", "j6"), (("controller.display", "throttle.plug", "vp-signal gnd-ground"),)),
    (
        "W013",
        HUB,
        ("j2",),
        (("main_lead.controller_end", "controller.battery", "plus-minus minus-plus"),),
    ),
    (
        "W013",
        HUB,
        ("j6",),
        (("controller.throttle", "throttle.plug", "supply-ground ground-supply signal-signal"),),
    ),
    (
        "W014",
        CART,
        ("j4", "j8"),
        (("controller_left.halls", "controller_right.halls", "supply-supply"),),
    ),
    ("W015", TWO, ("j1", "j2"), (("pack_front.main", "pack_rear.main", "plus-plus minus-minus"),)),
    ("W016", HUB, ("j6", "j9"), (("throttle.plug", "cranks.plug", "signal-signal"),)),
    (
        "W017",
        HUB,
        ("j5",),
        (("controller.display", "display.plug", "vp-vp key-key gnd-gnd rx-tx tx-rx"),),
    ),
    (
        "W062",
        CART,
        ("j4", "j8"),
        (
            ("controller_left.halls", "motor_right.halls", ""),
            ("controller_right.halls", "motor_left.halls", ""),
        ),
    ),
    (
        "W063",
        TWO,
        ("j1", "j3"),
        (("pack_front.main", "combiner.out", "plus-plus minus-minus"),),
    ),
    (
        "W061",
        HUB,
        ("j5",),
        (("controller.display", "display.plug", "vp-vp key-key gnd-rx rx-gnd tx-tx"),),
    ),
    (
        "W018",
        HUB,
        ("j6",),
        (("controller.throttle", "throttle.plug", "supply-supply signal-signal"),),
    ),
    (
        "W019",
        HUB,
        ("j6",),
        (("controller.throttle", "throttle.plug", "ground-ground signal-signal"),),
    ),
    (
        "W020",
        HUB,
        ("j6",),
        (("controller.throttle", "throttle.plug", "ground-ground supply-supply"),),
    ),
    ("W021", HUB, ("j7",), ()),
    ("W022", CART, ("j12",), ()),
    ("W023", HUB, ("j6", "j9"), ()),
    ("W024", HUB, ("j5",), (("controller.display", "display.plug", "vp-vp gnd-gnd"),)),
    ("W025", HUB, ("j1", "j3"), (("pack.main", "motor.phases", "plus-u"),)),
    ("W026", HUB, ("j3",), (("controller.phases", "motor.phases", "u-v v-u w-w"),)),
    ("W040", HUB, ("j10",), ()),
    (
        "W042",
        "mid-conversion",
        ("j8", "j9"),
        (("controller.torque", "speed.plug", "supply-supply ground-ground torque-signal"),),
    ),
    ("W043", CART, ("j16",), (("split.right", "controller_right.throttle", "signal-signal"),)),
    ("W045", "mid-conversion", ("j5", "j8"), (("throttle.plug", "torque.plug", "signal-torque"),)),
    ("W048", CART, (), ()),
    ("W049", "mid-conversion", ("j10",), ()),
    (
        "W056",
        CART,
        ("j5", "j6", "j9"),
        (("controller_left.key", "controller_right.key", "vp-vp key-key"),),
    ),
    ("W028", HUB, ("j1", "j10"), (("pack.main", "lamp.plug", "plus-plus minus-minus"),)),
)
Plug = dict[str, Any]
DESCRIBED: tuple[tuple[str, str, str, Plug, Plug, Plug], ...] = (
    # code, pattern, part, what its spec says, what one plug says by id, what one pin says by
    # plug.pin
    ("W030", HUB, "throttle", {}, {"plug": {"gender": "pins"}}, {}),
    ("W031", HUB, "throttle", {}, {"plug": {"key": "notch"}}, {}),
    ("W033", HUB, "motor", {"axle_bore_mm": 6.0}, {}, {}),
    ("W034", HUB, "motor", {"axle_bore_mm": 11.0, "cable_jacket_mm": 12.0}, {}, {}),
    ("W035", HUB, "motor", {"axle_bore_mm": 11.0}, {}, {}),
    ("W036", TWO, "tracker", {"cover_mm": 10.0}, {}, {}),
    ("W037", TWO, "tracker", {}, {}, {}),
    ("W039", TWO, "tracker", {"standby_a": 0.03}, {}, {}),
    ("W041", HUB, "controller", {"accessory_v": 10.0}, {}, {"throttle.supply": "accessory_plus"}),
    ("W050", "folding", "fold_phases", {"area_mm2": 0.75}, {}, {}),
    ("W059", "folding", "fold_phases", {"area_mm2": 1.0}, {}, {}),
    ("W060", "folding", "fold_phases", {"area_mm2": 0.25}, {}, {}),
    ("W051", HUB, "main_lead", {"length_m": 9.0}, {}, {}),
    ("W064", HUB, "pack", {"cell_v": 2.0}, {}, {}),
    ("W065", HUB, "pack", {"cell_v": 2.6}, {}, {}),
    ("W066", HUB, "pack", {"cell_v": 4.4}, {}, {}),
    ("W067", HUB, "pack", {"fuse_a": 0.0}, {}, {}),
    ("W068", HUB, "motor", {"phase_ohm": 4.0}, {}, {}),
    ("W052", HUB, "pack", {"fuse_a": 22.0}, {}, {}),
    ("W053", HUB, "pack", {"fuse_v": 32.0}, {}, {}),
    ("W078", HUB, "controller", {"battery_limit_a": 50.0}, {}, {}),
    ("W079", HUB, "controller", {"battery_limit_a": 100.0}, {}, {}),
    ("W055", HUB, "main_lead", {"length_m": 0.4}, {}, {}),
)
LOOKED_AT = {"controller": {"throttle": {"gender": "pins", "key": "arrow"}}}
"""What is known of the other plug in the table above."""

DIVIDERS = ((5.2, 470, 10000), (10.0, 10000, 10000), (12.0, 15000, 10000), (48.0, 100000, 10000))
"""Volts, upper and lower resistor: E12 values of IEC 60063 [std, mem], 5 V × (upper + lower) ÷
lower at or above the volts."""

WHEELS = (
    (47, 406, 1571),
    (50, 507, 1907),
    (54, 559, 2095),
    (57, 584, 2193),
    (47, 622, 2249),
    (47, 305, 1253),
    (60, 406, 1652),
)
"""Tyre width, bead seat, nominal circumference in mm: ISO 5775-1 [std]."""


ELSEWHERE = {"W011", "W029", "W032", "W038", "W044", "W046", "W047", "W054"} | {
    f"W0{n}" for n in (69, 70, 71, 72, 73, 75, 76, 77, *range(80, 90))
}
"""Codes with a test of their own below, in test_library, or in test_tried."""


def described(bike: Bike, part_id: str, plugs: Plug, roles: Plug) -> Bike:
    """Return the bike with other particulars of a part's plugs and other roles of its pins."""
    part = bike.part(part_id)
    ports = tuple(
        replace(
            q,
            **plugs.get(q.id, {}),
            pins=tuple(replace(p, role=roles.get(f"{q.id}.{p.name}", p.role)) for p in q.pins),
        )
        for q in part.ports
    )
    return replace(
        bike, parts=tuple(replace(p, ports=ports) if p is part else p for p in bike.parts)
    )


def rewired(pattern: str, apart: tuple[str, ...], joins: tuple[tuple[str, str, str], ...]) -> Bike:
    """Return a pattern with joins taken apart and plugs joined pin by pin."""
    bike = make_pattern(pattern, "x")
    for join in apart:
        bike = remove_join(bike, join)
    for one, two, pairs in joins:
        bike = add_join(bike, one, two, pairs=tuple(tuple(p.split("-")) for p in pairs.split()))  # type: ignore[misc]
    return bike


class RulesTest(TestCase):
    def test_rules_of_modules_and_several_controllers(self) -> None:
        two, cart = make_pattern("two-packs", "x"), make_pattern("two-motor-cart", "x")
        for code, bike in (
            ("W010", with_spec(two, "combiner", max_v=50.0)),
            ("W010", with_spec(two, "display", max_v=50.0)),
            ("W010", with_spec(two, "tracker", max_v=50.0)),
            ("W011", with_spec(two, "combiner", rated_a=20.0)),
            ("W058", with_spec(cart, "pack", bms_continuous_a=30.0)),
        ):
            with self.subTest(code):
                self.assertEqual(
                    [f.code for f in check_bike(bike) if f.code not in ("W037", "W048", "W052")],
                    [code],
                )

    def test_each_rule_is_triggered_by_its_defect(self) -> None:
        for code, changes in TRIGGERED:
            with self.subTest(code, changes=changes):
                found = [
                    f for f in check_bike(bike_of(changed("fern", *changes))) if f.code == code
                ]
                self.assertTrue(found)
                self.assertNotIn("{", render(found[0]) + hint(found[0]))

    def test_every_rule_has_a_defect_in_the_table(self) -> None:
        self.assertEqual(
            {rule.type.code for rule in RULES},
            {code for code, _ in TRIGGERED}
            | {code for code, *_ in REWIRED}
            | {code for code, *_ in DESCRIBED}
            | ELSEWHERE,
        )
        self.assertGreaterEqual(len(RULES), 40)

    def test_each_net_rule_is_triggered_by_its_wiring(self) -> None:
        for code, pattern, apart, joins in REWIRED:
            before = {f.key for f in check_bike(make_pattern(pattern, "x"))}
            bike = rewired(pattern, apart, joins)
            with self.subTest(code, apart=apart):
                found = [
                    f
                    for f in check_bike(bike)
                    if f.code == code and (f.key not in before or not apart)
                ]
                self.assertTrue(found, [f.code for f in check_bike(bike)])
                self.assertNotIn("{", render(found[0]) + hint(found[0]))

    def test_each_rule_on_a_description_is_triggered_by_it(self) -> None:
        for code, pattern, part, spec, ports, roles in DESCRIBED:
            with self.subTest(code):
                bike = make_pattern(pattern, "x")
                for name, plugs in (*LOOKED_AT.items(), (part, ports)):
                    bike = described(bike, name, plugs, roles if name == part else {})
                found = [f for f in check_bike(with_spec(bike, part, **spec)) if f.code == code]
                self.assertTrue(found)
                self.assertNotIn("{", render(found[0]) + hint(found[0]))
                if code != "W037":
                    self.assertNotIn(code, {f.code for f in check_bike(make_pattern(pattern, "x"))})

    def test_pins_that_meet_out_of_order_give_a_table(self) -> None:
        bike = repin(
            described(make_pattern("factory-hub", "x"), "controller", {}, {}), "j1", "vp", "key"
        )
        found = next(f for f in check_bike(bike) if f.code == "W032")
        self.assertIn("1 to 2, 2 to 1, 3 to 3", render(found))
        fewer = described(
            make_pattern(HUB, "x"), "controller", {"throttle": {"family": "round-3"}}, {}
        )
        throttle = fewer.part("throttle")
        more = replace(
            throttle,
            ports=(
                replace(
                    throttle.ports[0],
                    family="round-3",
                    pins=(*throttle.ports[0].pins, Pin("spare")),
                ),
            ),
        )
        fewer = replace(fewer, parts=tuple(more if p.id == "throttle" else p for p in fewer.parts))
        self.assertEqual(
            [render(f) for f in check_bike(fewer) if f.code == "W029"],
            ["Controller, Throttle has 3 pins, Thumb throttle, Throttle has 4: they do not mate."],
        )

    def test_a_bike_without_a_throttle_plug_names_the_ways_round(self) -> None:
        bike = remove_join(make_pattern(HUB, "x"), "j6")
        controller = bike.part("controller")
        bare = replace(controller, ports=tuple(p for p in controller.ports if p.id != "throttle"))
        found = next(
            f
            for f in check_bike(
                replace(bike, parts=tuple(bare if p is controller else p for p in bike.parts))
            )
            if f.code == "W044"
        )
        self.assertIn("Another controller of 48 V and 20 A", hint(found))

    def test_levers_of_two_kinds_on_one_wire_and_a_display_with_two_senders(self) -> None:
        b = Builder()
        for name in ("one", "two"):
            b.add(name, "controller", name)
        b.add("pack", "pack", "Pack")
        for name, closed in (("left", True), ("right", False)):
            b.add(name, "brake_lever", name, normally_closed=closed)
        b.add("display", "display", "Display")
        b.lead("split", "Splitter", ("a", "b", "c"), 0.2, 1.0, ("signal", "ground"))
        b.lead("fork", "Fork", ("a", "b", "c"), 0.2, 1.0, ("vp", "key", "gnd", "rx", "tx"))
        for x, y in (
            ("one.brake_left", "split.a"),
            ("split.b", "left.plug"),
            ("split.c", "right.plug"),
            ("one.display", "fork.a"),
            ("two.display", "fork.b"),
            ("fork.c", "display.plug"),
        ):
            b.join(x, y)
        codes = {f.code for f in check_bike(b.bike(BikeInfo("x")))}
        self.assertLessEqual({"W046", "W047"}, codes)

    def test_packs_in_series_are_added_up_and_side_by_side_are_not(self) -> None:
        bike = remove_join(remove_join(make_pattern(TWO, "x"), "j1"), "j2")
        bike = remove_part(bike, "combiner").bike
        for pairs, there in (
            ((("plus", "minus"),), True),
            ((("plus", "plus"), ("minus", "minus")), False),
        ):
            found = [
                render(f)
                for f in check_bike(
                    add_join(bike, "pack_front.main", "pack_rear.main", pairs=pairs)
                )
                if f.code == "W054"
            ]
            self.assertEqual(bool(found), there)
        self.assertIn(
            "109.2 V",
            render(
                next(
                    f
                    for f in check_bike(
                        add_join(
                            bike, "pack_front.main", "pack_rear.main", pairs=(("plus", "minus"),)
                        )
                    )
                    if f.code == "W054"
                )
            ),
        )

    def test_a_subscription_is_told_before_it_runs_out(self) -> None:
        bike = with_spec(make_pattern(TWO, "x"), "tracker", renew_on="2027-03-31")
        for today, words in (
            (date(2027, 1, 1), ""),
            (date(2027, 3, 10), "runs out on 2027-03-31"),
            (date(2027, 4, 1), "ran out on 2027-03-31"),
            (None, ""),
        ):
            self.assertIn(words, " ".join(render(f) for f in check_bike(bike, today)))
            self.assertEqual("W038" in {f.code for f in check_bike(bike, today)}, bool(words))

    def test_dividers_bring_a_signal_to_five_volts_and_not_above(self) -> None:
        for volts, upper, lower in DIVIDERS:
            with self.subTest(volts):
                self.assertEqual(divider(volts), (upper, lower))
                self.assertLessEqual(volts * lower / (upper + lower), 5.0)

    def test_a_bundle_without_jacket_fits_as_laid_cores_do(self) -> None:
        """Three cores of 2 mm² and seven of 0.2 mm²: 3 × 3.04 mm and 7 × 1.38 mm, about 7.6 mm
        [cp]."""
        self.assertAlmostEqual(core_mm(2.0), 3.035, places=3)
        self.assertAlmostEqual(stripped_mm([2.0] * 3 + [0.2] * 7), 7.65, delta=0.05)

    def test_patterns_have_only_the_findings_that_belong_to_them(self) -> None:
        own = {
            "two-motor-cart": ["W048"],
            "hand-cycle": ["W021"],
            "two-packs": ["W037"],
            "light-motorcycle": ["W009", "W021", "W069", "W078"],
            "delivery-trike": ["W021"],
            "soft-packs": ["W021"],
            "opened-hub": ["W035"],
            "controller-in-hub": ["W021"],
            "three-wheeler": ["W021"],
        }
        for pattern in PATTERNS:
            with self.subTest(pattern):
                self.assertEqual(
                    sorted({f.code for f in check_bike(make_pattern(pattern, "x"))}),
                    own.get(pattern, []),
                )

    def test_a_sound_bike_has_no_findings_and_otter_has_its_fuse(self) -> None:
        self.assertEqual(check_bike(demo_bike("fern")), ())
        self.assertEqual(
            [f.code for f in check_bike(demo_bike("otter"))], ["W057", "W055", "W055", "W059"]
        )

    def test_pages_made_from_the_code_are_current(self) -> None:
        for command, page in (
            ("findings", DOCS / "findings.md"),
            ("roles", DOCS / "formats" / "roles.md"),
        ):
            _, lines = COMMANDS[command](parser().parse_args([command]))
            self.assertEqual("\n".join(lines).strip(), page.read_text().strip(), command)

    def test_codes_are_documented_and_sources_named(self) -> None:
        text = (DOCS / "findings.md").read_text()
        for item in (*RULES, *MATCH_RULES):
            with self.subTest(item.type.code):
                self.assertIn(f"## {item.type.code}", text)
                self.assertIn(item.type.source, SOURCES)

    def test_gravest_findings_come_first(self) -> None:
        found = check_bike(
            bike_of(
                changed(
                    "fern", ("parts.pack.spec.series_count", 16), ("parts.lamp.spec.rated_v", 6.0)
                )
            )
        )
        order = ["danger", "fault", "advice"]
        ranks = [order.index(f.severity) for f in found]
        self.assertEqual(ranks, sorted(ranks))

    def test_a_key_changes_with_the_values_behind_it(self) -> None:
        """A waiver is tied to the key, so it lapses."""
        keys = {
            check_bike(bike_of(changed("fern", ("parts.pack.spec.bms_continuous_a", a))))[0].key
            for a in (15.0, 16.0)
        }
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
            value = next(
                d.value for d in derive_settings(demo_bike(name)) if d.role == "low_cutoff_v"
            )
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
