"""Each act lands: focus and view go to the next thing, and one key leads there on every station."""

from playwright.sync_api import expect

from brightcircuit.jobs.models import Job
from tests.browser.base import BrowserTest

LANDS = (
    # page, field to fill in ("" none), its value, the form, what has the focus then
    ("program/", "", "", "main form:has(input[name=do][value=tell])", "main h2[data-next]"),
    ("set/throttle/throttle/", "[name=supply_v]", "5.01", "form.setentry", "main h1[data-next]"),
    ("record/costs/", "#words", "Postage", "form:has(#words)", ".nextbar a"),
)
KEYS = (
    # page, what the key r leads to
    ("trace/?test=look throttle", "form.entry select"),
    ("set/throttle/throttle/", "form.setentry input"),
    ("program/", "main form button.main"),
    ("prove/", "main form :is(input, button)"),
)


class LandingTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.sign_in()
        self.job = Job.objects.get(status="open", revision__bike__label="Fern")

    def test_after_an_act_the_focus_is_on_the_next_thing_and_it_is_in_view(self) -> None:
        for path, field, value, form, lands in LANDS:
            self.page.goto(f"/jobs/{self.job.uuid}/{path}")
            shown = self.page.locator(form).first
            for gate in shown.locator("input[name=gate]").all():
                gate.check()
            if field:
                shown.locator(field).fill(value)
            with self.page.expect_navigation():
                shown.locator("button.main").click()
            at = self.page.locator(lands).first
            expect(at, path).to_be_focused()
            expect(at, path).to_be_in_viewport()

    def test_one_key_leads_to_what_is_to_be_done_on_every_station(self) -> None:
        for path, to in KEYS:
            self.page.goto(f"/jobs/{self.job.uuid}/{path}")
            self.page.keyboard.press("r")
            expect(self.page.locator(f":is({to}):focus"), path).to_have_count(1)
