"""The day changed by hand, search narrowed, a ride handed to Match, and a bike's trends and
settings."""

from datetime import timedelta
from typing import Any

from django.core.exceptions import ValidationError
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from brightcircuit.bikes.services import set_contact
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import Planned, hand_over, plan_job
from brightcircuit.prove.models import RideRow
from brightcircuit.prove.ride_services import take_ride
from brightcircuit.set.models import Calibration
from brightcircuit.shop.models import Person, Role
from brightcircuit.shop.people import set_active
from tests.apps.base import ShopTest, person


class DayByHandTest(ShopTest):
    def setUp(self) -> None:
        super().setUp()
        self.url = reverse("day")
        self.jobs = [self.job, self.open(), self.open()]
        today = timezone.localdate()
        for days, job in enumerate(self.jobs):
            planned = Planned(promised=today + timedelta(days=days), worker=self.technician)
            plan_job(actor=self.technician, job=job, planned=planned)

    def order(self) -> list[int]:
        lists = self.client.get(self.url).context["lists"]
        listed = next(item for item in lists if item.hands.worker == "tech")
        return [self.jobs.index(row.job) for row in listed.doing]

    def act(self, do: str, job: int = 0, name: str = "tech") -> int:
        data = {"do": do, "list": name, "job": str(self.jobs[job].uuid)}
        return self.client.post(self.url, data).status_code

    def test_jobs_are_moved_and_the_proposed_order_comes_back(self) -> None:
        version = self.job.version
        for do, job, wanted in (
            ("up", 2, [0, 2, 1]),
            ("up", 2, [2, 0, 1]),
            ("up", 2, [2, 0, 1]),
            ("down", 0, [2, 1, 0]),
            ("sideways", 0, [2, 1, 0]),
            ("reset", 0, [0, 1, 2]),
        ):
            with self.subTest(do=do, job=job):
                self.assertEqual(self.act(do, job), 302)
                self.assertEqual(self.order(), wanted)
        self.assertEqual(self.job.version, version)

    def test_the_order_of_a_day_ends_with_it(self) -> None:
        self.act("up", 2)
        Job.objects.update(turn_on=timezone.localdate() - timedelta(days=1))
        self.assertEqual(self.order(), [0, 1, 2])

    def test_who_is_away_has_a_list_to_hand_over(self) -> None:
        self.act("away")
        page = self.client.get(self.url)
        self.assertContains(page, "away today")
        self.assertContains(page, "boss has least to do")
        self.assertEqual(self.act("away", name="boss"), 403)
        self.assertIsNone(Person.objects.get(username="boss").away_until)
        self.act("here")
        self.assertNotContains(self.client.get(self.url), "away today")

    def test_a_job_is_handed_over_with_one_press_one_that_waits_too(self) -> None:
        plan_job(actor=self.technician, job=self.jobs[1], planned=Planned(waiting="part"))
        for job in self.jobs:
            data = {"do": "hand-over", "list": "tech", "job": str(job.uuid)}
            self.client.post(self.url, data | {"worker": str(self.lead.pk)})
            job.refresh_from_db()
            self.assertEqual(str(job.worker), "boss")
        self.assertTrue(self.jobs[0].log.filter(text="Handed over to boss").exists())
        here = reverse("arrive", args=(self.job_uuid,))
        own = {"worker": str(self.technician.pk), "to": here}
        answer = self.client.post(reverse("job-hand-over", args=(self.job_uuid,)), own)
        self.assertRedirects(answer, here)
        self.assertEqual(str(self.job.worker), "tech")

    def test_nobody_who_may_not_do_a_job_is_given_one(self) -> None:
        learner = person("lia", Role.LEARNER)
        gone = person("gus")
        set_active(actor=self.lead, person=gone, active=False)
        names = [item.hands.worker for item in self.client.get(self.url).context["lists"]]
        self.assertEqual(names, ["boss", "tech"])
        for who in (learner, gone):
            with self.subTest(str(who)), self.assertRaises(ValidationError):
                hand_over(actor=self.technician, job=self.job, worker_id=who.pk)
            with self.subTest(str(who)), self.assertRaises(ValidationError):
                plan_job(actor=self.technician, job=self.job, planned=Planned(worker=who))
        plan = self.client.get(reverse("arrive-plan", args=(self.job_uuid,)))
        self.assertNotContains(plan, "lia</option>")

    def test_whom_to_call_stands_beside_what_will_be_late(self) -> None:
        yesterday = timezone.localdate() - timedelta(days=1)
        late = Planned(promised=yesterday, worker=self.technician)
        plan_job(actor=self.technician, job=self.jobs[0], planned=late)
        self.assertContains(self.client.get(self.url), "nothing is kept of how to reach them")
        bike = self.revision.bike
        set_contact(actor=self.technician, bike=bike, name="Maro Vint", reach="555 0177", note="")
        self.assertContains(self.client.get(self.url), "Maro Vint 555 0177")

    def test_a_long_list_is_shown_in_pages(self) -> None:
        rows = [Job(**self.like(number)) for number in range(100, 160)]
        Job.objects.bulk_create(rows)
        page = self.client.get(self.url)
        self.assertContains(page, "All 63 of tech")
        self.assertLess(len(page.content), 60_000)
        with CaptureQueriesContext(connection) as asked:
            self.client.get(self.url)
        self.assertLess(len(asked), 25, "a query for each job")
        whole = self.client.get(self.url, {"whose": "tech", "page": "3"})
        self.assertContains(whole, "Page 3 of 3")
        self.assertContains(whole, "job 159")

    def like(self, number: int) -> dict[str, Any]:
        """Return the fields of one more open job."""
        return {
            "number": number,
            "revision": self.revision,
            "complaint": "Dead",
            "opened": timezone.now(),
            "opened_by": self.technician,
            "worker": self.technician,
            "summary": {"version": Job().version, "next": "Look", "minutes": 10, "step": "trace"},
        }


class FindNarrowedTest(ShopTest):
    def test_filters_leave_out_what_they_say(self) -> None:
        old = self.open(complaint="Shudders as last year")
        Job.objects.filter(pk=old.pk).update(opened=timezone.now() - timedelta(days=400))
        self.let_go(self.open(complaint="Shudders, closed"))
        for asked, here, gone in (
            ({}, ("as last year", "closed", "cargo bike"), ()),
            ({"since": "365"}, ("closed",), ("as last year", "cargo bike")),
            ({"open": "1"}, ("as last year",), ("Shudders, closed",)),
            ({"kind": "lines"}, ("Job opened",), ("<h2>Jobs",)),
            ({"kind": "nonsense", "since": "x"}, ("as last year", "cargo bike"), ()),
        ):
            words = "fern" if not here[-1].startswith(("as", "closed", "Job")) else "shudders"
            with self.subTest(asked):
                shown = "".join(
                    self.client.get(reverse("find"), {"q": q} | asked).content.decode()
                    for q in {words, "shudders"}
                )
                for text in here:
                    self.assertIn(text, shown)
                for text in gone:
                    self.assertNotIn(text, shown)


CSV = "time,speed,volts,amps\n" + "".join(
    f"{t},25,{50 - 0.1 * (t % 20)},{t % 20}\n" for t in range(900)
)


class YearsTest(ShopTest):
    def ride(self, content: str = CSV) -> RideRow:
        return take_ride(
            actor=self.technician, job=self.job, content=content.encode(), name="a.csv"
        )

    def test_a_ride_becomes_matchs_own_log(self) -> None:
        row, url = self.ride(), reverse("prove-rides", args=(self.job_uuid,))
        self.assertAlmostEqual(row.told["ah"], 9.5 * 899 / 3600, delta=0.01)
        self.assertContains(self.client.get(url), "Reckon with it on Match")
        self.client.post(url, {"do": "match", "uuid": row.uuid})
        plan = self.job.match_plan.data
        self.assertEqual((plan["log_km"], plan["log_ah"]), (6.24, 2.37))
        self.assertNotContains(
            self.client.get(reverse("match-ride", args=(self.job_uuid,))), "no log yet"
        )
        short = self.ride("time,speed\n" + "".join(f"{t},25\n" for t in range(60)))
        answer = self.client.post(url, {"do": "match", "uuid": short.uuid})
        self.assertContains(answer, "does not tell both", status_code=422)

    def test_what_was_measured_again_is_followed_over_the_visits(self) -> None:
        self.safe()
        now = timezone.now()
        for months, ah in ((14, 14.0), (1, 10.9)):
            Calibration.objects.create(
                job=self.job,
                instrument="capacity",
                subject="pack",
                state="good",
                title="holds",
                values=[{"name": "capacity_ah", "value": ah, "unit": "Ah", "words": ""}],
                at=now - timedelta(days=30 * months),
                by=self.technician,
                by_name="tech",
            )
        self.ride()
        url = reverse("bike-history", args=(self.revision.bike.uuid,))
        page = self.client.get(url)
        self.assertContains(page, "14 to 10.9 Ah, -22 %")
        self.assertContains(page, "months from")
        book = self.client.get(url, {"book": "1"})
        self.assertContains(book, "Ride a.csv")
        self.assertContains(book, '<details class="more" open>')
