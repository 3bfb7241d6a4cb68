"""Filling an empty database with the demo world. Readings come from the simulator, seed fixed."""

import uuid
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.utils import timezone

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage, note_found
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.services import edit_bike, import_bike, store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.demo.practice import practice_demo
from brightcircuit.demo.program import program_demo
from brightcircuit.demo.work import came_back, offers_of, prove_all, work_before
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import RepairPlan, do_repair, prove
from brightcircuit.jobs.services import Planned, Symptoms, plan_job
from brightcircuit.library.services import add_generic
from brightcircuit.match.services import add_variant, ask
from brightcircuit.prove.services import enter
from brightcircuit.record.services import close_job
from brightcircuit.set.finishing import finish
from brightcircuit.set.models import Calibration
from brightcircuit.set.services import take_reading
from brightcircuit.shop.models import Person, Role
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.summary import refresh_summary
from brightcircuit.trace.services import add_evidence
from brightcore.bike.model import Bike
from brightcore.bike.space import NOTHING_MEASURED, Room, Size, Space
from brightcore.describing.patterns import make_pattern
from brightcore.tracing.engine import Engine
from brightcore.tracing.proving import proof_of
from brightcore.tracing.simulated import TrueBikes
from brightcore.tracing.trace import Trace

SEED = 1
PASSWORD = "lantern-yard"
BIKES = ("fern", "otter", "teasel")
FERN_FAULT = "hall_cable.halls_m.a/contact/mid"
FERN_TESTS = (
    "look switch_on",
    "look throttle",
    "volts hall_cable.halls_c.v5 hall_cable.halls_c.gnd @ on",
)
BRAMBLE_APART = ("j7", "j8", "j9", "j12", "j16")
"""What is not connected yet on Bramble's right side, and planned: phases, halls, key, cut-offs,
throttle."""

LAMP_FAULT = "controller.lamp.plus/contact/open"
LAMP_TESTS = (
    "look switch_on",
    "volts controller.lamp.plus controller.lamp.minus @ on",
    "volts lamp.plug.plus lamp.plug.minus @ on",
)


def load_demo() -> bool:
    """Load people, bikes and jobs; returns False where there is data already."""
    if Person.objects.exists():
        return False
    quill = Person.objects.create_user(
        "quill", password=PASSWORD, first_name="R.", last_name="Quill"
    )
    lead = Person.objects.create_user(
        "lead", password=PASSWORD, first_name="M.", last_name="Tarn", role=Role.LEAD
    )
    here = Path(__file__).parent
    revisions = {
        name: import_bike(actor=lead, text=(here / f"{name}.json").read_bytes()).revision
        for name in BIKES
    }
    add_generic()
    whole: dict[str, Bike] = {}
    for name, pattern in (("Juniper", "two-packs"), ("Bramble", "two-motor-cart")):
        made = replace(
            make_pattern(pattern, name),
            uuid=str(uuid.uuid5(uuid.NAMESPACE_DNS, f"{name}.lantern-yard")),
        )
        info = {
            "Juniper": "Tandem with two packs and a combining module",
            "Bramble": "Walk-behind market barrow with two motors",
        }[name]
        made = replace(made, space=SPACES.get(name, NOTHING_MEASURED))
        made = replace(made, info=replace(made.info, description=info, place="Marrow Quay"))
        whole[name] = made
        joined = tuple(j for j in made.joins if name != "Bramble" or j.id not in BRAMBLE_APART)
        revisions[name] = store_bike(actor=lead, bike=replace(made, joins=joined)).revision
    work_before(quill, lead, revisions["fern"])
    _lamp_job(quill, revisions["fern"])
    otter = open_job(
        actor=lead,
        revision=revisions["otter"],
        symptoms=Symptoms({"throttle-silent": False, "brake-shown": False}),
        complaint=(
            "Motor will not run at all since the bars were turned; display lights, "
            "with a brake mark"
        ),
    )
    answer_triage(actor=lead, job=otter, answers=_all_no(otter))
    came_back(
        quill,
        revisions["teasel"],
        "Goes fine on the flat, nothing at all for a minute after a long ramp, then works again",
    )
    juniper = open_job(
        actor=lead,
        revision=revisions["Juniper"],
        complaint=(
            "Range has gone since the second pack; the riders want the harbour hill without walking"
        ),
    )
    answer_triage(actor=lead, job=juniper, answers=_all_no(juniper))
    ask(
        actor=lead,
        job=juniper,
        values={
            "load_mass_kg": 150.0,
            "rider_w": 120.0,
            "hill_percent": 6.0,
            "place": "Marrow Quay",
        },
    )
    add_variant(
        actor=lead,
        job=juniper,
        variant={
            "name": "52 V packs",
            "pack": "pack-52v-14s4p",
            "controller": "controller-52v-22a",
        },
    )
    add_variant(
        actor=lead,
        job=juniper,
        variant={"name": "mid drive", "motor": "mid-750w", "chain_ring": 34},
    )
    bramble = open_job(
        actor=quill,
        revision=revisions["Bramble"],
        complaint="Second motor and controller are on; the left side runs, wire the right side in",
        purposes=["retrofit"],
    )
    answer_triage(actor=quill, job=bramble, answers=_all_no(bramble))
    row = revisions["Bramble"].bike
    edit_bike(
        actor=quill, bike=row, core=whole["Bramble"], base=1, what="Right side as it shall be wired"
    )
    bramble = whole_job(bramble.uuid).get()
    fern = open_job(
        actor=quill,
        revision=revisions["fern"],
        symptoms=Symptoms({"rough": False, "error-hall": False}),
        complaint="Shudders when pulling away since a wet week, and sometimes shows an error",
    )
    answer_triage(
        actor=quill,
        job=fern,
        answers=_all_no(fern),
        note="Crust of salt on the motor plug; plug points up. Pack dry, no marks.",
    )
    note_found(
        actor=quill,
        job=fern,
        circumstances=["rain"],
        wires=["green"],
        places={"green": "j-halls-m"},
    )
    _measure(quill, fern, FERN_FAULT, FERN_TESTS)
    _set_throttle(quill, fern)
    _set_cut_off(lead, otter)
    _begin_finder(quill, bramble)
    program_demo(otter, fern, bramble, quill)
    _plan(quill, lead, {"otter": otter, "juniper": juniper, "bramble": bramble, "fern": fern})
    _prove_some(quill, juniper)
    offers_of(lead, juniper)
    practice_demo(lead, PASSWORD)
    for job in Job.objects.select_related("revision__bike", "arrival"):
        refresh_summary(job)
    return True


def _plan(quill: Person, lead: Person, jobs: dict[str, Job]) -> None:
    """What the jobs are for, for when, and who has them."""
    today = timezone.localdate()
    for name, planned in (
        ("otter", Planned(("repair", "set-up"), today + timedelta(days=1), lead, place="stand 1")),
        (
            "juniper",
            Planned(
                ("upgrade", "check-over"), today + timedelta(days=6), lead, "customer", "shelf"
            ),
        ),
        ("bramble", Planned(("retrofit",), today + timedelta(days=3), quill, place="yard")),
        ("fern", Planned(("repair",), today, quill, place="stand 2")),
    ):
        job = jobs[name]
        job.refresh_from_db()
        plan_job(actor=lead, job=job, planned=planned)


def _prove_some(actor: Person, job: Job) -> None:
    """Juniper is looked over whole: two checks are made, of which one is not so."""
    job.refresh_from_db()
    for check, answer, note in (
        ("together", "yes", ""),
        ("light:lamp", "no", "Flickers when the bars are turned."),
    ):
        enter(actor=actor, job=job, check_id=check, answer=answer, note=note, ticked=GATES)


DRIFTED = (
    {
        "supply_v": "5.02",
        "rest_v": "0.83",
        "full_v": "4.12",
        "sweep": "0.83 1.24 1.81 2.47 3.22 3.85 4.12",
    },
    {
        "supply_v": "5.01",
        "rest_v": "0.96",
        "full_v": "4.10",
        "sweep": "0.96 1.33 1.88 2.52 3.24 3.83 4.10",
    },
)
"""Fern's throttle twice: its rest has wandered."""

GATES = ("pack_safe", "wheel_up", "pack_out", "discharged")


def _set_throttle(actor: Person, job: Job) -> None:
    where: dict[str, Any] = {"actor": actor, "job": job, "key": "throttle", "subject": "throttle"}
    for typed in DRIFTED:
        for step in ("supply", "rest", "full", "sweep"):
            take_reading(**where, step_id=step, typed=typed, ticked=GATES)
        made = finish(**where)
    Calibration.objects.filter(job=job).exclude(pk=made.pk).update(at=made.at - timedelta(days=63))


def _set_cut_off(actor: Person, job: Job) -> None:
    """Otter's front cut-off is placed and glued, and looked at again soon; the rear one is only
    tacked."""
    where: dict[str, Any] = {"actor": actor, "job": job, "key": "cut-off"}
    typed = {
        "tack": "done",
        "rest": "off",
        "wiggle": "off",
        "cut_mm": "11.5",
        "bite_mm": "24",
        "free_mm": "4",
        "bar_mm": "38",
        "glue": "done",
    }
    for step in ("tack", "rest", "wiggle", "travel", "glue"):
        take_reading(
            **where, subject="cut_off_front", step_id=step, typed=typed, ticked=GATES, minutes=10.0
        )
    take_reading(**where, subject="cut_off_rear", step_id="tack", typed=typed)


def _begin_finder(actor: Person, job: Job) -> None:
    """Bramble's right motor: one trial, which locked."""
    where: dict[str, Any] = {"actor": actor, "job": job, "key": "ways", "subject": "motor_right"}
    take_reading(**where, step_id="UVW-ABC", typed={"UVW-ABC": "locked"}, ticked=GATES)


SPACES = {
    "Juniper": Space(
        (
            Size("pack_front", 365.0, 90.0, 110.0, 30.0),
            Size("controller", 190.0, 95.0, 48.0),
            Size("combiner", 80.0, 60.0, 30.0),
            Size("display", width_mm=70.0, clamp_mm=31.8),
            Size("throttle", width_mm=45.0, clamp_mm=22.2),
        ),
        (
            Room(
                "room-1", "Front triangle", "triangle", 640.0, 500.0, 560.0, 115.0, ("pack_front",)
            ),
            Room("room-2", "Frame bag", "box", 200.0, 100.0, 60.0, 0.0, ("controller", "combiner")),
            Room("room-3", "Front bar", "bar", 22.2, 140.0, parts=("display", "throttle")),
            Room("room-4", "Bracket channel", "hole", 18.0, parts=("display", "throttle")),
        ),
    )
}
"""What was measured of the demo bikes."""


def _all_no(job: Job) -> dict[str, bool]:
    return dict.fromkeys((question.key for question in questions(job)), False)


def _measure(actor: Person, job: Job, fault: str, tests: tuple[str, ...]) -> Trace:
    """Let the simulated bike with that fault answer tests, and store the answers."""
    engine = Engine(core_bike(job.revision))
    bikes = TrueBikes(engine, [engine.hypotheses.index(fault)], SEED)
    trace = Trace(engine, [])
    for test_id in tests:
        test = engine.by_id[test_id]
        items = list(bikes.answer(test, 0))
        job.refresh_from_db()
        add_evidence(
            actor=actor,
            job=job,
            trace=trace,
            items=items,
            ticked=test.gates,
            client="",
            version=job.version,
        )
        trace = Trace(engine, [*trace.evidence, *items])
    return trace


def _lamp_job(actor: Person, revision: Revision) -> None:
    """An earlier job, found, proved and closed."""
    job = open_job(
        actor=actor,
        revision=revision,
        symptoms=Symptoms({"lamp-dark": False}),
        complaint="Front lamp has gone out",
    )
    answer_triage(actor=actor, job=job, answers=_all_no(job))
    trace = _measure(actor, job, LAMP_FAULT, LAMP_TESTS)
    item = trace.engine.hypotheses.items[trace.engine.hypotheses.index(LAMP_FAULT)]
    proof = proof_of(trace, item.repair.id)
    frozen = {
        "engine": "1",
        "fault": item.title,
        "probability": round(float(trace.repair_belief[trace.leading_repair]), 4),
    }
    plan = RepairPlan(
        item.repair.id,
        item.repair.action,
        item.repair.root_cause,
        item.id,
        "contact/open",
        proof.title if proof else "",
        proof.expected if proof else "",
        frozen,
    )
    do_repair(actor=actor, job=job, plan=plan)
    prove(actor=actor, job=job, passed=True, cause="Found and mended")
    prove_all(actor, job)
    close_job(actor=actor, job=job)
