"""Pages over HTTP: who sees what, what is said when something is wrong, and that nothing typed is
lost."""

from typing import Any
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from django.urls import reverse

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcircuit.trace.models import Entry
from tests.apps.base import ALL_NO, GATES, LIT, ShopTest
from tests.bikes import DEMO

LONG = "Longtail with a very long name that somebody typed into the file " * 2
NUMBER_TEST = "volts controller.halls.v5 controller.halls.gnd @ on"


def file(content: bytes, name: str = "x.json") -> SimpleUploadedFile:
    """Return an uploaded file."""
    return SimpleUploadedFile(name, content, "application/json")


class PageTest(ShopTest):
    with_engine = True

    def pages(self) -> list[str]:
        job, bike = self.job, self.revision.bike
        plain = [
            reverse(n)
            for n in ("bench", "job-new", "job-import", "bikes", "bike-import", "preferences")
        ]
        own = [
            reverse(n, args=(job.uuid,))
            for n in (
                "arrive",
                "trace",
                "trace-more",
                "trace-progress",
                "record",
                "record-job",
                "record-csv",
                "record-line",
            )
        ]
        shapes = [
            reverse("job-shape", args=(job.uuid, s))
            for s in ("part:motor", "run:motor:a", "run:trunk", "part:controller")
        ]
        return [
            *plain,
            *own,
            *shapes,
            *(reverse(n, args=(bike.uuid,)) for n in ("bike", "bike-file", "bike-line")),
        ]

    def test_every_page_opens_and_looking_changes_nothing(self) -> None:
        version = self.job.version
        for url in self.pages():
            with self.subTest(url):
                self.assertEqual(self.client.get(url).status_code, 200)
        self.assertEqual(self.job.version, version)

    def test_nobody_sees_anything_without_signing_in(self) -> None:
        self.client.logout()
        for url in self.pages():
            with self.subTest(url):
                self.assertRedirects(
                    self.client.get(url),
                    f"{reverse('login')}?next={url}",
                    fetch_redirect_response=False,
                )

    def test_what_is_not_there_is_told_plainly(self) -> None:
        for url in (
            "/nowhere/",
            reverse("job-shape", args=(self.job.uuid, "part:wings")),
            "/jobs/00000000-0000-0000-0000-000000000000/",
        ):
            self.assertContains(self.client.get(url), "Go to the Bench", status_code=404)

    def test_the_next_thing_says_where_the_probes_go_and_what_answers_mean(self) -> None:
        self.safe()
        page = self.client.get(reverse("trace", args=(self.job.uuid,)), {"test": NUMBER_TEST})
        for words in (
            'data-probe="red"',
            'data-probe="black"',
            "Switched on",
            "Driven wheel off the ground",
            "data-answer",
        ):
            self.assertContains(page, words)

    def test_a_quarantined_pack_stops_the_powered_test_on_the_page(self) -> None:
        url = reverse("arrive", args=(self.job.uuid,))
        answers = dict.fromkeys(ALL_NO, "no") | {"swollen": "yes", "action": "triage"}
        self.assertRedirects(self.client.post(url, answers, follow=True), url)
        self.assertContains(
            self.client.get(reverse("trace", args=(self.job.uuid,)), {"test": NUMBER_TEST}),
            "quarantine",
        )
        refused = self.client.post(url, {"action": "lift", "reason": "looks good to me"})
        self.assertContains(refused, "Only a shop lead may do this.", status_code=422)
        self.client.force_login(self.lead)
        self.client.post(url, {"action": "lift", "reason": "Other pack fitted"})
        self.assertContains(self.client.get(url), "Other pack fitted")

    def test_triage_needs_every_answer(self) -> None:
        page = self.client.post(
            reverse("arrive", args=(self.job.uuid,)), {"action": "triage", "hot": "yes"}
        )
        self.assertContains(page, "Answer yes or no.", status_code=422, count=5)

    def test_notes_and_symptoms_are_kept_and_findings_can_be_accepted(self) -> None:
        url = reverse("arrive", args=(self.job.uuid,))
        self.client.post(url, {"action": "note", "note": "Salt on the plug"})
        self.client.post(url, {"action": "symptoms", "symptom-rough": "sometimes"})
        found = reverse("arrive-found", args=(self.job.uuid,))
        self.assertContains(self.client.get(found), "Salt on the plug")
        self.assertTrue(Entry.objects.get().sometimes)
        gone = self.client.post(url, {"action": "waive", "key": "W999", "reason": "x"})
        self.assertContains(gone, "is not there any more", status_code=422)


REFUSED = (
    # what is posted for the number test, words of the refusal
    ({"value": "", "gate": GATES}, "Type the reading."),
    ({"value": "plenty", "gate": GATES}, "is not a number"),
    ({"value": "5 ohm", "gate": GATES}, "is not a value in V"),
    ({"value": "4.96"}, "Tick the caution first"),
)


class KeepTest(ShopTest):
    with_engine = True

    def keep(self, test: str = NUMBER_TEST, **more: object) -> object:
        data = {
            "test": test,
            "version": self.job.version,
            "client": "c",
            "value": "4.96",
            "gate": GATES,
        } | more
        return self.client.post(reverse("trace-keep", args=(self.job.uuid,)), data)

    def test_a_reading_is_kept_and_shown(self) -> None:
        self.safe()
        self.assertEqual(self.keep().status_code, 302)  # type: ignore[attr-defined]
        page = self.client.get(reverse("trace", args=(self.job.uuid,)))
        self.assertContains(page, "4.96 V")
        self.assertContains(page, 'data-state="suspect"')

    def test_a_refused_reading_keeps_what_was_typed(self) -> None:
        self.safe()
        for posted, words in REFUSED:
            with self.subTest(words):
                data = {"test": NUMBER_TEST, "version": self.job.version, "client": "c"} | posted
                page = self.client.post(reverse("trace-keep", args=(self.job.uuid,)), data)
                self.assertContains(page, words, status_code=422)
                if posted["value"]:
                    self.assertContains(page, f'value="{posted["value"]}"', status_code=422)
        self.assertEqual(Entry.objects.count(), 0)

    def test_a_stale_reading_is_shown_again_not_lost(self) -> None:
        self.safe()
        page = self.keep(version=1)
        self.assertContains(page, "The job changed meanwhile", status_code=409)  # type: ignore[arg-type]
        self.assertContains(page, 'value="4.96"', status_code=409)  # type: ignore[arg-type]

    def test_looks_need_one_answer_and_soft_answers_are_soft(self) -> None:
        self.safe()
        self.assertContains(
            self.keep("look throttle", value=""), "Choose at least one", status_code=422
        )  # type: ignore[arg-type]
        self.keep("look throttle", **{"see-motor": "rough", "soft-motor": "on"})
        self.assertTrue(Entry.objects.get().sometimes)

    def test_a_test_of_another_bike_is_refused(self) -> None:
        self.keep("look at the moon")
        self.assertContains(
            self.client.get(reverse("trace", args=(self.job.uuid,))), "Nothing was saved."
        )

    def free(self, **more: object) -> object:
        data = {
            "kind": "volts",
            "condition": "on",
            "red": "pack.main.plus",
            "black": "pack.main.minus",
            "free_value": "48.9",
            "version": self.job.version,
            "gate": GATES,
        } | more
        return self.client.post(reverse("trace-free", args=(self.job.uuid,)), data)

    def test_a_reading_at_any_two_points_counts(self) -> None:
        self.safe()
        for more, words in (
            ({"black": "pack.main.plus"}, "same point"),
            ({"free_value": "lots"}, "is not a number"),
            ({"kind": "ohms"}, "Ohms are read with the pack out"),
            ({"gate": ()}, "Tick the caution first"),
            ({"version": 0}, "changed meanwhile"),
            ({"red": "pack.main.up"}, "Choose one of the list."),
        ):
            with self.subTest(words):
                self.assertIn(words, self.free(**more).content.decode().replace("&#x27;", "'"))  # type: ignore[attr-defined]
        self.assertEqual(self.free().status_code, 302)  # type: ignore[attr-defined]
        self.assertEqual(Entry.objects.count(), 1)

    def test_undo_skip_repair_proof_and_closing_by_page(self) -> None:
        self.safe()
        self.add(LIT)

        def post(name: str, **data: Any) -> Any:
            return self.client.post(reverse(name, args=(self.job.uuid,)), data, follow=True)

        post("trace-undo", entry=Entry.objects.get().pk)
        self.assertTrue(Entry.objects.get().undone)
        self.assertContains(post("trace-undo", entry="x"), "not in this round")
        post("trace-skip", test="look switch_on")
        self.assertEqual(self.job.skipped_tests, ["look switch_on"])
        post("trace-skip", all="1")
        self.assertContains(post("trace-repair", repair="wish"), "Nothing was saved.")
        self.assertContains(post("trace-repair", repair="join:j-halls-m"), "prove it")
        post("trace-repair", withdraw="1")
        post("trace-repair", repair="join:j-halls-m")
        self.assertContains(post("trace-proof", result="maybe"), "passed or failed")
        self.assertContains(post("trace-proof", result="passed"), "Passed")
        refused = post("record", action="close", version=self.job.version)
        self.assertContains(refused, "Say what the root cause was", status_code=422)
        empty = post("record", action="cause", cause=" ", version=self.job.version)
        self.assertContains(empty, "looked for and not found", status_code=422)
        kept = post("record", action="cause", cause="Water", version=self.job.version)
        self.assertContains(kept, "Root cause: Water")
        self.prove_all(self.job)
        self.assertContains(post("record", action="close", version=self.job.version), "is closed")
        self.assertEqual(
            self.client.post(
                reverse("trace-skip", args=(self.job.uuid,)), {"all": "1"}
            ).status_code,
            403,
        )
        self.assertContains(post("record", action="reopen"), "Reopened")
        self.assertContains(
            post("record", action="close", reason="", version=self.job.version),
            "No repair was made and proven",
            status_code=422,
        )

    def test_while_the_engine_works_the_page_says_how_far(self) -> None:
        from brightcircuit.engines import holders as engines

        engines.forget_engines()
        for name, words in (
            ("trace", "Working out what every fault would do"),
            ("trace-more", "Still working out"),
        ):
            with patch("brightcircuit.trace.views.WAIT_S", 0.0):
                self.assertContains(self.client.get(reverse(name, args=(self.job.uuid,))), words)
        found = self.client.get(reverse("trace-progress", args=(self.job.uuid,))).json()
        self.assertEqual((found["first"], found["all"]), (False, False))


class EmptyTest(ShopTest):
    def test_empty_and_long_states_are_designed(self) -> None:
        self.let_go(self.job)
        for query, words in (
            ({}, "Nothing on the bench."),
            ({"q": "zebra", "show": "all"}, "No job here fits “zebra”."),
            ({"show": "mine"}, "No such jobs now."),
            ({"page": "x"}, "New job"),
        ):
            self.assertContains(self.client.get("/", query), words)
        Bike.objects.update(label=LONG[:120])
        self.assertContains(self.client.get("/", {"show": "all"}), LONG[:120])

    def test_a_text_that_is_not_what_it_looks_like_shows_its_marks(self) -> None:
        url = reverse("arrive", args=(self.job.uuid,))
        self.client.post(url, {"action": "note", "note": "Safe \u202eevil\u202c", "was": ""})
        for name in ("arrive-found", "record"):
            page = self.client.get(reverse(name, args=(self.job.uuid,)))
            self.assertContains(page, "Safe [U+202E]evil[U+202C]")
            self.assertNotContains(page, "\u202e")

    def test_bikes_are_found_by_words_and_a_form_that_looks_for_one_keeps_what_was_typed(
        self,
    ) -> None:
        for number in range(45):
            Bike.objects.create(label=f"Rowan {number:02d}", frame_number=f"LY{number}")
        for asked, shown, hidden in (
            ("", "Page 1 of 2", "Rowan 44"),
            ("?page=2", "Rowan 44", "Rowan 01<"),
            ("?q=rowan+LY44", "Rowan 44", "Rowan 43"),
            ("?q=nothing", "No bike fits", "Rowan"),
        ):
            with self.subTest(asked):
                page = self.client.get(reverse("bikes") + asked)
                self.assertContains(page, shown)
                self.assertNotContains(page, hidden)
        bike = self.revision.bike
        typed = {"complaint": "Dead since Monday", "bike": bike.uuid, "symptom-dark": "yes"}
        self.assertContains(self.client.get(reverse("job-new"), {"q": "LY7"}), "Rowan 07")
        self.assertNotContains(self.client.get(reverse("job-new"), {"q": "LY7"}), "Rowan 08")
        page = self.client.post(reverse("job-new"), {**typed, "when": "never heard of"})
        self.assertContains(page, "Dead since Monday", status_code=422)
        self.assertRegex(page.content.decode(), r'name="symptom-dark"\s+value="yes"[^>]*checked')
        self.assertEqual(Job.objects.count(), 1)

    def test_a_new_job_needs_one_bike_and_a_complaint(self) -> None:
        url, bike = reverse("job-new"), str(self.revision.bike.uuid)
        for data, words in (
            ({"complaint": "dead"}, "Choose a file."),
            ({"bike": bike}, "Fill this in."),
            ({"bike": "no-such-bike"}, "Which bike?"),
        ):
            self.assertContains(self.client.post(url, data), words, status_code=422)
        broken = self.client.post(url, {"file": file(b'{"format": "x"}')})
        self.assertContains(broken, "$.format", status_code=422)
        count = Job.objects.count()
        self.client.post(
            url, {"complaint": "dead", "bike": bike, "symptom-dark": "yes", "symptom-weak": "no"}
        )
        self.assertEqual(Job.objects.count(), count + 1)
        self.assertEqual(Entry.objects.get().value, "dark")
        self.assertTrue(
            Job.objects.latest("id").log.filter(text__contains="told that it does not").exists()
        )
        page = self.client.post(
            url, {"file": file((DEMO / "teasel.json").read_bytes())}, follow=True
        )
        self.assertContains(page, "What is the matter with")

    def test_preferences_belong_to_the_person(self) -> None:
        chosen = {
            "theme": "dark",
            "units": "both",
            "decimal": ",",
            "dates": "iso",
            "text_size": "large",
        }
        self.client.post(reverse("preferences"), chosen)
        self.assertFalse(Person.objects.get(pk=self.technician.pk).single_key_shortcuts)
        for words in ('data-shortcuts="off"', 'data-theme="dark"', 'data-text="large"'):
            self.assertContains(self.client.get("/"), words)
        page = self.client.get(reverse("match-ride", args=(self.job_uuid,))).content.decode()
        self.assertRegex(page, r"\d km/h \(\d+(,\d)? mph\)")
        self.client.post(reverse("preferences"), chosen | {"units": "stones"})
        self.assertEqual(Person.objects.get(pk=self.technician.pk).units, "both")

    @override_settings(AXES_ENABLED=True)
    def test_guessing_a_password_is_stopped_after_five_tries(self) -> None:
        self.client.logout()
        for _ in range(4):
            self.assertContains(
                self.client.post(reverse("login"), {"username": "tech", "password": "no"}),
                "do not fit together",
            )
        locked = self.client.post(reverse("login"), {"username": "tech", "password": "no"})
        self.assertContains(locked, "locked from this device until", status_code=429)
        self.assertRegex(locked.content.decode(), r"<strong>\d\d:\d\d</strong>")
        other = self.client.post(reverse("login"), {"username": "boss", "password": "boss"})
        self.assertEqual(other.status_code, 302)
