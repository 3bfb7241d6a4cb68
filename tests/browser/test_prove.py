"""A job from its purpose to the hand-over in a real browser; a ride read; a bike's years."""

import math
import tempfile
from pathlib import Path

from playwright.sync_api import expect

from brightcircuit.arrive.services import answer_triage
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from tests.apps.base import ALL_NO
from tests.browser.base import BrowserTest


class ProveTest(BrowserTest):
    def tick(self) -> None:
        for gate in self.page.locator("input[name=gate]:visible").all():
            gate.check()

    def test_a_retrofit_from_purpose_to_hand_over(self) -> None:
        page = self.page
        self.sign_in()
        page.goto("/bikes/")
        page.get_by_role("link", name="Fern").first.click()
        page.get_by_role("link", name="New job").click()
        page.get_by_label("Set-up", exact=True).check()
        page.get_by_label("Complaint").fill("New lamp wanted, display to be set")
        self.follow(page.get_by_role("button", name="Open the job"))
        job = Job.objects.latest("number")
        self.assertEqual(job.purposes, ["set-up"])
        answer_triage(actor=Person.objects.get(username="quill"), job=job, answers=ALL_NO)
        page.goto(f"/jobs/{job.uuid}/arrive/plan/")
        page.get_by_label("Set-up: calibration and programming").uncheck()
        page.get_by_label("Check-over: looked over and proven as it is").check()
        page.get_by_label("Now at").fill("stand 3")
        self.follow(page.get_by_role("button", name="Save the plan"))
        expect(page.get_by_role("heading", level=1)).to_have_text("Check-over")
        page.goto(f"/jobs/{job.uuid}/prove/")
        self.tick()
        page.get_by_label("What was seen").fill("Cuts only at the bar")
        self.follow(page.get_by_role("button", name="Failed"))
        expect(page.get_by_role("link", name="Go to Set")).to_be_visible()
        page.reload()
        self.prove_everything()
        self.follow(page.get_by_role("button", name="Close the job"))
        job.refresh_from_db()
        self.assertEqual((job.status, job.close_reason), ("closed", ""))
        page.get_by_role("link", name="Rider's sheet").click()
        expect(page.get_by_role("heading", name="The first ride")).to_be_visible()

    def test_a_ride_is_read_and_the_bike_has_its_years(self) -> None:
        page = self.page
        self.sign_in()
        job = Job.objects.get(status="open", revision__bike__label="Juniper")
        speeds = [18 + 4 * math.sin(i / 30) for i in range(600)]
        rows = "".join(
            f"{i},{v:.1f},{50 - i / 500:.2f},{8 + i % 7}\n" for i, v in enumerate(speeds)
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "harbour.csv"
            path.write_text(f"time,speed,volts,amps\n{rows}")
            page.goto(f"/jobs/{job.uuid}/prove/rides/")
            page.set_input_files("#ride", path)
            self.follow(page.get_by_role("button", name="Read the ride"))
        expect(page.get_by_text("For each kilometre", exact=True)).to_be_visible()
        page.goto(f"/bikes/{job.revision.bike.uuid}/history/")
        expect(page.get_by_text("Ride harbour.csv")).to_be_visible()
