"""Plans, spec forms, posted edits and photos as plain functions: every field, every limit."""

from typing import Any
from unittest import TestCase

from brightcircuit.bikes.describe import Refused, edit_info, edit_spec
from brightcircuit.library.forms import read_entry, read_spec, spec_rows
from brightcircuit.match.cards import cost_card, packs_card, repair_option
from brightcircuit.match.plan import (
    CHOICES,
    NUMBERS,
    Plan,
    read_money,
    read_riding,
    read_variant,
)
from brightcircuit.match.rides import variants_of
from brightcore.describing.patterns import make_pattern
from brightcore.describing.plugs import show_plugs
from brightcore.errors import ReadingError
from brightcore.formats.discharge_log import read_log
from brightcore.formats.part_file import generic_entries
from brightcore.kinds import REGISTRY
from tests.bikes import demo_bike

PLAIN = {f.name: f"{f.default:g}" for f in NUMBERS} | {n: c[2] for n, c in CHOICES.items()}


class PlanTest(TestCase):
    def test_Plan_pass_their_own_form(self) -> None:
        values, errors = read_riding(PLAIN)
        self.assertEqual(errors, {})
        self.assertEqual(
            {n: values[n] for n in PLAIN},
            {n: getattr(Plan.of(85.0, {}), n) for n in PLAIN},
        )

    def test_every_number_has_limits_at_both_ends(self) -> None:
        for f in NUMBERS:
            for value, wrong in (
                (f.low, False),
                (f.high, False),
                (f.low - 1, True),
                (f.high + 1, True),
            ):
                with self.subTest(f.name, value=value):
                    _, errors = read_riding(PLAIN | {f.name: f"{value:g}"})
                    self.assertEqual(bool(errors), wrong)

    def test_a_logged_ride_has_one_distance_and_one_use(self) -> None:
        for more, wrong in (
            ({"log_km": "12 mi", "log_ah": "5"}, ""),
            ({"log_from_km": "1200", "log_to_km": "1230", "log_percent": "40 %"}, ""),
            ({"log_from_km": "1200", "log_percent": "40"}, "log_from_km"),
            ({"log_from_km": "1230", "log_to_km": "1230", "log_percent": "40"}, "log_to_km"),
            ({"log_km": "12", "log_ah": "5", "log_percent": "40"}, "log_km"),
            ({"log_km": "12", "log_from_v": "54", "log_to_v": "49"}, ""),
            ({"log_km": "12", "log_from_v": "54"}, "log_from_v"),
            ({"log_percent": "0"}, "log_percent"),
        ):
            with self.subTest(more=more):
                values, errors = read_riding(PLAIN | more)
                self.assertEqual(set(errors), {wrong} - {""})
                if "mi" in more.get("log_km", ""):
                    self.assertAlmostEqual(values["log_km"], 19.31, places=2)

    def test_unknown_choices_fall_back(self) -> None:
        values, _ = read_riding(PLAIN | {"body": "submarine", "route": "moon"})
        self.assertEqual((values["body"], values["route"]), ("upright", "rolling"))

    def test_variants_need_a_name_and_a_difference(self) -> None:
        for data, error in (
            ({"name": "a", "pack": "p"}, ""),
            ({"name": "a"}, "name"),
            ({"name": "", "pack": "p"}, "name"),
            ({"name": "a", "chain_ring": "7"}, "chain_ring"),
            ({"name": "a", "wheel_seat": "622"}, ""),
        ):
            _, errors = read_variant(data)
            self.assertEqual(set(errors), {error} - {""}, data)

    def test_money_is_read_row_by_row(self) -> None:
        errors: dict[str, str] = {}
        found = read_money(
            {"a-x": "12,50", "a-y": "", "a-z": "lots", "a-w": "-1"},
            "a",
            ("x", "y", "z", "w"),
            errors,
        )
        self.assertEqual((found["x"], set(errors)), (12.5, {"a-z", "a-w"}))
        self.assertNotIn("y", found)


class CardTest(TestCase):
    def test_a_bike_without_a_motor_is_told_not_crashed(self) -> None:
        from dataclasses import replace

        bike = make_pattern("hub-conversion", "x")
        bare = replace(bike, parts=tuple(p for p in bike.parts if p.kind != "hub_motor"))
        variant = variants_of(bare, Plan.of(85.0, {}))[0]
        self.assertIsNone(variant.drive)
        self.assertIn("needs a pack, a controller and a motor", variant.problem)

    def test_several_packs_are_told_apart(self) -> None:
        self.assertIsNone(packs_card(demo_bike("fern")))
        card = packs_card(make_pattern("two-packs", "x"))
        assert card is not None
        self.assertEqual([r.ah for r in card.rows], ["14 Ah", "10 Ah"])
        self.assertIn("combining module", card.how)

    def test_the_repair_stands_among_the_ways_by_its_cost(self) -> None:
        rows = cost_card(
            demo_bike("fern"), Plan.of(85.0, {}), repair_option("Clean the plug", 12.0, 0), 60.0
        )
        self.assertTrue(rows[0].is_repair)
        self.assertEqual(rows[0].cost, "12")
        self.assertEqual([float(r.per_km) for r in rows], sorted(float(r.per_km) for r in rows))


class SpecFormTest(TestCase):
    def test_every_kind_shows_a_form_that_reads_back_the_same(self) -> None:
        for entry in generic_entries():
            kind = REGISTRY[entry.kind]
            posted = {f"spec-{r.name}": r.value for r in spec_rows(kind, entry.spec)}
            spec, errors = read_spec(kind, posted, entry.spec)
            self.assertEqual((spec, errors), (entry.spec, {}), entry.id)
            again, errors = read_entry(
                entry.kind,
                posted | {"name": entry.name, "plugs": show_plugs(entry.ports), "note": entry.note},
                entry,
            )
            self.assertEqual((again, errors), (entry, {}), entry.id)

    def test_errors_stand_at_their_field_and_keep_what_was_typed(self) -> None:
        kind = REGISTRY["pack"]
        posted = {"spec-capacity_ah": "a lot", "spec-fuse_a": "40 A"}
        _, errors = read_spec(kind, posted)
        rows = {r.name: r for r in spec_rows(kind, kind.spec_type(), posted, errors)}
        self.assertEqual(
            (rows["capacity_ah"].value, bool(rows["capacity_ah"].error), rows["fuse_a"].error),
            ("a lot", True, ""),
        )

    def test_a_cable_keeps_conductors_that_its_form_does_not_show(self) -> None:
        cap = next(e for e in generic_entries() if e.id == "bridging-cap")
        posted = {
            "name": "Cap",
            "spec-length_m": "6 cm",
            "spec-area_mm2": "22 AWG",
            "plugs": show_plugs(cap.ports),
        }
        entry, errors = read_entry("cable", posted, cap)
        assert entry is not None and not errors
        self.assertEqual((entry.spec.conductors, entry.spec.length_m), (cap.spec.conductors, 0.06))
        _, errors = read_entry("cable", posted | {"plugs": "plug: Cap = vp"}, cap)
        self.assertIn("no pin any more", errors["plugs"])


class EditFormTest(TestCase):
    GOOD = {
        "label": "Fern",
        "tyre": "47-406",
        "bike_mass_kg": "40",
        "load_mass_kg": "100",
        "driven_wheel": "rear",
    }

    def test_particulars_are_checked_field_by_field(self) -> None:
        bike = demo_bike("fern")
        self.assertEqual(edit_info(bike, self.GOOD).bike.info.load_mass_kg, 100.0)
        bad: tuple[tuple[dict[str, str], str], ...] = (
            ({"label": " "}, "label"),
            ({"tyre": "big"}, "tyre"),
            ({"bike_mass_kg": "heavy"}, "bike_mass_kg"),
            ({"load_mass_kg": "0"}, "load_mass_kg"),
            ({"load_mass_kg": "90 m"}, "load_mass_kg"),
        )
        for change, field in bad:
            with self.subTest(change), self.assertRaises(Refused) as caught:
                edit_info(bike, self.GOOD | change)
            self.assertEqual(set(caught.exception.errors), {field})

    def test_long_texts_are_cut_to_what_the_file_holds(self) -> None:
        self.assertEqual(
            len(edit_info(demo_bike("fern"), self.GOOD | {"label": "x" * 500}).bike.info.label), 120
        )

    def test_a_part_needs_a_name_and_a_possible_spec(self) -> None:
        with self.assertRaises(Refused) as caught:
            edit_spec(demo_bike("fern"), "pack", {"name": "", "spec-series_count": "0"})
        self.assertEqual(set(caught.exception.errors), {"name", "series_count"})


class LogTest(TestCase):
    def test_a_log_is_read_under_any_usual_heading_and_order(self) -> None:
        for text in (
            "time_s,voltage_v,current_a\n0,50,1\n9,49,2",
            "Amps, Volts ,Seconds\n1,50,0\n2,49,9",
            "\ufeffs,v,a,note\n0,50,1,x\n9,49,2,y",
        ):
            found: dict[str, Any] = read_log(text.encode())
            self.assertEqual(
                found, {"time_s": [0.0, 9.0], "voltage_v": [50.0, 49.0], "current_a": [1.0, 2.0]}
            )
        for text, words in (
            ("", "must name"),
            ("a;b", "must name"),
            ("s,v,a\n1,2", "line 2: current_a"),
            ("s,v,a\n1,2,three", "line 2: current_a"),
        ):
            with self.assertRaisesRegex(ReadingError, words):
                read_log(text.encode())
