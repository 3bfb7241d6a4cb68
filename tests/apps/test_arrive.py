"""Arrive over HTTP: what went before, and photos."""

import io
import tempfile
from random import Random
from typing import Any
from unittest.mock import patch

from django.core.exceptions import ValidationError
from django.test import SimpleTestCase
from django.urls import reverse
from PIL import Image

from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.jobs.models import Photo
from brightcircuit.jobs.photos import add_photo, clean_picture, photo_path
from brightcircuit.stations.files import export_job
from brightcircuit.trace.models import Entry
from brightcore.describing.edit import remove_part
from tests.amount import ALL
from tests.apps.base import LIT, StationTest, upload
from tests.strange_files import damaged

STRANGE_PICTURES = 3000 if ALL else 150


def picture(kind: str = "JPEG", size: tuple[int, int] = (2400, 600), **more: Any) -> bytes:
    """Return a picture file; `exif` puts camera data and an orientation into it."""
    out = io.BytesIO()
    image = Image.new("RGB", size, (200, 120, 20))
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "Camera maker 0815"
    image.save(out, kind, **({"exif": exif} if kind == "JPEG" else {}), **more)
    return out.getvalue()


class ArriveTest(StationTest):
    def test_what_went_before_and_the_state_of_the_wires_are_kept(self) -> None:
        self.post(
            "arrive",
            self.job_uuid,
            action="found",
            circumstances=["rain", "others", "moon"],
            wires=["green"],
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


class StrangePictureTest(SimpleTestCase):
    def test_a_damaged_picture_is_made_anew_or_refused_in_words(self) -> None:
        for kind in ("JPEG", "PNG", "WEBP"):
            content, chance = picture(kind, (120, 30)), Random(20262)
            told = []
            for n in range(STRANGE_PICTURES):
                with self.subTest(kind=kind, n=n):
                    try:
                        told.append(clean_picture(damaged(content, chance))[:2] == b"\xff\xd8")
                    except ValidationError:
                        told.append(False)
            self.assertEqual(len(told), STRANGE_PICTURES)
            self.assertIn(False, told)


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
            "arrive",
            self.job_uuid,
            action="photo",
            photo=upload(picture(), "x.jpg"),
            caption="Green pins",
        )
        self.assertContains(page, "Green pins")
        photo = Photo.objects.get()
        with Image.open(photo_path(photo)) as kept:
            self.assertEqual(
                (kept.format, kept.size, len(kept.getexif())), ("JPEG", (400, 1600), 0)
            )
        self.assertNotIn(b"0815", photo_path(photo).read_bytes())
        self.assertEqual(photo_path(photo).stat().st_mode & 0o777, 0o600)
        sent = b"".join(
            self.client.get(reverse("photo", args=(self.job_uuid, photo.uuid))).streaming_content
        )
        self.assertEqual(len(sent), photo.size)
        self.assertEqual(export_job(self.job)["job"]["attachments"][0]["sha256"], photo.sha256)
        self.client.logout()
        self.assertEqual(
            self.client.get(reverse("photo", args=(self.job_uuid, photo.uuid))).status_code, 302
        )

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
                    patch(f"brightcircuit.jobs.photos.{limit}", most),
                ):
                    if most == 2000:
                        self.assertTrue(clean_picture(content))
                    else:
                        with self.assertRaises(ValidationError):
                            clean_picture(content)

    def test_a_job_holds_so_many_photos_and_no_more(self) -> None:
        small = picture(size=(40, 30))
        with patch("brightcircuit.jobs.photos.MOST_PHOTOS", 2):
            for _ in range(2):
                add_photo(
                    actor=self.technician, job=self.job, upload=upload(small, "x.jpg"), caption=""
                )
            with self.assertRaises(ValidationError):
                add_photo(
                    actor=self.technician, job=self.job, upload=upload(small, "x.jpg"), caption=""
                )
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
