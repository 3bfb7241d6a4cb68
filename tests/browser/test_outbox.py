"""What is sent counts once and is never lost, told by one table for the main form of each
station."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.contrib.sessions.models import Session
from playwright.sync_api import Error, Locator, Page, Route, expect

from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Receipt
from tests.amount import PATIENCE_S
from tests.browser.base import BrowserTest

SWING = "trace/?test=swing controller.pedal.signal controller.pedal.gnd @ on; cranks.turn=low"


@dataclass(frozen=True)
class Main:
    """The main form of a station: where it is, what is filled in, and which form it is."""

    station: str
    path: str
    fields: tuple[tuple[str, str], ...]
    form: str


MAIN = (
    Main("Trace", f"/jobs/{{job}}/{SWING}", (("#value", "0.1 to 4.8"),), "form.entry"),
    Main(
        "Arrive",
        "/jobs/{job}/arrive/found/",
        (("textarea[name=note]", "Came on a trailer"),),
        "form[data-keep^=note]",
    ),
    Main(
        "Prove",
        "/jobs/{job}/prove/",
        (),
        "form[data-keep^=prove]",
    ),
    Main(
        "Plan",
        "/jobs/{job}/arrive/plan/",
        (("input[name=place]", "stand 3"),),
        "form[data-keep^=plan]",
    ),
    Main(
        "Set",
        "/jobs/{job}/set/throttle/throttle/",
        (("input[name=supply_v]", "5.01"),),
        "form.setentry",
    ),
    Main(
        "Program",
        "/jobs/{job}/program/",
        (),
        "main form:has(input[name=do][value=tell])",
    ),
    Main(
        "Match",
        "/jobs/{job}/match/ride/",
        (("input[name=load_mass_kg]", "91"),),
        "form.rideform:has(input[name=load_mass_kg])",
    ),
    Main(
        "Record",
        "/jobs/{job}/record/costs/",
        (("input[name=words]", "Postage"), ("input[name=each]", "4.50")),
        "form:has(#words)",
    ),
    Main(
        "Bench",
        "/jobs/new/?bike={bike}",
        (("textarea[name=complaint]", "Rattles"),),
        "form[data-keep=new-job]",
    ),
)

LOOKS_EVERY_MS = 50
UNKNOWN = -1

TAKES_MORE = ("Arrive", "Bench")
"""Stations whose form two people may send one after the other; a reading of the second would come
back, as the first has moved the job on."""


class OutboxTest(BrowserTest):
    def opened(self, main: Main, page: Page | None = None) -> Locator:
        """Open the main form of a station on Fern's job and fill it in; return its button."""
        page = page or self.page
        job = Job.objects.get(status="open", revision__bike__label="Fern")
        page.goto(main.path.format(job=job.uuid, bike=job.revision.bike.uuid))
        form = page.locator(main.form)
        for gate in form.locator("input[name=gate]").all():
            gate.check()
        for field, value in main.fields:
            if form.locator(field).count():
                form.locator(field).fill(value)
        if form.locator("button.main").count():
            return form.locator("button.main").first
        return form.locator("button:not([type=button])").last

    def each(self, story: Callable[[Main], None], mains: Sequence[Main] = MAIN) -> None:
        """Tell a story for the main form of each station, each by a browser that knows nothing."""
        told = {}
        for main in mains:
            Receipt.objects.all().delete()
            self.page = self.context().new_page()
            self.page.on("pageerror", lambda error: self.errors.append(str(error)))
            self.sign_in()
            try:
                story(main)
            except (AssertionError, Error) as error:
                told[main.station] = str(error)
            self.page.context.close()
        self.assertEqual(told, {})

    def done(self) -> int:
        """Return how many forms were done."""
        return Receipt.objects.exclude(to="").count()

    def letters(self, page: Page | None = None) -> int:
        """Return how many letters the browser keeps."""
        try:
            kept = (page or self.page).evaluate("JSON.parse(localStorage.outbox ?? '[]').length")
        except Error:
            return UNKNOWN  # it is on its way to another page
        return int(kept)

    def settled(self, page: Page | None = None) -> None:
        """Wait until the browser keeps no letter."""
        self.keeps(0, page)

    def keeps(self, count: int, page: Page | None = None) -> None:
        """Wait until the browser keeps so many letters."""
        until = time.monotonic() + PATIENCE_S
        while self.letters(page) != count and time.monotonic() < until:
            (page or self.page).wait_for_timeout(LOOKS_EVERY_MS)
        self.assertEqual(self.letters(page), count)

    def test_without_a_line_it_waits_where_everybody_sees_it_and_goes_once(self) -> None:
        def story(main: Main) -> None:
            button = self.opened(main)
            own = button.inner_text()
            self.page.route("**/*", _nobody_answers)
            button.dispatch_event("click")
            button.dispatch_event("click")
            waiting = self.page.locator("[data-letters] summary")
            expect(waiting).to_contain_text(f"1 form waiting · R. Quill, Fern: {own}")
            expect(button).to_have_text("Waiting…")
            self.assertEqual((self.letters(), self.done()), (1, 0))
            waiting.click()
            self.page.unroute("**/*")
            with self.page.expect_navigation():
                self.page.get_by_role("button", name="Send now").click()
            self.settled()
            self.assertEqual(self.done(), 1)

        self.each(story)

    def test_a_slow_answer_shows_on_the_button_and_two_presses_count_once(self) -> None:
        def story(main: Main) -> None:
            button = self.opened(main)
            held: list[Route] = []
            self.page.route("**/*", lambda route: _hold_posts(route, held))
            button.dispatch_event("click")
            button.dispatch_event("click")
            expect(button).to_contain_text("Sending…")
            with self.page.expect_navigation():
                for route in held:
                    route.continue_()
            self.settled()
            self.assertEqual((len(held), self.done()), (1, 1))

        self.each(story)

    def test_a_page_left_before_the_answer_sends_the_same_letter_again(self) -> None:
        def story(main: Main) -> None:
            button = self.opened(main)
            self.page.route("**/*", lambda route: _hold_posts(route, []))
            button.dispatch_event("click")
            expect(button).to_contain_text("Sending…")
            page = self.page.context.new_page()
            self.page.close()
            self.page = page
            page.goto("/parts/")
            self.settled()
            self.assertEqual(self.done(), 1)

        self.each(story)

    def test_a_sign_in_that_ended_keeps_what_was_typed(self) -> None:
        def story(main: Main) -> None:
            button = self.opened(main)
            Session.objects.all().delete()
            button.click()
            expect(self.page.locator("[data-trouble]")).to_contain_text("signed out")
            expect(self.page.locator("[data-trouble]")).to_be_in_viewport()
            self.assertEqual(self.done(), 0)
            self.sign_in()
            self.opened(main)
            expect(self.page.get_by_text("not saved yet")).to_be_visible()

        self.each(story, [main for main in MAIN if main.fields])

    def test_what_one_person_left_waiting_holds_up_nobody_else(self) -> None:
        def story(main: Main) -> None:
            button = self.opened(main)
            self.page.route("**/*", _nobody_answers)
            button.dispatch_event("click")
            expect(button).to_have_text("Waiting…")
            self.page.unroute("**/*")
            page = self.page.context.new_page()
            self.page.close()
            page.context.clear_cookies()
            self.sign_in("lead", page=page)
            self.opened(main, page).click()
            self.keeps(1, page)
            expect(page.locator("[data-letters] summary")).to_contain_text("R. Quill")
            self.assertEqual(self.done(), 1)
            page.context.clear_cookies()
            self.page = page
            self.sign_in()
            self.settled()
            self.assertEqual(self.done(), 2)

        self.each(story, [main for main in MAIN if main.station in TAKES_MORE])


def _nobody_answers(route: Route) -> None:
    if route.request.method == "POST":
        route.abort()
    else:
        route.continue_()


def _hold_posts(route: Route, held: list[Route]) -> None:
    if route.request.method == "POST":
        held.append(route)
    else:
        route.continue_()
