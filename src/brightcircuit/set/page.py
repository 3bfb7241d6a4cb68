"""What the page of an instrument shows: one step to do, what was read, what it
means, what was before.

The sheet being filled in decides. Where it is empty the last calibration that stands is shown
instead, beside the one before it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block, shown_blocks
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.models import Calibration, Sheet, Timer
from brightcircuit.set.queries import last_values, options_of, sheet_of, standing_calibrations
from brightcircuit.set.services import cautions_on, place_of
from brightcircuit.set.verdicts import verdict
from brightcore.bike.model import Bike
from brightcore.describing.labels import LABELS
from brightcore.describing.measured import ONLY_MEASURED
from brightcore.drawing.gauges import picture_svg
from brightcore.procedure.gates import GATES
from brightcore.setting.contract import (
    Curve,
    Field,
    Instrument,
    Measured,
    Readings,
    Step,
    Verdict,
    next_step,
    read_all,
)

LEAST_TREND, MOST_TRENDS = 2, 4
"""Times a value was measured before it is drawn over time, and how many values are."""

SHOWN_UNITS = {"ohm": "Ω", "degC": "°C", "A*h": "Ah", "W*h": "Wh"}

WENT_WRONG = ("mend", "danger")
"""States of a calibration after which Trace may look for the reason."""

Errors = Mapping[str, list[str]]
Typed = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Entry:
    """One field on the page, with what stands in it and what is wrong with it."""

    field: Field
    unit: str
    value: str
    error: str


@dataclass(frozen=True, slots=True)
class Read:
    """One value that was typed, and why it is not used, "" where it is."""

    field: Field
    value: str
    unit: str
    odd: str


@dataclass(frozen=True, slots=True)
class Moved:
    """A value beside the one of last time."""

    value: Measured
    before: float
    by: float


@dataclass(frozen=True, slots=True)
class Gate:
    """A caution of a step: its key, its words, and whether it stands already."""

    key: str
    words: str
    stands: bool


@dataclass(frozen=True, slots=True)
class Option:
    """A choice of an instrument: what it is about, what there is, and what is chosen."""

    name: str
    words: str
    choices: tuple[tuple[str, str], ...]
    chosen: str


@dataclass(frozen=True)
class InstrumentPage(Shown):
    """The page of an instrument. `shown` is a calibration that stands in place of an empty sheet;
    `traced`: whether Trace can look for the reason of what it found."""

    instrument: Instrument
    subject_title: str
    step: Step | None
    optional: list[Step]
    entries: list[Entry]
    gates: list[Gate]
    read: list[tuple[Step, list[Read]]]
    options: list[Option]
    verdict: Verdict
    shown: Calibration | None
    traced: bool
    pictures: list[str]
    past: list[Calibration]
    last_at: datetime | None
    trends: list[str]
    moved: list[Moved]
    timer: Timer | None
    timer_left: int
    again: str
    errors: Errors
    general: list[str]
    blocks: list[Block]
    typed: Typed


@dataclass(frozen=True, slots=True)
class _Told:
    """What readings mean: of the sheet, or of a calibration shown in its place; beside last
    time's."""

    verdict: Verdict
    shown: Calibration | None
    last: Mapping[str, float]
    last_at: datetime | None


def instrument_shown(
    job: Job, found: Instrument, subject: str, wanted: str | None, typed: Typed, errors: Errors
) -> InstrumentPage:
    """Return the page of an instrument; `wanted` is the step that was asked for, `typed` and
    `errors` what came back from a form that could not be taken."""
    bike, sheet = stands_of(job), sheet_of(job, found.key, subject)
    options = options_of(sheet)
    steps = found.steps(bike, subject, sheet.typed | options)
    fields: list[Field] = []
    for each in steps:
        fields += each.fields
    reading = read_all(fields, sheet.typed)
    step = next((s for s in steps if s.id == wanted), None) or next_step(steps, reading)
    past = list(standing_calibrations(job, found.key, subject))[::-1]
    told = _told(job, found, subject, sheet, past, bike)
    timer = job.timers.filter(instrument=found.key, subject=subject, done=False).first()
    bad = told.shown is not None and told.shown.state in WENT_WRONG
    return InstrumentPage(
        instrument=found,
        subject_title=next(s.title for s in found.subjects(bike) if s.id == subject),
        step=step,
        optional=_optional(steps, step, sheet),
        entries=_entries(step, sheet, typed, errors),
        gates=_gates(job, step, sheet),
        read=_read(steps, sheet, reading),
        options=[Option(n, words, c, options.get(n, c[0][0])) for n, words, c in found.options],
        verdict=told.verdict,
        shown=told.shown,
        traced=bad and bool(found.readings(bike, subject)),
        pictures=[picture_svg(picture) for picture in told.verdict.pictures],
        past=past,
        last_at=told.last_at,
        trends=_trends(past),
        moved=_moved(told),
        timer=timer,
        timer_left=_minutes_left(timer),
        again=f"{step.timer_min:g}" if step else "",
        errors=errors,
        general=[*errors.get("", []), *errors.get("log", [])],
        blocks=shown_blocks(job, (place_of(found.key, subject),)),
        typed=typed,
    )


def _told(
    job: Job,
    found: Instrument,
    subject: str,
    sheet: Sheet,
    past: list[Calibration],
    bike: Bike,
) -> _Told:
    last, last_at = last_values(job, found.key, subject)
    if sheet.typed or not past:
        return _Told(verdict(job, found, sheet), None, last, last_at)
    shown = past[0]
    before: dict[str, float] = {}
    before_at = None
    if len(past) > 1:
        before = {row["name"]: float(row["value"]) for row in past[1].values}
        before_at = past[1].at
    fields = found.fields(bike, subject, shown.typed | shown.options)
    read = read_all(fields, shown.typed)
    return _Told(found.judge(bike, subject, read, shown.options, before), shown, before, before_at)


def _optional(steps: tuple[Step, ...], step: Step | None, sheet: Sheet) -> list[Step]:
    """Return the steps that nobody has to do and nobody has done."""
    found = []
    for other in steps:
        asked = any(f.needed or sheet.typed.get(f.id) for f in other.fields)
        if other is not step and not asked:
            found.append(other)
    return found


def _entries(step: Step | None, sheet: Sheet, typed: Typed, errors: Errors) -> list[Entry]:
    if step is None:
        return []
    found = []
    for item in step.fields:
        value = typed.get(item.id, sheet.typed.get(item.id, ""))
        unit = SHOWN_UNITS.get(item.unit, item.unit)
        found.append(Entry(item, unit, value, " ".join(errors.get(item.id, []))))
    return found


def _gates(job: Job, step: Step | None, sheet: Sheet) -> list[Gate]:
    """Return the cautions of a step; between some steps none stands on."""
    if step is None:
        return []
    stands = () if step.afresh else sheet.ticked
    return [Gate(key, GATES[key], key in stands) for key in cautions_on(job, step)]


def _read(
    steps: tuple[Step, ...], sheet: Sheet, reading: Readings
) -> list[tuple[Step, list[Read]]]:
    """Return what was typed at each step at which anything was."""
    found = []
    for step in steps:
        values = []
        for field in step.fields:
            value = sheet.typed.get(field.id)
            if value:
                unit = SHOWN_UNITS.get(field.unit, field.unit)
                values.append(Read(field, value, unit, reading.odd.get(field.id, "")))
        if values:
            found.append((step, values))
    return found


def _moved(told: _Told) -> list[Moved]:
    found = []
    for value in told.verdict.values:
        if value.name in told.last:
            before = told.last[value.name]
            found.append(Moved(value, before, value.value - before))
    return found


def _minutes_left(timer: Timer | None) -> int:
    if timer is None:
        return 0
    return max(0, round((timer.due - timezone.now()) / timedelta(minutes=1)))


def _trends(past: list[Calibration]) -> list[str]:
    """Return a drawing of every value that was measured more than once, by days since the first."""
    rows: dict[str, list[tuple[datetime, float, str]]] = {}
    for row in reversed(past):
        for value in row.values:
            point = (row.at, float(value["value"]), value["unit"])
            rows.setdefault(value["name"], []).append(point)
    drawn = []
    for name, found in rows.items():
        first = found[0][0]
        days = [(at - first) / timedelta(days=1) for at, _, _ in found]
        # Twice on one day is a reading taken again, no course over time.
        if len(found) < LEAST_TREND or days[-1] < 1:
            continue
        points = tuple((day, value) for day, (_, value, _) in zip(days, found, strict=True))
        title = (ONLY_MEASURED | LABELS).get(name, name.replace("_", " ").capitalize())
        curve = Curve(title, found[-1][2], points, (), "days since the first time")
        drawn.append(picture_svg(curve))
    return drawn[:MOST_TRENDS]
