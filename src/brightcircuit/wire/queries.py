"""Reading the work of a job: its steps, what is said of them, and the wiring before its last
change."""

from dataclasses import dataclass
from functools import lru_cache

from brightcircuit.bikes.models import Revision
from brightcircuit.engines.holders import stand_aside
from brightcircuit.jobs.models import Edit, Job, StepMark
from brightcircuit.jobs.way import way_of
from brightcore.bike.model import Bike
from brightcore.procedure.first_power_up import FirstPowerUp, find_first_power_up
from brightcore.procedure.step import WorkStep
from brightcore.procedure.work_order import Order, satisfied, sketched_order, way_order, whole_order

WIRE = "wire"
"""This station, as edits of the description name it."""


def first_power_up_of(bike: Bike) -> FirstPowerUp:
    """Return the first power-up of a bike: a second on a large one, so predictions wait
    meanwhile."""
    with stand_aside():
        return find_first_power_up(bike)


@lru_cache(maxsize=64)
def _order(start: Bike, stands: Bike, plan: Bike, opens: frozenset[str]) -> Order:
    with stand_aside():
        return way_order(start, stands, plan, opens)


@lru_cache(maxsize=64)
def _sketched(start: Bike, stands: Bike, plan: Bike, opens: frozenset[str]) -> Order:
    return sketched_order(start, stands, plan, opens)


def work_of(job: Job) -> Order:
    """Return the order of work of a job: the way from the bike as it arrived to the bike as it
    shall be."""
    way = way_of(job)
    return _order(way.arrival, way.stands, way.plan, frozenset(job.opens))


def whole_of(job: Job) -> Order:
    """Return the order of building the whole bike from nothing, to be read."""
    return whole_order(way_of(job).plan)


def open_steps(job: Job) -> list[WorkStep]:
    """Return the steps of a job that are not done, without asking the circuit for the first
    power-up."""
    way = way_of(job)
    order = _sketched(way.arrival, way.stands, way.plan, frozenset(job.opens))
    done = done_steps(job, order)
    return [step for step in order.steps if step.id not in done]


@dataclass(frozen=True, slots=True)
class Steps:
    """What is said of the steps of a job, each by the step's id: who did it, whose it is, what was
    found."""

    done: dict[str, str]
    given: dict[str, str]
    found: dict[str, list[str]]


def steps_of(job: Job, order: Order) -> Steps:
    """Return what is said of the steps of an order: by a mark, or by what the bike as it stands
    shows."""
    steps = Steps({}, {}, {})
    for row in job.step_marks.filter(undone=False, imported=False).order_by("pk"):
        if row.what == StepMark.What.DONE:
            steps.done[row.step] = row.by_name
        elif row.what == StepMark.What.GIVEN:
            steps.given[row.step] = row.text
        else:
            steps.found.setdefault(row.step, []).append(f"{row.text} ({row.by_name})")
    way = way_of(job)
    by = {row.change: row.by_name for row in way.rows}
    for name in satisfied(order, way.stands, way.plan, way.arrival):
        steps.done.setdefault(name, by.get(name, ""))
    for name in shown_otherwise(order, job):
        steps.done.pop(name, None)
    return steps


def shown_otherwise(order: Order, job: Job) -> list[str]:
    """Return the steps whose change is still open on the bike, whatever a mark says of them."""
    open_now = {change.id for change in way_of(job).left}
    found: list[str] = []
    for step in order.steps:
        if step.id in open_now and not step.id.startswith("fit:"):
            found.append(step.id)
    return found


def done_steps(job: Job, order: Order | None = None) -> dict[str, str]:
    """Return who did each step of the order of work that stands as done."""
    return steps_of(job, order or work_of(job)).done


def revision_before(job: Job) -> Revision:
    """Return the description of the bike before the one a job stands on."""
    return job.revision.bike.revisions.get(number=job.revision.number - 1)


def undoable(job: Job) -> Edit | None:
    """Return the edit of the wiring that can be taken back: the newest revision, where Wire made it
    for this job; else None."""
    newest = job.revision.bike.revisions.order_by("-number")[0]
    if not job.is_open or newest.pk != job.revision_id:
        return None
    return job.edits.filter(station=WIRE, revision=newest).last()
