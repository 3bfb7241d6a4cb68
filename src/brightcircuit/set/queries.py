"""Reading what Set keeps of a job and its bike."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import QuerySet
from django.utils import timezone

from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.models import Calibration, Sheet, Timer
from brightcircuit.shop.people import the_shop
from brightcore.bike.measured import mark_of
from brightcore.bike.model import Bike, MeasuredValue
from brightcore.setting import bench_row
from brightcore.setting.contract import Instrument, Subject

WORDS = {
    "": "not done",
    "begun": "begun",
    "good": "good",
    "mend": "to mend",
    "danger": "danger",
    "waived": "waived",
    "overtaken": "overtaken",
}
"""How a row of the bench says where an instrument stands."""


@dataclass(frozen=True, slots=True)
class Row:
    """One instrument on one thing: where it stands, what was found last, and what is in hand."""

    instrument: Instrument
    subject: Subject
    state: str
    calibration: Calibration | None
    begun: bool
    timer: Timer | None

    @property
    def words(self) -> str:
        """The state in words."""
        return WORDS[self.state]


def standing_calibrations(job: Job, instrument: str, subject: str) -> "QuerySet[Calibration]":
    """Return the calibrations of this bike that stand, of any job, the newest last; waivers left
    out."""
    rows = Calibration.objects.filter(job__revision__bike=job.revision.bike, undone=False)
    return (
        rows.filter(instrument=instrument, subject=subject)
        .exclude(state="waived")
        .order_by("at", "id")
    )


def measured_by(found: Calibration) -> list[MeasuredValue]:
    """Return the values of a calibration as what was measured on the bike; none where it is not
    good."""
    if found.state != "good" or not found.of:
        return []
    on = timezone.localdate(found.at).isoformat()
    rows: list[MeasuredValue] = []
    for v in found.values:
        rows.append(
            MeasuredValue(
                found.subject, v["name"], float(v["value"]), v["unit"], v["words"], on, found.of
            )
        )
    return rows


def last_values(
    job: Job, instrument: str, subject: str
) -> tuple[dict[str, float], datetime | None]:
    """Return the values of the last calibration by name, and when it was; nothing where there is
    none."""
    found = standing_calibrations(job, instrument, subject).last()
    if found is None:
        return {}, None
    return {row["name"]: float(row["value"]) for row in found.values}, found.at


def sheet_of(job: Job, instrument: str, subject: str) -> Sheet:
    """Return the sheet being filled in, an empty one where none was begun."""
    known = job.sheets.filter(instrument=instrument, subject=subject).first()
    return known or Sheet(job=job, instrument=instrument, subject=subject, at=now())


def options_of(sheet: Sheet) -> dict[str, str]:
    """Return how a sheet is judged: as chosen on it, else in this job, else in the shop."""
    job, key = sheet.job, sheet.instrument
    found: dict[str, str] = dict(the_shop().set_choices.get(key, {}))
    for earlier in job.calibrations.filter(instrument=key, undone=False):
        found.update(earlier.options)
    for other in job.sheets.filter(instrument=key).order_by("at"):
        found.update(other.options)
    found.update(sheet.options)
    return found


def rows_of(job: Job) -> list[Row]:
    """Return what there is to set on the job's bike, and where each stands."""
    bike = stands_of(job)
    newest: dict[tuple[str, str], Calibration] = {}
    for found in job.calibrations.filter(undone=False):
        newest[found.instrument, found.subject] = found
    begun = set(job.sheets.values_list("instrument", "subject"))
    timers: dict[tuple[str, str], Timer] = {}
    for timer in job.timers.filter(done=False).order_by("-due"):
        timers[timer.instrument, timer.subject] = timer
    rows = []
    for item, subject in bench_row(bike):
        key = (item.key, subject.id)
        last = newest.get(key)
        state = _state(bike, subject.id, last) or ("begun" if key in begun else "")
        rows.append(Row(item, subject, state, last, key in begun, timers.get(key)))
    return rows


def _state(bike: Bike, subject: str, last: Calibration | None) -> str:
    if last is None:
        return ""
    if last.of and last.of != mark_of(bike, subject):
        return "overtaken"
    return last.state


def due_timers(job: Job) -> "QuerySet[Timer]":
    """Return the timers of a job that have run out and wait for a look."""
    return job.timers.filter(done=False, due__lte=timezone.now())
