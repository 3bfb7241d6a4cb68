"""Practice over the web: own cases only, no answer before its end, learners kept apart, drills,
homework."""

from datetime import timedelta
from typing import Any

from django.core.exceptions import PermissionDenied, ValidationError
from django.urls import reverse
from django.utils import timezone

from brightcircuit.jobs.repairs import confirmed_counts
from brightcircuit.jobs.services import Symptoms
from brightcircuit.practice import services
from brightcircuit.practice.models import Answer, Homework, Round, Topic
from brightcircuit.practice.queries import graded_of, homework_of, progress_of
from brightcircuit.practice.translate import OF_SHOP, case_of, read_debrief, shipped
from brightcircuit.practice.working import work_out
from brightcircuit.shop.models import Role
from brightcircuit.stations.opening import open_job
from brightcore.practice.drills import DRILLS, drill_of, question
from brightcore.practice.graded import GRADED
from brightcore.practice.hidden import hidden_bike
from tests.apps.base import ShopTest, person

HUB = "hub-conversion"


class PracticeTest(ShopTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.learner = person("learner", Role.LEARNER)

    def setUp(self) -> None:
        super().setUp()
        self.client.force_login(self.learner)

    def begun(self, key: str = "03") -> Round:
        return services.begin_graded(actor=self.learner, key=key)

    def do(self, row: Round, key: str, **said: str) -> Any:
        row.refresh_from_db()
        return services.do_act(actor=self.learner, row=row, key=key, said=said, version=row.version)

    def url(self, row: Round, name: str = "practice-round") -> str:
        return reverse(name, args=(row.uuid,))

    def test_a_case_from_its_beginning_to_its_debrief(self) -> None:
        answer = self.client.post(reverse("practice"), {"graded": "03"})
        row = Round.objects.get()
        self.assertRedirects(answer, self.url(row))
        for value in (
            "wheel|to=up",
            "power|to=on",
            "watch|scene=throttle",
            "power|to=out",
            "drain",
        ):
            row.refresh_from_db()
            answer = self.client.post(self.url(row), {"do": value, "version": row.version})
            self.assertEqual(answer.status_code, 302, value)
        page = self.client.get(self.url(row))
        self.assertContains(page, "Under 5 V")
        row.refresh_from_db()
        self.client.post(
            self.url(row), {"do": "repair|repair=part:lever_left", "version": row.version}
        )
        answer = self.client.post(self.url(row), {"end": "done", "cause": "nothing known"})
        self.assertRedirects(
            answer, self.url(row, "practice-debrief"), fetch_redirect_response=False
        )
        page = self.client.get(self.url(row, "practice-debrief"))
        for words in (
            "Right: it works again",
            "switch stuck closed",
            "Swapping front to back",
            "told",
        ):
            self.assertContains(page, words)
        row.refresh_from_db()
        self.assertEqual(
            [r.acted.title for r in read_debrief(row.debrief).rows][:2], ["Wheel up", "Switch on"]
        )
        again = self.client.post(self.url(row, "practice-debrief"))
        other = Round.objects.exclude(pk=row.pk).get()
        self.assertRedirects(again, self.url(other))
        self.assertEqual((other.graded, other.complaint), (row.graded, row.complaint))
        self.assertEqual([g.state for g in graded_of(Round.objects.all())][2], "solved")

    def test_no_answer_is_in_any_page_before_the_debrief(self) -> None:
        """Neither the fault nor its repair is told apart: HTML, addresses, code, stored state."""
        for key in ("01", "05", "09"):
            row = self.begun(key)
            item = next(g for g in GRADED if g.key == key)
            modes = hidden_bike(case_of(row)).hidden
            self.do(row, "wheel", to="up")
            self.do(row, "power", to="on")
            page = (
                self.client.get(self.url(row)).content.decode()
                + self.client.get("/practice/").content.decode()
            )
            for mode in modes:
                for word in (mode.id, mode.title, *item.faults, item.teaches):
                    self.assertNotIn(word, page)
                others = page.count("repair|repair=")
                self.assertGreater(others, 30)
                self.assertEqual(page.count(f'value="repair|repair={mode.repair.id}"'), 1)
            stored = f"{row.code} {row.state} {row.sort}"
            self.assertFalse([mode.id for mode in modes if mode.id in stored])
            self.assertRedirects(self.client.get(self.url(row, "practice-debrief")), self.url(row))

    def test_a_code_plays_the_same_case_in_any_copy(self) -> None:
        first = services.begin(actor=self.learner, bike=HUB, sort="drive")
        second = services.begin_by_code(actor=self.technician, text=first.code)
        self.assertEqual((first.complaint, case_of(first)), (second.complaint, case_of(second)))
        for text, words in (
            ("nonsense", "is no case"),
            ("nowhere.two.4F7K2M", "No bike called"),
            (f"{OF_SHOP}{'0' * 32}.two.4F7K2M", "goes with its file"),
            ("graded.99", "No graded case"),
        ):
            page = self.client.post(reverse("practice"), {"do": "code", "code": text})
            self.assertContains(page, words, status_code=422)
            self.assertContains(page, f'value="{text}"', status_code=422)

    def test_a_case_is_ones_own_and_each_act_counts_once(self) -> None:
        row = self.begun()
        stale = row.version
        self.do(row, "wheel", to="up")
        with self.assertRaisesMessage(ValidationError, "in another window"):
            services.do_act(
                actor=self.learner, row=row, key="wheel", said={"to": "down"}, version=stale
            )
        with self.assertRaises(PermissionDenied):
            services.do_act(
                actor=self.technician, row=row, key="drain", said={}, version=row.version
            )
        self.client.force_login(self.technician)
        self.assertEqual(self.client.get(self.url(row)).status_code, 404)
        self.client.force_login(self.lead)
        self.assertEqual(self.client.get(self.url(row)).status_code, 200)
        services.end(actor=self.learner, row=row, how="gave-up")
        with self.assertRaisesMessage(ValidationError, "has ended"):
            self.do(row, "wheel", to="down")

    def test_a_learner_sees_nothing_of_the_shop(self) -> None:
        job = self.job
        for name, args in (
            ("bikes", ()),
            ("find", ()),
            ("trace", (job.uuid,)),
            ("record", (job.uuid,)),
            ("library", ()),
            ("people", ()),
            ("shop", ()),
            ("numbers", ()),
            ("archive", ()),
        ):
            self.assertEqual(self.client.get(reverse(name, args=args)).status_code, 403, name)
        self.assertRedirects(self.client.get("/"), reverse("practice"))
        with self.assertRaises(PermissionDenied):
            open_job(actor=self.learner, revision=self.revision, complaint="x", symptoms=Symptoms())
        with self.assertRaises(PermissionDenied):
            own = f"{OF_SHOP}{self.job.revision.bike.uuid.hex}"
            services.begin(actor=self.learner, bike=own, sort="anything")
        page = self.client.get(reverse("practice"))
        self.assertNotContains(page, "Of this shop")
        self.assertNotContains(page, 'href="/bikes/"')
        self.client.force_login(self.technician)
        self.assertContains(self.client.get(reverse("practice")), "Of this shop")

    def test_a_bike_of_the_shop_is_practised_on_and_left_alone(self) -> None:
        before = (confirmed_counts(), self.revision.bike.revisions.count(), self.job.version)
        own = f"{OF_SHOP}{self.job.revision.bike.uuid.hex}"
        row = services.begin(actor=self.technician, bike=own, sort="bar")
        for key, said in (("wheel", {"to": "up"}), ("power", {"to": "on"})):
            row.refresh_from_db()
            services.do_act(actor=self.technician, row=row, key=key, said=said, version=row.version)
        services.end(actor=self.technician, row=row, how="gave-up")
        work_out(row)
        self.assertFalse(row.debrief["right"])
        after = (confirmed_counts(), self.revision.bike.revisions.count(), self.job.version)
        self.assertEqual(before, after)

    def test_a_drill_is_answered_explained_and_comes_again(self) -> None:
        for drill in DRILLS:
            url = reverse("practice-drill", args=(drill.key,))
            self.assertEqual(self.client.get(url, {"seed": "5"}).status_code, 200)
            asked = question(drill, "5")
            said: dict[str, Any] = {"answer": list(asked.answer)}
            if asked.form == "order":
                said = {
                    f"n-{k}": asked.answer.index(c) + 1 for k, (c, _) in enumerate(asked.choices)
                }
            page = self.client.post(url, {"seed": "5"} | said)
            self.assertContains(page, "Right ✓")
        self.assertEqual(Topic.objects.filter(person=self.learner, box=1).count(), len(DRILLS))
        url = reverse("practice-drill", args=("never",))
        asked = question(drill_of("never"), "6")
        wrong = next(c for c, _ in asked.choices if c not in asked.answer)
        page = self.client.post(url, {"seed": "6", "answer": wrong})
        self.assertContains(page, "Not so ✗")
        self.assertContains(page, "Never.")
        self.client.post(url, {"seed": "6", "answer": asked.answer[0]})
        self.assertEqual(Answer.objects.filter(topic="never", seed="6").get().right, False)
        self.assertEqual(Topic.objects.get(topic="never").box, 0)
        self.assertEqual(self.client.post(url, {"seed": "8"}).status_code, 422)
        self.assertEqual(self.client.get("/practice/drills/dance/").status_code, 404)

    def test_homework_is_given_by_a_lead_and_ticked_off_by_what_is_done(self) -> None:
        due = timezone.localdate() + timedelta(days=3)
        given = {"title": "First week", "codes": ["graded.03"], "topics": ["never"], "due": due}
        with self.assertRaises(PermissionDenied):
            services.give_homework(actor=self.technician, people=[self.learner], **given)
        for change, words in (
            ({"title": " "}, "Give it a name"),
            ({"codes": ["x"]}, "is no case"),
            ({"codes": [], "topics": []}, "Give a case or a drill"),
            ({"topics": ["dance"]}, "No drill called"),
        ):
            with self.assertRaisesMessage(ValidationError, words):
                services.give_homework(actor=self.lead, people=[self.learner], **(given | change))
        services.give_homework(actor=self.lead, people=[self.learner], **given)
        self.assertContains(self.client.get(reverse("practice")), "First week")
        row = self.begun()
        services.end(actor=self.learner, row=row, how="gave-up")
        asked = question(drill_of("never"), "1")
        services.answer(actor=self.learner, topic="never", seed="1", said=list(asked.answer))
        (own,) = homework_of(self.learner, due + timedelta(days=1))
        self.assertEqual((own.left, own.late), (0, True))
        self.client.force_login(self.lead)
        page = self.client.get(reverse("practice-learners"))
        self.assertContains(page, "learner: done")
        self.client.post(
            reverse("practice-learners"), {"do": "remove", "row": Homework.objects.get().pk}
        )
        self.assertEqual(homework_of(self.learner, due), [])
        form = {
            "do": "give",
            "title": "",
            "due": due.isoformat(),
            "topics": ["never"],
            "people": [self.learner.pk],
        }
        self.assertContains(
            self.client.post(reverse("practice-learners"), form), "Give it a name", status_code=422
        )

    def test_progress_is_ones_own_and_the_leads(self) -> None:
        for key in ("03", "01"):
            row = self.begun(key)
            self.do(row, "plug", join="j1")
            services.end(actor=self.learner, row=row, how="gave-up")
            work_out(row)
        told = progress_of(self.learner)
        self.assertEqual((told.cases, told.solved, told.hazards), (2, 0, 2))
        url = reverse("practice-progress")
        self.assertContains(self.client.get(url), "Your progress")
        self.assertEqual(self.client.get(url, {"of": "tech"}).status_code, 403)
        self.assertEqual(self.client.get(reverse("practice-learners")).status_code, 403)
        self.client.force_login(self.lead)
        self.assertContains(self.client.get(url, {"of": "learner"}), "Minutes a case")
        self.assertContains(self.client.get(reverse("practice-learners")), "learner")

    def test_a_new_account_is_offered_the_guide(self) -> None:
        self.assertContains(self.client.get(reverse("practice")), "Begin the guided case")
        row = self.begun("00")
        self.assertContains(self.client.get(self.url(row)), "Guide, step 1 of 10")
        services.end(actor=self.learner, row=row, how="gave-up")
        self.assertNotContains(self.client.get(reverse("practice")), "Begin the guided case")

    def test_every_shipped_bike_can_be_played(self) -> None:
        self.assertGreater(len(shipped()), 12)
        for key in ("fern", "otter", "teasel", "three-wheeler"):
            row = services.begin(actor=self.learner, bike=key, sort="anything", seed="2345ABC")
            self.assertTrue(row.complaint)
            self.assertEqual(self.client.get(self.url(row)).status_code, 200)
