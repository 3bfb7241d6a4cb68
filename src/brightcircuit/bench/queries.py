"""Reading what the Bench shows of many jobs at once."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime

from django.db.models import Count, Max, Prefetch, Q, QuerySet, Sum
from django.utils import timezone

from brightcircuit.bikes.models import Bike, RiderContact
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike as CoreBike
from brightcore.procedure.purpose import WAITS
from brightcore.procedure.trends import Moment

ENTERED = ("entered", "written")
"""How a value of a device came to stand there by somebody's doing."""

MOST_SETTINGS = 60
"""Changes of settings that the history of a bike shows, the newest."""


@dataclass(frozen=True, slots=True)
class Setting:
    """One change of a setting: when, of which device, its code, from what to what, in which job."""

    at: datetime
    device: str
    code: str
    before: float
    value: float
    job: Job


@dataclass(frozen=True, slots=True)
class Running:
    """A timer that nobody has seen to: what for, and when it is due."""

    words: str
    due: datetime


@dataclass(frozen=True, slots=True)
class DayRow:
    """What the day is planned from: a few columns of an open job, and its timers by when they are
    due."""

    pk: int
    worker: str
    promised: date | None
    minutes: int | None
    step: str
    waiting_words: str
    turn: int | None
    turn_on: date | None
    timers: tuple[Running, ...]


def day_rows() -> list[DayRow]:
    """Return what the day is planned from; no description and no summary is read whole."""
    timers: dict[int, list[Running]] = {}
    waiting = Job.objects.filter(status=Job.Status.OPEN, timers__done=False)
    columns = ("pk", "timers__words", "timers__due")
    for job, words, due in waiting.order_by("timers__due").values_list(*columns):
        timers.setdefault(job, []).append(Running(words, due))
    names = {person.pk: str(person) for person in Person.objects.all()}
    asked = (
        "pk",
        "worker_id",
        "opened_by_id",
        "promised",
        "summary__minutes",
        "summary__step",
        "waiting",
        "turn",
        "turn_on",
    )
    found = []
    jobs = Job.objects.filter(status=Job.Status.OPEN).order_by("pk").values_list(*asked)
    for pk, worker, opened_by, promised, minutes, step, waits, turn, turn_on in jobs:
        name = names[worker or opened_by]
        running = tuple(timers.get(pk, ()))
        words = WAITS.get(waits, "")
        found.append(DayRow(pk, name, promised, minutes, step or "", words, turn, turn_on, running))
    return found


def shown_jobs(keys: Iterable[int]) -> dict[int, Job]:
    """Return open jobs by their key, with their bike, without any description."""
    found = Job.objects.filter(pk__in=list(keys), status=Job.Status.OPEN)
    found = found.select_related("revision__bike", "worker", "opened_by")
    return {job.pk: job for job in found.defer("revision__document", "conclusion")}


def reach_of(jobs: Iterable[Job]) -> dict[int, str]:
    """Return by job how its rider is reached, in words; jobs of whose rider nothing is kept are
    left out."""
    bikes = {job.pk: job.revision.bike_id for job in jobs}
    words = {}
    for contact in RiderContact.objects.filter(bike_id__in=set(bikes.values())):
        words[contact.bike_id] = " ".join(filter(None, (contact.name, contact.reach)))
    return {job: words[bike] for job, bike in bikes.items() if words.get(bike)}


def closed_jobs() -> QuerySet[Job]:
    """Return the closed jobs with the repairs made here, and `minutes` of their evidence."""
    repairs = Prefetch("repairs", Repair.objects.filter(imported=False))
    found = Job.objects.filter(status=Job.Status.CLOSED, closed__isnull=False).select_related(
        "revision"
    )
    found = found.defer("revision__document", "summary", "conclusion").prefetch_related(repairs)
    return found.annotate(minutes=Sum("evidence__minutes", filter=Q(evidence__undone=False)))


def visits_of(bike: Bike) -> QuerySet[Job]:
    """Return the jobs of a bike, newest first."""
    jobs = Job.objects.filter(revision__bike=bike).order_by("-opened", "-number")
    return jobs.select_related("revision__bike", "arrived", "worker").prefetch_related("repairs")


def last_visit(bike: Bike) -> date | None:
    """Return the day on which the last job of a bike was closed, None where none was."""
    closed = Job.objects.filter(revision__bike=bike).aggregate(last=Max("closed"))["last"]
    if closed:
        return timezone.localdate(closed)
    return None


def came_back(bike: Bike) -> list[tuple[str, int]]:
    """Return the repairs that were done more than once, with how often."""
    rows = (
        Repair.objects.filter(job__revision__bike=bike)
        .values_list("action")
        .annotate(n=Count("id"))
    )
    return [(words, n) for words, n in rows.filter(n__gt=1).order_by("-n", "action")]


def last_looked(bike: Bike) -> dict[str, date]:
    """Return when capacity was last measured, cut-offs last measured or proven, and the axle last
    proven."""
    jobs = Job.objects.filter(revision__bike=bike)
    passed = {"proofs__passed": True, "proofs__undone": False}
    days: dict[str, list[datetime | None]] = {}
    for name in ("capacity", "cut-off"):
        measured = jobs.filter(calibrations__instrument=name, calibrations__undone=False)
        days[name] = [measured.aggregate(last=Max("calibrations__at"))["last"]]
    # What was proven under power counts as much as what was measured at rest.
    for name, check in (("axle", "axle:"), ("cut-off", "cut:"), ("cut-off", "road-cut")):
        proven = jobs.filter(proofs__check_id__startswith=check, **passed)
        days.setdefault(name, []).append(proven.aggregate(last=Max("proofs__at"))["last"])
    newest = {
        name: max((at for at in found if at is not None), default=None)
        for name, found in days.items()
    }
    return {name: timezone.localdate(at) for name, at in newest.items() if at is not None}


def moments_of(bike: Bike, core: CoreBike) -> list[Moment]:
    """Return every value that was measured of a bike in any of its jobs, undone ones left out."""
    names = {part.id: part.name for part in core.parts}
    found = []
    for job in Job.objects.filter(revision__bike=bike).prefetch_related("calibrations", "rides"):
        for row in job.calibrations.all():
            if not row.undone:
                on, of = timezone.localdate(row.at), names.get(row.subject, row.subject)
                found += [Moment(value["name"], of, on, value["value"]) for value in row.values]
        for ride in job.rides.all():
            if not ride.undone and "ohm" in ride.told:
                found.append(
                    Moment("ohm", "", timezone.localdate(ride.began or ride.at), ride.told["ohm"])
                )
    return found


def settings_of(bike: Bike, core: CoreBike) -> list[Setting]:
    """Return every value that was entered into a device of a bike and was another before, newest
    first."""
    names = {part.id: part.name for part in core.parts}
    found = []
    for job in Job.objects.filter(revision__bike=bike).prefetch_related("told"):
        for row in job.told.all():
            if (
                row.undone
                or row.how not in ENTERED
                or row.before is None
                or row.before == row.value
            ):
                continue
            device = names.get(row.part, row.part)
            found.append(Setting(row.at, device, row.code, row.before, row.value, job))
    return sorted(found, key=lambda setting: setting.at, reverse=True)[:MOST_SETTINGS]
