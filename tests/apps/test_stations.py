"""Library, describing, Match and the rest of Arrive over HTTP."""

import io
import re
import tempfile
from typing import Any
from unittest.mock import patch

import yaml
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from brightcircuit.arrive.models import Photo
from brightcircuit.arrive.photos import add_photo, clean_picture, photo_path
from brightcircuit.bikes.models import Bike, RiderContact
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.services import use_newest_revision
from brightcircuit.library.models import LibraryPart
from brightcircuit.library.services import add_generic
from brightcircuit.match.models import MatchPlan
from brightcircuit.stations.files import export_job
from brightcircuit.trace.models import Entry
from brightcore.describing.edit import remove_part
from brightcore.describing.patterns import PATTERNS
from tests.apps.base import LIT, ShopTest


def picture(kind: str = "JPEG", size: tuple[int, int] = (2400, 600), **more: Any) -> bytes:
    """Return a picture file; `exif` puts camera data and an orientation into it."""
    out = io.BytesIO()
    image = Image.new("RGB", size, (200, 120, 20))
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "Camera maker 0815"
    image.save(out, kind, **({"exif": exif} if kind == "JPEG" else {}), **more)
    return out.getvalue()


def upload(content: bytes, name: str) -> SimpleUploadedFile:
    return SimpleUploadedFile(name, content)


class StationTest(ShopTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def post(self, _view: str, /, *args: Any, **data: Any) -> Any:
        return self.client.post(reverse(_view, args=args), data, follow=True)


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
            (row.document["spec"]["capacity_ah"], row.document["spec"]["internal_ohm"]), (12.5, 0.095)
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
        self.post("library-part", slug, action="keep", version="1", name="Thumb, left", note="short cable")
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
        self.assertContains(self.post("library-import", file=upload(text, "p.yaml")), "0 taken in, ")
        document = yaml.safe_load(text)
        document["parts"] = [p | {"name": "Other"} for p in document["parts"] if p["id"] == "lamp-6v"]
        page = self.post("library-import", file=upload(yaml.safe_dump(document).encode(), "p.yml"))
        self.assertContains(page, "1 taken in, 0 were here already, 1 of them under a new id")
        self.assertEqual(LibraryPart.objects.get(slug="lamp-6v").name, "6 V lamp, 2.4 W")
        self.assertContains(
            self.post("library-import", file=upload(b"id,kind,name\nx,,P", "p.csv")),
            "kind is missing",
            status_code=422,
        )
        self.assertContains(self.client.get(reverse("library-file", args=("csv",))), "pack-48v-13s4p")
        self.assertEqual(self.client.get(reverse("library-file", args=("exe",))).status_code, 404)


class DescribeTest(StationTest):
    def base(self, bike: Bike) -> int:
        return latest_revision(bike).number

    def test_every_pattern_becomes_a_bike_and_another_bike_can_be_copied(self) -> None:
        for pattern in PATTERNS:
            self.assertContains(
                self.post("bike-new", label=f"New {pattern}", start=f"pattern:{pattern}"),
                "Join two free plugs",
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
            {"action": "unjoin", "join": "j-pack"},
            {
                "action": "join",
                "one": "pack.main",
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
            (core.part("pack").spec.series_count, core.info.bead_seat_mm, core.info.frame_number),
            (14, 559.0, "MQ 77"),
        )
        self.assertAlmostEqual(core.joins[-1].wire.area_mm2, 3.3088)
        page = self.client.get(reverse("bike-compare", args=(bike.uuid,)), {"old": 1, "new": 7})
        for words in ("Taken off: Front lamp", "Fitted: Kick-stand switch", "label: Fern → Fern II"):
            self.assertContains(page, words)
        self.assertEqual(self.job.revision.number, 1)

    def test_what_does_not_work_is_told_and_changes_nothing(self) -> None:
        bike = self.revision.bike
        for data, words in (
            ({"action": "swap", "part": "pack", "library": "nothing"}, "Choose a part of the library"),
            ({"action": "remove", "part": "pack"}, "needs a pack"),
            ({"action": "remove", "part": "wings"}, "no part called"),
            ({"action": "join", "one": "pack.main", "two": "lamp.plug"}, "joined already"),
            ({"action": "unjoin", "join": "jx"}, "no join called"),
            (
                {"action": "info", "label": "", "tyre": "wide", "bike_mass_kg": "x", "load_mass_kg": "9000"},
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
        self.assertContains(self.client.get(reverse("describe-part", args=args)), "48 V 30 A controller")
        self.post(
            "describe-part", *args, action="spec", base=1, name="Box", **{"spec-battery_limit_a": "18 A"}
        )
        self.assertEqual(core_bike(latest_revision(bike)).part("controller").spec.battery_limit_a, 18.0)
        bad = self.post("describe-part", *args, action="spec", base=2, name="Box", **{"spec-max_v": "12 A"})
        self.assertContains(bad, "12 A", status_code=422)
        lost = self.post("describe-part", *args, action="swap", base=2, library="controller-48v-30a")
        self.assertContains(lost, "No longer joined")
        self.assertEqual(
            self.client.get(reverse("describe-part", args=(bike.uuid, "wings"))).status_code, 404
        )

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


class ArriveTest(StationTest):
    def test_what_went_before_and_the_state_of_the_wires_are_kept(self) -> None:
        self.post(
            "arrive", self.job_uuid, action="found", circumstances=["rain", "others", "moon"], wires=["green"]
        )
        arrival = self.job.arrival
        self.assertEqual((arrival.circumstances, arrival.wires), (["rain", "others"], ["green"]))
        self.assertEqual(export_job(self.job)["job"]["wires"], ["green"])

    def test_a_job_moves_to_the_newest_description_only_with_its_evidence(self) -> None:
        bike = self.revision.bike
        with self.assertRaises(ValidationError):
            use_newest_revision(actor=self.technician, job=self.job)
        self.safe()
        self.add(LIT)
        newest = add_revision(
            actor=self.technician,
            bike=bike,
            core=remove_part(core_bike(self.revision), "display").bike,
            base=1,
            what="x",
        )
        page = self.post("arrive", self.job_uuid, action="revision")
        self.assertContains(page, "would lose its place", status_code=422)
        Entry.objects.update(undone=True)
        self.post("arrive", self.job_uuid, action="revision")
        self.assertEqual(self.job.revision_id, newest.pk)


class PhotoTest(StationTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        settings = self.settings(DATA=folder.name)
        settings.enable()
        self.addCleanup(settings.disable)

    def test_a_photo_is_turned_upright_scaled_and_stripped(self) -> None:
        page = self.post(
            "arrive", self.job_uuid, action="photo", photo=upload(picture(), "x.jpg"), caption="Green pins"
        )
        self.assertContains(page, "Green pins")
        photo = Photo.objects.get()
        with Image.open(photo_path(photo)) as kept:
            self.assertEqual((kept.format, kept.size, len(kept.getexif())), ("JPEG", (400, 1600), 0))
        self.assertNotIn(b"0815", photo_path(photo).read_bytes())
        self.assertEqual(photo_path(photo).stat().st_mode & 0o777, 0o600)
        sent = b"".join(self.client.get(reverse("photo", args=(self.job_uuid, photo.uuid))).streaming_content)
        self.assertEqual(len(sent), photo.size)
        self.assertEqual(export_job(self.job)["job"]["attachments"][0]["sha256"], photo.sha256)
        self.client.logout()
        self.assertEqual(self.client.get(reverse("photo", args=(self.job_uuid, photo.uuid))).status_code, 302)

    def test_a_picture_that_unpacks_too_large_is_refused_by_its_header(self) -> None:
        """A plain JPEG has a limit of its own, as it is read at a fraction of its size."""
        for kind, how, limit in (
            ("JPEG", {}, "MOST_PIXELS"),
            ("JPEG", {"progressive": True}, "MOST_PIXELS_WHOLE"),
            ("PNG", {}, "MOST_PIXELS_WHOLE"),
            ("WEBP", {}, "MOST_PIXELS_WEBP"),
        ):
            content = picture(kind, (40, 50), **how)
            for most in (2000, 1999):
                with (
                    self.subTest(kind, most=most, **how),
                    patch(f"brightcircuit.arrive.photos.{limit}", most),
                ):
                    if most == 2000:
                        self.assertTrue(clean_picture(content))
                    else:
                        with self.assertRaises(ValidationError):
                            clean_picture(content)

    def test_a_job_holds_so_many_photos_and_no_more(self) -> None:
        small = picture(size=(40, 30))
        with patch("brightcircuit.arrive.photos.MOST_PHOTOS", 2):
            for _ in range(2):
                add_photo(actor=self.technician, job=self.job, upload=upload(small, "x.jpg"), caption="")
            with self.assertRaises(ValidationError):
                add_photo(actor=self.technician, job=self.job, upload=upload(small, "x.jpg"), caption="")
        self.assertEqual(self.job.photos.count(), 2)

    def test_what_is_no_picture_is_refused(self) -> None:
        for content in (
            b"",
            b"<svg xmlns='http://www.w3.org/2000/svg'/>",
            b"%PDF-1.4",
            picture()[:200],
            b"\xff\xd8\xff\xe0junk",
        ):
            with self.assertRaises(ValidationError):
                clean_picture(content)
        for kind in ("PNG", "WEBP"):
            self.assertTrue(clean_picture(picture(kind, (50, 40))))
        self.assertContains(
            self.post("arrive", self.job_uuid, action="photo"), "Choose a picture", status_code=422
        )
        self.assertFalse(Photo.objects.exists())


RIDE = {"load_mass_kg": "200 lb", "rider_w": "0.1 kW", "hill_percent": "8 %", "hill_min": "10",
    "wind_kmh": "5 mph", "charger_a": "2",
        "body": "cargo", "tyre": "touring", "route": "hills", "place": "Canada", "log_km": "",
            "log_ah": ""}  # fmt: skip


class MatchTest(StationTest):
    bike = "otter"

    def ask(self, **more: str) -> Any:
        return self.post("match", self.job_uuid, action="ride", **RIDE | more)

    def test_the_page_says_what_the_bike_will_do(self) -> None:
        page = self.client.get(reverse("match", args=(self.job_uuid,)))
        for words in (
            "weakest",
            "Top speed, flat",
            "Steepest from standstill",
            "roll back",
            "Range, flat rule",
            "law",
            "Replace the controller",
        ):
            self.assertContains(page, words)
        self.assertNotRegex(page.content.decode(), r"\bnan\b|\binf\b")
        self.assertFalse(MatchPlan.objects.exists())

    def test_what_is_asked_is_kept_in_any_unit_and_logged(self) -> None:
        page = self.ask(log_km="21", log_ah="6.5")
        data = MatchPlan.objects.get().data
        self.assertAlmostEqual(data["load_mass_kg"], 90.7, delta=0.1)
        self.assertAlmostEqual(data["wind_kmh"], 8.05, delta=0.01)
        self.assertContains(page, "Provinces differ")
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
                self.post("match", self.job_uuid, action="variant", name=name, **data).status_code, 200
            )
        page = self.client.get(reverse("match", args=(self.job_uuid,))).content.decode()
        self.assertEqual(len(re.findall(r'<th scope="col">(as it is|52 V|mid|odd second)</th>', page)), 4)
        self.assertIn("the second pack is not alike (cells in series)", page)
        self.assertEqual(page.count('role="img" aria-label="'), 1 + 1 + 3)
        more = self.post("match", self.job_uuid, action="variant", name="fifth", pack="pack-72v-20s4p")
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

    def test_pack_checks_compute_and_are_kept(self) -> None:
        page = self.post(
            "match",
            self.job_uuid,
            action="resistance",
            light_v="48.2",
            light_a="2",
            heavy_v="46400 mV",
            heavy_a="20",
        )
        self.assertContains(page, "100 mΩ")
        self.assertContains(
            self.post(
                "match",
                self.job_uuid,
                action="resistance",
                light_v="48",
                light_a="2",
                heavy_v="49",
                heavy_a="9",
            ),
            "must be lower",
            status_code=422,
        )
        rows = "\n".join(["time_s,voltage_v,current_a", *(f"{t * 600},{50 - t},3" for t in range(20))])
        page = self.post("match", self.job_uuid, action="log", log=upload(rows.encode(), "log.csv"))
        self.assertContains(page, "9.50 Ah")
        for content, words in (
            (b"a,b\n1,2", "must name the columns"),
            (b"time_s,voltage_v,current_a\n0,x,1", "line 2: voltage_v"),
            (b"\xff\xfe\x00", "not CSV"),
            (b"time_s,voltage_v,current_a\n0,48,1\n0,48,1", "times must rise"),
        ):
            with self.subTest(words):
                page = self.post("match", self.job_uuid, action="log", log=upload(content, "log.csv"))
                self.assertContains(page, words, status_code=422)
        self.assertContains(
            self.post("match", self.job_uuid, action="log"), "Choose a CSV file", status_code=422
        )

    def test_cost_knows_locked_systems(self) -> None:
        self.assertNotContains(self.client.get(reverse("match", args=(self.job_uuid,))), "Rebuild the cells")
        page = self.post("match", self.job_uuid, action="cost", labour_per_hour="75", locked="on")
        self.assertContains(page, "Rebuild the cells")
        self.assertContains(
            self.post("match", self.job_uuid, action="cost", labour_per_hour="-3"),
            "must lie from",
            status_code=422,
        )
        own = {
            "controller-parts_cost": "40",
            "controller-minutes": "30",
            "controller-life_km": "1000",
            "controller-resale": "0",
        }
        page = self.post("match", self.job_uuid, action="cost", labour_per_hour="60", **own)
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
            page = self.post("match", self.job_uuid, action="cost", labour_per_hour="60", **own | wrong)
            self.assertEqual(page.status_code, 422, wrong)

    def test_a_build_is_added_up(self) -> None:
        page = self.post(
            "match",
            self.job_uuid,
            action="tally",
            **{"price-pack": "450", "price-motor": "280,50", "tally-min": "90", "price-ghost": "9"},
        )
        self.assertContains(page, "820</span>")
        self.assertEqual(
            self.post("match", self.job_uuid, action="tally", **{"price-pack": "dear"}).status_code, 422
        )

    def test_a_variant_is_judged_by_the_same_rules(self) -> None:
        """A controller for 36 V on the 52 V pack: the column says what fails, in the words of the rule."""
        for name, slug in (("weak", "controller-36v-15a"), ("good", "controller-52v-22a")):
            self.post("match", self.job_uuid, action="variant", name=name, controller=slug)
        page = self.client.get(reverse("match", args=(self.job_uuid,))).content.decode()
        fails = dict(re.findall(r"(?s)<p><strong>(.*?)</strong> fails:</p>\s*<ul>(.*?)</ul>", page))
        self.assertRegex(fails["weak"], r"W001 The full .* gives")
        self.assertNotIn("W001", fails.get("good", ""))

    def test_a_place_that_is_not_in_the_table_gets_no_classes_of_another(self) -> None:
        for place, there in (("Canada", True), ("Far Harbour", False)):
            page = self.ask(place=place).content.decode()
            self.assertEqual("is not in the table" in page, not there, place)
            self.assertEqual("EU L1e" in page or "pedelec" in page.lower(), False, place)

    def test_what_no_pedals_and_a_speed_limit_do_is_told(self) -> None:
        page = self.ask().content.decode()
        self.assertIn("pedalling with 100 W", page)
        url = reverse("describe", args=(self.job.revision.bike.uuid,))
        info = self.client.get(url).context["info"]
        data = {**info, "pedals": "no", "speed_limit_kmh": "15.5 mph", "action": "info", "base": "1"}
        self.client.post(url, data)
        use_newest_revision(actor=self.technician, job=self.job)
        page = self.client.get(reverse("match", args=(self.job_uuid,))).content.decode()
        self.assertNotIn("pedalling with", page)
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
