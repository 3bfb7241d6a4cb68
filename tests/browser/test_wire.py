"""Wire in a real browser: a build from a pattern to the printed sheet, and joins changed on the
drawing."""

import re
from pathlib import Path

from playwright.sync_api import Locator, expect

from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from tests.bikes import demo_bike
from tests.browser.base import BrowserTest


class WireTest(BrowserTest):
    def test_a_lamp_of_the_wrong_volts_gets_a_converter_and_the_work_its_order(self) -> None:
        page = self.page
        self.sign_in()
        page.get_by_role("link", name="Bikes").click()
        page.get_by_role("link", name="Describe a bike").click()
        page.get_by_label("What does the shop call it?").fill("Tansy")
        page.get_by_role("radio", name="Hub conversion A pedal bike").check()
        self.follow(page.get_by_role("button", name="Create"))
        page.get_by_role("link", name="Front lamp", exact=True).click()
        page.get_by_label("For another lamp of the library").select_option(label="6 V lamp, 2.4 W")
        self.follow(
            page.get_by_role("button", name="Swap in another; its connections are all to be made")
        )
        page.get_by_role("link", name="New job on it").click()
        page.get_by_label("Build", exact=False).first.check()
        page.get_by_label("Complaint").fill("Build it")
        self.follow(page.get_by_role("button", name="Open the job"))
        page.keyboard.press("w")
        expect(
            page.get_by_text("6 V lamp, 2.4 W is made for 6 V, the lamp output gives 12 V.")
        ).to_be_visible()
        self.follow(page.get_by_role("link", name="Pins", exact=True))
        self.follow(
            page.get_by_role("button", name="Disconnect: Controller, throttle with Thumb throttle")
        )
        self.follow(page.get_by_role("link", name="Connections", exact=True))
        page.locator("[data-proposal]").first.press("Enter")
        expect(page.locator("[data-wiring]")).to_have_attribute("data-answered", "1")
        self.follow(
            page.get_by_role("button", name="Step-down converter to 5 V before the 6 V lamp, 2.4 W")
        )
        expect(page.get_by_role("heading", name=re.compile("^Planned: "))).to_be_visible()
        expect(page.get_by_text("The wiring rules find nothing wrong.")).to_be_visible()
        self.follow(page.get_by_role("link", name="Pins", exact=True))
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Export connections (CSV)").click()
        ends = [
            set(line.split(",")) for line in Path(waiting.value.path()).read_text().splitlines()
        ]
        self.assertIn({"step_down_converter_to_5_v.out.plus", "lamp_2.plug.plus", ""}, ends)
        self.follow(page.get_by_role("link", name="Order of work"))
        self.follow(page.get_by_role("button", name=re.compile("^New parts are what was ordered")))
        expect(page.locator(".worksteps .done")).to_have_count(1)
        self.follow(page.get_by_role("button", name="Ties tight, evenly spaced, ends trimmed"))
        expect(page.get_by_text("Before it should come: ")).to_be_visible()
        page.get_by_role("link", name="Connections", exact=True).click()
        self.follow(page.get_by_role("link", name="Sheet", exact=True))
        self.follow(page.get_by_role("link", name="Plug cards", exact=True))
        expect(page.locator(".plugsheet svg")).to_be_visible()
        self.follow(page.get_by_role("link", name="Sheet", exact=True))
        expect(page.get_by_role("button", name="Print")).to_be_visible()
        sizes = re.findall(
            rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", page.pdf(prefer_css_page_size=True)
        )
        self.assertEqual(
            [float(wide) > float(high) for wide, high in sizes][:2],
            [True, False],
            "the drawing lies on a page of its own",
        )
        with page.expect_download() as waiting:
            page.get_by_role("link", name="PDF").click()
        self.assertEqual(Path(waiting.value.path()).read_bytes()[:5], b"%PDF-")
        page.get_by_role("link", name="Connections", exact=True).click()
        self.follow(page.get_by_role("link", name="First power-up").first)
        self.follow(page.get_by_role("link", name="Go to Arrive"))
        page.get_by_role("button", name="No to all").click()
        self.follow(page.get_by_role("button", name="Save answers"))
        page.keyboard.press("w")
        self.follow(page.get_by_role("link", name="First power-up").first)
        expect(
            page.get_by_role("heading", name="connections, and the motor must turn")
        ).to_be_visible()

    def test_plugs_are_joined_parted_and_repinned_on_the_drawing(self) -> None:
        page = self.page
        self.sign_in()
        job = Job.objects.get(status="open", revision__bike__label="Fern")
        page.goto(f"/jobs/{job.uuid}/wire/")
        say, answered = page.locator("[data-wiring-say]"), 0

        def plug(port: str) -> Locator:
            return page.locator(f"[data-port='{port}']")

        def pin(name: str) -> None:
            page.locator(f"[data-pin='{name}'] .reach").click()

        def done() -> None:
            nonlocal answered
            answered += 1
            expect(page.locator("[data-wiring]")).to_have_attribute("data-answered", str(answered))

        for part in ("lamp", "pack"):  # by pointer
            plug({"lamp": "lamp.plug", "pack": "pack.main"}[part]).locator(".reach").first.click()
            page.locator("[data-wiring-do=unjoin]").click()
            done()
            expect(page.locator(f"[data-wire=j-{part}]")).to_have_count(0)
        plug("pack.main").locator(".reach").first.click()
        expect(plug("main_lead.pack_end")).to_have_class(re.compile(r"\bfits\b"))
        plug("lamp.plug").locator(".reach").first.click()
        expect(say).to_contain_text("carries nothing that belongs to the plug you hold")
        plug("main_lead.pack_end").locator(".reach").first.click()
        done()
        pin("motor.halls.a")
        pin("hall_cable.halls_m.b")
        done()
        expect(
            page.locator("#main .notice, [data-wiring-say]").filter(has_text="Re-pinned").first
        ).to_be_attached()
        plug("lamp.plug").press("Enter")  # by keyboard
        plug("controller.lamp").press("Enter")
        done()
        expect(plug("controller.lamp")).to_be_focused()
        for port in ("motor.halls", "hall_cable.halls_m"):
            for _ in range(3):
                plug(port).press("ArrowDown")
            plug(port).press("Enter")
        done()
        plug("motor.phases").press("Delete")
        done()
        plug("motor.phases").press("Enter")
        page.keyboard.press("Escape")
        expect(say).to_have_text("Selection cleared.")
        bike = core_bike(Job.objects.get(pk=job.pk).revision)
        self.assertEqual(
            {j.sides() for j in demo_bike("fern").joins} - {j.sides() for j in bike.joins},
            {
                (("controller", "lamp"), ("lamp", "plug")),
                (("motor_cable", "phases_m"), ("motor", "phases")),
            },
        )
        self.assertEqual(dict(bike.join("j-halls-m").pairs)["a"], "a")

    def test_ways_are_measured_and_lengthened_and_a_refusal_says_why(self) -> None:
        page = self.page
        self.sign_in()
        page.goto(f"/jobs/{self.uuid('Otter')}/wire/routes/")
        expect(page.get_by_role("heading", name="2 cables do not reach")).to_be_visible()
        for left in ("1 cable does not reach", "4 cables to measure"):
            self.follow(page.get_by_role("button", name="Put in an extension of 0.30 m").first)
            expect(page.get_by_role("heading", name=left)).to_be_visible()
        page.get_by_label("Fitted length m Front brake cut-off").fill("5 ft")
        self.follow(
            page.locator(".run", has_text="Front brake cut-off").get_by_role("button", name="Save")
        )
        expect(
            page.locator(".run", has_text="Front brake cut-off").get_by_text("too short")
        ).to_be_visible()
        page.get_by_text("Measure the frame, move parts").click()
        page.get_by_label("Handlebar to steering head").fill("10 cm")
        self.follow(page.locator("details.more").get_by_role("button", name="Save"))
        expect(
            page.locator(".run", has_text="Front brake cut-off").get_by_text("fits", exact=True)
        ).to_be_visible()
        row = page.locator(".run", has_text="Pedal sensor")
        row.get_by_text("Change route").click()
        row.get_by_role("combobox").select_option(label="by the rear tyre")
        self.follow(row.get_by_role("button", name="Apply"))
        expect(page.get_by_role("alert").first).to_contain_text("tyre rubs it through")
        self.assertEqual(page.locator(".framemap svg [data-stretch]").count(), 18)

    def test_a_join_takes_what_was_found_and_keeps_what_was_typed(self) -> None:
        page = self.page
        self.sign_in()
        page.goto(f"/jobs/{self.uuid('Fern')}/wire/joins/j-halls-m/")
        page.get_by_label("Rows of pins").nth(1).fill("many")
        page.get_by_label("Keyed by").nth(1).fill("notch")
        self.follow(page.get_by_role("button", name="Save what was found"))
        expect(page.get_by_role("alert").first).to_contain_text("not a number of rows")
        expect(page.get_by_label("Keyed by").nth(1)).to_have_value("notch")
        page.get_by_label("Rows of pins").nth(1).fill("2")
        page.locator("#b_gender").select_option("sockets")
        self.follow(page.get_by_role("button", name="Save what was found"))
        page.get_by_role("link", name="Back to Wire").click()
        for code in ("W030", "W031"):
            expect(page.locator(".finding", has_text=code)).to_be_visible()
        self.follow(
            page.locator(".finding", has_text="W030").get_by_role(
                "button", name="An adapter in Hall cable, motor hall"
            )
        )
        expect(page.locator(".finding", has_text="W03")).to_have_count(0)
        self.follow(page.get_by_role("button", name="Undo: W030 put right"))
        expect(page.locator(".finding", has_text="W030")).to_be_visible()

    def uuid(self, label: str) -> str:
        """Return the UUID of the open job of a demo bike."""
        return str(
            Job.objects.filter(status="open", revision__bike__label=label).earliest("number").uuid
        )
