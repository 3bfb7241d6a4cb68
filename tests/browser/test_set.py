"""Set in a real browser: a cut-off under the timer, an open ground recognised, a motor found by
trial."""

from playwright.sync_api import expect

from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcircuit.set.models import Calibration
from brightcore.setting.commutation import WAYS, against, behaviour
from brightcore.setting.repin import repinned
from brightcore.setting.ways import BY_NAME, WORDS
from tests.browser.base import BrowserTest

RIGHT = WAYS[22]


class SetTest(BrowserTest):
    def open(self, label: str, key: str, subject: str) -> None:
        job = Job.objects.filter(status="open", revision__bike__label=label).earliest("number")
        self.page.goto(f"/jobs/{job.uuid}/set/{key}/{subject}/")

    def take(self, **typed: str) -> None:
        """Tick what is asked, type or tap, save."""
        for gate in self.page.locator("input[name=gate]").all():
            gate.check()
        for label, value in typed.items():
            words = label.replace("_", " ")
            choice = self.page.locator(".setentry").get_by_role("radio", name=value, exact=True)
            if choice.count():
                choice.check()
            else:
                self.page.locator(".setentry").get_by_label(words).first.fill(value)
        self.follow(self.page.get_by_role("button", name="Save reading"))

    def test_a_cut_off_is_judged_by_both_schools_and_looked_at_while_it_sets(self) -> None:
        page = self.page
        self.sign_in()
        self.open("Otter", "cut-off", "cut_off_front")
        expect(page.locator(".settimer")).to_contain_text("check again in")
        self.assertRegex(page.locator("[data-due]").inner_text(), r"^\d\d:\d\d$")
        self.open("Otter", "cut-off", "cut_off_rear")
        for answer in ({"At_rest": "symbol off"}, {"Wiggled": "symbol off"}):
            self.take(**answer)
        self.take(Cuts_at="21.5", Pads_bite_at="24", Free_play="4")
        expect(
            page.get_by_text("Cuts too late: at 21.5 mm, wanted 4.0 to 16.0 mm").first
        ).to_be_visible()
        self.assertEqual(page.get_by_text("Roughen both faces").count(), 0)
        self.follow(page.get_by_role("button", name="late: only after some real pull"))
        self.assertEqual(page.get_by_text("Cuts too late").count(), 0)
        expect(page.get_by_text("Roughen both faces").first).to_be_visible()
        self.take(Glued="done", Look_again="3")
        page.reload()
        expect(page.locator(".settimer")).to_be_visible()
        self.take(It_is="still right, not hard yet")
        expect(page.locator(".settimer")).to_be_visible()
        self.take(It_is="still right, and hard")
        expect(page.locator(".settimer")).to_have_count(0)
        self.take(Motor_stops="yes")
        self.follow(page.get_by_role("button", name="Save calibration"))
        expect(page.get_by_text("Saved: Cuts where it should")).to_be_visible()

    def test_an_open_ground_of_a_throttle_is_recognised_and_led_into_trace(self) -> None:
        page = self.page
        self.sign_in()
        self.open("Otter", "throttle", "throttle")
        self.take(Supply="5.0")
        self.take(At_rest="4.8")
        expect(page.locator(".finding.danger")).to_contain_text("ground is open behind this plug")
        self.take(Full="six")
        expect(page.get_by_text("is not a number").first).to_be_visible()
        self.assertEqual(page.get_by_label("Full").input_value(), "six")
        page.reload()
        self.follow(page.get_by_role("button", name="Save calibration"))
        self.follow(page.get_by_role("link", name="Find it in Trace"))
        expect(page.locator(".ranking")).to_contain_text("signal stuck high")
        expect(page.locator(".ranking")).to_contain_text("from Set")

    def test_the_phases_of_a_motor_are_found_by_trial(self) -> None:
        page = self.page
        self.sign_in()
        self.open("Bramble", "ways", "motor_left")
        for _ in range(5):
            way = page.locator("input[name=step]").input_value()
            seen = behaviour(against(BY_NAME[way], RIGHT))
            self.take(Trial=WORDS[seen])
            if seen == "smooth":
                break
        self.follow(page.get_by_role("button", name="Save calibration"))
        expect(page.get_by_role("heading", level=1)).to_contain_text("runs: mark the wires")
        made = Calibration.objects.latest("id")
        self.assertEqual(made.state, "good")
        self.follow(page.get_by_role("button", name="Put it into the wiring"))
        expect(page.get_by_text("Mark the wires on the bike the same.")).to_be_visible()
        bike = core_bike(Job.objects.get(pk=made.job_id).revision)
        ran = next(way for way, seen in made.typed.items() if seen == "smooth")
        self.assertEqual(behaviour(against(BY_NAME[ran], RIGHT)), "smooth")
        self.assertEqual(bike, repinned(bike, "motor_left", ran))
