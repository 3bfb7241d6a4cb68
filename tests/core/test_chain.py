"""Current chains, pack checks, class and cost against worked figures."""

import math
from dataclasses import replace
from unittest import TestCase

from brightcore.describing.patterns import PATTERNS
from brightcore.findings import render
from brightcore.formats.class_file import load_classes, shipped_classes
from brightcore.matching import packs
from brightcore.matching.chain import current_chain, volt_windows
from brightcore.matching.cost import Option, build_tally, cost_option, usual_options
from brightcore.matching.law import Facts, judge, places
from brightcore.matching.rules import match_findings
from brightcore.physics.heating import ampacity_a
from tests.bikes import demo_bike, with_spec


class PackTest(TestCase):
    def test_two_readings_give_the_resistance(self) -> None:
        self.assertAlmostEqual(packs.internal_ohm(48.0, 2.0, 46.2, 20.0), 0.1)

    def test_a_discharge_log_is_summed_by_trapezoids(self) -> None:
        found = packs.discharge_capacity([0, 3600, 7200], [50, 46, 40], [2, 2, 2], 5.0)
        self.assertAlmostEqual(found.capacity_ah, 4.0)
        self.assertAlmostEqual(found.energy_wh, 182.0)
        self.assertAlmostEqual(found.label_ratio, 0.8)

    def test_charging_slows_down_at_the_end(self) -> None:
        self.assertAlmostEqual(packs.charge_hours(10, 2), 5 * 1.15)
        self.assertLess(packs.charge_hours(10, 2, 0.9), 2 * 5 * 0.1 + 1e-9)


class ChainTest(TestCase):
    def test_the_weakest_link_is_marked_and_a_weak_board_is_a_finding(self) -> None:
        weak = with_spec(PATTERNS["hub-conversion"][1](), "pack", bms_continuous_a=3.0)
        chain = current_chain(weak)
        self.assertIn("BMS", chain.links[chain.weakest].title)
        words = [render(f) for f in match_findings(weak)]
        self.assertEqual([w for w in words if "BMS" in w], [], "a rule of wiring tells it already")

    def test_what_winding_and_phase_wires_stand_for_a_minute(self) -> None:
        """By hand: the whole motor of few watts, the copper of many; wires by their heat [cp].

        As one mass a motor warms by 75 K in a minute; its copper alone stands 18 A by the root of
        its ohms. The lower one counts, however many watts are printed.
        """
        bike = PATTERNS["hub-conversion"][1]()
        phase_ohm = bike.part("motor").spec.phase_ohm
        for rated in (60.0, 100.0, 500.0, 5000.0):
            hub = with_spec(bike, "motor", rated_w=rated)
            size = rated / 250.0
            capacity, resistance = 1200 * size**0.7, 1.5 / size**0.6
            watts = 75 / resistance / (1 - math.exp(-60 / capacity / resistance))
            whole = math.sqrt(watts / (phase_ohm * (1 + 0.00393 * 75)))
            links = {link.id: link for link in current_chain(hub).links}
            wanted = min(whole, 18 / math.sqrt(phase_ohm))
            self.assertAlmostEqual(links["motor:motor"].limit_a, wanted, places=3)
        thick = tuple(
            replace(j, wire=replace(j.wire, area_mm2=100.0)) if j.id == "j3" else j
            for j in bike.joins
        )
        links = {link.id: link for link in current_chain(replace(bike, joins=thick)).links}
        self.assertAlmostEqual(links["phases:motor"].limit_a, ampacity_a(100.0, seconds=60.0))

    def test_every_matching_rule_can_be_triggered(self) -> None:
        hub, two = PATTERNS["hub-conversion"][1](), PATTERNS["two-packs"][1]()
        front, rear = two.part("pack_front"), two.part("pack_rear")
        bare = replace(two, parts=tuple(p for p in two.parts if p.kind != "combiner"))
        bare = replace(
            bare, joins=tuple(j for j in bare.joins if "combiner" not in (j.a_part, j.b_part))
        )
        lead = next(
            j
            for j in hub.joins
            if "controller" in (j.a_part, j.b_part) and "main_lead" in (j.a_part, j.b_part)
        )
        side = [
            replace(
                lead, id=f"x{i}", a_part=p.id, a_port="main", b_part="controller", b_port="battery"
            )
            for i, p in enumerate((front, rear))
        ]
        parallel = replace(bare, joins=(*bare.joins, *side))
        chain = replace(
            lead,
            id="s",
            a_part=front.id,
            a_port="main",
            b_part=rear.id,
            b_port="main",
            pairs=(("plus", "minus"),),
        )
        cases = (
            ("M001", with_spec(hub, "motor", rated_w=250.0)),
            ("M002", with_spec(hub, "controller", low_cutoff_v=30.0)),
            ("M003", with_spec(hub, "controller", low_cutoff_v=45.0)),
            ("M004", with_spec(parallel, "pack_rear", series_count=14)),
            ("M005", with_spec(parallel, "pack_rear", cell_v=3.6)),
            ("M006", with_spec(two, "motor", gear_ratio=1.0)),
            ("M007", with_spec(hub, "motor", phase_limit_a=40.0)),
            ("M012", with_spec(with_spec(hub, "motor", gear_ratio=1.0), "controller", regen="on")),
            ("M013", with_spec(with_spec(hub, "motor", gear_ratio=1.0), "controller", regen="on")),
            ("M008", replace(bare, joins=(*bare.joins, chain))),
            ("M009", with_spec(hub, "motor", phase_ohm=2.0)),
            ("M010", with_spec(hub, "controller", low_cutoff_v=44.0)),
            ("M011", with_spec(hub, "pack", internal_ohm=0.5)),
        )
        for code, bike in cases:
            with self.subTest(code):
                self.assertIn(code, {f.code for f in match_findings(bike)})

    def test_volt_windows_of_the_demo_bikes_are_in_order(self) -> None:
        for name in ("fern", "otter", "teasel"):
            for w in volt_windows(demo_bike(name)):
                self.assertTrue(w.trip_v < w.empty_v < w.nominal_v < w.full_v <= w.controller_max_v)
                self.assertGreater(w.sag_v, 0)


class LawAndCostTest(TestCase):
    def test_classes_fit_and_say_what_would_have_to_change(self) -> None:
        """Limits [std][mem]; the table says so."""
        for place, facts, fitting in (
            ("European Union", Facts(250, 25, False, True), {"eu-pedelec", "eu-l1e-a", "eu-l1e-b"}),
            ("European Union", Facts(750, 40, True, True), {"eu-l1e-b"}),
            ("United States", Facts(740, 31, True, True), {"us-federal", "us-2"}),
            ("Canada", Facts(750, 31, True, True), set()),
            ("Nowhere", Facts(250, 25, False, True), set()),
        ):
            verdicts = judge(facts, shipped_classes(), place)
            self.assertEqual({v.legal_class.id for v in verdicts if v.fits}, fitting, place)
            self.assertTrue(all(v.changes for v in verdicts if not v.fits))
        self.assertIn("Australia", places(shipped_classes()))

    def test_a_shop_can_add_a_place(self) -> None:
        text = (
            "- {id: here, place: Here, name: Own, rated_w: 300, assist_kmh: 20, throttle: none, "
            "throttle_kmh: 0}"
        )
        self.assertTrue(judge(Facts(250, 19, False, True), load_classes(text), "Here")[0].fits)
        for bad, words in (("- {id: x}", "required"), ("a: 1", "array"), ("[", "not YAML")):
            with self.assertRaisesRegex(Exception, words):
                load_classes(bad)

    def test_costs_add_up(self) -> None:
        done = cost_option(Option("x", "x", 100.0, 30, 1000.0, 20.0, "", ""), 60.0)
        self.assertEqual((done.cost, done.per_km), (130.0, 0.11))
        self.assertEqual(build_tally((("pack", 450.0), ("hub", 280.0)), 90, 60), 820.0)
        self.assertEqual(len(usual_options(600, True)) - len(usual_options(600, False)), 3)
