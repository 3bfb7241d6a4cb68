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
        own = {part.id for part in bike.parts} if "build" in job.purposes else changes.parts
        whole = with_mechanical(every, bike, own, changes.gone)
        return Work(whole, whole)
    own_steps = with_mechanical(only_changed(every, bike, changes), bike, changes.parts, changes.gone)
    return Work(own_steps or every, every)


def done_steps(job: Job) -> dict[str, str]:
    """Return who did each step of the order of work that stands as done.

    The job's log is where ticks are kept.
    """
    done: dict[str, str] = {}
    for entry in job.log.filter(what="order"):
        match = _TICK.match(entry.text)
        if match and match[1] == "Done":
            done[match[2]] = entry.by
        elif match:
            done.pop(match[2], None)
    return done


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
