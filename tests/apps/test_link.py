"""The link over the web, against the real stand-in in its own process."""

import time
from contextlib import ExitStack
from typing import Any
from unittest.mock import patch

from django.core.exceptions import PermissionDenied, ValidationError
from django.test import TestCase
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage, lift_quarantine
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.services import Planned, plan_job
from brightcircuit.link.lines import LineBusyError, let_all_go, let_go, port_of, take
from brightcircuit.link.standin import main as standin_main
from brightcircuit.link.transport import AddressError, ModbusPort, read_address
from brightcircuit.program.keeping import keep_reading, sweep_to_set
from brightcircuit.program.link_services import connect, disconnect, learn, look_live
from brightcircuit.program.models import Line, Run, Told
from brightcircuit.program.queries import Device, devices_of
from brightcircuit.program.run_services import (
    WRITE_GATES,
    begin_read,
    choose,
    confirm,
    go_on,
    resume,
    save_device,
    stop,
)
from brightcircuit.program.services import device_of, name_profile, want_otherwise
from brightcircuit.prove.services import enter
from brightcircuit.stations.registry import Live
from brightcircuit.stations.summary import refresh_summary
from brightcore.formats.profile_file import shipped_profiles
from brightcore.linking.layout import identify, shown
from brightcore.linking.model import BROWN_OUT, DROPPED, REFUSES, SLOW, STALE_HALL, STRANGER
from brightcore.linking.transfer import Item, read_on, write_on
from tests.apps.base import ALL_NO, ShopTest
from tests.standin import Running, joined_terminals, standin

PROFILES = {profile.id: profile for profile in shipped_profiles()}
ADDRESSES = (
    ("tcp:192.0.2.5:502/3", "tcp:192.0.2.5:502", 3),
    (" tcp:bench.example ", "tcp:bench.example:502", 1),
    ("serial:/dev/ttyUSB0@9600/17", "serial:/dev/ttyUSB0@9600", 17),
    ("serial:/dev/ttyUSB0", "serial:/dev/ttyUSB0@115200", 1),
    ("serial:COM3/2", "serial:COM3@115200", 2),
    ("192.0.2.5", None, 0),
    ("tcp:a b", None, 0),
    ("tcp:x:99999", None, 0),
    ("tcp:x/248", None, 0),
    ("tcp:x/0", None, 0),
    ("serial:/etc/passwd", None, 0),
    ("", None, 0),
)


class AddressTest(TestCase):
    def test_addresses_as_typed(self) -> None:
        for text, line, unit in ADDRESSES:
            with self.subTest(text):
                if line is None:
                    self.assertRaises(AddressError, read_address, text)
                else:
                    found = read_address(text)
                    self.assertEqual((found.line, found.unit), (line, unit))
                    self.assertEqual(read_address(str(found)), found)


class LineTest(TestCase):
    def test_one_holder_at_a_time(self) -> None:
        self.addCleanup(let_all_go)
        address = read_address("tcp:192.0.2.5")
        take(address, 1, "R. Quill")
        take(address, 1, "R. Quill")
        with self.assertRaisesRegex(LineBusyError, "held by R. Quill"):
            take(address, 2, "M. Tarn")
        with port_of(address, 1, "R. Quill"), self.assertRaises(LineBusyError):
            take(address, 2, "M. Tarn")
        let_go(address, 2)
        let_go(address, 1)
        take(address, 2, "M. Tarn")


class SerialTest(TestCase):
    def test_the_same_over_a_serial_line(self) -> None:
        profile = PROFILES["full-controller"]
        with (
            joined_terminals() as (one, other),
            standin("--serial", one),
            ModbusPort(read_address(f"serial:{other}/1"), 1.0) as port,
        ):
            self.assertEqual(identify(port).word, profile.identity)
            items = [Item(p.code) for p in profile.parameters]
            self.assertTrue(read_on(port, profile, items, lambda: 1.0))
            item = Item("c01", items[0].shown, 25.0)
            write_on(port, profile, [item], lambda: 1.0)
            self.assertEqual((item.state, item.shown), ("written", 25.0))


class StandInTest(TestCase):
    def test_what_cannot_be_started_is_said(self) -> None:
        for device in ("1=nowhere.json,controller,full-controller", "x", "0=a,b,c"):
            self.assertEqual(standin_main(["--device", device]), 2)


class LinkTest(ShopTest):
    bike = "otter"
    stack: ExitStack
    device: Running

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.stack = ExitStack()
        cls.device = cls.stack.enter_context(standin())
        cls.addClassCleanup(cls.stack.close)

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(let_all_go)
        self.device.fault(0)
        self.safe()
        name_profile(
            actor=self.technician, job=self.job, part="controller", profile="full-controller"
        )
        self.url = reverse("program-link-device", args=(self.job_uuid, "controller"))

    @property
    def where(self) -> dict[str, Any]:
        return {"actor": self.technician, "job": self.job, "part": "controller"}

    def connect(self) -> Line:
        return connect(**self.where, text=f"{self.device.line}/1")

    def controller(self) -> Device:
        return next(d for d in devices_of(self.job) if d.part.id == "controller")

    def known(self) -> dict[str, float]:
        return {
            row.parameter.code: row.has for row in self.controller().rows if row.has is not None
        }

    def on_device(self, code: str) -> float:
        item = PROFILES["full-controller"].parameter(code)
        assert item.register is not None
        return shown(item, self.device.register(item.register.number))

    def write(self, *codes: str) -> Run:
        run = choose(**self.where, codes=codes)
        return confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)

    def unlike(self, count: int) -> list[str]:
        """Return codes of values that are wanted otherwise; where too few are, ask for other
        ones."""
        codes = []
        for row in self.controller().rows[:count]:
            item = row.parameter
            value = item.nearest(item.low if row.has != item.low else item.low + item.step)
            text = item.shown(value)
            want_otherwise(**self.where, code=item.code, text=text, reason="test")
            codes.append(item.code)
        return codes

    def test_a_device_is_read_changed_and_read_back(self) -> None:
        page = self.client.post(
            self.url, {"do": "connect", "address": f"{self.device.line}/1"}, follow=True
        )
        self.assertContains(page, "Connected: firmware 1.04")
        page = self.client.post(self.url, {"do": "read"}, follow=True)
        self.assertEqual(len(self.known()), 36)
        codes = self.unlike(3)
        page = self.client.post(self.url, {"do": "choose", "code": codes}, follow=True)
        self.assertContains(page, "Write 3 values to Rear controller?")
        run = Run.objects.get(kind="write")
        here = reverse("program-run", args=(self.job_uuid, "controller", run.pk))
        bad = self.client.post(here, {"do": "confirm", "gate": ["pack_safe"]})
        self.assertContains(bad, "Tick first", status_code=422)
        page = self.client.post(here, {"do": "confirm", "gate": WRITE_GATES}, follow=True)
        self.assertContains(page, "3 of 3 done")
        for code in codes:
            self.assertEqual(
                (self.on_device(code), self.known()[code]), (self.controller_wanted(code),) * 2
            )
        told = Told.objects.filter(how="written").last()
        assert told is not None
        self.assertEqual(
            (told.firmware, told.by_name, told.why.startswith("test")), ("1.04", "tech", True)
        )
        titles = list(self.job.snapshots.values_list("title", flat=True))
        self.assertEqual(titles, ["Before writing", "After writing"])
        self.assertContains(self.client.get(self.url), "Save on the device")
        job = self.job
        refresh_summary(job)
        self.assertEqual(self.job.summary["next"], "Save on the device")
        self.client.post(self.url, {"do": "save"})
        self.assertTrue(Line.objects.get().saved)

    def controller_wanted(self, code: str) -> float:
        row = next(row for row in self.controller().rows if row.parameter.code == code)
        assert row.wanted is not None
        return row.wanted

    def test_a_line_that_drops_at_every_request_tells_what_is_known_and_goes_on(self) -> None:
        self.connect()
        begin_read(**self.where)
        for drop in range(8):
            codes = self.unlike(4)
            self.device.fault(DROPPED, drop)
            let_all_go()
            run = self.write(*codes)
            with self.subTest(drop):
                self.assertEqual(run.state, "paused")
                items = [Item(**raw) for raw in run.items]
                self.device.fault(0)
                for item in items:
                    if item.state == "written":
                        self.assertEqual(self.on_device(item.code), item.wanted)
                    elif item.state == "waiting":
                        self.assertEqual(self.on_device(item.code), item.before)
                self.assertLessEqual(sum(item.state == "unknown" for item in items), 1)
                page = self.client.get(
                    reverse("program-run", args=(self.job_uuid, "controller", run.pk))
                )
                self.assertContains(page, "No answer from")
                self.assertIn("write broke off", self.job.log.filter(what="program").last().text)
                if drop == 0:
                    self.refuses_while_in_quarantine(run)
                done = resume(actor=self.technician, job=self.job, run=run)
                self.assertEqual(done.state, "done")
                self.assertEqual(
                    [self.on_device(c) for c in codes], [self.controller_wanted(c) for c in codes]
                )

    def refuses_while_in_quarantine(self, run: Run) -> None:
        """A pack that was looked at again meanwhile stops a run that paused; then it is safe
        again."""
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            resume(actor=self.technician, job=self.job, run=run)
        lift_quarantine(actor=self.lead, job=self.job, reason="cooled down, looked at")
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO)

    def test_faults_of_the_device_are_said(self) -> None:
        self.device.fault(STRANGER)
        with self.assertRaisesMessage(ValidationError, "The device on the link says 4103"):
            self.connect()
        self.device.fault(0)
        self.connect()
        begin_read(**self.where)
        codes = self.unlike(2)
        self.device.fault(REFUSES, 0)
        run = self.write(*codes)
        self.assertEqual([item["state"] for item in run.items], ["refused", "written"])
        # Neither written nor read back: nobody knows it until it was read again.
        self.assertNotIn("c01", self.known())
        self.device.fault(0)
        begin_read(**self.where)
        self.assertEqual(self.known()["c01"], self.on_device("c01"))
        self.device.fault(STRANGER)
        before = self.on_device("c02")
        codes = self.unlike(2)
        run = self.write(*codes)
        self.assertEqual((run.state, "Nothing was written" in run.words), ("paused", True))
        self.assertEqual(self.on_device("c02"), before)
        stop(actor=self.technician, job=self.job, run=run)
        self.device.fault(SLOW, 900)
        let_all_go()
        began = time.monotonic()
        run = begin_read(**self.where)
        self.assertEqual(run.state, "paused")
        self.assertLess(time.monotonic() - began, 3.0)

    def test_a_brown_out_while_saving_is_told_and_all_is_read_again(self) -> None:
        self.connect()
        begin_read(**self.where)
        row = next(row for row in self.controller().rows if row.parameter.code == "c36")
        self.unlike(36)
        self.write("c36")
        self.device.fault(BROWN_OUT)
        with self.assertRaisesMessage(
            ValidationError, "has not said that it saved; other than before: c36"
        ):
            save_device(**self.where)
        self.assertEqual(self.known()["c36"], self.on_device("c36"))
        self.assertEqual(self.known()["c36"], row.has)

    def test_live_values_and_what_is_kept_of_them(self) -> None:
        self.connect()
        address = reverse("program-live", args=(self.job_uuid, "controller"))
        self.assertEqual(self.client.get(address).status_code, 405)
        told = self.client.post(address).json()
        self.assertAlmostEqual(told["values"]["volts"], 54.6, delta=0.2)
        self.assertIn(told["sector"], range(6))
        self.assertEqual(told["faults"], [])
        words = keep_reading(**self.where, name="rest")
        self.assertRegex(words, r"0\.8\d V")
        entry = self.job.evidence.get()
        self.assertEqual(
            (entry.red, entry.condition, entry.kind), ("controller.throttle.signal", "on", "volts")
        )
        sweep_to_set(**self.where, values={"sweep": "0.85 1.4 2.2 3.1 4.05"}, ticked=WRITE_GATES)
        sheet = self.job.sheets.get()
        self.assertEqual(
            (sheet.instrument, sheet.typed["rest_v"], sheet.typed["full_v"]),
            ("throttle", "0.85", "4.05"),
        )
        self.device.fault(DROPPED, 0)
        self.assertIn("No answer", self.client.post(address).json()["error"])

    def test_a_proof_takes_what_the_controller_reads_and_is_not_surer_than_it(self) -> None:
        plan_job(actor=self.technician, job=self.job, planned=Planned(("check-over",)))

        def prove(answer: str) -> str:
            made = enter(
                actor=self.technician,
                job=self.job,
                check_id="minute",
                answer=answer,
                note="hums" if answer == "no" else "",
                ticked=("pack_safe", "wheel_up"),
                link=True,
            )
            return made.note

        with self.assertRaisesMessage(ValidationError, "on a link"):
            prove("yes")
        self.connect()
        self.assertRegex(
            prove("yes"), r"^over the link Rear controller: volts 5\d\.\d V.* no error$"
        )
        with (
            patch(
                "brightcircuit.prove.services.live_of",
                return_value=[Live("Controller: motor too hot", True)],
            ),
            self.assertRaisesMessage(ValidationError, "The controller says otherwise"),
        ):
            prove("yes")
        self.assertTrue(prove("no").startswith("hums; over the link"))

    def test_a_learning_run_is_judged_and_its_values_read_again(self) -> None:
        self.connect()
        begin_read(**self.where)
        page = self.client.post(self.url, {"do": "learn", "stage": "rpm", "gate": []})
        self.assertContains(page, "Tick first", status_code=422)
        run = learn(**self.where, key="rpm", ticked=WRITE_GATES)
        self.assertEqual((run.state, run.items[0]["learnt"]), ("done", []))
        self.device.fault(STALE_HALL, 1)
        run = learn(**self.where, key="halls", ticked=WRITE_GATES)
        self.assertEqual(run.items[0]["learnt"][0]["code"], "L009")
        self.assertContains(self.client.get(self.url), "watch the hall dial")

    def test_a_learning_run_looks_at_the_packs_volts_first(self) -> None:
        """Rows: live volts of a 14S pack, how the run ends, whether a danger is kept."""
        self.connect()
        while begin_read(**self.where).state != "done":
            pass  # a slow machine reads in several steps
        (row,) = (
            r for r in device_of(self.job, "controller").rows if r.parameter.role == "low_cutoff_v"
        )
        assert row.has is not None
        cuts_at = row.parameter.to_role(row.has)
        for volts, ended, danger in (
            (59.2, "done", 0),
            (59.3, "stopped", 1),
            (cuts_at, "done", 0),
            (cuts_at - 0.1, "stopped", 0),
        ):
            with (
                self.subTest(volts),
                patch("brightcircuit.program.link_services.live", return_value={"volts": volts}),
            ):
                run = learn(**self.where, key="rpm", ticked=WRITE_GATES)
                self.assertEqual(
                    (run.state, len(standing_dangers(self.job))), (ended, danger), run.words
                )
        self.assertIn("first", run.words)

    def test_nothing_is_written_before_it_is_safe_read_and_confirmed(self) -> None:
        self.connect()
        with self.assertRaisesMessage(ValidationError, "Read it first"):
            choose(**self.where, codes=["c01"])
        begin_read(**self.where)
        (code,) = self.unlike(1)
        run = choose(**self.where, codes=[code])
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            learn(**self.where, key="rpm", ticked=WRITE_GATES)
        self.assertEqual(self.on_device(code), self.known()[code])
        for act in (
            self.connect,
            lambda: begin_read(**self.where),
            lambda: look_live(**self.where),
        ):
            with self.assertRaisesMessage(ValidationError, "quarantine"):
                act()
        disconnect(**self.where)
        with self.assertRaisesMessage(ValidationError, "Connect it first"):
            look_live(**self.where)

    def test_a_server_that_stopped_in_the_middle_says_unknown(self) -> None:
        self.connect()
        begin_read(**self.where)
        codes = self.unlike(2)
        run = choose(**self.where, codes=codes)
        Run.objects.filter(pk=run.pk).update(
            state="going", items=[raw | {"state": "unknown"} for raw in run.items]
        )
        page = self.client.get(reverse("program-run", args=(self.job_uuid, "controller", run.pk)))
        self.assertContains(page, f"Not known: {', '.join(codes)}")
        run.refresh_from_db()
        self.assertEqual(go_on(actor=self.technician, job=self.job, run=run).state, "done")

    def test_other_jobs_and_closed_ones_cannot_use_the_line(self) -> None:
        self.connect()
        take(read_address(f"{self.device.line}/1"), self.job.pk, "tech")
        other = self.open()
        self.assertEqual(core_bike(other.revision).profiles, ())
        with self.assertRaisesRegex(LineBusyError, "held by tech"):
            take(read_address(f"{self.device.line}/1"), other.pk, "boss")
        self.let_go(self.job)
        for act in (
            lambda: self.connect(),
            lambda: begin_read(**self.where),
            lambda: save_device(**self.where),
        ):
            self.assertRaises(PermissionDenied, act)
