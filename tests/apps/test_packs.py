"""The six answers and the quarantine belong to a pack as a thing, and every act says what it
touches."""

from dataclasses import replace
from typing import Any
from uuid import uuid4

from django.core.exceptions import ValidationError

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import edit_bike, store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.quarantine import plain_mark, standing_quarantines
from brightcircuit.jobs.repairs import RepairPlan, do_repair
from brightcircuit.jobs.safety import blocks, require_safe
from brightcircuit.jobs.way import stands_of
from brightcircuit.library.services import add_generic
from brightcircuit.program.models import Line, Run
from brightcircuit.program.run_services import resume
from brightcircuit.set.services import take_reading
from brightcircuit.stations.opening import open_job
from brightcircuit.trace.services import Blocked
from brightcircuit.wire.services import tick
from brightcore.bike.model import Bike
from brightcore.kinds.select import packs
from brightcore.setting import INSTRUMENTS
from brightcore.touching import DEAD, NOTHING, PACK, POWERED, touched
from brightcore.tracing.evidence import Evidence
from tests.apps.base import ALL_NO, ShopTest


def marked(bike: Bike, mark: str) -> Bike:
    """Return a bike whose first pack bears a mark."""
    first = packs(bike)[0]
    parts = []
    for part in bike.parts:
        if part.id == first.id:
            part = replace(part, spec=replace(first.spec, mark=mark))
        parts.append(part)
    return replace(bike, parts=tuple(parts))


class PackCase(ShopTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def say_hot(self) -> None:
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO | {"hot": True})

    def rewrite(self, mark: str, actor: Any = None) -> None:
        """Write another mark on the pack of the job's bike."""
        bike = self.job.revision.bike
        newest = latest_revision(bike)
        edit_bike(
            actor=actor or self.technician,
            bike=bike,
            core=marked(core_bike(newest), mark),
            base=newest.number,
            what="mark",
        )

    def swap_pack(self) -> str:
        """Replace the pack like for like; returns the id of the new one."""
        plan = RepairPlan("part:pack", "Replace the Pack", "", "pack.x/y/full", "", "", "", {})
        do_repair(actor=self.technician, job=self.job, plan=plan)
        return packs(stands_of(self.job))[0].id


class AnswersTest(PackCase):
    def test_a_swapped_pack_is_asked_afresh(self) -> None:
        self.safe()
        require_safe(self.job)
        made = self.swap_pack()
        self.assertEqual([block.kind for block in blocks(self.job)], ["triage"])
        with self.assertRaisesMessage(ValidationError, "six questions"):
            require_safe(self.job)
        asked = questions(self.job)
        self.assertEqual({q.key.partition(".")[0] for q in asked}, {made})
        # The answers about the pack that is gone stay what they were.
        self.assertEqual(self.job.arrival.triage["hot"], False)
        # Answers without a pack's name are not taken for the new one's.
        answer_triage(actor=self.technician, job=self.job, answers=ALL_NO)
        self.assertEqual([block.kind for block in blocks(self.job)], ["triage"])
        answers = dict.fromkeys((q.key for q in asked), False)
        answer_triage(actor=self.technician, job=self.job, answers=answers)
        require_safe(self.job)

    def test_a_new_pack_is_not_held_by_what_the_old_one_was(self) -> None:
        """Unless it bears the old one's mark."""
        self.rewrite("P 17")
        self.safe()
        made = self.swap_pack()
        answer_triage(
            actor=self.technician,
            job=self.job,
            answers=dict.fromkeys((q.key for q in questions(self.job)), False)
            | {f"{made}.hot": True},
        )
        (row,) = standing_quarantines(self.job)
        self.assertEqual(row.packs, [made])


class MarkTest(PackCase):
    def test_a_mark_is_its_letters_and_digits(self) -> None:
        for one, other, same in (
            ("P 17", "p17", True),
            ("P–17", "P-17", True),
            ("P_17.", "P 17", True),
            ("Ｐ１７", "P17", True),
            ("P 17", "P 18", False),
            ("P 17", "P 1 71", False),
        ):
            self.assertEqual(plain_mark(one) == plain_mark(other), same, (one, other))

    def test_no_spelling_and_no_copy_ends_a_quarantine(self) -> None:
        self.rewrite("P 17")
        job = self.open()
        answer_triage(actor=self.technician, job=job, answers=ALL_NO | {"hot": True})
        core = core_bike(latest_revision(job.revision.bike))
        info = core.info
        for spelled, held in (("p-17", True), ("P17", True), ("P 18", False), ("", False)):
            other = marked(
                replace(core, uuid=str(uuid4()), info=replace(info, label="Another")), spelled
            )
            revision = store_bike(actor=self.technician, bike=other).revision
            theirs = open_job(actor=self.technician, revision=revision, complaint="x")
            self.assertEqual(bool(standing_quarantines(theirs)), held, spelled)
        # The same bike by file once more, its mark left out of the file.
        again = replace(core, info=replace(info, description="by file"))
        copy = store_bike(actor=self.technician, bike=marked(again, ""))
        self.assertEqual(copy.outcome, "copy")
        theirs = open_job(actor=self.technician, revision=copy.revision, complaint="x")
        self.assertTrue(standing_quarantines(theirs))

    def test_a_mark_under_quarantine_is_a_leads(self) -> None:
        self.rewrite("P 17")
        self.say_hot()
        for mark, refused in (("P 18", True), ("", True), ("p–17", False)):
            with self.subTest(mark):
                if refused:
                    with self.assertRaisesMessage(ValidationError, "only a shop lead"):
                        self.rewrite(mark)
                else:
                    self.rewrite(mark)
        self.rewrite("P 18", actor=self.lead)
        self.assertTrue(standing_quarantines(self.job))


class TouchTest(PackCase):
    def test_what_cautions_and_declarations_say(self) -> None:
        for cautions, declared, found in (
            ((), "", PACK),
            ((), NOTHING, NOTHING),
            (("pack_out",), "", DEAD),
            (("pack_safe",), "", PACK),
            (("pack_safe", "wheel_up"), "", POWERED),
            (("wheel_up",), NOTHING, POWERED),
            (("pack_out",), PACK, PACK),
        ):
            self.assertEqual(touched(cautions, declared), found, (cautions, declared))

    def test_no_step_of_set_that_touches_the_pack_passes_in_quarantine(self) -> None:
        self.say_hot()
        bike = stands_of(self.job)
        tried = 0
        for instrument in INSTRUMENTS:
            for subject in instrument.subjects(bike):
                for step in instrument.steps(bike, subject.id, {}):
                    if step.touched == NOTHING:
                        continue
                    tried += 1
                    with (
                        self.subTest(instrument.key, step=step.id),
                        self.assertRaisesMessage(ValidationError, "quarantine"),
                    ):
                        take_reading(
                            actor=self.technician,
                            job=self.job,
                            key=instrument.key,
                            subject=subject.id,
                            step_id=step.id,
                            typed={field.id: "1" for field in step.fields},
                            ticked=step.cautions,
                        )
        self.assertGreater(tried, 10)

    def test_what_is_moved_and_looked_at_at_the_packs_plug_waits(self) -> None:
        self.say_hot()
        for item in (
            Evidence("wiggle", "same", subject="j-pack"),
            Evidence("inspect", "good", subject="join:j-pack"),
            Evidence("feel", "cool", subject="j-pack"),
        ):
            with self.subTest(item.kind), self.assertRaisesMessage(Blocked, "quarantine"):
                self.add(item)

    def test_steps_about_the_pack_wait_and_dead_ones_do_not(self) -> None:
        job = self.open(purposes=["build"])
        answer_triage(actor=self.technician, job=job, answers=ALL_NO | {"hot": True})
        for step, waits in (
            ("fit:pack", True),
            ("connect:j-pack", True),
            ("fit:motor", False),
            ("connect:j-throttle", False),
        ):
            with self.subTest(step):
                if waits:
                    with self.assertRaisesMessage(ValidationError, "quarantine"):
                        tick(actor=self.technician, job=job, step_id=step, done=True)
                else:
                    self._ticks(job, step)

    def _ticks(self, job: Job, step: str) -> None:
        tick(actor=self.technician, job=job, step_id=step, done=True)
        tick(actor=self.technician, job=job, step_id=step, done=False)

    def test_a_read_run_that_paused_waits(self) -> None:
        self.say_hot()
        Line.objects.create(job=self.job, part="controller", address="tcp:127.0.0.1:7/1")
        from django.utils import timezone

        run = Run.objects.create(
            job=self.job,
            part="controller",
            kind="read",
            state="paused",
            at=timezone.now(),
            by=self.technician,
            by_name="tech",
        )
        with self.assertRaisesMessage(ValidationError, "quarantine"):
            resume(actor=self.technician, job=self.job, run=run)
