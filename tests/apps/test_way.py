"""Jobs from an empty bike to the closed record: the plan, the order, the proof and the paper follow what
hands do."""

from collections.abc import Sequence
from dataclasses import dataclass
from importlib import import_module

from django.apps import apps
from django.core.exceptions import ValidationError
from django.urls import reverse

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision, edit_bike, store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.belief import NOBODY, job_trace
from brightcircuit.jobs.changed import changes_of, planned_of
from brightcircuit.jobs.descriptions import say_what_edits_are, say_what_is_opened, was_so_already
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import NewThing, RepairPlan, do_repair, prove, withdraw_repair
from brightcircuit.jobs.services import Beginning
from brightcircuit.jobs.way import key_of, plan_of, stands_of, way_of
from brightcircuit.library.models import LibraryPart
from brightcircuit.library.services import add_generic
from brightcircuit.library.translate import core_entry
from brightcircuit.prove.queries import rows_of
from brightcircuit.prove.services import enter
from brightcircuit.record.facts import rider_facts
from brightcircuit.record.services import close_job
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.proven_line import proven_lights
from brightcircuit.stations.summary import next_thing
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.wire.queries import done_steps, work_of
from brightcircuit.wire.services import tick
from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.patterns import make_pattern
from brightcore.describing.swap import swap_part
from brightcore.formats.bike_writing import canonical_json, dump_bike
from brightcore.procedure.rider import rider_sheet
from brightcore.procedure.step import ON, OUT, PLUG
from brightcore.wiring.propose import accept, propose_joins
from tests.apps.base import ALL_NO, ShopTest


def without(bike: Bike, *parts: str) -> Bike:
    for part in parts:
        bike = remove_part(bike, part).bike
    return bike


def exchanged(bike: Bike, part: str, slug: str) -> Bike:
    """Return a bike with a library part in a part's place, and what is then free connected as proposed."""
    e = core_entry(LibraryPart.objects.get(slug=slug))
    made = swap_part(bike, part, e.kind, e.name, e.spec, e.ports).bike
    return accept(made, propose_joins(made))


def added(bike: Bike, slug: str) -> Bike:
    e = core_entry(LibraryPart.objects.get(slug=slug))
    made = add_part(bike, e.kind, e.name, e.spec, e.ports)
    return accept(made, propose_joins(made))


@dataclass(frozen=True)
class Journey:
    """One kind of job: the bike as it arrives, what is planned on it, and what must and must not be said.

    `plan`: changes (what, part, library slug); `bare`: the bike is in a box. `steps`, `proofs`:
    beginnings of ids that must be there; `never`: words that stand in no step, no proof and not on the
    rider's sheet.
    """

    name: str
    pattern: str
    purposes: Sequence[str]
    plan: Sequence[tuple[str, str, str]] = ()
    bare: bool = False
    steps: Sequence[str] = ()
    proofs: Sequence[str] = ()
    rider: Sequence[str] = ()
    opens: Sequence[str] = ()
    never: Sequence[str] = ()


JOURNEYS = (
    Journey(
        "kit, rear",
        "hub-conversion",
        ("build",),
        bare=True,
        steps=("wheel-out:motor", "arm:motor", "nuts:motor", "power-up", "brakes", "tie"),
        proofs=("cut:lever_left", "cut:lever_right", "throttle:", "light:lamp", "axle:motor", "charge:pack"),
        rider=("Built: ", "Left brake lever, Right brake lever", "Axle nuts"),
        never=("cover, axle", "nothing was changed"),
    ),
    Journey(
        "kit, front, folder",
        "folding",
        ("build",),
        bare=True,
        steps=("nuts:motor", "set:lever_left", "fix:lever_left", "move"),
        proofs=("cut:lever_left", "move:fold", "assist"),
        rider=("Built: ",),
        never=("freewheel", "throttle", "Throttle"),
    ),
    Journey(
        "throttle added to a pedal-assist bike",
        "hub-conversion",
        ("retrofit",),
        plan=(("put-back", "throttle", ""),),
        steps=("fit:throttle", "grips", "power-up"),
        proofs=("throttle:throttle", "cut:lever_left"),
        rider=("Fitted: Thumb throttle", "touch of the throttle"),
        never=("Axle nuts of", "freewheel", "Built"),
    ),
    Journey(
        "cut-off on a hydraulic lever",
        "folding",
        ("retrofit",),
        plan=(("put-back", "lever_left", ""),),
        steps=("set:lever_left", "fix:lever_left", "fit:lever_left"),
        proofs=("cut:lever_left",),
        rider=("Fitted: Left brake lever",),
        never=("Axle nuts of", "freewheel"),
    ),
    Journey(
        "controller of many plugs exchanged",
        "hub-conversion",
        ("upgrade",),
        plan=(("swap", "controller", "controller-48v-22a"),),
        steps=("remove:controller", "fit:controller_2", "disconnect:", "connect:", "power-up"),
        proofs=("cut:lever_left", "cut:lever_right", "throttle:", "light:lamp", "minute"),
        rider=("Controller replaced by",),
        never=("Axle nuts of", "Looked over"),
    ),
    Journey(
        "stronger motor",
        "hub-conversion",
        ("upgrade",),
        plan=(("swap", "motor", "hub-1000w-direct"),),
        steps=("remove:motor", "fit:motor_2", "over:motor_2", "nuts:motor_2", "power-up"),
        proofs=("axle:motor_2", "minute", "road-hill"),
        rider=("Rear hub motor replaced by",),
        never=("plain wheel", "cover, axle"),
    ),
    Journey(
        "hub gives way to a plain wheel",
        "hub-conversion",
        ("rescue",),
        plan=(("remove", "motor", ""),),
        steps=("remove:motor", "plain-wheel:motor", "left-over"),
        rider=("Removed: Rear hub motor",),
        never=("Axle nuts of", "stops the motor", "First power-up"),
    ),
    Journey(
        "hub bike becomes a mid drive",
        "hub-conversion",
        ("rescue",),
        plan=(("swap", "motor", "mid-750w"),),
        steps=("remove:motor", "plain-wheel:motor", "cranks:motor_2", "fit:motor_2", "ring:motor_2"),
        rider=("Rear hub motor replaced by",),
        never=("Axle nuts of Mid",),
    ),
    Journey(
        "second pack with a module",
        "two-packs",
        ("retrofit",),
        plan=(("put-back", "pack_rear", ""), ("put-back", "combiner", "")),
        steps=("fit:pack_rear", "fit:combiner"),
        proofs=("alone:pack_front", "alone:pack_rear", "together", "charge:pack_rear"),
        rider=("Fitted: ", "Several batteries"),
        never=("Axle nuts of",),
    ),
    Journey(
        "soft packs in series",
        "soft-packs",
        ("build",),
        bare=True,
        steps=("heard:alarm_upper", "heard:alarm_lower", "fit:fuse", "fit:key"),
        proofs=("alarm:alarm_upper", "key:key"),
        rider=("Unplug the batteries", "Only Brake lever"),
        never=("freewheel or cassette and disc over", "lights"),
    ),
    Journey(
        "light motorcycle",
        "light-motorcycle",
        ("build",),
        bare=True,
        steps=("lugs:controller", "cover:controller", "fit:stand", "fit:key"),
        proofs=("cut-other:stand", "key:key", "light:lamp", "horn:horn"),
        rider=("Only Brake lever",),
        never=("freewheel", "gears", "Walk assist", "cassette"),
    ),
    Journey(
        "two motors, one set of controls",
        "two-motor-cart",
        ("build",),
        bare=True,
        steps=("nuts:motor_left", "nuts:motor_right", "fit:controller_right"),
        proofs=("motor:motor_left", "motor:motor_right"),
        never=("freewheel", "Walk assist"),
    ),
    Journey(
        "tracker in a line",
        "two-packs",
        ("retrofit",),
        plan=(("put-back", "tracker", ""),),
        steps=("fit:tracker",),
        proofs=("report:tracker",),
        rider=("Fitted: ", "plan has to be renewed"),
        never=("Axle nuts of", "First charge"),
    ),
    Journey(
        "mid drive kit",
        "mid-conversion",
        ("build",),
        bare=True,
        steps=("cranks:motor", "fit:motor", "ring:motor", "fit:gear"),
        proofs=("cut-other:gear", "assist"),
        never=("Axle nuts of", "Old wheel out"),
    ),
    Journey(
        "lamp added",
        "hub-conversion",
        ("retrofit",),
        plan=(("put-back", "lamp", ""),),
        steps=("fit:lamp", "prove"),
        proofs=("light:lamp",),
        rider=("Fitted: Front lamp",),
        never=("Axle nuts of", "Grips", "First power-up"),
    ),
    Journey(
        "higher voltage",
        "hub-conversion",
        ("upgrade",),
        plan=(
            ("swap", "pack", "pack-52v-14s4p"),
            ("swap", "controller", "controller-52v-22a"),
        ),
        steps=("remove:pack", "fit:pack_2", "fit:controller_2", "disconnect:j1", "power-up"),
        proofs=("charge:pack_2", "seat:pack_2", "cut:lever_left", "light:lamp"),
        rider=("Pack replaced by", "Controller replaced by"),
        never=("Axle nuts of", "Grips"),
    ),
    Journey(
        "mid drive on an outside controller",
        "mid-outside",
        ("build",),
        bare=True,
        steps=("cranks:motor", "ring:motor", "fit:controller", "set:torque"),
        proofs=("cut-other:gear", "assist"),
        never=("Axle nuts of", "throttle", "Throttle"),
    ),
    Journey(
        "locked drive, opened hub",
        "opened-hub",
        ("rescue", "build"),
        bare=True,
        opens=("motor",),
        steps=("mark:motor", "inside:motor", "cable:motor", "shut:motor", "nuts:motor"),
        proofs=("minute", "cut:lever_left"),
        rider=("Built: ",),
    ),
    Journey(
        "set-up of what is there",
        "hub-conversion",
        ("set-up",),
        never=("Axle nuts of",),
        rider=("Looked over; nothing was changed.",),
    ),
    Journey(
        "display to be exchanged",
        "hub-conversion",
        ("upgrade",),
        plan=(("swap", "display", "display-5-pin"),),
        steps=("remove:display", "fit:display_2"),
        proofs=("road-speed", "cut:lever_left"),
        rider=("Display replaced",),
        never=("Axle nuts of",),
    ),
)


class JourneyTest(ShopTest):
    """Every kind of job from the empty bike to the closed record."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def begun(self, journey: Journey) -> Job:
        """Return the job of a journey with its plan described."""
        whole = make_pattern(journey.pattern, journey.name)
        back = [part for what, part, _ in journey.plan if what == "put-back"]
        start = without(whole, *back)
        revision = store_bike(actor=self.technician, bike=start).revision
        job = open_job(
            actor=self.technician, revision=revision, complaint=journey.name, purposes=list(journey.purposes)
        )
        plan = whole if back else start
        for what, part, slug in journey.plan:
            if what == "swap":
                plan = exchanged(plan, part, slug)
            elif what == "remove":
                plan = remove_part(plan, part).bike
        if plan != start:
            edit_bike(actor=self.technician, bike=revision.bike, core=plan, base=1, what="Planned")
        job = whole_job(job.uuid).get()
        if journey.opens:
            say_what_is_opened(actor=self.technician, job=job, parts=journey.opens)
        asked = [question.key for question in questions(job)]
        answer_triage(actor=self.technician, job=job, answers=dict.fromkeys(asked, False))
        return whole_job(job.uuid).get()

    def test_every_kind_of_job(self) -> None:
        for journey in JOURNEYS:
            with self.subTest(journey.name):
                self._goes(journey)

    def _goes(self, journey: Journey) -> None:
        job = self.begun(journey)
        self.assertEqual(bool(changes_of(job)), False, "nothing is done by describing it")
        self.assertEqual(bool(planned_of(job)), bool(journey.plan or journey.bare))
        order = work_of(job)
        self.assertEqual(order.hindered, ())
        ids = [step.id for step in order.steps]
        for wanted in journey.steps:
            self.assertTrue(any(i.startswith(wanted) for i in ids), (wanted, ids))
        text = " ".join(step.title for step in order.steps)
        self._nothing_false(journey, text)
        self._ticked_through(job)
        job = whole_job(job.uuid).get()
        self.assertEqual(way_of(job).left, ())
        self.assertEqual(stands_of(job), plan_of(job))
        self.assertEqual(key_of(job), job.revision.sha256)
        rows = rows_of(job)
        checks = [row.check.id for row in rows]
        for wanted in journey.proofs:
            self.assertTrue(any(i.startswith(wanted) for i in checks), (wanted, checks))
        self._nothing_false(journey, " ".join(f"{row.check.title} {row.check.method}" for row in rows))
        with self.assertRaises(ValidationError):
            close_job(actor=self.technician, job=job, reason="done")
        self._proven(job)
        job = whole_job(job.uuid).get()
        left = {item.station for item in whats_open(job)}
        self.assertEqual(left & {"wire", "prove", "trace", "arrive"}, set(), whats_open(job))
        reasons = {item.key: "agreed with the rider" for item in whats_open(job)}
        close_job(actor=self.lead, job=job, reasons=reasons)
        lit = proven_lights(job, drawing_of(stands_of(job)))
        if "minute" in checks:
            self.assertTrue(any(light.state == "lit" for light in lit.values()))
        sheet = rider_sheet(stands_of(job), rider_facts(job), job.opened.date())
        said = "\n".join(line for part in sheet for line in part.lines)
        for words in journey.rider:
            self.assertIn(words, said)
        self._nothing_false(journey, said)
        self.assertNotIn("_", said)

    def _nothing_false(self, journey: Journey, text: str) -> None:
        for words in journey.never:
            self.assertNotIn(words, text)

    def _ticked_through(self, job: Job) -> None:
        """Tick every step in its order; none is too early, and none meets the pack in the wrong place."""
        inside = any(
            "pack" in {stands_of(job).part(p).kind for p, _ in j.sides()} for j in stands_of(job).joins
        )
        for step in work_of(job).steps:
            family = step.id.partition(":")[0]
            if step.power == OUT and family != "pack-out":
                self.assertFalse(inside, step.id)
            if step.power == ON:
                self.assertTrue(inside, step.id)
            if step.id not in done_steps(job):
                self.assertEqual(
                    tick(actor=self.technician, job=job, step_id=step.id, done=True), "", step.id
                )
            inside = family != "pack-out" and (inside or step.power == PLUG)

    def _proven(self, job: Job) -> None:
        for row in rows_of(job):
            reading = row.check.reading
            text = f"{(reading.low + reading.high) / 2:.1f}" if reading else ""
            enter(
                actor=self.technician,
                job=job,
                check_id=row.check.id,
                text=text,
                answer="" if reading else "yes",
                ticked=row.check.gates,
            )


class PlanTest(ShopTest):
    """What is planned is not done; what is done stands; what is undone moves back."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        add_generic()

    def planning(self, **more: object) -> Job:
        """Return a retrofit on the bike with a horn planned."""
        job = self.open(purposes=["retrofit"], **more)
        job = whole_job(job.uuid).get()
        answer_triage(actor=self.technician, job=job, answers=ALL_NO)
        core = self._with_lamp(core_bike(job.revision))
        add_revision(actor=self.technician, bike=job.revision.bike, core=core, base=1, what="Planned")
        self.client.post(
            reverse("arrive", args=(job.uuid,)),
            {"action": "revision", "version": whole_job(job.uuid).get().version},
        )
        return whole_job(job.uuid).get()

    def _with_lamp(self, bike: Bike) -> Bike:
        return exchanged(bike, "throttle", "throttle-twist")

    def test_a_swap_in_the_description_counts_for_nothing_until_it_is_done(self) -> None:
        job = self.planning()
        self.assertFalse(changes_of(job))
        self.assertEqual([(a, b[:5]) for a, b in planned_of(job).exchanged], [("Thumb throttle", "Twist")])
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
        edit_bike(actor=self.technician, bike=job.revision.bike, core=again, base=2, what="throttle off")
        self.assertEqual([c.kind for c in way_of(self.job).left], ["disconnect", "remove"])

    def test_a_job_from_before_keeps_its_past(self) -> None:
        """What it describes counts as done, as it did when it was opened."""
        job = self.planning()
        Job.objects.filter(pk=job.pk).update(follows=False)
        job = whole_job(job.uuid).get()
        self.assertEqual(stands_of(job), plan_of(job))
        self.assertEqual([(a, b[:5]) for a, b in changes_of(job).exchanged], [("Thumb throttle", "Twist")])
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
            {("connect:j7", "done", ""), ("route", "given", "boss"), ("power-up", "found", "it hums")},
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
        text = canonical_json(document).replace(str(job.uuid), "6f0a2c8e-8a39-4b43-9d3b-4f7a1c5e2b10")
        other = text.replace(document["bike"]["uuid"], "0b7c1d2e-3f40-4a51-8b62-7c8d9e0f1a2b")
        copy, outcome = import_job(actor=self.technician, text=other)
        self.assertEqual(outcome, "new")
        copy = whole_job(copy.uuid).get()
        self.assertEqual([c.id for c in way_of(copy).left], [c.id for c in way_of(job).left])
        self.assertEqual({p.id for p in stands_of(copy).parts}, {p.id for p in stands_of(job).parts})


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
                self.assertTrue(any(words in line for line in changes_of(job).words), changes_of(job).words)
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
        item = Evidence("volts", "0.85", "on", f"throttle.{port}.{pins[-1]}", f"throttle.{port}.{pins[1]}")
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
        self.assertEqual({r.check.id.partition(":")[0]: r.state for r in rows_of(job)}["repair"], "passed")
        left = {change.id for change in way_of(job).left}
        step = next(s.id for s in work_of(job).steps if s.id in left)
        tick(actor=self.technician, job=job, step_id=step, done=True)
        self.assertEqual({r.check.id.partition(":")[0]: r.state for r in rows_of(job)}["repair"], "fell")

    def test_a_failed_proof_does_not_suspect_the_new_part_anew(self) -> None:
        job = self.repaired()
        prove(actor=self.technician, job=job, passed=False)
        tried = self.job.evidence.filter(kind="tried").last()
        self.assertEqual(
            (tried.subject, tried.words), ("part:throttle_2", "Repair done: Replace the Thumb throttle")
        )
