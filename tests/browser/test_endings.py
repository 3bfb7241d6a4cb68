"""How a trace ends in the real interface: a healthy bike sent home, what comes and goes, a sheet to
print."""

import uuid
from dataclasses import replace

from playwright.sync_api import expect

from brightcircuit.bikes.services import store_bike
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcircuit.trace.models import Entry
from brightcore.tracing.simulated import TrueBikes
from tests.apps.base import prime
from tests.bikes import demo_bike, engine
from tests.browser.base import BrowserTest

MOST = 24


class EndingsTest(BrowserTest):
    def opened(self, told: str, answer: str, when: str = "") -> Job:
        """Open a job on a bike like Teasel, as it came, as a technician would; answer for the
        pack."""
        page = self.page
        like = demo_bike("teasel")
        like = replace(like, uuid=str(uuid.uuid4()), info=replace(like.info, label="Yarrow"))
        store_bike(actor=Person.objects.get(username="quill"), bike=like)
        page.goto("/jobs/new/")
        self.follow(page.get_by_role("link", name="Yarrow"))
        page.get_by_label("Complaint, in the rider").fill("As told")
        self.tap(told, answer)
        if when:
            page.get_by_label("When does it happen?").select_option(when)
        self.follow(page.get_by_role("button", name="Open the job"))
        job = Job.objects.latest("id")
        prime(job.revision, engine("teasel"))
        page.goto(f"/jobs/{job.uuid}/arrive/")
        page.get_by_role("button", name="No to all").click()
        self.follow(page.get_by_role("button", name="Save answers"))
        page.goto(f"/jobs/{job.uuid}/trace/")
        return job

    def test_a_healthy_bike_is_sent_home_with_what_was_proven(self) -> None:
        page, made = self.page, engine("teasel")
        self.sign_in()
        self.opened("Throttle does nothing", "yes")
        truth = TrueBikes(made, [0], 4)
        for _ in range(MOST):
            if page.get_by_text("No fault now,").count():
                break
            test = made.by_id[page.locator("form.entry input[name=test]").input_value()]
            self.assertTrue(test.scene, "a clean bike is looked at, not measured")
            self.enter(truth.answer(test, 0))
        expect(page.get_by_role("heading", name="Everything checked works now")).to_be_visible()
        expect(page.get_by_text("Seen to work")).to_be_visible()
        expect(page.get_by_text("✓ A touch of throttle, wheel up")).to_be_visible()
        self.assertEqual(page.get_by_role("button", name="Repair done").count(), 0)

    def test_where_the_ride_cannot_be_made_nothing_is_called_well(self) -> None:
        page, made = self.page, engine("teasel")
        self.sign_in()
        job = self.opened("Cuts out under load or uphill", "yes")
        job.skipped_tests = list(made.by_id)
        job.save(update_fields=["skipped_tests"])
        page.reload()
        heading = "What the rider told of could not be tried here"
        expect(page.get_by_role("heading", name=heading)).to_be_visible()
        expect(page.get_by_text("This does not clear the bike.")).to_be_visible()
        self.assertEqual(page.get_by_text("No fault now,").count(), 0)

    def test_a_fault_only_with_the_bars_left_is_sought_there_and_found_by_moving(self) -> None:
        page, made = self.page, engine("teasel")
        self.sign_in()
        self.opened("Throttle does nothing", "sometimes", "bars-left")
        fault = made.hypotheses.index("controller.throttle.signal/contact/open")
        healthy, broken = TrueBikes(made, [0], 4), TrueBikes(made, [fault], 4)
        asked_there = False
        for _ in range(MOST):
            if page.get_by_text("Found, ").count():
                break
            test = made.by_id[page.locator("form.entry input[name=test]").input_value()]
            there = test.state == "bars-left"
            asked_there = asked_there or there
            if there:
                expect(page.locator("h2.say")).to_contain_text("bars turned fully left")
            if test.kind == "wiggle":
                moves = "moves" if test.subject == "j-throttle" else "same"
                page.locator(f"form.entry input[type=radio][value={moves}]").check()
                for gate in page.locator("form.entry input[name=gate]").all():
                    gate.check()
                self.follow(page.locator("form.entry button.main"))
                continue
            self.enter((broken if there else healthy).answer(test, 0))
        self.assertTrue(asked_there)
        expect(page.locator("h2.say")).to_contain_text("Throttle plug")

    def test_a_donor_is_checked_and_its_half_tells_the_side_of_the_fault(self) -> None:
        page = self.page
        self.sign_in()
        job = self.open_trace("Fern")
        self.follow(page.get_by_role("link", name="All tests of this bike"))
        page.get_by_text("Half of a donor").click()
        half = page.get_by_role("link", name="Connect the motor of the donor").get_attribute("href")
        page.goto(f"/jobs/{job.uuid}/trace/")
        self.follow(page.get_by_role("link", name="What is to hand"))
        page.get_by_label("Bike of this shop that works").select_option("Otter")
        self.follow(page.get_by_role("button", name="Save"))
        expect(page.locator(".warn").first).to_contain_text("Does not connect")
        page.get_by_label("Bike of this shop that works").select_option("Bramble")
        self.follow(page.get_by_role("button", name="Save"))
        self.assertEqual(page.get_by_text("Trace may propose it").count(), 2)
        page.goto(f"/jobs/{job.uuid}/trace/{half}" if (half or "").startswith("?") else half or "")
        page.get_by_label("Fault gone").check()
        for gate in page.locator("form.entry input[name=gate]").all():
            gate.check()
        self.follow(page.locator("form.entry button.main"))
        (kept,) = Entry.objects.filter(job=job, kind="half")
        self.assertEqual(kept.value, "gone")
        expect(page.locator(".suspects li").first).to_contain_text("otor")

    def test_the_flow_sheet_is_reached_and_prints_without_the_frame(self) -> None:
        page = self.page
        self.sign_in()
        self.open_trace("Fern")
        self.follow(page.get_by_role("link", name="Flow sheet"))
        expect(page.get_by_role("heading", name="Flow sheet: Fern")).to_be_visible()
        self.assertGreater(page.locator(".flow li").count(), 3)
        expect(page.get_by_role("button", name="Print")).to_be_visible()
        page.emulate_media(media="print")
        expect(page.get_by_role("button", name="Print")).to_be_hidden()
        expect(page.locator(".flow")).to_be_visible()
