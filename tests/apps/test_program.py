"""Program over the web: what devices have and should have, files, snapshots, profiles, and who may
what."""

import json
from typing import Any
from unittest.mock import patch

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.services import import_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.program.models import Snapshot, Told
from brightcircuit.program.queries import Device, Row, devices_of, findings_of
from brightcircuit.program.services import (
    copy_settings,
    device_of,
    name_profile,
    restore_snapshot,
    retire_profile,
    take_settings,
    take_snapshot,
    tell,
    undo_told,
    want_otherwise,
)
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.summary import refresh_summary
from brightcircuit.stations.whats_open import whats_open
from brightcore.errors import FormatError
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.profile_file import dump_profile, shipped_profiles
from tests.apps.base import ALL_NO, ShopTest, prime, upload
from tests.bikes import DEMO, engine

THREE = "three-button-display"
FILE = b'{"format": "bright-circuit/settings", "version": 1, "values": %s}'
REFUSED = (
    # file, its name, what is said
    (b"code,value\nP06,41\nP99,1\n", "a.csv", "line 3: Three-button display has no parameter"),
    (b"code,value\nP06,61\n", "a.csv", "line 2: P06 is 61"),
    (b"code,value,unit\nP06,41,km/h\n", "a.csv", "line 2: P06 is in V"),
    (b"code,value\nP06,41\nP06,42\n", "a.csv", "line 3: P06 is there twice"),
    (b"code,value\nP06\n", "a.csv", "line 2: is too short"),
    (b"a,b\n1,2\n", "a.csv", "line 1: the first line must name"),
    (
        (
            b'{"format": "bright-circuit/settings", "version": 1, "values": {"P06": 41, "P01": '
            b'"furlong"}}'
        ),
        "a.json",
        "P01",
    ),
    (b'{"format": "bright-circuit/settings", "version": 2, "values": {}}', "a.json", "$.version"),
    (b'{"format": "other"}', "a.json", "$.format"),
    (
        b"format: bright-circuit/settings\nversion: 1\nvalues: {P06: 41, P03: high}\n",
        "a.yaml",
        "$.values.P03",
    ),
    (b"\xff\xfe", "a.csv", "not UTF-8"),
    (b'code,value\n"P06,41\n', "a.csv", "line 2"),
)
TAKEN = (
    (b"code,value,unit\nP06,41,V\nP01,mi,\n", "a.csv"),
    (
        b'{"format": "bright-circuit/settings", "version": 1, "values": {"P06": 41, "P01": 1}}',
        "a.json",
    ),
    (b"format: bright-circuit/settings\nversion: 1\nvalues:\n  P06: 41.0\n  P01: mi\n", "a.yaml"),
)


class ProgramTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        self.safe()
        name_profile(actor=self.technician, job=self.job, part="display", profile=THREE)
        self.url = reverse("program-device", args=(self.job_uuid, "display"))

    @property
    def where(self) -> dict[str, Any]:
        return {"actor": self.technician, "job": self.job, "part": "display"}

    def device(self) -> Device:
        return next(d for d in devices_of(self.job) if d.part.id == "display")

    def row(self, code: str) -> Row:
        return next(row for row in self.device().rows if row.parameter.code == code)

    def test_a_value_that_is_a_danger_keeps_the_job_open(self) -> None:
        where: dict[str, Any] = {"actor": self.technician, "job": self.job, "part": "controller"}
        name_profile(**where, profile="full-controller")
        (device,) = (d for d in devices_of(self.job) if d.part.id == "controller")
        (row,) = (r for r in device.rows if r.parameter.role == "pedal_direction")
        for text, wanted in (("forwards", False), ("backwards", True), ("forwards", False)):
            with self.subTest(text):
                tell(**where, code=row.parameter.code, text=text, how="seen")
                self.assertEqual(any("V040" in item.words for item in whats_open(self.job)), wanted)

    def tell(self, code: str, text: str, how: str = "seen") -> Told:
        return tell(**self.where, code=code, text=text, how=how)

    def test_a_parameter_is_looked_up_entered_and_undone(self) -> None:
        page = self.client.get(self.url, {"code": "P06"})
        self.assertContains(page, "Look up the low-voltage cut-off")
        self.client.post(self.url, {"do": "tell", "code": "P06", "value": "31,5", "how": "seen"})
        page = self.client.get(self.url, {"code": "P06"})
        self.assertContains(page, "Set the low-voltage cut-off to 40.0 V")
        self.assertContains(page, "13 presses from where the menu stands")
        self.assertContains(page, "harmed for good")
        answer = self.client.post(
            self.url, {"do": "tell", "code": "P06", "value": "40.0", "how": "entered"}
        )
        self.assertEqual(answer["Location"], f"{self.url}?at=P06")
        told = Told.objects.filter(code="P06").last()
        self.assertEqual(
            (told.before, told.value, told.wanted, told.how), (31.5, 40.0, 40.0, "entered")
        )
        self.assertEqual(self.row("P06").state, "same")
        self.assertEqual(Snapshot.objects.get().values["P06"], 31.5)
        self.client.post(self.url, {"do": "undo", "code": "P06"})
        self.assertEqual((self.row("P06").state, self.row("P06").has), ("differs", 31.5))

    def _told_to_trace(self) -> list[tuple[str, str]]:
        rows = self.job.evidence.filter(kind="setting", undone=False)
        return [(row.subject, row.value) for row in rows]

    def test_what_was_found_set_is_evidence_and_what_is_put_right_is_not(self) -> None:
        cut_off = "setting:controller:cutoff"
        self.tell("P06", "45")
        self.assertEqual(self._told_to_trace(), [(cut_off, "wrong")])
        self.assertContains(self.client.get(reverse("trace", args=(self.job_uuid,))), "Program")
        self.tell("P06", "40", "entered")
        self.tell("P06", "40")
        self.assertEqual(self._told_to_trace(), [(cut_off, "wrong")])
        for _ in range(3):
            undo_told(**self.where, code="P06")
        self.assertEqual(self._told_to_trace(), [])
        self.tell("P06", "40")
        self.assertEqual(self._told_to_trace(), [(cut_off, "good")])

    def test_a_cut_off_found_too_high_leads_and_one_found_right_falls(self) -> None:
        prime(self.job.revision, engine(self.bike))
        shares = {}
        for text in ("", "40", "47"):
            if text:
                self.tell("P06", text)
            trace = job_trace(self.job).trace
            assert trace is not None
            shares[text] = sum(
                share
                for share, item in zip(trace.belief, trace.engine.hypotheses.items, strict=True)
                if item.repair.id == "setting:controller:cutoff"
            )
        self.assertLess(shares["40"], shares[""])
        self.assertGreater(shares["47"], shares[""])

    def test_a_device_without_a_profile_still_has_its_wanted_values(self) -> None:
        page = self.client.get(reverse("program-device", args=(self.job_uuid, "controller")))
        for words in (
            "What kind of controller",
            "Low-voltage cut-off",
            "40.0 V",
            "13 cells × 3.1 V",
        ):
            self.assertContains(page, words)

    def test_what_cannot_be_is_refused_beside_its_field(self) -> None:
        for text, words in (
            ("61", "P06 is 61"),
            ("high", "is not a number"),
            ("40.2", "steps of 0.5"),
            ("", ""),
        ):
            data = {"do": "tell", "code": "P06", "value": text, "how": "seen"}
            self.assertContains(self.client.post(self.url, data), words, status_code=422)
        data = {"do": "keep", "code": "P06", "value": "41", "reason": " "}
        self.assertContains(self.client.post(self.url, data), "Give the reason", status_code=422)
        self.assertIsNone(self.row("P06").has)

    def test_the_way_goes_from_what_the_display_shows(self) -> None:
        self.tell("P06", "31.5")
        url = reverse("program-presses", args=(self.job_uuid, "display"))
        for query, count in (
            ({"code": "P06"}, 13),
            ({"code": "P06", "at": "P06", "shown": "39.5", "editing": "on"}, 2),
            ({"code": "P06", "at": "P07", "shown": "5", "editing": "on"}, None),
            ({"code": "P06", "at": "P06", "held": "P06=40"}, 0),
            ({"code": "P12", "at": "P06", "held": "P12=3", "value": "1"}, None),
        ):
            with self.subTest(query):
                found = self.client.get(url, query).json()["presses"]
                total = sum(press["times"] for press in found)
                self.assertTrue(total == count if count is not None else total > 0, found)
        self.assertIn(
            "P06 is 99",
            self.client.get(
                url, {"code": "P06", "at": "P06", "shown": "99", "editing": "on"}
            ).json()["error"],
        )
        self.assertEqual(self.client.get(url, {"code": "Q1"}).status_code, 404)

    def test_another_value_is_wanted_with_a_reason_that_stays(self) -> None:
        want_otherwise(**self.where, code="P03", text="20", reason="the rider's wish")
        row = self.row("P03")
        self.assertEqual((row.wanted, "the rider's wish" in row.own_reason), (20.0, True))
        self.tell("P03", "20", "entered")
        record = self.client.get(reverse("record", args=(self.job_uuid,)))
        self.assertContains(record, "wanted 20 km/h: the rider&#x27;s wish")
        want_otherwise(**self.where, code="P03", text="", reason="")
        self.assertNotEqual(self.row("P03").wanted, 20.0)

    def test_values_together_are_found_at_fault(self) -> None:
        self.tell("P08", "0")
        self.tell("P09", "yes")
        self.assertIn("V014", {item.code for item in findings_of(self.job, devices_of(self.job))})
        name_profile(
            actor=self.technician, job=self.job, part="controller", profile="full-controller"
        )
        where = self.where | {"part": "controller"}
        tell(**where, code="c08", text="0.5", how="seen")
        controller = reverse("program-device", args=(self.job_uuid, "controller"))
        self.assertContains(self.client.get(controller), "V021 danger")
        url = reverse("program-checks", args=(self.job_uuid,))
        self.assertContains(self.client.get(url), "V014")
        self.assertContains(
            self.client.post(url, {"limit_kmh": "500"}), "From 3 to 120", status_code=422
        )
        self.client.post(url, {"limit_kmh": "12", "limit_why": "in the yard"})
        self.assertEqual(self.row("P03").wanted, 12.0)

    def test_settings_files_are_taken_whole_or_not_at_all(self) -> None:
        for content, name, words in REFUSED:
            with self.subTest(words), self.assertRaises(ValidationError) as caught:
                take_settings(**self.where, content=content, name=name)
            self.assertIn(words, " ".join(caught.exception.messages))
        self.assertEqual(Told.objects.count(), 0)
        for content, name in TAKEN:
            self.assertEqual(take_settings(**self.where, content=content, name=name), 2)
            self.assertEqual((self.row("P06").has, self.row("P01").has), (41.0, 1.0))
        with patch("brightcircuit.program.services.device_of", wraps=device_of) as worked_out:
            content, name = TAKEN[0]
            take_settings(**self.where, content=content, name=name)
        self.assertEqual(worked_out.call_count, 1, "the device is worked out once a file")
        for kind in ("json", "yaml", "csv"):
            url = reverse("program-settings", args=(self.job_uuid, "display", kind))
            text = self.client.get(url).content
            self.assertGreaterEqual(take_settings(**self.where, content=text, name=f"x.{kind}"), 2)
        self.assertEqual(
            self.client.get(
                reverse("program-settings", args=(self.job_uuid, "display", "exe"))
            ).status_code,
            404,
        )

    def test_snapshots_are_compared_wanted_again_and_copied_to_a_sister_bike(self) -> None:
        self.tell("P06", "31.5")
        self.tell("P15", "10")
        first = take_snapshot(**self.where, title="As it came")
        self.tell("P15", "20", "entered")
        url = reverse("program-snapshots", args=(self.job_uuid,))
        page = self.client.get(url, {"part": "display", "one": first.uuid, "other": "now"})
        self.assertContains(page, "10 min")
        self.assertContains(page, "20 min")
        self.assertEqual(
            restore_snapshot(actor=self.technician, job=self.job, uuid=str(first.uuid)), 1
        )
        self.assertEqual(self.row("P15").wanted, 10.0)

    def test_a_sister_bike_gets_what_it_does_not_decide_itself(self) -> None:
        revision = import_bike(
            actor=self.technician, text=(DEMO / "otter.json").read_bytes()
        ).revision
        sister = open_job(actor=self.technician, revision=revision, complaint="As Fern, please")
        answer_triage(actor=self.technician, job=sister, answers=ALL_NO)
        where = {"actor": self.technician, "job": sister, "part": "display"}
        name_profile(**where, profile=THREE)
        for code, text in (("P02", "210"), ("P15", "30"), ("P06", "30")):
            tell(**where, code=code, text=text, how="seen")
        shot = take_snapshot(**where, title="As it rides")
        page = self.client.get(reverse("program-snapshots", args=(self.job_uuid,)))
        self.assertContains(page, "Otter, job 2: As it rides")
        self.assertEqual(copy_settings(**self.where, uuid=str(shot.uuid)), (1, 2))
        wanted = {code: self.row(code).wanted for code in ("P02", "P06", "P15")}
        self.assertEqual(wanted, {"P02": 157.0, "P06": 40.0, "P15": 30.0})
        self.assertIn("As on Otter, job 2", self.row("P15").own_reason)
        with self.assertRaises(ValidationError):
            copy_settings(**self.where, uuid="x")

    def test_a_snapshot_lets_the_description_say_what_was_read(self) -> None:
        self.tell("P02", "210")
        take_snapshot(**self.where, title="x")
        self.assertEqual(
            core_bike(self.job.revision).setting("display", "wheel_circumference_mm", 0.0), 2100.0
        )

    def test_profiles_of_the_shop_are_added_changed_and_retired(self) -> None:
        url = reverse("program-profiles", args=(self.job_uuid,))
        text = dump_profile(next(p for p in shipped_profiles() if p.id == THREE))
        mine = json.loads(text) | {"id": "yard", "title": "Yard display"}
        self.client.post(
            url, {"do": "add", "profile_file": upload(json.dumps(mine).encode(), "yard.json")}
        )
        self.assertContains(self.client.get(self.url), "Yard display")
        mine["parameters"][0]["role"] = "warp"
        bad = self.client.post(
            url, {"do": "add", "profile_file": upload(json.dumps(mine).encode(), "yard.json")}
        )
        self.assertContains(bad, "$.parameters[0].role", status_code=422)
        sent = self.client.get(reverse("program-profile-file", args=(self.job_uuid, "yard")))
        self.assertEqual(json.loads(sent.content)["title"], "Yard display")
        edit = reverse("program-profile", args=(self.job_uuid, "yard"))
        self.assertContains(self.client.get(edit), "Yard display")
        kept = self.client.post(edit, {"text": "{not json"})
        self.assertContains(kept, "{not json", status_code=422)
        again = json.dumps(json.loads(sent.content) | {"title": "Yard display, new"})
        self.assertContains(
            self.client.post(edit, {"text": again}, follow=True), "Yard display, new"
        )
        self.client.post(url, {"do": "retire", "name": "yard"})
        self.assertNotContains(self.client.get(self.url), "Yard display, 15")
        with self.assertRaises(ValidationError):
            retire_profile(actor=self.technician, name="yard")

    def test_the_bench_says_go_on_until_all_is_as_wanted(self) -> None:
        self.tell("P06", "31.5")
        job = self.job
        refresh_summary(job)
        self.assertContains(
            self.client.get(reverse("program", args=(self.job_uuid,))),
            "Set the low-voltage cut-off",
        )
        for row in self.device().rows:
            if row.wanted is not None:
                self.tell(row.parameter.code, row.parameter.words(row.wanted), "entered")
        self.assertEqual(self.device().left, 0)
        self.assertContains(self.client.get(self.url), 'count good">✓')

    def test_it_goes_into_the_job_file_and_comes_back(self) -> None:
        self.tell("P06", "31.5")
        want_otherwise(**self.where, code="P03", text="20", reason="wish")
        take_snapshot(**self.where, title="As it came")
        document = export_job(self.job)
        self.assertEqual(document["version"], 3)
        text = canonical_json(document)
        self.let_go(self.job)
        job, outcome = import_job(actor=self.technician, text=text)
        counts = (job.told.count(), job.otherwise.count(), job.snapshots.count())
        self.assertEqual((outcome, counts), ("copy", (1, 1, 1)))
        document["job"]["stations"]["program"]["told"][0]["value"] = "high"
        with self.assertRaisesMessage(FormatError, "$.job.stations.program.told[0].value"):
            import_job(actor=self.technician, text=canonical_json(document))

    def test_nothing_is_entered_before_it_is_safe_or_on_a_closed_job(self) -> None:
        other = self.open()
        use_newest_revision(actor=self.technician, job=other)
        with self.assertRaisesMessage(ValidationError, "Look at the pack first"):
            tell(
                actor=self.technician,
                job=other,
                part="display",
                code="P06",
                text="41",
                how="entered",
            )
        with self.assertRaisesMessage(ValidationError, "Look at the pack first"):
            tell(
                actor=self.technician, job=other, part="display", code="P06", text="41", how="seen"
            )
        self.let_go(self.job)
        for act in (
            lambda: self.tell("P06", "41"),
            lambda: take_snapshot(**self.where, title="x"),
            lambda: want_otherwise(**self.where, code="P06", text="41", reason="x"),
            lambda: take_settings(**self.where, content=TAKEN[0][0], name="a.csv"),
            lambda: copy_settings(**self.where, uuid="x"),
            lambda: name_profile(**self.where, profile=""),
        ):
            with self.assertRaises(PermissionDenied):
                act()
