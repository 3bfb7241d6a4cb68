"""What is planned is not done; what is done stands; what is undone moves back."""

from importlib import import_module
from types import SimpleNamespace
from typing import Any, cast
from unittest.mock import patch

from django.apps import apps
from django.test import SimpleTestCase
from django.urls import reverse

from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision, edit_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.changed import changes_of, planned_of
from brightcircuit.jobs.descriptions import say_what_edits_are, was_so_already
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.services import Beginning
from brightcircuit.jobs.way import is_past, plan_of, stands_of, way_of
from brightcircuit.library.services import add_generic
from brightcircuit.prove.queries import rows_of
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.wire.queries import work_of
from brightcircuit.wire.services import tick
from brightcore.bike.model import Bike
from brightcore.formats.bike_writing import canonical_json, dump_bike
from brightcore.tracing.evidence import Evidence
from tests.apps.base import ALL_NO, ShopTest
from tests.apps.plans import exchanged, without
from tests.bikes import demo_bike


class PastTest(SimpleTestCase):
    """A reading is of the past once its part or its plug was changed after it."""

    def test_a_change_at_its_part_or_plug_makes_a_reading_past(self) -> None:
        bike = demo_bike("fern")
        port = bike.part("throttle").ports[0]
        red, black = (f"throttle.{port.id}.{pin.name}" for pin in port.pins[:2])
        reading = Evidence("volts", "0.85", "on", red, black)
        plug = f"throttle.{port.id}"
        for parts, plugs, at, past in (
            (("throttle",), (), 2, True),
            ((), (plug,), 2, True),
            (("motor",), ("motor.plug",), 2, False),
            (("throttle",), (plug,), 0, False),
        ):
            row, change = SimpleNamespace(at=1), SimpleNamespace(at=at, how="step")
            seen = SimpleNamespace(stands=bike, rows=(change,))
            with (
                patch("brightcircuit.jobs.way.core_evidence", return_value=reading),
                patch("brightcircuit.jobs.way.core_done"),
                patch("brightcircuit.jobs.way.touched_by", return_value=(parts, plugs)),
            ):
                self.assertEqual(is_past(cast(Any, seen), cast(Any, row)), past, (parts, plugs, at))


class PlanTest(ShopTest):
    """What is planned is not done; what is done stands; what is undone moves back."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def planning(self, **more: object) -> Job:
        """Return a retrofit on the bike with another throttle planned."""
        job = self.open(purposes=["retrofit"], **more)
        job = whole_job(job.uuid).get()
        answer_triage(actor=self.technician, job=job, answers=ALL_NO)
        core = self._with_twist_throttle(core_bike(job.revision))
        add_revision(
            actor=self.technician, bike=job.revision.bike, core=core, base=1, what="Planned"
        )
        self.client.post(
            reverse("arrive", args=(job.uuid,)),
            {"action": "revision", "version": whole_job(job.uuid).get().version},
        )
        return whole_job(job.uuid).get()

    def _with_twist_throttle(self, bike: Bike) -> Bike:
        return exchanged(bike, "throttle", "throttle-twist")

    def test_a_swap_in_the_description_counts_for_nothing_until_it_is_done(self) -> None:
        job = self.planning()
        self.assertFalse(changes_of(job))
        self.assertEqual(
            [(a, b[:5]) for a, b in planned_of(job).exchanged], [("Thumb throttle", "Twist")]
        )
        self.assertIn("throttle", {p.id for p in stands_of(job).parts})
        self.assertEqual(rows_of(job), [])
        self.assertIn("wire", {item.station for item in whats_open(job)})

    def test_a_tick_moves_its_part_and_undoing_moves_it_back(self) -> None:
        job = self.planning()
        before = stands_of(job)
        ids = [step.id for step in work_of(job).steps if step.id.startswith("disconnect:")]
        tick(actor=self.technician, job=job, step_id=ids[0], done=True)
        self.assertEqual(len(stands_of(job).joins), len(before.joins) - 1)
        tick(actor=self.technician, job=job, step_id=ids[0], done=False)
        self.assertEqual(stands_of(job), before)
        self.assertEqual(ChangeDone.objects.filter(job=job, undone=True).count(), 1)

    def test_what_was_so_already_is_no_work_of_this_job(self) -> None:
        job = self.planning()
        every = [change.id for change in way_of(job).left]
        was_so_already(actor=self.technician, job=job, changes=every)
        self.assertEqual(way_of(job).left, ())
        self.assertFalse(changes_of(job))
        self.assertEqual(work_of(job).steps, ())

    def test_a_build_described_before_its_job_is_all_in_the_box_but_what_stands(self) -> None:
        for new, fitted in (((), 10), (("lamp", "display"), 2)):
            job = self.open(purposes=["build"], beginning=Beginning("shall", new))
            with self.subTest(new):
                plan = planned_of(job)
                self.assertGreaterEqual(len(plan.fitted), fitted)
                if new:
                    self.assertTrue(set(new) <= plan.fitted)
                    self.assertIn("controller", {p.id for p in stands_of(job).parts})
                else:
                    self.assertEqual(stands_of(job).parts, ())

    def test_every_page_of_a_job_opens_while_nothing_stands_yet(self) -> None:
        job = self.open(purposes=["build"])
        names = (
            "arrive",
            "match",
            "wire",
            "wire-order",
            "set",
            "program",
            "trace",
            "prove",
            "record",
            "record-rider",
        )
        for name in names:
            with self.subTest(name):
                self.assertEqual(self.client.get(reverse(name, args=(job.uuid,))).status_code, 200)

    def test_edits_of_a_repair_describe_what_stands(self) -> None:
        job = self.job
        self.assertFalse(job.plans)
        core = without(core_bike(job.revision), "lamp")
        edit_bike(actor=self.technician, bike=job.revision.bike, core=core, base=1, what="no lamp")
        job = self.job
        self.assertEqual(job.revision.number, 2)
        self.assertEqual(way_of(job).left, ())
        self.assertFalse(changes_of(job))
        say_what_edits_are(actor=self.technician, job=job, plans=True)
        again = without(core_bike(job.revision), "throttle")
        edit_bike(
            actor=self.technician, bike=job.revision.bike, core=again, base=2, what="throttle off"
        )
        self.assertEqual([c.kind for c in way_of(self.job).left], ["disconnect", "remove"])

    def test_a_job_from_before_keeps_its_past(self) -> None:
        """What it describes counts as done, as it did when it was opened."""
        job = self.planning()
        Job.objects.filter(pk=job.pk).update(follows=False)
        job = whole_job(job.uuid).get()
        self.assertEqual(stands_of(job), plan_of(job))
        self.assertEqual(
            [(a, b[:5]) for a, b in changes_of(job).exchanged], [("Thumb throttle", "Twist")]
        )
        self.assertEqual(way_of(job).left, ())

    def test_ticks_of_the_log_become_marks(self) -> None:
        """The migration reads what earlier versions wrote: done, undone, given, found."""
        moved = import_module("brightcircuit.jobs.migrations.0016_step_marks")
        for words in (
            "Done (pack-out): Pack off",
            "Done (plug:j7): Connect it",
            "Not done (pack-out): Pack off",
            "Given to boss (route): Route",
            "Found at (first-light): it hums",
        ):
            self.job.log.create(at=self.job.opened, by="tech", what="order", text=words)
        moved.marks_from_log(apps, None)
        rows = self.job.step_marks.filter(undone=False).values_list("step", "what", "text")
        self.assertEqual(
            set(rows),
            {
                ("connect:j7", "done", ""),
                ("route", "given", "boss"),
                ("power-up", "found", "it hums"),
            },
        )

    def test_where_a_value_comes_from_is_typed_shown_and_kept(self) -> None:
        bike = self.revision.bike
        page = reverse("describe-part", args=(bike.uuid, "pack"))
        form = self.client.get(page).context
        data = {f"spec-{row.name}": row.value for row in form["rows"]}
        data |= {"base": "1", "name": "Pack", "action": "spec", "mark": "LY-7"}
        data |= {"whence-bms_continuous_a": "label", "spec-capacity_ah": "17"}
        self.assertEqual(self.client.post(page, data).status_code, 302)
        part = core_bike(latest_revision(bike)).part("pack")
        self.assertEqual((part.mark, part.whence("bms_continuous_a")), ("LY-7", "label"))
        self.assertEqual((part.whence("capacity_ah"), part.whence("fuse_a")), ("told", "usual"))
        text = dump_bike(core_bike(latest_revision(bike)))
        self.assertIn('"version":3', text.replace(" ", ""))
        chain = self.client.get(reverse("match", args=(self.job_uuid,)))
        self.assertContains(chain, "not read yet")
        self.assertNotContains(chain, "BMS of the Pack: usual")

    def test_the_way_travels_with_the_job_file(self) -> None:
        job = self.planning()
        step = next(s.id for s in work_of(job).steps if s.id.startswith("disconnect:"))
        tick(actor=self.technician, job=job, step_id=step, done=True)
        job = whole_job(job.uuid).get()
        document = export_job(job)
        self.assertEqual(document["version"], 4)
        text = canonical_json(document).replace(
            str(job.uuid), "6f0a2c8e-8a39-4b43-9d3b-4f7a1c5e2b10"
        )
        other = text.replace(document["bike"]["uuid"], "0b7c1d2e-3f40-4a51-8b62-7c8d9e0f1a2b")
        copy, outcome = import_job(actor=self.technician, text=other)
        self.assertEqual(outcome, "new")
        copy = whole_job(copy.uuid).get()
        self.assertEqual([c.id for c in way_of(copy).left], [c.id for c in way_of(job).left])
        self.assertEqual(
            {p.id for p in stands_of(copy).parts}, {p.id for p in stands_of(job).parts}
        )
