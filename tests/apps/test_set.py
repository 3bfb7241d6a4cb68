"""Set over the web: sheets, calibrations, waivers, timers, and who may do what when."""

from dataclasses import replace
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse
from django.utils import timezone

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike, worked_bike
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.set.finishing import finish, undo_calibration
from brightcircuit.set.models import Calibration, Timer
from brightcircuit.set.queries import options_of, rows_of, sheet_of
from brightcircuit.set.services import (
    cautions_of,
    choose,
    choose_for_shop,
    start_timer,
    take_reading,
    waive,
)
from brightcircuit.shop.people import the_shop
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.summary import refresh_summary
from brightcore.describing.edit import change_part
from brightcore.describing.patterns import make_pattern
from brightcore.errors import FormatError
from brightcore.formats.bike_writing import canonical_json
from brightcore.kinds.pack import PackSpec
from brightcore.setting import instrument
from tests.apps.base import ALL_NO, ShopTest, prime, upload
from tests.bikes import demo_bike, engine

FERN = demo_bike("fern")

GATES = ("pack_safe", "wheel_up")
GOOD = {"supply_v": "5.0 V", "rest_v": "850 mV", "full_v": "4,1"}
STEPS = ("supply", "rest", "full")


class SetTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        self.url = reverse("set-instrument", args=(self.job_uuid, "throttle", "throttle"))

    @property
    def where(self) -> dict[str, Any]:
        return {"actor": self.technician, "job": self.job, "key": "throttle", "subject": "throttle"}

    def take(self, typed: dict[str, str] = GOOD, steps: tuple[str, ...] = STEPS) -> None:
        for step in steps:
            take_reading(**self.where, step_id=step, typed=typed, ticked=GATES)

    def calibrate(self, typed: dict[str, str] = GOOD) -> Calibration:
        self.take(typed)
        return finish(**self.where)

    def state(self, key: str = "throttle") -> str:
        return next(row.state for row in rows_of(self.job) if row.instrument.key == key)

    def test_a_throttle_is_set_step_by_step_and_kept_as_typed(self) -> None:
        self.safe()
        self.assertContains(
            self.client.get(reverse("set", args=(self.job_uuid,))), "Throttle range"
        )
        for step, words in (
            ("supply", "throttle released"),
            ("rest", "all the way"),
            ("full", "note some volts"),
        ):
            data = GOOD | {"do": "take", "step": step, "gate": GATES}
            self.client.post(self.url, data)
            self.assertContains(self.client.get(self.url), words)
        self.assertEqual(self.state(), "begun")
        page = self.client.post(self.url, {"do": "finish"}, follow=True)
        self.assertContains(page, "Saved: Runs from end to end")
        made = Calibration.objects.get()
        self.assertEqual(
            (made.typed["rest_v"], made.state, made.by_name), ("850 mV", "good", "tech")
        )
        self.assertEqual({v["name"]: v["value"] for v in made.values}["start_v"], 1.0)
        self.assertEqual((self.state(), self.job.sheets.count()), ("good", 0))

    def test_nothing_is_taken_before_it_is_safe(self) -> None:
        for act, words in (
            (lambda: self.take(), "Look at the pack first"),
            (
                lambda: answer_triage(
                    actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True}
                ),
                "",
            ),
            (lambda: self.take(), "quarantine"),
        ):
            if not words:
                act()
                continue
            with self.assertRaisesMessage(ValidationError, words):
                act()
        self.assertEqual(self.job.sheets.count(), 0)

    def test_each_caution_of_a_step_is_asked_for_once(self) -> None:
        self.safe()
        with self.assertRaisesMessage(
            ValidationError, "First acknowledge: Driven wheel off the ground"
        ):
            take_reading(**self.where, step_id="supply", typed=GOOD, ticked=("pack_safe",))
        self.take(steps=("supply",))
        take_reading(**self.where, step_id="rest", typed=GOOD)
        self.assertEqual(self.job.sheets.get().typed["rest_v"], "850 mV")

    def test_what_cannot_be_read_is_told_at_its_field_and_kept_on_the_page(self) -> None:
        self.safe()
        data = {"do": "take", "step": "supply", "gate": GATES, "supply_v": "five"}
        page = self.client.post(self.url, data)
        self.assertContains(page, "is not a number", status_code=422)
        self.assertContains(page, 'value="five"', status_code=422)
        page = self.client.post(self.url, data | {"supply_v": ""})
        self.assertContains(page, "Type the reading.", status_code=422)

    def test_a_reading_that_cannot_be_is_kept_and_not_used(self) -> None:
        self.safe()
        self.take(GOOD | {"rest_v": "OL"}, ("supply", "rest"))
        page = self.client.get(self.url)
        self.assertContains(page, "not used: At rest: OL in volts means")
        with self.assertRaisesMessage(ValidationError, "Not finished yet"):
            finish(**self.where)

    def test_an_open_ground_is_a_danger_with_the_wire_to_look_at(self) -> None:
        self.safe()
        made = self.calibrate(GOOD | {"rest_v": "4.8", "full_v": "4.9"})
        self.assertEqual((made.state, made.findings[0]["code"]), ("danger", "S011"))
        self.assertContains(self.client.get(self.url), "ground is open behind this plug")

    def test_the_last_time_stands_beside_it_and_what_moved(self) -> None:
        self.safe()
        self.calibrate()
        self.calibrate(GOOD | {"rest_v": "0.98"})
        page = self.client.get(self.url)
        self.assertContains(page, "+0.13 V at rest since last time")
        self.assertContains(page, "0.85 → 0.98 V")

    def test_what_was_read_counts_in_trace_and_is_undone_with_it(self) -> None:
        self.safe()
        prime(self.revision, engine("fern"))
        before = self.belief()
        made = self.calibrate(GOOD | {"rest_v": "4.9", "full_v": "4.9"})
        rows = self.job.evidence.filter(undone=False)
        self.assertEqual(
            [(r.kind, r.condition) for r in rows],
            [("volts", "on"), ("volts", "on"), ("volts", "on; throttle.grip=full")],
        )
        trace = job_trace(self.job).trace
        assert trace is not None
        self.assertIn("hrottle", trace.suspects[0].title)
        self.assertIn("signal", trace.suspects[0].title)
        self.assertContains(self.client.get(reverse("trace", args=(self.job_uuid,))), "from Set")
        undo_calibration(actor=self.technician, job=self.job, uuid=str(made.uuid))
        self.assertEqual(self.belief(), before)

    def test_what_was_measured_is_worked_with_until_it_is_undone(self) -> None:
        self.safe()
        described = worked_bike(self.job.revision).part("throttle").spec
        made = self.calibrate(GOOD | {"rest_v": "0.95"})
        self.job.refresh_from_db()
        self.assertEqual(worked_bike(self.job.revision).part("throttle").spec.rest_ratio, 0.19)
        self.assertEqual(core_bike(self.job.revision).part("throttle").spec, described)
        for page in (
            reverse("match", args=(self.job_uuid,)),
            reverse("bike", args=(self.job.revision.bike.uuid,)),
        ):
            self.assertContains(self.client.get(page), "described 0.17")
        self.calibrate(GOOD | {"rest_v": "0.9"})
        undo_calibration(
            actor=self.technician, job=self.job, uuid=str(Calibration.objects.last().uuid)
        )
        self.assertEqual(worked_bike(self.job.revision).part("throttle").spec.rest_ratio, 0.19)
        undo_calibration(actor=self.technician, job=self.job, uuid=str(made.uuid))
        self.assertEqual(worked_bike(self.job.revision).part("throttle").spec, described)

    def test_a_faulty_reading_is_not_worked_with(self) -> None:
        self.safe()
        self.assertEqual(self.calibrate(GOOD | {"rest_v": "1.4"}).state, "danger")
        self.assertEqual(core_bike(self.job.revision).measured, ())

    def test_a_discharge_log_fills_in_the_readings(self) -> None:
        self.safe()
        url = reverse("set-instrument", args=(self.job_uuid, "capacity", "pack"))
        rows = "\n".join(
            ["time_s,voltage_v,current_a", *(f"{t * 600},{50 - t / 2},3" for t in range(24))]
        )

        def send(content: bytes | None, **more: Any) -> Any:
            data: dict[str, Any] = {"do": "log", **more}
            return self.client.post(
                url, data | ({"log": upload(content, "log.csv")} if content else {})
            )

        self.assertContains(send(rows.encode()), "First acknowledge", status_code=422)
        self.assertEqual(send(rows.encode(), gate="pack_safe").status_code, 302)
        self.assertContains(self.client.get(url), "11.50")
        for content, words in (
            (b"a,b\n1,2", "must name the columns"),
            (b"time_s,voltage_v,current_a\n0,x,1", "line 2: voltage_v"),
            (b"\xff\xfe\x00", "not CSV"),
            (b"time_s,voltage_v,current_a\n0,48,1\n0,48,1", "times must rise"),
            (None, "Choose a CSV file"),
        ):
            with self.subTest(words):
                self.assertContains(send(content), words, status_code=422)
        finish(actor=self.technician, job=self.job, key="capacity", subject="pack")
        self.job.refresh_from_db()
        page = self.client.get(reverse("match-packs", args=(self.job_uuid,)))
        self.assertContains(page, "11.5 Ah")

    def test_a_plug_without_a_label_is_named_on_the_bike(self) -> None:
        self.safe()
        where = {"actor": self.technician, "job": self.job, "key": "plug", "subject": "controller"}
        looks = {
            "pins": "2",
            "state": "out",
            "thick": "1 2",
            "gender": "pins",
            "colours": "red black",
        }
        take_reading(**where, step_id="look", typed=looks)
        item = instrument("plug")
        for _ in range(4):
            sheet = self.job.sheets.get(instrument="plug")
            asked = item.steps(core_bike(self.job.revision), "controller", sheet.typed)[-1].id
            if asked in sheet.typed or asked == "look":
                break
            typed = {asked: "0.1" if asked.endswith("2") else "120k"}
            take_reading(**where, step_id=asked, typed=typed, ticked=("pack_out", "discharged"))
        self.assertIn("battery", finish(**where).title)
        self.job.refresh_from_db()
        bike = core_bike(self.job.revision)
        self.assertEqual(bike.part("controller").port("battery").gender, "pins")
        self.assertIn("plug_battery", {value.name for value in bike.measured})
        self.assertNotIn(
            "plug", {row.instrument.key for row in rows_of(self.job) if not row.instrument.helper}
        )

    def test_a_choice_for_the_shop_is_a_shop_leads_and_counts_where_a_job_says_nothing(
        self,
    ) -> None:
        where = {"job": self.job, "key": "cut-off", "subject": "lever_left"}
        choose(actor=self.technician, **where, options={"school": "late"})
        with self.assertRaises(PermissionDenied):
            choose_for_shop(actor=self.technician, **where)
        self.assertEqual(the_shop().set_choices, {})
        choose_for_shop(actor=self.lead, **where)
        self.job.sheets.all().delete()
        for subject in ("lever_left", "lever_right"):
            self.assertEqual(options_of(sheet_of(self.job, "cut-off", subject))["school"], "late")
        choose(actor=self.technician, **where, options={"school": "early"})
        self.assertEqual(
            options_of(sheet_of(self.job, "cut-off", "lever_right"))["school"], "early"
        )

    def test_over_60_volts_there_is_one_more_caution(self) -> None:
        step = instrument("throttle").steps(FERN, "throttle")[0]
        high = make_pattern("opened-hub", "high")
        packs = {p.id: replace(p.spec, series_count=20) for p in high.having(PackSpec)}
        high = replace(
            high,
            parts=tuple(replace(p, spec=packs[p.id]) if p.id in packs else p for p in high.parts),
        )
        self.assertNotIn("high_volts", cautions_of(FERN, step))
        self.assertIn("high_volts", cautions_of(high, step))

    def test_undo_marks_and_keeps(self) -> None:
        self.safe()
        made = self.calibrate()
        self.client.post(self.url, {"do": "undo", "uuid": made.uuid})
        made.refresh_from_db()
        self.assertEqual((made.undone, self.state()), (True, ""))
        self.assertContains(
            self.client.post(self.url, {"do": "undo", "uuid": made.uuid}),
            "not there",
            status_code=422,
        )

    def test_a_waiver_needs_a_reason_that_stays(self) -> None:
        self.assertContains(
            self.client.post(self.url, {"do": "waive"}), "Give the reason", status_code=422
        )
        self.client.post(self.url, {"do": "waive", "reason": "Rider wants none"})
        self.assertEqual(self.state(), "waived")
        self.assertContains(
            self.client.get(reverse("record", args=(self.job_uuid,))), "waived: Rider wants none"
        )

    def test_a_part_that_was_changed_overtakes_its_calibration(self) -> None:
        self.safe()
        self.calibrate()
        core = core_bike(self.revision)
        spec = core.part("throttle").spec
        changed = change_part(core, "throttle", name="Other throttle", spec=spec)
        add_revision(
            actor=self.technician, bike=self.revision.bike, core=changed, base=2, what="swapped"
        )
        use_newest_revision(actor=self.technician, job=self.job)
        self.assertEqual(self.state(), "overtaken")

    def test_a_timer_survives_and_stands_on_the_bench(self) -> None:
        self.safe()
        for minutes, words in (("0", "From 1 to"), ("soon", "is not a number of minutes")):
            page = self.client.post(self.url, {"do": "timer", "minutes": minutes})
            self.assertContains(page, words, status_code=422)
        start_timer(**self.where, minutes=5)
        self.assertContains(self.client.get(self.url), "Setting: check again")
        Timer.objects.update(due=timezone.now())
        job = self.job
        refresh_summary(job)
        self.assertEqual(self.job.summary["next"], "Check again: Throttle range, Thumb throttle")
        self.client.post(self.url, {"do": "looked"})
        self.client.get("/")
        self.assertNotEqual(self.job.summary["next"], "Check again: Throttle range, Thumb throttle")

    def test_the_finder_asks_by_what_was_seen(self) -> None:
        self.safe()
        url = reverse("set-instrument", args=(self.job_uuid, "ways", "motor"))
        self.assertContains(self.client.get(url), "Trial 1: All six by their letters")
        gates = [*GATES, "pack_out", "discharged"]
        self.client.post(url, {"do": "take", "step": "UVW-ABC", "UVW-ABC": "locked", "gate": gates})
        page = self.client.get(url)
        self.assertContains(page, "Trial 2: ")
        step = page.context["step"].id
        unticked = self.client.post(url, {"do": "take", "step": step, step: "locked"})
        self.assertContains(unticked, "First acknowledge", status_code=422)
        gone = self.client.post(url, {"do": "take", "step": "WVU-CBA", "WVU-CBA": "smooth"})
        self.assertContains(gone, "not there any more", status_code=422)

    def test_it_goes_into_the_job_file_and_comes_back(self) -> None:
        self.safe()
        self.calibrate()
        waive(**self.where | {"key": "pedal", "subject": "cranks"}, reason="none fitted")
        text = canonical_json(export_job(self.job))
        self.let_go(self.job)
        job, outcome = import_job(actor=self.technician, text=text)
        self.assertEqual((outcome, job.calibrations.count()), ("copy", 2))
        self.assertTrue(all(row.imported for row in job.calibrations.all()))
        with self.assertRaisesMessage(FormatError, "$.job.stations.set"):
            import_job(
                actor=self.technician,
                text=text.replace('"state":"waived"', '"state":"fine"').replace(
                    '"state": "waived"', '"state": "fine"'
                ),
            )

    def test_nothing_changes_on_a_closed_job_or_by_who_has_left(self) -> None:
        self.safe()
        self.let_go(self.job)
        with self.assertRaises(PermissionDenied):
            self.take()
        self.technician.is_active = False
        with self.assertRaises(PermissionDenied):
            waive(**self.where, reason="x")

    def test_every_instrument_has_a_page(self) -> None:
        self.safe()
        for row in rows_of(self.job):
            url = reverse(
                "set-instrument", args=(self.job_uuid, row.instrument.key, row.subject.id or "bike")
            )
            first = instrument(row.instrument.key).steps(core_bike(self.revision), row.subject.id)[
                0
            ]
            self.assertContains(self.client.get(url), first.fields[0].label)
        for key, subject in (("nothing", "throttle"), ("throttle", "pack")):
            url = reverse("set-instrument", args=(self.job_uuid, key, subject))
            self.assertEqual(self.client.get(url).status_code, 404)
