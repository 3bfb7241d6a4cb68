"""Reading what the Bench shows of many jobs at once."""

from dataclasses import dataclass
from datetime import date, datetime

from django.db.models import Count, Max, Prefetch, Q, QuerySet, Sum
from django.utils import timezone

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job, Repair
from brightcore.bike.model import Bike as CoreBike
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


def jobs_of_the_day() -> QuerySet[Job]:
    """Return the open jobs with who has them and their timers; only stored summaries are read of
    them."""
    found = Job.objects.filter(status=Job.Status.OPEN).select_related(
        "revision__bike", "opened_by", "worker"
    )
    return found.prefetch_related("timers")


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
