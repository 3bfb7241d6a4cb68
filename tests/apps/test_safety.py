"""What stands before an act on the bike: questions about every pack, and nothing powered beside a
danger."""

import re
from dataclasses import replace

from django.urls import reverse

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.services import store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs import quarantine
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import blocks
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.opening import open_job
from brightcircuit.wire.services import keep_wiring
from brightcore.describing.edit import change_part
from brightcore.describing.patterns import make_pattern
from brightcore.formats.bike_writing import canonical_json
from brightcore.tracing.acts import act_of_test
from tests.apps.base import ALL_NO, ShopTest, prime
from tests.bikes import engine


class PackQuestionsTest(ShopTest):
    def two_packs(self) -> Job:
        revision = store_bike(actor=self.technician, bike=make_pattern("two-packs", "Two")).revision
        return open_job(actor=self.technician, revision=revision, complaint="Dead")

    def test_six_questions_are_asked_about_each_pack(self) -> None:
        job = self.two_packs()
        asked = questions(job)
        self.assertEqual((len(asked), len({q.pack for q in asked})), (12, 2))
        self.assertEqual([q.key for q in questions(self.job)], list(ALL_NO))
        page = self.client.get(reverse("arrive", args=(job.uuid,))).content.decode()
        self.assertEqual(page.count("<legend>Swollen"), 2)
        one = {q.key: False for q in asked if q.pack == asked[0].pack}
        for answers, kinds in (
            (ALL_NO, ["triage"]),
            (one, ["triage"]),
            ({q.key: False for q in asked}, []),
        ):
            answer_triage(actor=self.technician, job=job, answers=answers)
            self.assertEqual([b.kind for b in blocks(job)], kinds)

    def test_a_yes_names_its_pack_and_comes_back_from_a_file(self) -> None:
        job = self.two_packs()
        swollen = next(q for q in questions(job) if q.key == "pack_rear.swollen")
        answer_triage(actor=self.technician, job=job, answers={swollen.key: True})
        self.assertEqual(quarantine.standing_quarantines(job)[0].why, [swollen.words])
        self.assertIn("Rear pack", swollen.words)
        found = export_job(whole_job(job.uuid).get())
        found["job"]["complaint"] = "In another shop"
        copy, _ = import_job(actor=self.technician, text=canonical_json(found))
        self.assertTrue(copy.arrival.triage[swollen.key])
        self.assertEqual([b.kind for b in blocks(copy)], ["quarantine"])


class HeldTest(ShopTest):
    with_engine = True

    def test_steps_with_the_pack_in_are_not_shown_beside_a_hazard(self) -> None:
        self.job_uuid = self.open(purposes=["build"]).uuid
        url = reverse("wire-order", args=(self.job_uuid,))
        for answered in (False, True):
            if answered:
                self.safe()
            page = self.client.get(url).content.decode()
            self.assertEqual("<strong>First power-up: switch on" in page, answered)
            self.assertEqual("Held back:" in page, not answered)
            self.assertIn("Bars full left and right", page)

    def test_beside_a_danger_only_tests_without_power_are_proposed(self) -> None:
        core = core_bike(self.revision)
        pack = core.of_kind("pack")[0]
        risky = change_part(core, pack.id, pack.name, replace(pack.spec, fuse_a=100.0))
        keep_wiring(actor=self.technician, job=self.job, core=risky, what="Another fuse")
        made = engine(self.bike)
        prime(self.job.revision, made)
        self.safe()
        page = self.client.get(reverse("trace", args=(self.job_uuid,))).content.decode()
        self.assertIn("only tests with the pack out are proposed", page)
        offered = re.findall(r'name="test"\s+value="([^"]+)"', page)
        self.assertTrue(offered)
        for test_id in offered:
            self.assertFalse(act_of_test(made, made.by_id[test_id]).needs_safe_pack, test_id)
