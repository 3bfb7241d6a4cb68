"""Program in a real browser: the rehearsal display is the server's machine; a display is programmed
on it."""

import random
import re

from playwright.sync_api import expect

from brightcircuit.jobs.models import Job
from brightcircuit.link.lines import let_all_go
from brightcircuit.program.models import Told
from brightcircuit.program.queries import devices_of
from brightcore.formats.profile_file import shipped_profiles
from brightcore.linking.model import DROPPED, STALE_HALL
from brightcore.programming.keys import Machine, Place, machine_document
from tests.browser.base import BrowserTest
from tests.standin import Running, standin

WALK = """async ({document, keys}) => {
    const url = [...performance.getEntriesByType("resource")].map((r) => r.name)
        .find((name) => name.includes("rehearsal"));
    const { Menu } = await import(url);
    const menu = new Menu(document);
    let place = { at: "closed", group: 0, item: 0, value: 0 };
    return keys.map((key) => {
        place = menu.press(place, key);
        return [place.at, menu.shown(place)[0]];
    }).concat([menu.rows.flat().map((item) => item.stored)]);
}"""


class ProgramTest(BrowserTest):
    def open(self, label: str, query: str = "") -> Job:
        job = Job.objects.filter(status="open", revision__bike__label=label).earliest("number")
        self.page.goto(f"/jobs/{job.uuid}/program/device/display/{query}")
        return job

    def test_the_rehearsal_display_runs_the_servers_machine(self) -> None:
        self.sign_in()
        self.open("Fern")
        rng = random.Random(11)
        for profile in (p for p in shipped_profiles() if p.menu.kind):
            machine, place, told = Machine(profile, {}), Place(), []
            document = machine_document(machine)
            names = (
                "open",
                "up",
                "down",
                "next",
                "previous",
                "enter",
                "back",
                "fast_up",
                "fast_down",
            )
            keys = sorted({getattr(profile.menu, name) for name in names} - {""})
            pressed = [profile.menu.open, *rng.choices(keys, k=600)]
            for key in pressed:
                place = machine.press(place, key)
                told.append([place.at, machine.shown(place)[0]])
            stored = [machine.count(p, machine.stored[p.code]) for row in machine.rows for p in row]
            found = self.page.evaluate(WALK, {"document": document, "keys": pressed})
            self.assertEqual(found, [*told, stored], profile.id)

    def test_a_display_is_programmed_on_the_rehearsal_display(self) -> None:
        page = self.page
        self.sign_in()
        job = self.open("Fern", "?code=P08")
        expect(page.get_by_role("heading", level=1)).to_have_text(
            "Set the level after switching on to 1"
        )
        way = page.locator("[data-way]")
        pad = page.locator("[data-keypad]")
        pad.get_by_role("button", name="hold − and +").click()
        pad.get_by_role("button", name="M", exact=True).click()
        expect(page.locator("[data-said]")).to_contain_text("the way from here")
        expect(page.locator("[data-screen-note]")).to_have_text("being changed")
        for _ in range(40):
            due = pad.locator("button.main")
            if not due.count():
                break
            due.click()
        expect(page.locator("[data-said]")).to_contain_text("Do the same on the bike")
        self.assertEqual(way.locator("li:not(.pressed)").count(), 0)
        self.follow(page.get_by_role("button", name="Entered: reads 1"))
        told = Told.objects.filter(job=job, code="P08").latest("id")
        self.assertEqual((told.how, told.value, told.before), ("entered", 1.0, 0.0))
        expect(page.get_by_text("(at P08)")).to_be_visible()
        page.get_by_text("It shows something else").click()
        page.get_by_label("Value", exact=False).first.fill("9999")
        self.follow(page.get_by_role("button", name="Save what it shows"))
        expect(page.get_by_role("alert").first).to_contain_text("must lie from")
        self.assertEqual(page.get_by_label("Value", exact=False).first.input_value(), "9999")

    def test_the_whole_display_is_gone_through_by_keyboard_alone(self) -> None:
        page = self.page
        self.sign_in()
        job = self.open("Fern")
        for _ in range(30):
            main = page.locator(".actions button.main")
            if not main.count():
                break
            main.focus()
            with page.expect_navigation():
                page.keyboard.press("Enter")
        device = next(d for d in devices_of(Job.objects.get(pk=job.pk)) if d.part.id == "display")
        self.assertEqual(device.left, 0)


class LinkTest(BrowserTest):
    """A controller over the link, at the stand-in in its own process."""

    def open_line(self) -> str:
        job = Job.objects.filter(status="open", revision__bike__label="Otter").earliest("number")
        self.page.goto(f"/jobs/{job.uuid}/program/link/controller/")
        return f"/jobs/{job.uuid}/program/link/controller/"

    def connect(self, running: Running) -> str:
        self.addCleanup(let_all_go)
        self.sign_in()
        where = self.open_line()
        self.page.get_by_label("Address of the link").fill(f"{running.line}/1")
        self.follow(self.page.get_by_role("button", name="Connect"))
        self.follow(self.page.get_by_role("button", name="Read all 36 values"))
        return where

    def tick(self) -> None:
        for gate in self.page.locator("input[name=gate]:visible").all():
            gate.check()

    def test_a_controller_is_read_changed_and_read_back(self) -> None:
        page = self.page
        with standin() as running, self.settings(STANDIN=running.line):
            self.connect(running)
            expect(page.locator("[data-value=volts]")).to_have_text("–")
            page.get_by_role("button", name="Watch").click()
            expect(page.locator("[data-value=volts]")).to_have_text("54.6")
            self.follow(page.get_by_role("button", name="Write the chosen ones"))
            expect(page.get_by_text("Try every cut-off with the motor turning")).to_be_visible()
            self.tick()
            self.follow(page.get_by_role("button", name="Write them"))
            expect(page.get_by_role("heading", level=1)).to_contain_text("done")
            self.follow(page.get_by_role("link", name="Go on"))
            self.follow(page.get_by_role("button", name="Save on the device"))
            expect(page.get_by_text("Saved on the device, and read again")).to_be_visible()
            expect(page.get_by_role("heading", level=1)).to_have_text("Set as wanted")
            page.get_by_text("Hands at the stand-in").click()
            page.get_by_label("Throttle %").fill("100")
            self.follow(page.get_by_role("button", name="Do it"))
            expect(page.locator("[data-value=speed_kmh]")).to_have_text(re.compile(r"^\d\d"))

    def test_a_line_that_drops_half_way_is_said_and_resumed(self) -> None:
        page = self.page
        with standin() as running:
            self.connect(running)
            self.follow(page.get_by_role("button", name="Write the chosen ones"))
            self.tick()
            page.evaluate("document.querySelectorAll('[data-live]').forEach((box) => box.remove())")
            running.fault(DROPPED, 6)
            self.follow(page.get_by_role("button", name="Write them"))
            expect(page.get_by_text("No answer from")).to_be_visible()
            expect(page.get_by_text("they are read first when you go on")).to_be_visible()
            running.fault(0)
            self.follow(page.get_by_role("button", name="Go on"))
            expect(page.get_by_role("heading", level=1)).to_contain_text("done")
            self.assertEqual(page.locator("tr.unknown, tr.waiting").count(), 0)

    def test_a_learning_run_finds_no_halls_where_one_is_stale(self) -> None:
        page = self.page
        with standin() as running:
            self.connect(running)
            page.get_by_text("Learning run").click()
            self.tick()
            self.follow(page.get_by_role("button", name="Winding resistance"))
            expect(page.get_by_text("nothing that is known speaks against it")).to_be_visible()
            self.follow(page.get_by_role("link", name="Go on"))
            running.fault(STALE_HALL, 2)
            self.tick()
            self.follow(page.get_by_role("button", name="Hall order"))
            expect(page.get_by_text("find the crossing by trial on Set")).to_be_visible()
