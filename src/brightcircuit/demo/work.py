"""Work of the demo world: a build, a rescue, a bike with three visits behind it, offers, costs and
stock."""

import uuid
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone

from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import store_bike
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import NewThing, RepairPlan, do_repair, prove
from brightcircuit.jobs.services import Planned, plan_job
from brightcircuit.jobs.way import name_of, stands_of
from brightcircuit.library.models import StockItem
from brightcircuit.prove.queries import rows_of
from brightcircuit.prove.ride_services import take_ride
from brightcircuit.prove.services import enter
from brightcircuit.record.money import add_line, answer_for, choose_offer, offer
from brightcircuit.record.services import close_job
from brightcircuit.set.models import Calibration
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import the_shop
from brightcircuit.stations.opening import open_job
from brightcircuit.wire.queries import work_of
from brightcircuit.wire.services import found_at_step, give_step, tick
from brightcore.describing.patterns import make_pattern
from brightcore.formats.engine_version import engine_version
from brightcore.kinds.throttle import ThrottleSpec

RATE = 54
STOCK = (
    ("Three-wire throttle, right", "T-3R", 4, 2, "19.50"),
    ("Magnetic cut-off with magnet", "C-2M", 1, 2, "11.00"),
    ("Hall cable, 9 pins, 0.6 m", "H-906", 3, 1, "14.20"),
    ("Torque arm, 14 mm axle", "A-14", 2, 1, "17.80"),
    ("Blade fuse 40 A, 58 V", "F-40", 9, 4, "2.40"),
)
NEW_BIKES = (
    ("Clover", "folding", "Folding bike under conversion, hub motor in front"),
    ("Curlew", "mid-conversion", "City bike whose locked drive gets an outside controller"),
)
VISITS = (
    # days ago, complaint, pack capacity in Ah, throttle at rest in V
    (540, "Yearly look-over", 14.1, 0.82),
    (320, "Throttle feels late; yearly look-over", 13.2, 0.86),
    (110, "Range is not what it was", 11.6, 0.91),
)
"""Fern's visits before: how its pack and its throttle went."""

BUILT = 12
"""Steps of Clover that are done: its wheel is in, some of its plugs are."""

GATES = ("pack_safe", "wheel_up", "road", "charging")

WARRANTY_DAYS, CAME_BACK_DAYS = 180, 41


def work_before(quill: Person, lead: Person, fern: Revision) -> None:
    """Add what a shop has beside its faults, and what it did before."""
    shop = the_shop()
    shop.rate, shop.money = RATE, "€"
    shop.save()
    for name, number, count, least, each in STOCK:
        StockItem.objects.create(name=name, number=number, count=count, least=least, each=each)
    for days, complaint, capacity_ah, rest_v in VISITS:
        _visit(quill, fern, complaint, days, capacity_ah, rest_v)
    clover, curlew = (_opened(quill, *row) for row in NEW_BIKES)
    _build(quill, lead, clover)
    _rescue(lead, curlew)


def _opened(actor: Person, name: str, pattern: str, words: str) -> Job:
    made = replace(
        make_pattern(pattern, name),
        uuid=str(uuid.uuid5(uuid.NAMESPACE_DNS, f"{name}.lantern-yard")),
    )
    info = replace(made.info, description=words, place="Marrow Quay")
    revision = store_bike(actor=actor, bike=replace(made, info=info)).revision
    complaint = {
        "Clover": "Kit is here, build it on: the owner rides it over the ferry ramp from June",
        "Curlew": "The maker is gone and the drive is locked; the pack is good, keep it",
    }[name]
    purposes = {"Clover": ["build"], "Curlew": ["rescue"]}[name]
    job = open_job(actor=actor, revision=revision, complaint=complaint, purposes=purposes)
    answer_triage(actor=actor, job=job, answers=_no(job))
    return job


def _no(job: Job) -> dict[str, bool]:
    return dict.fromkeys((question.key for question in questions(job)), False)


def _build(quill: Person, lead: Person, job: Job) -> None:
    """Clover is being built: some steps done, one given to the lead, one with something found."""
    day = timezone.localdate() + timedelta(days=8)
    where: dict[str, Any] = {"actor": quill, "job": job}
    plan_job(**where, planned=Planned(("build",), day, quill, place="stand 3"))
    for step in work_of(job).steps[:BUILT]:
        tick(**where, step_id=step.id, done=True)
    give_step(**where, step_id="route", to=lead.username)
    found_at_step(
        **where, step_id="wheel-up", text="Stand slips on the painted floor: mat under it"
    )
    add_line(**where, typed={"stock": str(StockItem.objects.get(number="A-14").pk), "count": "1"})
    add_line(
        **where,
        typed={"kind": "other", "words": "Postage of the kit", "count": "1", "each": "18.90"},
    )


def _rescue(lead: Person, job: Job) -> None:
    where: dict[str, Any] = {"actor": lead, "job": job}
    day = timezone.localdate() + timedelta(days=12)
    plan_job(**where, planned=Planned(("rescue",), day, lead, "customer", "hook 2"))
    for words, parts, minutes, available, note in (
        ("Change the drive and keep the pack", "420", "300", "universal", "keeps pack and lights"),
        (
            "Bring the motor's wires out to an open controller",
            "160",
            "240",
            "universal",
            "keeps the motor",
        ),
        ("Another board of the maker", "210", "60", "gone", "none to be had since spring"),
    ):
        typed = {"words": words, "parts": parts, "minutes": minutes, "rate": str(RATE)}
        offer(**where, typed=typed | {"available": available, "note": note})
    take_ride(**where, content=_ride().encode(), name="harbour-hill.csv")


def offers_of(lead: Person, job: Job) -> None:
    """Juniper's riders have decided for one of two ways."""
    job.refresh_from_db()
    where: dict[str, Any] = {"actor": lead, "job": job}
    rate = str(RATE)
    mid = offer(
        **where, typed={"words": "Mid drive", "parts": "540", "minutes": "260", "rate": rate}
    )
    offer(**where, typed={"words": "52 V packs", "parts": "780", "minutes": "60", "rate": rate})
    choose_offer(**where, uuid=str(mid.uuid))


def _ride() -> str:
    """Return a ride of eleven minutes up the harbour hill and down again, every two seconds."""
    rows = ["time,speed,volts,amps,temperature"]
    for k in range(330):
        hill = 1.0 if 90 <= k < 210 else 0.25
        speed, amps = (16.0, 17.5) if hill == 1.0 else (23.5, 5.5)
        amps += 1.5 * ((k * 7) % 5 - 2) / 2
        volts = 50.8 - 0.0035 * k - 0.13 * amps
        rows.append(f"{2 * k},{speed:.1f},{volts:.2f},{amps:.2f},{24 + 0.09 * min(k, 210):.1f}")
    return "\n".join(rows) + "\n"


def _visit(
    actor: Person, revision: Revision, complaint: str, days: int, capacity_ah: float, rest_v: float
) -> None:
    """One visit of Fern: looked over, its pack and throttle measured, proven and closed."""
    job = open_job(actor=actor, revision=revision, complaint=complaint)
    where: dict[str, Any] = {"actor": actor, "job": job}
    answer_triage(**where, answers=_no(job))
    plan_job(**where, planned=Planned(("check-over",), None, actor))
    at = timezone.now() - timedelta(days=days)
    label = "of 14 Ah on the label"
    _measured(
        job,
        actor,
        at,
        "capacity",
        "pack",
        f"{capacity_ah:g} Ah {label}",
        "capacity_ah",
        capacity_ah,
        "Ah",
    )
    _measured(
        job, actor, at, "throttle", "throttle", f"At rest {rest_v:g} V", "rest_v", rest_v, "V"
    )
    prove_all(actor, job)
    answer_for(
        **where,
        words="Our joints and settings, not wear",
        until=f"{at + timedelta(days=180):%Y-%m-%d}",
        past=True,
    )
    close_job(**where)
    Job.objects.filter(pk=job.pk).update(opened=at, closed=at + timedelta(hours=3))
    for rows in (job.log.all(), job.proofs.all()):
        rows.update(at=at)


def prove_all(actor: Person, job: Job) -> None:
    """Make every check of a job; all of them pass."""
    for row in rows_of(job):
        if row.state == "passed":
            continue
        reading = row.check.reading
        if reading:
            text = f"{(reading.low + reading.high) / 2:.1f}"
        else:
            text = ""
        answer = "" if reading else "yes"
        enter(actor=actor, job=job, check_id=row.check.id, text=text, answer=answer, ticked=GATES)


def came_back(actor: Person, revision: Revision, complaint: str) -> Job:
    """A bike that was repaired some weeks ago and comes back with the same complaint, under
    warranty."""
    job = open_job(actor=actor, revision=revision, complaint=complaint, purposes=["repair"])
    where: dict[str, Any] = {"actor": actor, "job": job}
    answer_triage(**where, answers=_no(job))
    throttle = next(part for part in stands_of(job).parts if part.kind == "throttle")
    plan = RepairPlan(
        f"part:{throttle.id}",
        f"Replace the {throttle.name}",
        "Water in the grip, or a fall onto it",
        f"{throttle.id}.inside.output/dead/full",
        "",
        "Pull the throttle, wheel up",
        "motor runs smoothly",
        {"fault": "throttle dead", "probability": 0.97, "engine": engine_version()},
    )
    do_repair(**where, plan=plan, thing=NewThing(mark="T-3R 118"))
    prove(**where, passed=True, cause="Water in the grip")
    where["job"] = job = whole_job(job.uuid).get()
    for step in work_of(job).steps:
        tick(**where, step_id=step.id, done=True)
    _measured(
        job,
        actor,
        timezone.now(),
        "throttle",
        stands_of(job).having(ThrottleSpec)[0].id,
        "Whole travel",
        "rest_v",
        0.84,
        "V",
        words="output at rest",
    )
    prove_all(actor, job)
    at = timezone.now() - timedelta(days=CAME_BACK_DAYS)
    until = at + timedelta(days=WARRANTY_DAYS)
    answer_for(**where, words="Our work and the parts we fitted", until=f"{until:%Y-%m-%d}")
    close_job(**where)
    Job.objects.filter(pk=job.pk).update(opened=at, closed=at + timedelta(hours=2))
    for rows in (
        job.log,
        job.proofs,
        job.changes_done,
        job.step_marks,
        job.repairs,
        job.calibrations,
    ):
        rows.update(at=at)
    return open_job(
        actor=actor,
        revision=latest_revision(revision.bike),
        complaint=complaint,
        purposes=["repair"],
    )


def _measured(
    job: Job,
    actor: Person,
    at: datetime,
    instrument: str,
    subject: str,
    title: str,
    name: str,
    value: float,
    unit: str,
    words: str = "",
) -> None:
    Calibration.objects.create(
        job=job,
        instrument=instrument,
        subject=subject,
        about=name_of(job, subject),
        state="good",
        title=title,
        values=[{"name": name, "value": value, "unit": unit, "words": words}],
        at=at,
        by=actor,
        by_name=str(actor),
    )
