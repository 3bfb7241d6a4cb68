"""Practice in a real browser: a case by keyboard alone, one by touch, a hazard, a debrief,
drills."""

from collections.abc import Callable
from urllib.parse import urlsplit

from playwright.sync_api import Locator, expect

from brightcircuit.practice.models import Round, Topic
from tests.browser.base import BrowserTest

OTHER = (
    "was => (document.querySelector('[name=version]')?.value ?? '-') + location.pathname !== was"
)


class PlayTest(BrowserTest):
    def acted(self, act: Callable[[], None]) -> None:
        """Do an act and wait until the bench counts it, or another page is there."""
        page = self.page
        field = page.locator("[name=version]").first
        version = field.input_value() if field.count() else "-"
        path = urlsplit(page.url).path
        act()
        page.wait_for_function(OTHER, arg=version + path)


class PracticeKeyboardTest(PlayTest):
    def press(self, button: Locator) -> None:
        """Press a button with the keyboard; what folds it away is opened with the keyboard, too."""
        expect(button).to_have_count(1)
        summary = button.locator("xpath=ancestor::details[not(@open)]/summary")
        if summary.count():
            summary.first.focus()
            self.page.keyboard.press("Enter")
        button.focus()
        self.acted(lambda: self.page.keyboard.press("Enter"))

    def test_the_guided_case_by_keyboard_alone(self) -> None:
        page = self.page
        self.sign_in()
        page.goto("/practice/")
        self.press(page.get_by_role("button", name="Begin the guided case"))
        expect(page.get_by_text("Guide, step 1 of 10")).to_be_visible()
        for name in ("Wheel up", "Switch on", "A touch of throttle, wheel up"):
            self.press(page.get_by_role("button", name=name, exact=True))
        expect(page.locator("#seen h1")).to_contain_text("Motor does nothing")
        link = page.get_by_role("navigation", name="Part whose pins are shown").get_by_role(
            "link", name="Controller"
        )
        link.focus()
        with page.expect_navigation():
            page.keyboard.press("Enter")
        self.press(page.locator("button[value='leads|red=controller.throttle.signal']"))
        self.press(page.locator("button[value='leads|black=controller.throttle.ground']"))
        self.press(page.get_by_role("button", name="Read", exact=True))
        expect(page.get_by_role("img", name="The meter shows")).to_be_visible()
        self.press(page.locator("button[value='power|to=out']"))
        self.press(page.locator("button[value='drain']"))
        self.press(page.locator("button[value='repair|repair=join:j6']"))
        self.press(page.locator("button[value='power|to=on']"))
        self.press(page.get_by_role("button", name="A touch of throttle, wheel up", exact=True))
        expect(page.locator("#seen h1")).to_contain_text("Motor runs smoothly")
        self.press(page.get_by_role("button", name="It works: hand it over"))
        expect(page.get_by_role("heading", name="Right: it works again")).to_be_visible()
        expect(page.locator(".takealong li")).to_have_count(3)


class PracticeTouchTest(PlayTest):
    context_options = {"viewport": {"width": 390, "height": 844}, "has_touch": True}

    def tap_on(self, button: Locator) -> None:
        summary = button.locator("xpath=ancestor::details[not(@open)]/summary")
        if summary.count():
            summary.first.tap()
        self.acted(button.tap)

    def test_a_case_with_a_hazard_by_touch_and_a_session_of_drills(self) -> None:
        page = self.page
        self.sign_in("finch")
        page.goto("/practice/")
        with page.expect_navigation():
            page.locator("button[name=graded][value='04']").tap()
        row = Round.objects.order_by("-id")[0]
        self.tap_on(page.locator("button[value='plug|join=" + self.first_plug(row) + "']"))
        expect(page.locator(".notice.error").first).to_contain_text("An arc pits the contacts")
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.tap_on(page.locator("button[value='power|to=out']"))
        self.tap_on(page.get_by_role("button", name="Give up and tell me"))
        expect(page.get_by_role("heading", name="Given up")).to_be_visible()
        expect(page.get_by_text("Hazards: A plug pulled with the pack in")).to_be_visible()
        page.get_by_role("link", name="Drills").first.tap()
        page.get_by_role("link", name="What must never be done").tap()
        page.get_by_role("radio").first.check()
        with page.expect_navigation():
            page.get_by_role("button", name="Answer").tap()
        expect(page.get_by_role("status")).to_contain_text("Never.")
        self.assertTrue(Topic.objects.filter(person__username="finch", topic="never").exists())

    def first_plug(self, row: Round) -> str:
        value = self.page.locator("button[value^='plug|join=']").first.get_attribute("value") or ""
        return value.rpartition("=")[2]
