"""Match over HTTP."""

import re
from decimal import Decimal
from typing import Any

from django.urls import reverse

from brightcircuit.match.models import MatchPlan
from brightcircuit.shop.people import set_shop
from tests.apps.base import StationTest

RIDE = {"load_mass_kg": "200 lb", "rider_w": "0.1 kW", "hill_percent": "8 %", "hill_min": "10",
    "wind_kmh": "5 mph", "charger_a": "2",
        "body": "cargo", "tyre": "touring", "route": "hills", "place": "Canada", "log_km": "",
            "log_ah": ""}  # fmt: skip


class MatchTest(StationTest):
    bike = "otter"

    def ask(self, **more: str) -> Any:
        return self.post("match", self.job_uuid, action="ride", **RIDE | more)

    def place(self, place: str) -> Any:
        return self.post("match-class", self.job_uuid, action="place", place=place)

    def test_the_page_says_what_the_bike_will_do(self) -> None:
        for name, wanted in (
            ("match", ("weakest",)),
            ("match-ride", ("Top speed, flat", "Starts on a hill of up to", "Range, flat rule")),
            ("match-curves", ("power reduced",)),
            ("match-class", ("law",)),
            ("match-packs", ("Measured in Set", "not measured yet")),
            ("match-cost", ("Replace the controller",)),
        ):
            page = self.client.get(reverse(name, args=(self.job_uuid,)))
            for words in wanted:
                self.assertContains(page, words)
            self.assertNotRegex(page.content.decode(), r"\bnan\b|\binf\b")
        self.assertFalse(MatchPlan.objects.exists())

    def test_what_is_asked_is_kept_in_any_unit_and_logged(self) -> None:
        page = self.ask(log_km="21", log_ah="6.5")
        data = MatchPlan.objects.get().data
        self.assertAlmostEqual(data["load_mass_kg"], 90.7, delta=0.1)
        self.assertAlmostEqual(data["wind_kmh"], 8.05, delta=0.01)
        page_of_place = self.place("Canada")
        self.assertContains(page_of_place, "Provinces differ")
        self.assertRegex(page.content.decode(), r"(?s)Range, own log.*?km\s+at")
        self.assertTrue(self.job.log.filter(what="match").exists())

    def test_impossible_questions_are_refused_with_the_field_and_kept_on_the_page(self) -> None:
        for field, value, words in (
            ("hill_percent", "90", "From 0 to 35"),
            ("load_mass_kg", "heavy", "is not a number"),
            ("charger_a", "0", "From 0.2"),
            ("log_km", "12", "Give one distance"),
            ("rider_w", "10 m", "is not a value"),
        ):
            with self.subTest(field):
                page = self.ask(**{field: value})
                self.assertContains(page, words, status_code=422)
        self.assertFalse(MatchPlan.objects.exists())

    def test_up_to_four_variants_stand_side_by_side(self) -> None:
        for name, data in (
            ("52 V", {"pack": "pack-52v-14s4p", "controller": "controller-52v-22a"}),
            ("mid", {"motor": "mid-750w", "chain_ring": "34"}),
            ("odd second", {"second_pack": "pack-36v-10s3p"}),
        ):
            self.assertEqual(
                self.post("match", self.job_uuid, action="variant", name=name, **data).status_code,
                200,
            )
        page = self.client.get(reverse("match-ride", args=(self.job_uuid,))).content.decode()
        self.assertEqual(
            len(re.findall(r'<th scope="col">(as it is|52 V|mid|odd second)</th>', page)), 4
        )
        self.assertIn("the second pack is not alike (cells in series)", page)
        curves = self.client.get(reverse("match-curves", args=(self.job_uuid,))).content.decode()
        self.assertEqual(len(re.findall(r"<figure\b", curves)), 3)
        more = self.post(
            "match", self.job_uuid, action="variant", name="fifth", pack="pack-72v-20s4p"
        )
        self.assertContains(more, "are the most", status_code=422)
        self.post("match", self.job_uuid, action="drop", index="2")
        self.assertEqual(len(MatchPlan.objects.get().data["variants"]), 2)
        for data, words in (
            ({"name": ""}, "short name"),
            ({"name": "x"}, "at least one"),
            ({"name": "x", "chain_ring": "big"}, "whole number"),
        ):
            self.assertContains(
                self.post("match", self.job_uuid, action="variant", **data), words, status_code=422
            )

    def test_cost_knows_locked_systems(self) -> None:
        self.assertNotContains(
            self.client.get(reverse("match-cost", args=(self.job_uuid,))), "Rebuild the cells"
        )
        page = self.post("match", self.job_uuid, action="cost", locked="on")
        self.assertContains(page, "Rebuild the cells")
        self.assertContains(page, "has not said what an hour costs")
        set_shop(actor=self.lead, values={"rate": Decimal(60)})
        own = {
            "controller-parts_cost": "40",
            "controller-minutes": "30",
            "controller-life_km": "1000",
            "controller-resale": "0",
        }
        page = self.post("match", self.job_uuid, action="cost", **own)
        self.assertContains(page, "Labour 60.00")
        self.assertRegex(
            page.content.decode(),
            r'aria-label="Replace the controller, resale">\s*</td>'
            r'\s*<td class="mono">70</td>\s*<td class="mono">7.0</td>',
        )
        for wrong in (
            {"controller-life_km": "0"},
            {"controller-minutes": "long"},
            {"controller-resale": "-4"},
        ):
            page = self.post("match", self.job_uuid, action="cost", **own | wrong)
            self.assertEqual(page.status_code, 422, wrong)

    def test_a_build_is_added_up(self) -> None:
        set_shop(actor=self.lead, values={"rate": Decimal(60)})
        page = self.post(
            "match",
            self.job_uuid,
            action="tally",
            **{
                "price-pack": "450",
                "price-motor": "280,50",
                "tally-min": "1 h 30",
                "price-ghost": "9",
            },
        )
        self.assertContains(page, "820</span>")
        self.assertEqual(
            self.post("match", self.job_uuid, action="tally", **{"price-pack": "dear"}).status_code,
            422,
        )

    def test_a_variant_is_judged_by_the_same_rules(self) -> None:
        """A controller for 36 V on the 52 V pack: the column says what fails, in the words of the
        rule."""
        for name, slug in (("weak", "controller-36v-15a"), ("good", "controller-52v-22a")):
            self.post("match", self.job_uuid, action="variant", name=name, controller=slug)
        page = self.client.get(reverse("match-ride", args=(self.job_uuid,))).content.decode()
        fails = dict(re.findall(r"(?s)<strong>(\w+)</strong> fails:\s*</p>\s*<ul>(.*?)</ul>", page))
        self.assertRegex(fails["weak"], r"W001 The full .* gives")
        self.assertNotIn("W001", fails.get("good", ""))

    def test_a_place_that_is_not_in_the_table_gets_no_classes_of_another(self) -> None:
        for place, there in (("Canada", True), ("Far Harbour", False)):
            page = self.place(place).content.decode()
            self.assertEqual("is not in the table" in page, not there, place)
            self.assertEqual("EU L1e" in page or "pedelec" in page.lower(), False, place)

    def test_what_no_pedals_and_a_speed_limit_do_is_told(self) -> None:
        page = self.ask().content.decode()
        self.assertIn("pedalling with 100 W", page)
        url = reverse("describe", args=(self.job.revision.bike.uuid,))
        info = self.client.get(url).context["info"]
        data = {
            **info,
            "pedals": "no",
            "speed_limit_kmh": "15.5 mph",
            "action": "info",
            "base": "1",
        }
        self.client.post(url, data)
        page = self.client.get(reverse("match-ride", args=(self.job_uuid,))).content.decode()
        self.assertNotIn("pedalling with", page)
        page = self.client.get(reverse("match-class", args=(self.job_uuid,))).content.decode()
        self.assertIn("Assistance is set to end at 24.9", page)
        self.assertIn("working pedals", page)

    def test_the_own_log_can_be_told_in_volts(self) -> None:
        page = self.ask(log_km="18", log_from_v="54 V", log_to_v="49.5")
        self.assertRegex(page.content.decode(), r"(?s)Range, own log.*?km\s+at")
        for data, words in (
            ({"log_km": "18", "log_from_v": "54"}, "Give both, before and after"),
            ({"log_km": "18", "log_from_v": "48", "log_to_v": "50"}, "must be lower"),
        ):
            self.assertIn(words, self.ask(**data).content.decode())
