"""Nothing typed is lost: the server away, the sign-in ended, another tab, somebody else."""

from django.contrib.sessions.models import Session
from playwright.sync_api import expect

from brightcircuit.jobs.models import Job
from brightcircuit.trace.models import Entry
from tests.browser.base import BrowserTest

SWING = "?test=swing controller.pedal.signal controller.pedal.gnd @ on; cranks.turn=low"


class NothingLostTest(BrowserTest):
    def typed(self, value: str = "0.1 to 4.8") -> Job:
        """Type a reading on Trace, and do not send it."""
        job = self.open_trace("Fern")
        self.page.goto(f"{self.page.url}{SWING}")
        self.page.locator("#value").fill(value)
        for gate in self.page.locator("form.entry input[name=gate]").all():
            gate.check()
        return job

    def keep(self) -> None:
        self.page.locator("form.entry button.main").click()

    def readings(self, job: Job) -> list[str]:
        return list(
            Entry.objects.filter(job=job, kind="swing", undone=False).values_list(
                "value", flat=True
            )
        )

    def test_another_text_of_the_same_form_goes_behind_the_first(self) -> None:
        page = self.page
        self.sign_in()
        job = self.typed()
        page.route("**/trace/keep/", lambda route: route.abort())
        self.keep()
        expect(page.locator("[data-trouble]")).to_contain_text("No connection")
        page.reload()
        self.typed("0.2 to 4.7")
        self.keep()
        expect(page.locator("[data-letters] summary")).to_contain_text("2 forms waiting")
        self.assertEqual(self.readings(job), [])
        page.unroute("**/trace/keep/")
        lying = page.locator("[data-letters]")
        expect(lying.locator("summary")).to_contain_text("1 form waiting")
        lying.locator("summary").click()
        expect(lying).to_contain_text("could not be saved")
        self.assertEqual(self.readings(job), ["0.1 to 4.8"])

    def test_a_sign_in_that_ended_leads_back_to_the_page_with_what_was_typed(self) -> None:
        page = self.page
        self.sign_in()
        job = self.typed()
        Session.objects.all().delete()
        self.keep()
        expect(page.locator("[data-trouble]")).to_contain_text("signed out")
        page.locator("[data-trouble] a").click()
        page.get_by_label("Name").fill("quill")
        page.get_by_label("Password").fill("lantern-yard")
        self.follow(page.get_by_role("button", name="Sign in"))
        self.assertIn("/trace/?test=swing", page.url)
        expect(page.locator("#value")).to_have_value("0.1 to 4.8")
        expect(page.get_by_text("not saved yet")).to_be_visible()
        self.follow(page.locator("form.entry button.main"))
        self.assertEqual(self.readings(job), ["0.1 to 4.8"])
        self.assertEqual(page.locator(".draft").count(), 0)

    def test_another_tab_that_signed_in_anew_costs_nothing(self) -> None:
        self.sign_in()
        job = self.typed()
        other = self.page.context.new_page()
        other.goto("/")
        other.get_by_role("button", name="Sign out").click()
        self.sign_in(page=other)
        self.follow(self.page.locator("form.entry button.main"))
        self.assertEqual(self.readings(job), ["0.1 to 4.8"])

    def test_nothing_is_saved_under_another_persons_name(self) -> None:
        page = self.page
        self.sign_in()
        job = self.typed()
        other = page.context.new_page()
        other.goto("/")
        other.get_by_role("button", name="Sign out").click()
        self.sign_in("lead", page=other)
        self.keep()
        expect(page.locator("[data-trouble]")).to_contain_text("signed in as")
        self.assertEqual(self.readings(job), [])
        page.reload()
        expect(page.locator("#value")).to_have_value("")

    def test_a_draft_stands_over_what_the_page_brings_and_can_be_discarded(self) -> None:
        page = self.page
        self.sign_in()
        job = self.open_trace("Fern")
        page.goto(f"/jobs/{job.uuid}/arrive/found/")
        note = page.locator("textarea[name=note]")
        was = note.input_value()
        note.fill("Came on a trailer")
        page.goto("/")
        page.goto(f"/jobs/{job.uuid}/arrive/found/")
        expect(note).to_have_value("Came on a trailer")
        self.follow(page.get_by_role("button", name="Discard it"))
        expect(note).to_have_value(was)
