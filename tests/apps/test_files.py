"""Files in and out of the application: nothing is overwritten, nothing half taken in, everything
comes back."""

import csv
import io
import json
import os
import tempfile
import time
from pathlib import Path
from random import Random
from typing import Any

import jsonschema
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import TestCase, TransactionTestCase
from django.urls import reverse

from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.bikes.services import import_bike
from brightcircuit.common.uploads import read_upload
from brightcircuit.demo.load import load_demo
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import do_repair, prove
from brightcircuit.jobs.safety import waive_finding
from brightcircuit.jobs.way import way_of
from brightcircuit.shop.daily import KEPT, backup_if_due
from brightcircuit.shop.models import Person
from brightcircuit.shop.serving import holding
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.registry import stations
from brightcircuit.stations.visits import last_time
from brightcircuit.trace.models import Entry
from brightcore.errors import FormatError
from brightcore.formats.bike_file import MAX_BYTES
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.csv_cells import plain_cell, safe_cell
from brightcore.formats.job_schema import job_schema
from brightcore.formats.schema import evidence_schema
from brightcore.kinds import REGISTRY
from brightcore.procedure.purpose import BY_KEY as PURPOSE
from tests.apps.base import LIT, ShopTest, person
from tests.apps.test_pages import file
from tests.apps.test_services import PLAN
from tests.bikes import DEMO, changed
from tests.strange_files import changed as changed_at_random


def counts() -> tuple[int, int, int, int]:
    """Return how many bikes, revisions, jobs and entries there are."""
    return (
        Bike.objects.count(),
        Revision.objects.count(),
        Job.objects.count(),
        Entry.objects.count(),
    )


FORMULAS = ("=1+1", "+cmd", "-cmd", "@SUM(A1)", "\tx", "\rx")
"""What spreadsheets take for a formula (OWASP, CSV injection [mem])."""


class CellTest(TestCase):
    def test_no_cell_is_taken_for_a_formula_and_every_one_comes_back(self) -> None:
        for text in FORMULAS:
            self.assertEqual((safe_cell(text), plain_cell(safe_cell(text))), (f"'{text}", text))
        for text in ("-0.3", "+4.9", "4k7", "it's", "x=1", ""):
            self.assertEqual((safe_cell(text), plain_cell(text)), (text, text))

    def test_an_upload_over_the_limit_is_not_read(self) -> None:
        for size, taken in ((MAX_BYTES, True), (MAX_BYTES + 1, False)):
            sent = SimpleUploadedFile("x", b" " * size)
            if taken:
                self.assertEqual(len(read_upload(sent)), size)
                continue
            with self.assertRaisesMessage(FormatError, "2 MB"):
                read_upload(sent)


class JobFileTest(ShopTest):
    bike = "otter"

    def full_job(self) -> dict[str, Any]:
        """Return the document of a job in its second round with everything a job can have."""
        from brightcircuit.jobs.safety import findings_of

        self.safe()
        for item in findings_of(self.job):
            waive_finding(actor=self.lead, job=self.job, key=item.finding.key, reason="known")
        self.add(LIT)
        do_repair(actor=self.technician, job=self.job, plan=PLAN)
        prove(actor=self.technician, job=self.job, passed=False)
        self.add(LIT)
        do_repair(actor=self.lead, job=self.job, plan=PLAN)
        return json.loads(canonical_json(export_job(self.job)))

    def test_another_copy_of_the_app_gives_the_same_file_again(self) -> None:
        found = self.full_job()
        jsonschema.Draft202012Validator(job_schema(REGISTRY)).validate(found)
        text = canonical_json(found)
        job = self.job
        for rows in (job.log, job.evidence, job.repairs, job.waivers, job.acknowledgements):
            rows.all()._raw_delete(using="default")
        job.arrival.delete()
        job.delete()
        Revision.objects.all().delete()
        Bike.objects.all().delete()
        new, outcome = import_job(actor=person("elsewhere"), text=text)
        self.assertEqual(outcome, "new")
        self.assertEqual(canonical_json(export_job(whole_job(new.uuid).get())), text)

    def test_the_same_is_recognised_and_what_differs_comes_in_as_a_copy(self) -> None:
        found = self.full_job()
        self.assertEqual(import_job(actor=self.technician, text=json.dumps(found))[1], "here")
        found["job"]["complaint"] = "Something else"
        copy, outcome = import_job(actor=self.technician, text=json.dumps(found))
        self.assertEqual((outcome, copy.complaint), ("copy", "Something else"))
        self.assertNotEqual(copy.uuid, self.job.uuid)
        self.assertEqual(self.job.complaint, "Shudders")
        self.assertEqual(Bike.objects.count(), 1)

    def test_a_bad_job_file_is_told_whole_and_changes_nothing(self) -> None:
        good = self.full_job()
        before = counts()
        for change, words in (
            (lambda d: d["evidence"][0].update(scene="picnic"), "$.evidence[0]"),
            (lambda d: d["evidence"][0].update(at="yesterday"), "$.evidence[0].at"),
            (lambda d: d["job"].update(uuid="1"), "$.job.uuid"),
            (lambda d: d["job"].update(status="lost"), "$.job.status"),
            (lambda d: d["bike"]["parts"][0].update(kind="sail"), "$.bike.parts[0].kind"),
            (lambda d: d.update(version=9), "$.version"),
            (lambda d: d["job"]["repairs"][0].update(at="1-1"), "$.job.repairs[0].at"),
            (lambda d: d.pop("log"), "log"),
            (lambda d: d["job"].update(match={"variants": 5}), "$.job.match.variants"),
            (lambda d: d["job"].update(match={"body": "wings"}), "$.job.match.body"),
            (lambda d: d["job"].update(match={"hill_percent": 35.1}), "$.job.match.hill_percent"),
            (
                lambda d: d["job"].update(match={"variants": [{"pack": "x"}]}),
                "$.job.match.variants[0]",
            ),
            (lambda d: d["job"].update(conclusion="found"), "$.job.conclusion"),
            (lambda d: d["job"].update(number=10**7 + 1), "$.job.number"),
            (lambda d: d["job"].update(round=1001), "$.job.round"),
            (lambda d: d["job"].update(complaint="a\x00"), "$.job.complaint"),
            (lambda d: d["job"].update(complaint="\ud800"), "$.job.complaint"),
            (lambda d: d["job"].update(opened="1999-12-31T23:59:59+00:00"), "$.job.opened"),
            (lambda d: d["job"].update(opened="2101-01-01T00:00:00+00:00"), "$.job.opened"),
            (lambda d: d["job"]["waivers"].append(d["job"]["waivers"][0]), "waivers"),
            (lambda d: d["evidence"].append(d["evidence"][0]), "].uuid"),
            (lambda d: d["job"].update(conclusion={"ranking": [1]}), "$.job.conclusion.ranking[0]"),
            (
                lambda d: d["job"].update(conclusion={"probability": 1.01}),
                "$.job.conclusion.probability",
            ),
        ):
            bad = json.loads(json.dumps(good))
            change(bad)
            with self.subTest(words):
                page = self.client.post(
                    reverse("job-import"), {"file": file(json.dumps(bad).encode())}
                )
                self.assertContains(page, words, status_code=422)
        for content, words in (
            (b"PK\x03\x04", "not JSON"),
            (b" " * 2_000_001, "2 MB"),
            ((DEMO / "fern.json").read_bytes(), "$.format"),
        ):
            page = self.client.post(reverse("job-import"), {"file": file(content)})
            self.assertContains(page, words, status_code=422)
        self.assertEqual(counts(), before)

    def test_whatever_the_schema_lets_through_can_be_shown(self) -> None:
        found = self.full_job()
        found["job"] |= {
            "complaint": "From elsewhere",
            "match": {"hill_percent": 35, "variants": [{"name": "other", "pack": "nowhere"}]},
            "conclusion": {"fault": "x"},
        }
        job, _ = import_job(actor=self.technician, text=json.dumps(found))
        for station in stations():
            with self.subTest(station.key):
                page = self.client.get(reverse(station.key, args=(job.uuid,)))
                self.assertEqual(page.status_code, 200)

    def test_a_part_with_the_longest_name_comes_through_the_exporters_own_schema(self) -> None:
        schema = jsonschema.Draft202012Validator(evidence_schema())
        for length, right in ((40, True), (41, False)):
            seen = f"motor-{'c' * length}"
            evidence = {"kind": "look", "value": "rough", "scene": "throttle", "observable": seen}
            self.assertEqual(schema.is_valid(evidence), right, length)
        self.assertLessEqual(
            len(f"{'o' * 30}-{'c' * 40}"), Entry._meta.get_field("observable").max_length
        )

    def test_a_strange_job_file_is_taken_whole_or_not_at_all(self) -> None:
        text, chance = json.dumps(self.full_job()), Random(7)
        taken = 0
        for _ in range(120):
            before = counts()
            try:
                job, _ = import_job(actor=self.technician, text=changed_at_random(text, chance))
            except FormatError:
                self.assertEqual(counts(), before)
                continue
            taken += 1
            if taken < 6:
                for station in stations():
                    page = self.client.get(reverse(station.key, args=(job.uuid,)))
                    self.assertEqual(page.status_code, 200, station.key)
        self.assertGreater(taken, 0)

    def test_readings_as_csv_and_the_line_as_svg(self) -> None:
        self.full_job()
        Entry.objects.update(value="=1+1")
        rows = list(
            csv.DictReader(
                io.StringIO(
                    self.client.get(reverse("record-csv", args=(self.job.uuid,))).content.decode()
                )
            )
        )
        self.assertEqual([r["by"] for r in rows], ["tech", "tech", "tech"])
        self.assertEqual(rows[0]["value"], "'=1+1")
        Entry.objects.update(value="lit")
        self.assertTrue(
            self.client.get(reverse("record-line", args=(self.job.uuid,))).content.startswith(
                b"<svg"
            )
        )


class BikeFileTest(ShopTest):
    def send(self, content: bytes) -> Any:
        return self.client.post(reverse("bike-import"), {"file": file(content)}, follow=True)

    def test_a_bike_comes_in_once_and_a_changed_one_as_a_copy(self) -> None:
        same = self.client.get(reverse("bike-file", args=(self.revision.bike.uuid,))).content
        self.assertContains(self.send(same), "was already here")
        self.assertContains(
            self.send(json.dumps(changed("fern", ("bike.label", "Fern II"))).encode()),
            "came in as a copy",
        )
        self.assertContains(self.send((DEMO / "teasel.json").read_bytes()), "Teasel imported.")
        self.assertEqual(Revision.objects.get(pk=self.revision.pk).document, same.decode())

    def test_a_bad_bike_changes_nothing(self) -> None:
        before = counts()
        self.assertContains(
            self.send(json.dumps(changed("fern", ("parts.pack", None))).encode()),
            "needs a pack",
            status_code=422,
        )
        self.assertContains(self.send(b"\x89PNG"), "not JSON", status_code=422)
        self.assertEqual(counts(), before)


class DemoTest(TestCase):
    def test_the_demo_world_is_loaded_once_and_fern_stands_mid_fault(self) -> None:
        self.assertTrue(load_demo())
        self.assertFalse(load_demo())
        fern = Job.objects.get(status="open", revision__bike__label="Fern")
        self.assertGreater(fern.evidence.count(), 2)
        self.assertEqual(
            set(Job.objects.values_list("revision__bike__label", flat=True)),
            {"Fern", "Otter", "Teasel", "Juniper", "Bramble", "Clover", "Curlew"},
        )
        self.assertEqual(
            [
                change.kind
                for change in way_of(Job.objects.get(revision__bike__label="Bramble")).left
            ],
            ["connect"] * 5,
        )
        closed = Job.objects.get(status="closed", complaint__startswith="Front lamp")
        self.assertEqual(closed.repairs.get().proof, "passed")
        purposes = {key for keys in Job.objects.values_list("purposes", flat=True) for key in keys}
        self.assertEqual(purposes, set(PURPOSE))
        clover = Job.objects.get(revision__bike__label="Clover")
        self.assertTrue(way_of(clover).stands.parts and way_of(clover).left)
        teasel = Job.objects.get(status="open", revision__bike__label="Teasel")
        before = last_time(teasel.revision.bike, teasel)
        assert before is not None
        self.assertTrue(before.holds and before.repairs and before.same_complaint(teasel.complaint))
        self.assertGreaterEqual(
            Job.objects.filter(revision__bike__label="Fern", status="closed").count(), 3
        )


class BackupTest(TransactionTestCase):
    available_apps = settings.INSTALLED_APPS  # see BrowserTest

    def test_a_backup_a_day_is_written_and_fourteen_are_kept(self) -> None:
        with tempfile.TemporaryDirectory() as folder, self.settings(DATA=Path(folder)):
            (Path(folder) / "backups").mkdir()
            by_hand = Path(folder) / "backups" / "bright-x.zip"
            by_hand.write_bytes(b"x")
            now = time.time()
            first = backup_if_due(now)
            assert first is not None
            for age_s, due in ((86_398, False), (86_399, True)):
                os.utime(first, (now - age_s, now - age_s))
                self.assertEqual(backup_if_due(now + 1) is not None, due, age_s)
            for day in range(2, 16):
                for known in by_hand.parent.glob("daily-*.zip"):
                    os.utime(known, (now - 90_000, now - 90_000))
                backup_if_due(now + 86_400 * day)
            self.assertEqual(len(list(by_hand.parent.glob("daily-*.zip"))), KEPT)
            self.assertFalse(first.exists())
            self.assertTrue(by_hand.exists())

    def test_a_backup_is_verified_and_comes_back(self) -> None:
        tech = person("tech")
        import_bike(actor=tech, text=(DEMO / "teasel.json").read_bytes())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "b.zip"
            photo = Path(folder) / "media" / "x.jpg"
            photo.parent.mkdir()
            photo.write_bytes(b"picture")
            classes = Path(folder) / "classes.yaml"
            classes.write_text("[]")
            out = io.StringIO()
            with self.settings(DATA=Path(folder)):
                call_command("backup", str(path), stdout=out)
            self.assertIn("verified, 0 jobs", out.getvalue())
            with self.assertRaises(CommandError):
                call_command("backup", str(path), stdout=out)
            Person.objects.create_user("later")
            photo.unlink()
            classes.write_text("lost")
            self.assertEqual(
                (path.stat().st_mode & 0o777, list(path.parent.glob("*.part"))), (0o600, [])
            )
            with self.settings(DATA=Path(folder)):
                with holding("x"), self.assertRaisesMessage(CommandError, "A server is running"):
                    call_command("restore", str(path), stdout=out)
                call_command("restore", str(path), stdout=out)
            self.assertEqual(classes.read_text(), "[]")
            self.assertFalse(Person.objects.filter(username="later").exists())
            self.assertEqual(Bike.objects.get().label, "Teasel")
            self.assertTrue(list((Path(folder) / "backups").iterdir()))
            self.assertEqual(photo.read_bytes(), b"picture")
            path.write_bytes(b"not a database at all")
            with self.assertRaises(CommandError):
                call_command("restore", str(path), stdout=out)
