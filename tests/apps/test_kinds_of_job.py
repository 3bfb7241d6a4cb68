"""Every kind of job from the empty bike to the closed record."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.core.exceptions import ValidationError

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.services import edit_bike, store_bike
from brightcircuit.jobs.changed import changes_of, planned_of
from brightcircuit.jobs.descriptions import say_what_is_opened
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.way import key_of, plan_of, stands_of, way_of
from brightcircuit.library.services import add_generic
from brightcircuit.prove.queries import rows_of
from brightcircuit.prove.services import enter
from brightcircuit.record.facts import rider_facts
from brightcircuit.record.services import close_job
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.proven_line import proven_lights
from brightcircuit.stations.whats_open import whats_open
from brightcircuit.wire.queries import done_steps, work_of
from brightcircuit.wire.services import tick
from brightcore.describing.edit import remove_part
from brightcore.describing.patterns import make_pattern
from brightcore.procedure.rider import rider_sheet
from brightcore.procedure.step import ON, OUT, PLUG
from tests.amount import sampled
from tests.apps.base import ShopTest
from tests.apps.plans import exchanged, without


@dataclass(frozen=True)
class Journey:
    """One kind of job: the bike as it arrives, what is planned on it, and what must and must not be
    said.

    `plan`: changes (what, part, library slug); `bare`: the bike is in a box. `steps`, `proofs`:
    beginnings of ids that must be there; `never`: words that stand in no step, no proof and not on
    the rider's sheet.
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
        proofs=(
            "cut:lever_left",
            "cut:lever_right",
            "throttle:",
            "light:lamp",
            "axle:motor",
            "charge:pack",
        ),
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
        steps=(
            "remove:motor",
            "plain-wheel:motor",
            "cranks:motor_2",
            "fit:motor_2",
            "ring:motor_2",
        ),
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
        never=("freewheel or cassette", "lights"),
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
            actor=self.technician,
            revision=revision,
            complaint=journey.name,
            purposes=list(journey.purposes),
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
        for journey in sampled(JOURNEYS, 2):
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
        self._nothing_false(
            journey, " ".join(f"{row.check.title} {row.check.method}" for row in rows)
        )
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

    def _looks_at_packs(self, job: Job) -> None:
        """Answer what is asked about the packs that are on the bike now, all no."""
        answers = job.arrival.triage
        asked = [q.key for q in questions(job) if answers.get(q.key) is None]
        if asked:
            answer_triage(actor=self.technician, job=job, answers=dict.fromkeys(asked, False))

    def _ticked_through(self, job: Job) -> None:
        """Tick every step in its order; none is too early, and none meets the pack in the wrong
        place."""
        inside = any(
            "pack" in {stands_of(job).part(p).kind for p, _ in j.sides()}
            for j in stands_of(job).joins
        )
        for step in work_of(job).steps:
            family = step.id.partition(":")[0]
            if step.power == OUT and family != "pack-out":
                self.assertFalse(inside, step.id)
            if step.power == ON:
                self.assertTrue(inside, step.id)
            if step.id not in done_steps(job):
                # A pack that has come onto the bike is looked at before anything is powered.
                self._looks_at_packs(job)
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
