"""Reading what Wire keeps in a job's log."""

import re
from dataclasses import dataclass

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.holders import stand_aside
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job
from brightcore.bike.model import Bike
from brightcore.procedure.first_light import FirstLight, find_first_light
from brightcore.procedure.mechanical import with_mechanical
from brightcore.procedure.purpose import is_whole
from brightcore.procedure.work_order import WorkStep, only_changed, order_of_work

_TICK = re.compile(r"^(Done|Not done) \((\S+)\): ")
_GIVEN = re.compile(r"^Given to (.*?) \((\S+)\): ")
_FOUND = re.compile(r"^Found at \((\S+)\): (.*)$", re.DOTALL)


def first_light_of(bike: Bike) -> FirstLight:
    """Return the first power-up of a bike: a second on a large one, so predictions wait meanwhile."""
    with stand_aside():
        return find_first_light(bike)


@dataclass(frozen=True, slots=True)
class Work:
    """The order of work: the steps of this job, and those of the whole bike."""

    steps: tuple[WorkStep, ...]
    every: tuple[WorkStep, ...]

    @property
    def is_whole(self) -> bool:
        """Whether the job's steps are those of the whole bike."""
        return len(self.steps) == len(self.every)


def work_of(job: Job) -> Work:
    """Return the order of work of a job: what it adds where its purpose is to add, else the whole bike."""
    bike = core_bike(job.revision)
    every = order_of_work(bike, first_light_of(bike))
    if not job.purposes:
        return Work(every, every)
    changes = changes_of(job)
    if is_whole(job.purposes):
        own = {part.id for part in bike.parts} if "build" in job.purposes else changes.fitted
        whole = with_mechanical(every, bike, own, changes.gone)
        return Work(whole, whole)
    own_steps = with_mechanical(only_changed(every, bike, changes), bike, changes.fitted, changes.gone)
    return Work(own_steps or every, every)


@dataclass(frozen=True, slots=True)
class Steps:
    """What is said of the steps of a job, each by the step's id: who did it, whose it is, what was found."""

    done: dict[str, str]
    given: dict[str, str]
    found: dict[str, list[str]]


def steps_of(job: Job) -> Steps:
    """Return what is said of the steps of the order of work. The job's log is where it is kept."""
    steps = Steps({}, {}, {})
    for entry in job.log.filter(what="order"):
        tick, given = _TICK.match(entry.text), _GIVEN.match(entry.text)
        found = _FOUND.match(entry.text)
        if tick and tick[1] == "Done":
            steps.done[tick[2]] = entry.by
        elif tick:
            steps.done.pop(tick[2], None)
        elif given:
            steps.given[given[2]] = given[1]
        elif found:
            steps.found.setdefault(found[1], []).append(f"{found[2]} ({entry.by})")
    return steps


def done_steps(job: Job) -> dict[str, str]:
    """Return who did each step of the order of work that stands as done."""
    return steps_of(job).done


def revision_before(job: Job) -> Revision:
    """Return the description of the bike before the one a job stands on."""
    return job.revision.bike.revisions.get(number=job.revision.number - 1)


def undoable(job: Job) -> str:
    """Return in words the change of the wiring that can be taken back: the newest revision, where this job
    made it; else ""."""
    revision = job.revision
    last = job.log.filter(what="wire").order_by("-pk").first()
    newest = job.revision.bike.revisions.order_by("-number")[0]
    return (
        revision.what
        if job.is_open
        and revision.number > 1
        and newest.pk == revision.pk
        and last
        and last.text == revision.what
        else ""
    )
