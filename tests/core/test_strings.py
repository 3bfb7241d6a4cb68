"""Packs in series through a harness: every rule, Match and every derived setting sees the whole
string."""

from dataclasses import replace
from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.loads import battery_limit_a
from brightcore.analysis.strings import highest_v, in_series, lowest_v, strings, top_v
from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.patterns import make_pattern
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.part_file import generic_entries
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import controllers
from brightcore.matching.drive import arrangement, drive_of
from brightcore.matching.rules import match_findings
from brightcore.procedure.gates import is_high
from brightcore.programming.derive import derive_settings
from brightcore.wiring.rules import check_bike
from tests.bikes import with_spec

FULL_V = 42.0


def string_bike(through: str = "harness") -> Bike:
    """Return the hub conversion on two 10S packs in series, through a harness or by a plug of their
    own."""
    bike = make_pattern("hub-conversion", "x")
    bike = with_spec(bike, "pack", series_count=10)
    bike = with_spec(bike, "controller", max_v=90.0, rated_v=72.0)
    pack = bike.part("pack")
    for join in tuple(bike.joins_of("pack")):
        lead = next(".".join(side) for side in join.sides() if side[0] != "pack")
        bike = remove_join(bike, join.id)
    bike = add_part(bike, "pack", "Second pack", pack.spec, pack.ports)
    second, plug = bike.parts[-1].id, pack.ports[0].id
    if through == "harness":
        entry = next(e for e in generic_entries() if e.id == "series-harness")
        bike = add_part(bike, entry.kind, entry.name, entry.spec, entry.ports)
        harness = bike.parts[-1].id
        for one, two in (
            (f"{harness}.upper", f"pack.{plug}"),
            (f"{harness}.lower", f"{second}.{plug}"),
            (f"{harness}.out", lead),
        ):
            bike = add_join(bike, one, two)
        return bike
    return add_join(bike, f"pack.{plug}", f"{second}.{plug}", pairs=(("minus", "plus"),))


class StringTest(TestCase):
    def test_a_string_is_seen_through_whatever_leads(self) -> None:
        for through in ("harness", "plug"):
            with self.subTest(through):
                bike = string_bike(through)
                self.assertEqual([len(s) for s in strings(bike)], [2])
                self.assertEqual((in_series(bike), arrangement(bike)), (True, "series"))
                self.assertAlmostEqual(highest_v(bike), 2 * FULL_V)
                case = analysis_of(bike)
                tops = {pack.name: top_v(case, pack) for pack in strings(bike)[0]}
                self.assertAlmostEqual(tops["Pack"], 2 * FULL_V)
                self.assertAlmostEqual(tops["Second pack"], FULL_V)
        for pattern in ("two-packs", "hub-conversion", "two-motor-cart"):
            self.assertFalse(in_series(make_pattern(pattern, "x")))

    def test_every_part_is_judged_by_the_volts_of_the_whole_string(self) -> None:
        bike = string_bike()
        load_bike(dump_bike(bike))
        for code, part, limits, told in (
            ("W054", "controller", {"max_v": 84.0}, False),
            ("W054", "controller", {"max_v": 83.9}, True),
            ("W010", "display", {"max_v": 84.0}, False),
            ("W010", "display", {"max_v": 83.9}, True),
        ):
            with self.subTest(code, **limits):
                self.assertEqual(
                    code in {f.code for f in check_bike(with_spec(bike, part, **limits))}, told
                )
        self.assertTrue(is_high(bike))
        self.assertIn("M008", {f.code for f in match_findings(bike)})

    def test_a_string_is_judged_by_its_sum_and_a_pack_by_its_own(self) -> None:
        """60 V stands between the sum of two packs and each of them; lead, watts and converter
        follow."""
        for cells, told in ((7, False), (8, True), (14, True)):
            bike = with_spec(
                with_spec(string_bike(), "pack", series_count=cells),
                "second_pack",
                series_count=cells,
            )
            with self.subTest(cells):
                found = [f for f in check_bike(bike) if f.code == "W009"]
                self.assertEqual([len(f.subjects) for f in found], [2] if told else [])
        two = make_pattern("two-packs", "x")
        self.assertNotIn("W009", {f.code for f in check_bike(two)})
        bike = string_bike()
        watts = highest_v(bike, PackSpec.nominal_v) * battery_limit_a(bike, controllers(bike)[0])
        for ratio, told in ((1.15, False), (1.16, True), (0.35, False), (0.34, True)):
            with self.subTest(ratio):
                printed = with_spec(bike, "motor", rated_w=watts * ratio)
                self.assertEqual("M001" in {f.code for f in match_findings(printed)}, told)
        self.assertAlmostEqual(lowest_v(bike), 2 * bike.part("pack").spec.empty_v())  # type: ignore[attr-defined]

    def test_settings_and_ride_are_those_of_the_whole_string(self) -> None:
        bike = string_bike()
        cutoff = next(d for d in derive_settings(bike) if d.role == "low_cutoff_v")
        cell = bike.part("pack").spec.cells.cutoff_v  # type: ignore[attr-defined]
        self.assertEqual(cutoff.value, round(20 * cell))
        self.assertIn("10 cells", cutoff.reason)
        one = drive_of(remove_part(bike, "second_pack").bike)
        self.assertAlmostEqual(drive_of(bike).pack_v / one.pack_v, 2.0, places=2)

    def test_two_controllers_share_what_the_pack_gives(self) -> None:
        cart = make_pattern("two-motor-cart", "x")
        for bms, each in ((50.0, 20.0), (40.0, 20.0), (30.0, 15.0)):
            with self.subTest(bms):
                bike = with_spec(cart, "pack", bms_continuous_a=bms, fuse_a=60.0)
                found = {
                    d.part: d.value for d in derive_settings(bike) if d.role == "current_limit_a"
                }
                self.assertEqual(found, {"controller_left": each, "controller_right": each})

    def test_unlike_packs_through_a_combining_module_are_a_danger(self) -> None:
        two = make_pattern("two-packs", "x")
        for change, told in (
            ({}, False),
            ({"series_count": 10}, True),
            ({"chemistry": "lfp"}, True),
            ({"capacity_ah": 9.0}, False),
        ):
            with self.subTest(**change):
                spec = two.part("pack_rear").spec
                bike = replace(
                    two,
                    parts=tuple(
                        replace(p, spec=replace(spec, **change)) if p.id == "pack_rear" else p
                        for p in two.parts
                    ),
                )
                codes = {f.code: f.severity for f in match_findings(bike)}
                self.assertEqual(codes.get("M004") == "danger", told, codes)
