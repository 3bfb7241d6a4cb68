"""A shop begins; somebody works by keyboard alone, somebody with a phone in one hand."""

from typing import Any, ClassVar

from playwright.sync_api import expect

from brightcircuit.demo.load import FERN_FAULT
from brightcircuit.shop.models import Person, Shop
from brightcore.tracing.simulated import TrueBikes
from tests.bikes import engine
from tests.browser.base import BrowserTest
from tests.browser.crawl import accessible, measure

GOOD = "marrow-quay-9"
MOST_KEYS = 40
"""Keys from the sign-in to the named repair, what is typed in one field counted once."""


class FirstRunTest(BrowserTest):
    with_demo = False

    def holds(self) -> None:
        """Every page of an empty shop holds as the others do."""
        for width in (390, 1280):
            self.page.set_viewport_size({"width": width, "height": 800})
            self.assertEqual(
                measure(self.page) + accessible(self.page), [], f"{self.page.url} at {width}"
            )

    def test_a_shop_begins_with_its_lead_its_name_and_its_first_bikes(self) -> None:
        page = self.page
        page.goto("/")
        expect(page.get_by_role("heading", name="A new shop")).to_be_visible()
        self.holds()
        page.get_by_label("Your name").fill("Tarn")
        page.get_by_label("Password").fill(GOOD)
        page.get_by_label("The same again").fill(GOOD)
        page.get_by_role("button", name="Make the shop lead").click()
        page.get_by_label("Name of the shop").fill("Lantern Yard")
        page.get_by_label("Time zone").fill("Europe/Lisbon")
        page.get_by_label("Money").fill("€")
        self.holds()
        self.follow(page.get_by_role("button", name="Save and go on"))
        self.assertEqual(Shop.objects.get().time_zone, "Europe/Lisbon")
        self.holds()
        page.get_by_role("link", name="Import a list of bikes").click()
        self.holds()
        rows = "label,frame number,template\nFir,LY-1,hub-conversion\nYew,LY-2,folding\n"
        page.get_by_label("File").set_input_files(
            {"name": "b.csv", "mimeType": "text/csv", "buffer": rows.encode()}
        )
        self.follow(page.get_by_role("button", name="Import"))
        expect(page.get_by_text("2 bikes imported.")).to_be_visible()
        for path in ("/", "/?show=mine", "/bikes/?here=1", "/jobs/new/", "/me/people/", "/parts/"):
            page.goto(path)
            self.holds()
        page.goto("/jobs/new/")
        self.follow(page.get_by_role("link", name="Yew"))
        page.get_by_label("Complaint").fill("Dead since Monday")
        self.follow(page.get_by_role("button", name="Open the job"))
        expect(page.get_by_role("heading", name="Is the pack safe to touch?")).to_be_visible()
        self.assertEqual(Person.objects.get().username, "Tarn")


class KeyboardTest(BrowserTest):
    keys = 0

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.keys += 1

    def type(self, words: str) -> None:
        self.page.keyboard.type(words)
        self.keys += 1

    def test_from_the_sign_in_to_the_repair_by_keyboard_alone(self) -> None:
        page = self.page
        page.goto("/sign-in/")
        page.locator("#id_username").focus()
        self.type("quill")
        self.press("Tab")
        self.type("lantern-yard")
        with page.expect_navigation():
            self.press("Enter")
        page.locator("[data-row]").first.wait_for()
        self.press("1")
        page.wait_for_url("**/trace/")
        made = engine("fern")
        truth = TrueBikes(made, [made.hypotheses.index(FERN_FAULT)], 11)
        while not page.get_by_text("Found, ").count() and self.keys <= MOST_KEYS:
            self.one_test(
                truth.answer(
                    made.by_id[page.locator("form.entry input[name=test]").input_value()], 0
                )
            )
        expect(page.locator("h2.say")).to_contain_text("Motor hall plug")
        self.assertLessEqual(self.keys, MOST_KEYS)

    def one_test(self, items: Any) -> None:
        """Acknowledge, answer with a digit or type the reading, save: as a technician with one
        glove off."""
        page = self.page
        for _ in page.locator("form.entry input[name=gate]:not(:checked)").all():
            self.press("c")
        wanted = [f"{item.observable}={item.value}" for item in items if item.kind == "look"]
        digit = ""
        for n, answer in enumerate(page.locator("[data-answer]").all(), 1):
            looks = (answer.get_attribute("data-looks") or "").split()
            if (wanted and set(wanted) <= set(looks)) or (
                not wanted and answer.get_attribute("data-answer") == items[0].value
            ):
                digit = str(n)
                break
        if digit:
            self.press(digit)
        else:
            self.press("r")
            self.type(items[0].value)
        with page.expect_navigation():
            self.press("Enter")


class PhoneTest(BrowserTest):
    context_options: ClassVar[dict[str, Any]] = {
        "viewport": {"width": 390, "height": 844},
        "has_touch": True,
        "is_mobile": True,
    }

    def test_a_reading_with_a_phone_in_one_hand(self) -> None:
        page = self.page
        self.sign_in()
        page.get_by_role("link", name="Fern").tap()
        page.wait_for_url("**/trace/")
        entry = page.locator("form.entry button.main")
        for gate in page.locator("form.entry label.gate").all():
            gate.tap()
        box = page.locator("h2.say").bounding_box()
        assert box is not None
        self.assertLess(box["y"], 844, "the next thing is in sight without scrolling")
        answer = page.locator("[data-answer]").first
        answer.tap()
        with page.expect_navigation():
            entry.tap()
        expect(page.get_by_text("Saved: ").first).to_be_visible()
