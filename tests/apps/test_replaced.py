"""A repair that replaces makes another thing: its plugs, its proof and its evidence are its own."""

from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import edit_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.belief import NOBODY, job_trace
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.descriptions import say_what_edits_are
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.repairs import NewThing, RepairPlan, do_repair, prove, withdraw_repair
from brightcircuit.jobs.way import stands_of, way_of
from brightcircuit.library.services import add_generic
from brightcircuit.prove.queries import rows_of
from brightcircuit.stations.summary import next_thing
from brightcircuit.wire.queries import work_of
from brightcircuit.wire.services import tick
from tests.apps.base import ShopTest
from tests.apps.plans import without


class RepairTest(ShopTest):
    """A repair that replaces makes another thing."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def repaired(self, slug: str = "") -> Job:
        self.safe()
        plan = RepairPlan(
            "part:throttle", "Replace the Thumb throttle", "", "throttle.x/y/full", "", "", "", {}
        )
        do_repair(actor=self.technician, job=self.job, plan=plan, thing=NewThing(slug, "T-17"))
        return self.job

    def test_like_for_like_or_another_it_is_a_new_thing(self) -> None:
        for slug, words in (("", "like for like"), ("throttle-twist", "replaced by Twist")):
            with self.subTest(slug):
                job = self.repaired(slug)
                ids = {p.id for p in stands_of(job).parts}
                made = job.repairs.get().made
                self.assertIn(made, ids)
                self.assertNotIn("throttle", ids)
                self.assertEqual(stands_of(job).part(made).mark, "T-17")
                self.assertTrue(
                    any(words in line for line in changes_of(job).words), changes_of(job).words
                )
                self.assertIn(f"throttle:{made}", [row.check.id for row in rows_of(job)])
                self.assertIn(f"fit:{made}", [step.id for step in work_of(job).steps])
                withdraw_repair(actor=self.technician, job=job)
                self.assertIn("throttle", {p.id for p in stands_of(self.job).parts})
                self.assertEqual(way_of(self.job).left, ())

    def test_readings_of_the_old_part_say_nothing_of_the_new_one(self) -> None:
        from brightcircuit.jobs.entries import new_entry
        from brightcore.tracing.evidence import Evidence

        item = Evidence("volts", "0.85", "on", "throttle.plug.signal", "throttle.plug.ground")
        pins = [p.name for p in stands_of(self.job).part("throttle").ports[0].pins]
        port = stands_of(self.job).part("throttle").ports[0].id
        item = Evidence(
            "volts", "0.85", "on", f"throttle.{port}.{pins[-1]}", f"throttle.{port}.{pins[1]}"
        )
        row = new_entry(self.job, self.technician, item)
        words = row.words
        self.assertIn("hrottle", words)
        job = self.repaired("throttle-twist")
        found = job_trace(job, who=NOBODY)
        self.assertEqual([r.pk for r in found.entries], [])
        self.assertEqual([r.pk for r in found.past], [row.pk])
        self.assertEqual(job.evidence.get(pk=row.pk).words, words)
        self.assertNotIn("Twist", words)

    def test_its_proof_is_one_check_and_falls_with_any_change_after_it(self) -> None:
        job = self.repaired()
        prove(actor=self.technician, job=job, passed=True)
        job = self.job
        states = {row.check.id.partition(":")[0]: row.state for row in rows_of(job)}
        self.assertEqual(states["repair"], "passed")
        self.assertNotEqual(next_thing(job, job_trace(job, who=NOBODY)).step, "close")
        say_what_edits_are(actor=self.technician, job=job, plans=True)
        core = without(core_bike(latest_revision(job.revision.bike)), "lamp")
        edit_bike(
            actor=self.technician,
            bike=job.revision.bike,
            core=core,
            base=job.revision.number,
            what="lamp off",
        )
        job = self.job
        self.assertEqual(
            {r.check.id.partition(":")[0]: r.state for r in rows_of(job)}["repair"], "passed"
        )
        left = {change.id for change in way_of(job).left}
        step = next(s.id for s in work_of(job).steps if s.id in left)
        tick(actor=self.technician, job=job, step_id=step, done=True)
        self.assertEqual(
            {r.check.id.partition(":")[0]: r.state for r in rows_of(job)}["repair"], "fell"
        )

    def test_a_failed_proof_does_not_suspect_the_new_part_anew(self) -> None:
        job = self.repaired()
        prove(actor=self.technician, job=job, passed=False)
        tried = self.job.evidence.filter(kind="tried").last()
        self.assertEqual(
            (tried.subject, tried.words),
            ("part:throttle_2", "Repair done: Replace the Thumb throttle"),
        )
