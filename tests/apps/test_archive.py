"""Everything as one archive: out, into an empty copy, and out again the same."""

import hashlib
import io
import json
import tempfile
import zipfile
from pathlib import Path
from random import Random

from django.apps import apps
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.test import TransactionTestCase

from brightcircuit.archive.services import MANIFEST, read_archive, write_archive
from brightcircuit.archive.tables import rows_of, tables
from brightcircuit.bikes.services import set_contact
from brightcircuit.jobs.models import Job, Photo
from brightcircuit.jobs.photos import add_photo, photo_path
from brightcircuit.record.money import add_line, offer
from brightcircuit.shop.models import Person
from brightcircuit.stations.files import export_job
from brightcore.errors import FormatError
from tests.amount import ALL
from tests.apps.base import LIT, ShopTest, upload
from tests.apps.test_arrive import picture
from tests.strange_files import change_value, damaged

STRANGE_ARCHIVES = 400 if ALL else 40


def emptied() -> None:
    """Empty every table, as a copy that nobody has worked with is."""
    for model in reversed(tables()):
        model.objects.all().delete()  # type: ignore[attr-defined]


def unzipped(content: bytes) -> dict[str, str]:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return {name: archive.read(name).decode("latin-1") for name in archive.namelist()}


def forged(content: bytes, chance: Random) -> bytes:
    """Return an archive with something strange in one of its JSON files, and the sums to it."""
    with zipfile.ZipFile(io.BytesIO(content)) as old:
        files = {name: old.read(name) for name in old.namelist()}
    name = chance.choice(sorted(name for name in files if name.endswith(".json")))
    document = json.loads(files[name])
    change_value(document, chance)
    files[name] = json.dumps(document).encode()
    if name != MANIFEST:
        manifest = json.loads(files[MANIFEST])
        for row in manifest["files"]:
            row["sha256"] = hashlib.sha256(files[row["name"]]).hexdigest()
        files[MANIFEST] = json.dumps(manifest).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        for other, raw in files.items():
            new.writestr(other, raw)
    return out.getvalue()


class ArchiveTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        settings = self.settings(DATA=folder.name)
        settings.enable()
        self.addCleanup(settings.disable)
        self.safe()
        self.add(LIT)
        where = {"actor": self.technician, "job": self.job}
        add_photo(
            **where,
            upload=upload(picture(size=(40, 30)), "x.jpg"),
            caption="Pins",
            place="plug:motor.a",
        )
        offer(**where, typed={"words": "Repair", "parts": "25", "minutes": "30", "rate": "60"})
        add_line(**where, typed={"kind": "other", "words": "Postage", "count": "2", "each": "3,10"})
        set_contact(
            actor=self.technician, bike=self.job.revision.bike, name="R", reach="1", note=""
        )

    def written(self) -> bytes:
        out = io.BytesIO()
        write_archive(self.lead, out)
        return out.getvalue()

    def test_out_in_and_out_again_is_the_same(self) -> None:
        first, job = self.written(), export_job(self.job)
        kept = photo_path(Photo.objects.get()).read_bytes()
        photo_path(Photo.objects.get()).unlink()
        emptied()
        self.assertGreater(read_archive(io.BytesIO(first)), 20)
        self.lead = Person.objects.get(username="boss")
        self.assertEqual(unzipped(self.written()), unzipped(first))
        self.assertEqual(export_job(Job.objects.get()), job)
        self.assertEqual(photo_path(Photo.objects.get()).read_bytes(), kept)
        self.assertFalse(Person.objects.get(username="tech").check_password("tech"))
        with zipfile.ZipFile(io.BytesIO(first)) as archive:
            names = archive.namelist()
        for wanted in (f"bikes/{job['bike']['uuid']}.json", f"jobs/{job['job']['uuid']}.json"):
            self.assertIn(wanted, names)

    def test_every_table_of_the_shop_is_in_it(self) -> None:
        """A model that is added later comes with it, and no password does."""
        ours = {
            m
            for c in apps.get_app_configs()
            if c.name.startswith("brightcircuit")
            for m in c.get_models()
        }
        self.assertEqual({m.__name__ for m in ours - set(tables())}, {"Receipt"})
        self.assertNotIn(self.technician.password, json.dumps(rows_of(Person)))

    def test_what_is_broken_truncated_newer_or_not_for_an_empty_copy_changes_nothing(self) -> None:
        whole = self.written()
        with self.assertRaisesMessage(FormatError, "is not empty"):
            read_archive(io.BytesIO(whole))
        emptied()

        def changed(name: str, content: bytes | None) -> bytes:
            out = io.BytesIO()
            with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(out, "w") as new:
                for item in old.namelist():
                    if item != name:
                        new.writestr(item, old.read(item))
                    elif content is not None:
                        new.writestr(item, content)
            return out.getvalue()

        def manifest(**more: object) -> bytes:
            with zipfile.ZipFile(io.BytesIO(whole)) as old:
                return json.dumps(json.loads(old.read(MANIFEST)) | more).encode()

        for words, content in (
            ("is no whole archive", whole[: len(whole) // 2]),
            ("is no whole archive", b"nothing"),
            ("is missing or no JSON", changed(MANIFEST, None)),
            ("is missing or no JSON", changed(MANIFEST, b"{")),
            ("wanted", changed(MANIFEST, manifest(format="other"))),
            ("this copy reads 1", changed(MANIFEST, manifest(version=2))),
            ("made by a newer copy", changed(MANIFEST, manifest(tables=["jobs.9999_later"]))),
            ("made by an older copy", changed(MANIFEST, manifest(tables=[]))),
            ("is not in the archive", changed("tables/jobs.job.json", None)),
            ("is not as it was written", changed("tables/jobs.job.json", b"[]")),
            ("does not name README.txt", changed(MANIFEST, manifest(files=[]))),
        ):
            with self.subTest(words), self.assertRaisesMessage(FormatError, words):
                read_archive(io.BytesIO(content))
            self.assertFalse(Person.objects.exists() or Job.objects.exists())

    def test_a_strange_archive_is_taken_whole_or_refused_in_words(self) -> None:
        """Flipped bytes, and archives forged with the right sums."""
        whole, chance = self.written(), Random(20261)
        emptied()
        refused = 0
        for n in range(STRANGE_ARCHIVES):
            content = damaged(whole, chance) if n % 2 else forged(whole, chance)
            with self.subTest(n=n), transaction.atomic():
                try:
                    read_archive(io.BytesIO(content))
                except FormatError:
                    refused += 1
                    self.assertFalse(Person.objects.exists() or Job.objects.exists())
                transaction.set_rollback(True)
        self.assertGreater(refused, STRANGE_ARCHIVES // 2)

    def test_only_a_lead_takes_it_out(self) -> None:
        with self.assertRaises(PermissionDenied):
            write_archive(self.technician, io.BytesIO())
        self.assertEqual(self.client.get("/archive.zip").status_code, 403)
        self.client.force_login(self.lead)
        answer = self.client.get("/archive.zip")
        content = b"".join(answer.streaming_content)
        self.assertEqual(zipfile.ZipFile(io.BytesIO(content)).testzip(), None)


class CommandTest(TransactionTestCase):
    def test_a_file_is_never_overwritten(self) -> None:
        from django.core.management import CommandError, call_command

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "all.zip"
            call_command("archive", str(path), stdout=io.StringIO())
            size = path.stat().st_size
            with self.assertRaisesMessage(CommandError, "nothing was overwritten"):
                call_command("archive", str(path))
            self.assertEqual((path.stat().st_size, path.stat().st_mode & 0o777), (size, 0o600))
