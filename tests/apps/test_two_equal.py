"""Two equal vehicles, one with a fault: halves exchanged, then single parts, to the closed
record."""

from brightcircuit.bikes.services import import_bike
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.repairs import do_repair, prove
from brightcircuit.jobs.services import set_hand
from brightcircuit.jobs.way import stands_of, way_of
from brightcircuit.record.facts import rider_facts
from brightcircuit.record.services import close_job
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.trace.cards import repair_plan
from brightcircuit.wire.queries import done_steps, work_of
from brightcircuit.wire.services import tick
from brightcore.describing.patterns import make_pattern
from brightcore.formats.bike_writing import bike_document, canonical_json
from brightcore.procedure.rider import rider_sheet
from brightcore.tracing.advice import propose
from brightcore.tracing.endings import conclude
from brightcore.tracing.simulated import TrueBikes
from brightcore.tracing.trace import Trace
from tests.apps.base import ShopTest
from tests.bikes import engine

MOST_TESTS = 20


class TwoEqualVehiclesTest(ShopTest):
    """A donor of the same make stands beside the bike."""

    with_engine = True

    def setUp(self) -> None:
        super().setUp()
        self.safe()
        text = canonical_json(bike_document(make_pattern("hub-conversion", "Sister"))).encode()
        donor = import_bike(actor=self.technician, text=text).revision
        set_hand(
            actor=self.technician,
            job=self.job,
            spares=["controller", "throttle", "display"],
            donor=donor,
        )

    def traced(self) -> Trace:
        found = job_trace(self.job).trace
        assert found is not None
        return found

    def test_the_fault_is_in_the_drive(self) -> None:
        self.goes("controller.phases.u/gate-dead", "drive", "controller")

    def test_the_fault_is_in_the_motor(self) -> None:
        self.goes("motor.inside.winding/shorted", "motor", "motor")

    def goes(self, fault: str, good_half: str, owner: str) -> None:
        """Halves, then single parts, then the repair and the closed record."""
        rows = [i for i, h in enumerate(engine("fern").hypotheses.items) if h.id.startswith(fault)]
        self.assertTrue(rows, fault)
        sick = TrueBikes(engine("fern"), rows[:1], 3)
        self.add(*sick.complaint(0))
        self.add(*sick.answer(propose(self.traced())[0].test, 0))
        self.halves(sick, good_half)
        self.traced_to_the_end(sick)
        self.repaired_and_closed(owner)

    def halves(self, sick: TrueBikes, good_half: str) -> None:
        """Try both halves of the donor: the fault goes with the half that is good."""
        offered = [item.test for item in propose(self.traced(), 400) if item.test.kind == "half"]
        self.assertEqual({test.subject.partition(":")[0] for test in offered}, {"motor", "drive"})
        for test in offered:
            half = test.subject.partition(":")[0]
            self.assertLessEqual({"wheel_up", "pack_out", "donor"}, set(test.gates))
            items = sick.answer(test, 0)
            self.assertEqual(items[0].value, "gone" if half == good_half else "same")
            self.add(*items, ticked=test.gates)

    def traced_to_the_end(self, sick: TrueBikes) -> None:
        """Follow what Trace proposes until it stops at a repair."""
        for _ in range(MOST_TESTS):
            trace = self.traced()
            if trace.stopped:
                return
            best = propose(trace)[0].test
            self.add(*sick.answer(best, 0), ticked=best.gates)
        self.fail("Trace never stopped")

    def repaired_and_closed(self, owner: str) -> None:
        """The repair makes a new thing; its order, proof and paper are true of it, and the job
        closes."""
        trace = self.traced()
        repair = conclude(trace).repair
        assert repair is not None
        self.assertEqual(repair.owner, owner)
        plan = repair_plan(trace, repair.id)
        assert plan is not None
        do_repair(actor=self.technician, job=self.job, plan=plan)
        job = self.job
        made = job.repairs.get().made
        self.assertNotIn(owner, {part.id for part in stands_of(job).parts})
        for step in work_of(job).steps:
            if step.id not in done_steps(job):
                tick(actor=self.technician, job=job, step_id=step.id, done=True)
        prove(actor=self.technician, job=self.job, passed=True, cause="Water in the plug")
        self.prove_all(self.job)
        job = self.job
        self.assertEqual(way_of(job).left, ())
        left = whats_open(job)
        self.assertLessEqual({item.station for item in left}, {"set", "program"}, left)
        close_job(
            actor=self.lead, job=job, reasons={item.key: "copied from the sister" for item in left}
        )
        sheet = rider_sheet(stands_of(job), rider_facts(job), job.opened.date())
        said = "\n".join(line for part in sheet for line in part.lines)
        self.assertIn(f"{stands_of(job).part(made).name} replaced", said)
        self.assertNotIn("Looked over", said)
