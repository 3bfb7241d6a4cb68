"""The library and describing a bike over HTTP."""

from decimal import Decimal

import yaml
from django.urls import reverse

from brightcircuit.bikes.models import Bike, RiderContact
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.library.models import LibraryPart, StockItem
from brightcircuit.library.services import add_generic
from brightcircuit.record.models import CostLine
from brightcircuit.stations.files import export_job
from brightcore.describing.patterns import PATTERNS
from tests.apps.base import StationTest, upload


class LibraryTest(StationTest):
    def test_generic_entries_come_once_and_the_pages_open(self) -> None:
        self.assertEqual(add_generic(), 0)
        for url in (
            reverse("library"),
            reverse("library") + "?kind=pack&q=48",
            reverse("library") + "?retired=1",
            reverse("library-new"),
            reverse("library-new") + "?kind=cable",
            reverse("library-import"),
            reverse("library-part", args=("pack-48v-13s4p",)),
        ):
            with self.subTest(url):
                self.assertEqual(self.client.get(url).status_code, 200)
        self.assertContains(self.client.get(reverse("library") + "?q=zeppelin"), "No part fits.")

    def test_a_part_is_added_with_the_units_people_write(self) -> None:
        page = self.post(
            "library-new",
            kind="pack",
            name="Barge pack",
            **{"spec-capacity_ah": "12500 mAh", "spec-internal_ohm": "95 mΩ"},
        )
        self.assertContains(page, "Barge pack is in the library.")
        row = LibraryPart.objects.get(name="Barge pack")
        self.assertEqual(
            (row.document["spec"]["capacity_ah"], row.document["spec"]["internal_ohm"]),
            (12.5, 0.095),
        )
        self.assertEqual(row.changes.get().by_name, "tech")

    def test_a_wrong_value_is_named_and_what_was_typed_stays(self) -> None:
        for data, words in (
            ({"name": "P", "spec-capacity_ah": "12 V"}, "is not a value in"),
            ({"name": "P", "spec-fuse_a": "9999"}, "is outside 0 to 500"),
            ({"name": "", "spec-fuse_a": "30 A"}, "Give it a name"),
            ({"name": "P", "plugs": "main Pack plus"}, "plugs line 1"),
        ):
            with self.subTest(words):
                page = self.post("library-new", kind="pack", **data)
                self.assertContains(page, words, status_code=422)
                for typed in (v for k, v in data.items() if v and k != "plugs"):
                    self.assertContains(page, typed, status_code=422)
        self.assertFalse(LibraryPart.objects.filter(generic=False).exists())

    def test_change_copy_retire_and_a_stale_change(self) -> None:
        slug = "throttle-thumb"
        self.post(
            "library-part", slug, action="keep", version="1", name="Thumb, left", note="short cable"
        )
        self.assertEqual(LibraryPart.objects.get(slug=slug).name, "Thumb, left")
        stale = self.post("library-part", slug, action="keep", version="1", name="Thumb, right")
        self.assertContains(stale, "changed meanwhile", status_code=422)
        self.assertContains(stale, "Thumb, right", status_code=422)
        self.post("library-part", slug, action="copy")
        self.assertTrue(LibraryPart.objects.filter(name="Thumb, left (copy)").exists())
        self.post("library-part", slug, action="retire")
        self.assertNotContains(
            self.client.get(reverse("library") + "?kind=throttle&q=Thumb, left"), f"/parts/{slug}/"
        )
        self.post("library-part", slug, action="bring-back")
        self.assertFalse(LibraryPart.objects.get(slug=slug).retired)

    def test_files_go_out_and_come_in_without_overwriting(self) -> None:
        text = self.client.get(reverse("library-file", args=("yaml",))).content
        self.assertContains(
            self.post("library-import", file=upload(text, "p.yaml")), "0 taken in, "
        )
        document = yaml.safe_load(text)
        document["parts"] = [
            p | {"name": "Other"} for p in document["parts"] if p["id"] == "lamp-6v"
        ]
        page = self.post("library-import", file=upload(yaml.safe_dump(document).encode(), "p.yml"))
        self.assertContains(page, "1 taken in, 0 were here already, 1 of them under a new id")
        self.assertEqual(LibraryPart.objects.get(slug="lamp-6v").name, "6 V lamp, 2.4 W")
        self.assertContains(
            self.post("library-import", file=upload(b"id,kind,name\nx,,P", "p.csv")),
            "kind is missing",
            status_code=422,
        )
        self.assertContains(
            self.client.get(reverse("library-file", args=("csv",))), "pack-48v-13s4p"
        )
        self.assertEqual(self.client.get(reverse("library-file", args=("exe",))).status_code, 404)


class DescribeTest(StationTest):
    def base(self, bike: Bike) -> int:
        return latest_revision(bike).number

    def test_every_pattern_becomes_a_bike_and_another_bike_can_be_copied(self) -> None:
        for pattern in PATTERNS:
            self.assertContains(
                self.post("bike-new", label=f"New {pattern}", start=f"pattern:{pattern}"),
                "Connect two free plugs",
            )
        fern = self.revision.bike
        self.post("bike-new", label="Twin", start=f"bike:{fern.uuid}")
        twin = Bike.objects.get(label="Twin")
        self.assertEqual(core_bike(latest_revision(twin)).parts, core_bike(self.revision).parts)
        for data, words in (
            ({"label": "", "start": "pattern:folding"}, "Give the bike a name"),
            ({"label": "X", "start": ""}, "Choose what it is"),
            ({"label": "X", "start": "pattern:tricycle"}, "no pattern called"),
        ):
            self.assertContains(self.post("bike-new", **data), words, status_code=422)

    def test_every_change_adds_a_revision_and_two_can_be_compared(self) -> None:
        bike = self.revision.bike
        steps = (
            {"action": "swap", "part": "pack", "library": "pack-52v-14s4p"},
            {"action": "add", "library": "stand-switch"},
            {"action": "remove", "part": "lamp"},
            {"action": "unjoin", "join": "j-pack_2"},
            {
                "action": "join",
                "one": "pack_2.main",
                "two": "main_lead.pack_end",
                "area": "12 AWG",
                "length": "30 cm",
            },
            {
                "action": "info",
                "label": "Fern II",
                "tyre": "26 in",
                "bike_mass_kg": "60 lb",
                "load_mass_kg": "90",
                "frame_number": "MQ 77",
            },
        )
        for k, data in enumerate(steps):
            with self.subTest(data["action"]):
                self.assertEqual(
                    self.post("describe", bike.uuid, base=self.base(bike), **data).status_code, 200
                )
                self.assertEqual(self.base(bike), k + 2)
        core = core_bike(latest_revision(bike))
        self.assertEqual(
            (core.part("pack_2").spec.series_count, core.info.bead_seat_mm, core.info.frame_number),
            (14, 559.0, "MQ 77"),
        )
        self.assertAlmostEqual(core.joins[-1].wire.area_mm2, 3.3088)
        page = self.client.get(reverse("bike-compare", args=(bike.uuid,)), {"old": 1, "new": 7})
        for words in ("Removed: Front lamp", "Fitted: Kick-stand switch", "Label: Fern → Fern II"):
            self.assertContains(page, words)
        self.assertEqual(self.job.revision.number, 7)  # the one open job of the bike follows

    def test_what_does_not_work_is_told_and_changes_nothing(self) -> None:
        bike = self.revision.bike
        for data, words in (
            (
                {"action": "swap", "part": "pack", "library": "nothing"},
                "Choose a part of the library",
            ),
            ({"action": "remove", "part": "pack"}, "needs a pack"),
            ({"action": "remove", "part": "wings"}, "no part called"),
            ({"action": "join", "one": "pack.main", "two": "lamp.plug"}, "connected already"),
            ({"action": "unjoin", "join": "jx"}, "no join called"),
            (
                {
                    "action": "info",
                    "label": "",
                    "tyre": "wide",
                    "bike_mass_kg": "x",
                    "load_mass_kg": "9000",
                },
                "is not a tyre size",
            ),
            ({"action": "dance"}, "Nothing to do."),
        ):
            with self.subTest(words):
                page = self.post("describe", bike.uuid, base=1, **data)
                self.assertContains(page, words, status_code=422)
        self.assertContains(
            self.post("describe", bike.uuid, base=9, action="remove", part="lamp"),
            "meanwhile",
            status_code=422,
        )
        self.assertEqual(self.base(bike), 1)

    def test_one_part_is_changed_or_swapped_on_its_own_page(self) -> None:
        bike = self.revision.bike
        args = (bike.uuid, "controller")
        self.assertContains(
            self.client.get(reverse("describe-part", args=args)), "48 V 30 A controller"
        )
        self.post(
            "describe-part",
            *args,
            action="spec",
            base=1,
            name="Box",
            **{"spec-battery_limit_a": "18 A"},
        )
        self.assertEqual(
            core_bike(latest_revision(bike)).part("controller").spec.battery_limit_a, 18.0
        )
        bad = self.post(
            "describe-part", *args, action="spec", base=2, name="Box", **{"spec-max_v": "12 A"}
        )
        self.assertContains(bad, "12 A", status_code=422)
        lost = self.post(
            "describe-part", *args, action="swap", base=2, library="controller-48v-30a"
        )
        self.assertContains(lost, "No longer connected")
        self.assertEqual(
            self.client.get(reverse("describe-part", args=(bike.uuid, "wings"))).status_code, 404
        )

    def test_a_part_swapped_in_comes_off_the_shelf_onto_the_open_jobs_bill(self) -> None:
        """Rows: stock id that is posted, pieces left, lines on the bill, status."""
        item = StockItem.objects.create(
            number="B-7", name="48 V 30 A controller", count=1, each=Decimal(90)
        )
        bike = self.revision.bike
        page = self.client.get(reverse("describe-part", args=(bike.uuid, "controller")))
        self.assertContains(page, "48 V 30 A controller, 1 there")
        for posted, left, lines, status in (("999999", 1, 0, 422), (str(item.pk), 0, 1, 302)):
            with self.subTest(posted):
                typed = {
                    "library": "controller-48v-30a",
                    "mark": "C 44",
                    "stock": posted,
                    "base": 1,
                }
                found = self.client.post(
                    reverse("describe-part", args=(bike.uuid, "controller")),
                    {"action": "swap", **typed},
                )
                self.assertEqual(found.status_code, status)
                item.refresh_from_db()
                self.assertEqual(item.count, left)
                self.assertEqual(CostLine.objects.filter(job=self.job).count(), lines)
        made = [part for part in core_bike(latest_revision(bike)).parts if part.mark == "C 44"]
        self.assertEqual([part.replaces for part in made], ["controller"])

    def test_the_label_opens_the_bike_and_the_contact_is_kept_apart(self) -> None:
        bike = self.revision.bike
        page = self.client.get(reverse("bike-label", args=(bike.uuid,)))
        self.assertContains(page, f"/bikes/{bike.uuid}/")
        self.assertContains(page, "<svg")
        self.post("bike-contact", bike.uuid, name="N. Reed", reach="0 55 12", note="")
        self.assertNotIn("Reed", str(export_job(self.job)))
        url = reverse("record-job", args=(self.job_uuid,))
        self.assertNotContains(self.client.get(url), "Reed")
        self.assertContains(self.client.get(url, {"contact": "1"}), "N. Reed")
        self.post("bike-contact", bike.uuid, action="erase")
        self.assertFalse(RiderContact.objects.exists())
