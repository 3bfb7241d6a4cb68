"""A run over a link is a locked record: whatever two people, a stop, a drop and a kill do to it,
the page never claims less written than the device has."""

import random
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any
from unittest.mock import patch

from django.core.exceptions import ValidationError
from django.urls import reverse

from brightcircuit.link import lines
from brightcircuit.link.lines import LineBusyError, let_all_go, port_of, take
from brightcircuit.link.reach import reached
from brightcircuit.link.transport import AddressError, read_address
from brightcircuit.program.link_services import connect, learn
from brightcircuit.program.models import Line, Run
from brightcircuit.program.queries import Device
from brightcircuit.program.run_services import (
    STANDS_STILL,
    WRITE_GATES,
    begin_read,
    choose,
    confirm,
    end_learning,
    resume,
    save_device,
    stop,
)
from brightcircuit.program.services import device_of, name_profile, want_otherwise
from brightcircuit.shop.people import set_shop
from brightcore.formats.profile_file import shipped_profiles
from brightcore.linking.layout import COMMAND, IDENTITY, LIVE, RUNNING, STATUS, shown
from brightcore.linking.port import LineDroppedError, LinkError
from brightcore.linking.transfer import Item
from tests.amount import sampled
from tests.apps.base import ShopTest

PROFILE = next(p for p in shipped_profiles() if p.id == "full-controller")
VALUES = 5
VOLTS = next(field.number for field in LIVE if field.name == "volts")


class KilledError(BaseException):
    """The server dies here."""


class FakeDevice:
    """A device on a line of the test's own: registers, and what happens at its next requests."""

    def __init__(self) -> None:
        self.held = {p.register.number: 0 for p in PROFILE.parameters if p.register}
        self.held[IDENTITY] = PROFILE.identity
        self.status = 0
        self.writes: list[int] = []
        self.happens: dict[int, Callable[[], None]] = {}
        """What happens before a request, by how many are still to come before it."""
        self.after: dict[int, Callable[[], None]] = {}
        """The same after the device has done what it was asked."""
        self.count = 0

    def read(self, number: int, count: int) -> list[int]:
        """Return registers."""
        return self._request(lambda: [self._register(number + i) for i in range(count)])

    def write(self, number: int, value: int) -> None:
        """Write a register."""

        def act() -> list[int]:
            if number == COMMAND:
                self.status = RUNNING
            else:
                self.held[number] = value
                self.writes.append(number)
            return []

        self._request(act)

    def close(self) -> None:
        """Nothing is open."""

    def _request(self, act: Callable[[], list[int]]) -> list[int]:
        self.count += 1
        self.happens.pop(self.count, lambda: None)()
        found = act()
        self.after.pop(self.count, lambda: None)()
        return found

    def _register(self, number: int) -> int:
        if number == STATUS:
            return self.status
        if number == VOLTS:
            return 540
        return self.held.get(number, 0)


def drop() -> None:
    raise LineDroppedError("no answer within the time")


def kill() -> None:
    raise KilledError


class RunCase(ShopTest):
    bike = "otter"

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(let_all_go)
        self.safe()
        name_profile(
            actor=self.technician, job=self.job, part="controller", profile="full-controller"
        )
        self.device = FakeDevice()
        patched = patch.object(lines, "ModbusPort", lambda address: self.device)
        patched.start()
        self.addCleanup(patched.stop)
        waits = patch.object(lines, "WAITS_S", 0.01)
        waits.start()
        self.addCleanup(waits.stop)
        Line.objects.create(job=self.job, part="controller", address="tcp:127.0.0.1:7/1")

    @property
    def where(self) -> dict[str, Any]:
        return {"actor": self.technician, "job": self.job, "part": "controller"}

    def rows(self) -> Device:
        return device_of(self.job, "controller")

    def chosen(self) -> Run:
        """Read the device, want some values otherwise, and choose them."""
        run = begin_read(**self.where)
        while run.state == "going":
            run = resume(actor=self.technician, job=self.job, run=run)
        codes = []
        for row in self.rows().rows:
            item = row.parameter
            register = item.register
            if register is None or register.read_only or len(codes) == VALUES:
                continue
            value = item.nearest(item.high if row.has != item.high else item.low)
            want_otherwise(**self.where, code=item.code, text=item.shown(value), reason="test")
            codes.append(item.code)
        return choose(**self.where, codes=codes)

    def on_device(self, code: str) -> float:
        item = PROFILE.parameter(code)
        assert item.register is not None
        return shown(item, self.device.held[item.register.number])

    def claims_hold(self, run: Run, before: dict[str, float]) -> None:
        """Nothing that the device has otherwise than before stands as not begun or as it was."""
        run.refresh_from_db()
        known = {row.parameter.code: row.has for row in self.rows().rows}
        for raw in run.items:
            item = Item(**raw)
            has = self.on_device(item.code)
            if has != before[item.code]:
                self.assertNotEqual(item.state, "waiting", item)
                self.assertIn(known[item.code], (None, has), item)
            if item.state == "written":
                self.assertEqual(has, item.wanted, item)


class InterleavingTest(RunCase):
    def test_any_mix_of_people_stops_drops_and_kills(self) -> None:
        """Cases by a seed that is told; each event comes at any request, before it or after."""
        for seed in sampled(range(120), 8):
            with self.subTest(seed=seed):
                self.one_case(random.Random(seed))

    def one_case(self, chance: random.Random) -> None:
        run = self.chosen()
        codes = [raw["code"] for raw in run.items]
        before = {code: self.on_device(code) for code in codes}
        stopped_at: list[int] = []

        def other_stops() -> None:
            stop(actor=self.lead, job=self.job, run=Run.objects.get(pk=run.pk))
            stopped_at.append(len(self.device.writes))

        def other_goes_on() -> None:
            # The line is in use: whoever presses "Go on" beside it is told so, and changes nothing.
            with self.assertRaises(ValidationError):
                resume(actor=self.lead, job=self.job, run=Run.objects.get(pk=run.pk))

        events = (other_stops, other_goes_on, drop, kill)
        self.device.writes.clear()
        for _ in range(chance.randint(1, 3)):
            when = self.device.count + chance.randint(1, 3 * VALUES)
            place = chance.choice((self.device.happens, self.device.after))
            place[when] = chance.choice(events)
        act = confirm
        for _ in range(8):
            try:
                if act is confirm:
                    confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)
                else:
                    resume(actor=self.technician, job=self.job, run=run)
            except KilledError:
                let_all_go()  # the server starts anew
            except ValidationError:
                pass
            act = resume  # type: ignore[assignment]
            self.claims_hold(run, before)
            if stopped_at:
                # One value may have been on its way when somebody said stop; none after it.
                self.assertLessEqual(len(self.device.writes), stopped_at[0] + 1)
                self.assertEqual(run.state, "stopped")
            if run.state in ("done", "stopped"):
                break
        self.device.happens.clear()
        self.device.after.clear()
        if run.state not in ("done", "stopped"):
            resume(actor=self.technician, job=self.job, run=run)
            self.claims_hold(run, before)
        stop(actor=self.technician, job=self.job, run=run)

    def test_two_people_confirm_one_list_and_it_is_written_once(self) -> None:
        run = self.chosen()
        twin = Run.objects.get(pk=run.pk)
        self.device.writes.clear()
        confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)
        with self.assertRaisesMessage(ValidationError, "was confirmed before"):
            confirm(actor=self.lead, job=self.job, run=twin, ticked=WRITE_GATES)
        self.assertEqual(len(self.device.writes), VALUES)

    def test_an_unended_run_keeps_others_from_writing(self) -> None:
        run = self.chosen()
        self.device.happens[self.device.count + 5] = drop
        confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)
        self.assertEqual(run.state, "paused")
        for act in (
            lambda: choose(**self.where, codes=["c01"]),
            lambda: save_device(**self.where),
            lambda: learn(**self.where, key="halls", ticked=WRITE_GATES),
        ):
            with self.assertRaisesMessage(ValidationError, "write run is not ended"):
                act()


class LearningTest(RunCase):
    def test_a_stage_that_broke_off_is_seen_to_before_anything_goes_on(self) -> None:
        """Rows: what breaks it off, and what the page says."""
        for event in (drop, kill):
            with self.subTest(event.__name__):
                self.device.status = 0
                begin_read(**self.where)
                # Identity, status and live values first; then the command, which the device obeys.
                self.device.after[self.device.count + 4] = event
                try:
                    learn(**self.where, key="halls", ticked=WRITE_GATES)
                except KilledError:
                    let_all_go()
                run = Run.objects.filter(kind="learn").latest("pk")
                self.assertIn(run.state, ("going", "paused"))
                page = reverse("program-run", args=(self.job_uuid, "controller", run.pk))
                self.assertContains(self.client.get(page), "may still be running")
                self.assertContains(self.client.get(page), "Keep clear of the wheel")
                with self.assertRaisesMessage(ValidationError, "not gone on with"):
                    resume(actor=self.technician, job=self.job, run=run)
                with self.assertRaisesMessage(ValidationError, "motor may still turn"):
                    choose(**self.where, codes=["c01"])
                answer = self.client.post(page, {"do": "ended"})
                self.assertContains(answer, "Tick first", status_code=422)
                self.device.status = 0
                read = end_learning(
                    actor=self.technician, job=self.job, run=run, ticked=[STANDS_STILL]
                )
                self.assertEqual((read.kind, Run.objects.get(pk=run.pk).state), ("read", "stopped"))

    def test_nothing_is_written_while_the_device_is_in_a_stage(self) -> None:
        run = self.chosen()
        self.device.status = RUNNING
        self.device.writes.clear()
        confirm(actor=self.technician, job=self.job, run=run, ticked=WRITE_GATES)
        self.assertEqual((run.state, self.device.writes), ("paused", []))
        self.assertIn("learning stage", run.words)


@contextmanager
def ports(*devices: str) -> Iterator[None]:
    """Let the machine list some serial ports."""

    class Port:
        def __init__(self, device: str) -> None:
            self.device = device

    with patch("brightcircuit.link.reach.comports", return_value=[Port(d) for d in devices]):
        yield


class ReachTest(ShopTest):
    def test_only_the_shops_own_networks_are_reached(self) -> None:
        for text, allowed in (
            ("tcp:127.0.0.1:502/1", True),
            ("tcp:localhost:502/1", True),
            ("tcp:10.1.2.3", True),
            ("tcp:172.15.255.255", False),
            ("tcp:172.16.0.0", True),
            ("tcp:172.31.255.255", True),
            ("tcp:172.32.0.0", False),
            ("tcp:192.168.255.255", True),
            ("tcp:192.169.0.0", False),
            ("tcp:169.254.169.254", False),
            ("tcp:192.0.2.5", False),
            ("tcp:0.0.0.0", False),
            ("tcp:255.255.255.255", False),
            ("tcp:no-such-name.invalid", False),
        ):
            with self.subTest(text):
                if allowed:
                    self.assertTrue(reached(read_address(text)).host)
                else:
                    self.assertRaises(AddressError, reached, read_address(text))

    def test_a_lead_adds_a_network(self) -> None:
        address = read_address("tcp:192.0.2.5:502/1")
        self.assertRaises(AddressError, reached, address)
        with self.assertRaises(ValidationError):
            set_shop(actor=self.lead, values={"link_networks": "192.0.2"})
        set_shop(actor=self.lead, values={"link_networks": "192.0.2.0/24"})
        self.assertEqual(reached(address).host, "192.0.2.5")

    def test_spellings_of_one_machine_are_one_line(self) -> None:
        self.addCleanup(let_all_go)
        spellings = ("127.0.0.1", "localhost", "127.1", "0x7f.0.0.1")
        found = {reached(read_address(f"tcp:{host}:7/1")).held_as for host in spellings}
        self.assertEqual(found, {"tcp:127.0.0.1:7"})

    def test_serial_ports_are_those_that_the_machine_lists(self) -> None:
        with ports("/dev/ttyUSB0"):
            slow = reached(read_address("serial:/dev/ttyUSB0@9600/1"))
            fast = reached(read_address("serial:/dev/../dev/ttyUSB0@115200/1"))
            self.assertEqual(slow.held_as, fast.held_as)
            for text in ("serial:/dev/sda", "serial:/dev/ttyUSB1", "serial:/dev/mem@9600"):
                with self.assertRaisesMessage(AddressError, "no serial port of this machine"):
                    reached(read_address(text))

    def test_a_line_is_held_under_a_name_and_by_one_job(self) -> None:
        self.addCleanup(let_all_go)
        slow, fast = (read_address(f"serial:/dev/ttyUSB0@{baud}/1") for baud in (9600, 115200))
        with self.assertRaisesMessage(LinkError, "under a name"):
            take(slow, 1, "")
        take(slow, 1, "R. Quill")
        with self.assertRaisesRegex(LineBusyError, "held by R. Quill"):
            take(fast, 2, "M. Tarn")
        # One wire, one speed at a time.
        with port_of(slow, 1, "R. Quill") as one:
            pass
        with port_of(fast, 1, "R. Quill") as other:
            self.assertNotEqual(one, other)


class ConnectTest(RunCase):
    def test_a_connect_that_fails_lets_the_line_go_at_once(self) -> None:
        Line.objects.all().delete()
        self.device.happens[1] = drop
        with self.assertRaisesMessage(ValidationError, "No answer"):
            connect(**self.where, text="tcp:127.0.0.1:7/1")
        take(read_address("tcp:127.0.0.1:7/1"), self.job.pk + 1, "M. Tarn")
        with self.assertRaisesMessage(ValidationError, "held by M. Tarn"):
            connect(**self.where, text="tcp:localhost:7/1")

    def test_no_page_touches_a_line(self) -> None:
        before = self.device.count
        for name in ("program-link", "program-link-device", "program", "bench"):
            args = {"program-link-device": (self.job_uuid, "controller"), "bench": ()}
            self.client.get(reverse(name, args=args.get(name, (self.job_uuid,))))
        self.assertEqual(self.device.count, before)
