"""Purpose, plan, what a job changed, and its proofs over the web."""

from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse
from django.utils import timezone

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.services import set_contact
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.descriptions import keep_description
from brightcircuit.jobs.services import Planned, plan_job
from brightcircuit.prove.models import Proved
from brightcircuit.prove.queries import holding, rows_of
from brightcircuit.prove.services import enter, undo
from brightcircuit.record.services import close_job
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.summary import refresh_summary
from brightcircuit.wire.queries import work_of
from brightcircuit.wire.services import tick
from brightcore.formats.bike_writing import canonical_json
from tests.apps.base import ALL_NO, ShopTest, upload

GATES = ("pack_safe", "wheel_up", "road", "charging")


class ProveTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        self.safe()
        self.url = reverse("prove", args=(self.job_uuid,))

    @property
    def where(self) -> dict[str, Any]:
        return {"actor": self.technician, "job": self.job}

    def plan(self, *purposes: str, **more: Any) -> None:
        plan_job(**self.where, planned=Planned(purposes, **more))

    def states(self) -> dict[str, str]:
        return {row.check.id: row.state for row in rows_of(self.job)}

    def next(self) -> str:
        job = self.job
        refresh_summary(job)
        return str(self.job.summary["next"])

    def prove_all(self) -> None:
        for row in rows_of(self.job):
            reading = row.check.reading
            text = f"{(reading.low + reading.high) / 2:g}" if reading else ""
            enter(**self.where, check_id=row.check.id, text=text, answer="yes", ticked=GATES)

    def take_lamp_off(self) -> None:
        bike = core_bike(self.job.revision)
        lamp = replace(
            bike,
            parts=tuple(p for p in bike.parts if p.id != "lamp"),
            joins=tuple(j for j in bike.joins if "lamp" not in (j.a_part, j.b_part)),
        )
        keep_description(**self.where, core=lamp, station="wiring", what="Lamp off")

    def test_the_purpose_chooses_what_comes_next(self) -> None:
        for purposes, words in (
            (("repair",), "Find the fault: open Trace"),
            (("build",), "See whether the parts suit each other"),
            (("retrofit",), "Prove what was changed"),
            (("set-up",), "Bring it in range"),
            (("check-over",), "Prove what was changed"),
        ):
            self.plan(*purposes)
            with self.subTest(purposes):
                self.assertEqual(self.next(), words)

    def test_the_plan_is_kept_shown_and_found_on_the_bench(self) -> None:
        url = reverse("arrive-plan", args=(self.job_uuid,))
        day = timezone.localdate() + timedelta(days=2)
        data = {
            "purposes": ["retrofit", "set-up"],
            "promised": day.isoformat(),
            "worker": self.lead.pk,
            "waiting": "part",
            "place": "hook 3",
            "decided": "only the tracker",
        }
        self.client.post(url, data)
        job = self.job
        kept = (job.purposes, job.promised, job.worker, job.waiting, job.place, job.decided)
        self.assertEqual(
            kept, (["retrofit", "set-up"], day, self.lead, "part", "hook 3", "only the tracker")
        )
        self.assertContains(self.client.get(url), "It needs Wire, Set, Program, Prove.")
        for show, here in (("waits", True), ("promised", True), ("mine", False), ("open", True)):
            page = self.client.get(reverse("bench"), {"show": show, "sort": "promised"})
            self.assertEqual(b"waits for a part" in page.content, here, show)
        for wrong in ({"promised": "soon"}, {"waiting": "godot"}, {"worker": "9999"}):
            self.assertEqual(self.client.post(url, data | wrong).status_code, 422, wrong)

    def test_what_is_only_planned_is_neither_changed_nor_proven(self) -> None:
        self.plan("retrofit")
        self.take_lamp_off()
        plan = self.client.get(reverse("arrive-plan", args=(self.job_uuid,)))
        self.assertContains(plan, "Planned, not done")
        self.assertContains(plan, "Remove: Front lamp")
        self.assertEqual(changes_of(self.job).words, ())
        self.assertContains(self.client.get(self.url), "Nothing to prove yet")
        self.done()
        self.assertEqual(changes_of(self.job).words, ("Removed: Front lamp",))
        self.assertEqual(
            set(self.states()), {"move:steering"}
        )  # its plug drives nothing: no cut-off is asked

    def done(self) -> None:
        """Tick every step of the order of work."""
        for step in work_of(self.job).steps:
            tick(**self.where, step_id=step.id, done=True)

    def test_a_check_is_made_fails_and_is_made_again(self) -> None:
        self.plan("check-over")
        page = self.client.get(self.url)
        self.assertContains(page, "Left brake lever stops the motor")
        bad = self.client.post(self.url, {"check": "cut:lever_left", "answer": "yes"})
        self.assertContains(bad, "Tick first", status_code=422)
        no_word = {"check": "cut:lever_left", "answer": "no", "gate": GATES}
        self.assertContains(
            self.client.post(self.url, no_word), "Say what was seen", status_code=422
        )
        self.client.post(self.url, no_word | {"note": "runs on"})
        self.assertEqual(self.states()["cut:lever_left"], "failed")
        self.assertEqual(self.next(), "Failed: Left brake lever stops the motor")
        self.assertContains(self.client.get(self.url), "Go to Set")
        with self.assertRaisesMessage(ValidationError, "Left brake lever stops the motor: failed"):
            close_job(**self.where, reason="late")
        enter(**self.where, check_id="cut:lever_left", answer="yes", ticked=GATES)
        self.assertEqual(self.states()["cut:lever_left"], "passed")
        made = Proved.objects.latest("id")
        self.client.post(self.url, {"do": "undo", "uuid": made.uuid})
        self.assertEqual(self.states()["cut:lever_left"], "failed")
        for wrong in ("x", str(made.uuid)):
            self.assertRaises(ValidationError, undo, **self.where, uuid=wrong)

    def test_what_was_seen_at_a_failed_check_counts_in_trace(self) -> None:
        self.plan("check-over")
        page = self.client.get(self.url, {"check": "light:lamp"})
        self.assertContains(page, "Lamp does not light")
        data = {"check": "light:lamp", "answer": "no", "note": "dark", "gate": GATES}
        bad = self.client.post(self.url, data | {"symptom": "gremlins"})
        self.assertContains(bad, "Choose one of the list", status_code=422)
        self.client.post(self.url, data | {"symptom": "lamp-dark"})
        entry = self.job.evidence.get()
        self.assertEqual((entry.observable, entry.told), ("lamp", False))
        enter(**self.where, check_id="light:lamp", answer="yes", ticked=GATES)
        self.assertEqual(self.states()["light:lamp"], "passed")

    def test_a_reading_is_judged_and_one_that_cannot_be_is_refused(self) -> None:
        self.plan("check-over")
        for text, words in (("fast", "is not a number"), ("300", "must lie from"), ("", "")):
            data = {"check": "road-speed", "value": text, "gate": GATES}
            self.assertContains(self.client.post(self.url, data), words, status_code=422)
        enter(**self.where, check_id="road-speed", text="20.1", ticked=GATES)
        self.assertEqual(self.states()["road-speed"], "passed")
        enter(**self.where, check_id="road-speed", text="18", note="small tyre", ticked=GATES)
        self.assertEqual(self.states()["road-speed"], "failed")

    def test_a_proven_job_is_handed_over_without_a_reason(self) -> None:
        self.plan("check-over")
        with self.assertRaisesMessage(ValidationError, "not proven"):
            close_job(**self.where, reason="late")
        self.prove_all()
        self.assertEqual((holding(rows_of(self.job)), self.next()), ([], "Close the job"))
        self.assertContains(self.client.get(self.url), "All is proven")
        close_job(**self.where, reason="")
        self.assertContains(
            self.client.get(reverse("record", args=(self.job_uuid,))),
            "Right brake lever stops the motor: passed",
        )

    def test_a_lead_may_let_go_what_failed_with_a_reason(self) -> None:
        self.plan("check-over")
        enter(**self.where, check_id="walk", answer="no", note="no such button", ticked=GATES)
        with self.assertRaises(ValidationError) as refused:
            close_job(actor=self.lead, job=self.job, reasons={"prove:walk": "none on this display"})
        self.assertIn("prove:minute", refused.exception.message_dict)
        self.assertNotIn("prove:walk", refused.exception.message_dict)
        self.let_go(self.job)
        self.assertContains(
            self.client.get(reverse("record-rider", args=(self.job_uuid,))),
            "Walk assist: failed. Why: for this test",
        )
        with self.assertRaises(PermissionDenied):
            enter(**self.where, check_id="walk", answer="yes", ticked=GATES)
        with self.assertRaises(PermissionDenied):
            self.plan("build")

    def test_nothing_is_proven_over_a_quarantine(self) -> None:
        self.plan("check-over")
        answer_triage(**self.where, answers=ALL_NO | {"hot": True})
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            enter(**self.where, check_id="minute", answer="yes", ticked=GATES)

    def test_it_goes_into_the_job_file_and_comes_back_as_history(self) -> None:
        self.plan("check-over", place="hook 3")
        enter(**self.where, check_id="walk", answer="yes", ticked=GATES)
        document = export_job(self.job)
        self.assertEqual(document["version"], 3)
        self.let_go(self.job)
        job, _ = import_job(actor=self.technician, text=canonical_json(document))
        self.assertEqual(
            (job.purposes, job.place, job.proofs.count()), (["check-over"], "hook 3", 1)
        )
        self.assertEqual({row.state for row in rows_of(job)}, {"open"})

    def test_a_ride_is_read_told_and_undone(self) -> None:
        url = reverse("prove-rides", args=(self.job_uuid,))
        rows = "".join(
            f"{i},{54 + i * 5e-5},11.0,22,{50 - 0.01 * (i % 100)},{i % 100 / 10}\n"
            for i in range(600)
        )
        good = f"time,lat,lon,speed,volts,amps\n{rows}".encode()
        page = self.client.post(url, {"ride": upload(good, "harbour.csv")}, follow=True)
        self.assertContains(page, "harbour.csv")
        self.assertContains(page, "km/h")
        ride = self.job.rides.get()
        self.assertAlmostEqual(ride.told["distance_km"], 599 * 5e-5 * 111.195, delta=0.02)
        self.assertAlmostEqual(ride.told["ohm"], 0.1, places=4)
        self.assertContains(page, "too fast")
        self.assertEqual(set(ride.series), {"speed_kmh", "volts", "amps"})
        self.assertLessEqual(len(ride.series["volts"]), 301)
        for content, name, words in (
            (b"<gpx", "a.gpx", "is no GPX"),
            (b"time,speed\n0,fast\n", "a.csv", "line 2"),
            (b"x" * 9_000_000, "a.gpx", "up to 8 MB"),
        ):
            answer = self.client.post(url, {"ride": upload(content, name)})
            self.assertContains(answer, words, status_code=422)
        self.assertContains(self.client.post(url, {}), "Choose a GPX", status_code=422)
        record = self.client.get(reverse("record", args=(self.job_uuid,)))
        self.assertContains(record, "Ride harbour.csv")
        self.client.post(url, {"do": "undo", "uuid": ride.uuid})
        self.assertContains(self.client.get(url), "No ride yet")

    def test_the_riders_sheet_says_what_was_done(self) -> None:
        self.plan("retrofit")
        self.take_lamp_off()
        self.done()
        sheet = self.client.get(reverse("record-rider", args=(self.job_uuid,)))
        for words in (
            "Removed: Front lamp",
            "Try both brakes",
            "Its own charger only",
            "Second visit around",
        ):
            self.assertContains(sheet, words)

    def test_a_bike_over_the_years_has_its_visits_and_what_is_due(self) -> None:
        url = reverse("bike-history", args=(self.job.revision.bike.uuid,))
        self.plan("check-over")
        enter(**self.where, check_id="axle:motor", answer="yes", ticked=GATES)
        self.plan("check-over", "retrofit")
        self.take_lamp_off()
        self.done()
        self.let_go(self.job)
        self.open()
        page = self.client.get(url)
        for words in (
            "2 visits of",
            "heck-over",
            "Removed: Front lamp",
            "Axle nuts of",
            "Pack capacity",
        ):
            self.assertContains(page, words)

    def test_the_shop_has_its_numbers_from_its_own_jobs(self) -> None:
        url = reverse("numbers")
        self.assertContains(self.client.get(url), "Nothing was closed yet")
        for _ in range(3):
            self.let_go(self.open())
        page = self.client.get(url)
        self.assertContains(page, "3 closed jobs")
        self.assertContains(page, "Repair, 3 jobs")

    def test_one_search_finds_what_was_written(self) -> None:
        self.plan("check-over", place="hook 3")
        enter(**self.where, check_id="walk", answer="no", note="buzzes at the fork", ticked=GATES)
        set_contact(
            actor=self.technician, bike=self.revision.bike, name="A. Reed", reach="5550199", note=""
        )
        url = reverse("find")
        for words, here in (
            ("fern", "cargo bike"),
            ("shudders", "Job 1"),
            ("buzzes fork", "buzzes at the fork"),
            ("hook 3", "now at hook 3"),
            ("f", "At least two letters"),
            ("gremlins", "Nothing fits"),
        ):
            self.assertContains(self.client.get(url, {"q": words}), here)
        self.assertNotContains(self.client.get(url, {"q": "5550199"}), "By their rider")
        self.client.force_login(self.lead)
        self.assertContains(self.client.get(url, {"q": "5550199"}), "By their rider")

    def test_the_day_has_one_list_a_person_and_says_what_will_be_late(self) -> None:
        today = timezone.localdate()
        self.plan("repair", promised=today - timedelta(days=1), worker=self.lead, place="hook 3")
        other = self.open()
        plan_job(actor=self.technician, job=other, planned=Planned(waiting="part"))
        page = self.client.get(reverse("day"))
        for words in ("1 will be late", "boss", "hook 3", "will be late: call", "waits for a part"):
            self.assertContains(page, words)
