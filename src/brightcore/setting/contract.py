"""What every instrument of Set is: what it applies to, its steps, how it judges, and what it draws.

An instrument is one file and one line in the list of `brightcore.setting`. It takes readings as
typed, and says in a verdict what they mean and what to do next; it stores nothing.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from brightcore.bands import CELL, bands_of
from brightcore.bands.points import METER_V, SWAPPED_CELL_V, TWO_CELLS_V
from brightcore.bike.model import Bike
from brightcore.errors import ReadingError
from brightcore.setting.rows import differences, numbers_of
from brightcore.touching import touched
from brightcore.units import OVER_LIMIT, format_quantity, parse_in, plain_text

STATES = ("open", "good", "mend", "danger")
"""What a verdict says: more is needed, it is good, something is to be mended, it can hurt."""


@dataclass(frozen=True, slots=True)
class Subject:
    """What an instrument is set on: a part by its id, or the bike itself as ""."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class Field:
    """One reading: its unit (for pint, "" for a count), what is possible, or its choices as (value,
    words).

    What lies outside `low` to `high` cannot be: it is questioned and not used. `many`: a row of
    numbers; `whole`: a count; `words`: free text; `over`: ohms, which may be over the meter's
    limit. `point`: which kind of point it is read at (`bands.points`), "" where no band is known;
    what is a danger there is one whatever the instrument makes of it. `totals`: a row that may have
    been read from one end.
    """

    id: str
    label: str
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    choices: tuple[tuple[str, str], ...] = ()
    needed: bool = True
    many: bool = False
    whole: bool = False
    words: bool = False
    over: bool = False
    help: str = ""
    point: str = ""
    totals: bool = False


def volts_at(
    name: str,
    label: str,
    point: str,
    *,
    needed: bool = True,
    many: bool = False,
    totals: bool = False,
    help: str = "",
) -> Field:
    """Return a reading in volts at a kind of point: whatever a meter can show there may be
    typed."""
    low, high = (SWAPPED_CELL_V, TWO_CELLS_V) if point == CELL else (-METER_V, METER_V)
    return Field(
        name, label, "V", low, high, needed=needed, many=many, help=help, point=point, totals=totals
    )


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do: what, how the bike must stand, its cautions (keys of `GATES`), what to read.

    `timer_min`: minutes after which it is looked at again, 0 where nothing sets. `afresh`: its
    cautions are acknowledged for this step alone, whatever was ticked before: plugs are moved
    between two of them. `touches`: what it touches where its cautions do not say so.
    """

    id: str
    title: str
    stands: str
    cautions: tuple[str, ...]
    fields: tuple[Field, ...]
    timer_min: float = 0.0
    afresh: bool = False
    touches: str = ""

    @property
    def touched(self) -> str:
        """What it touches, as `procedure.gates` names it; undeclared means the pack."""
        return touched(self.cautions, self.touches)


@dataclass(frozen=True, slots=True)
class SetFinding:
    """Something found while setting: a permanent code, how grave, what, and what to change."""

    code: str
    severity: str
    text: str
    change: str


@dataclass(frozen=True, slots=True)
class Measured:
    """A value that was found out: name, number, unit, and how it came about."""

    name: str
    value: float
    unit: str
    words: str


@dataclass(frozen=True, slots=True)
class Mark:
    """A reading on a picture: where, what it is, and whether it lies where it should."""

    at: float
    words: str
    good: bool = True


@dataclass(frozen=True, slots=True)
class Band:
    """A picture of one quantity: its scale, where it should lie (or None), and what was read."""

    title: str
    unit: str
    low: float
    high: float
    target: tuple[float, float] | None
    marks: tuple[Mark, ...]


@dataclass(frozen=True, slots=True)
class Curve:
    """A picture of a row of readings against its order, with levels that matter as (value,
    words)."""

    title: str
    unit: str
    points: tuple[tuple[float, float], ...]
    levels: tuple[tuple[float, str], ...]
    across: str = ""


Picture = Band | Curve


@dataclass(frozen=True, slots=True)
class Verdict:
    """What readings mean: a state of `STATES`, one sentence, findings, values, and the pictures."""

    state: str
    title: str
    findings: tuple[SetFinding, ...] = ()
    values: tuple[Measured, ...] = ()
    pictures: tuple[Picture, ...] = ()
    table: tuple[tuple[str, ...], ...] = ()
    """Rows of words to look things up in, the first the head; empty where there is none."""


Value = float | str | tuple[float, ...]
Values = Mapping[str, Value]


@dataclass(frozen=True, slots=True)
class Readings:
    """Readings of one sheet: usable values, what cannot be read at all, and what cannot be (by
    field id).

    `rows`: every row of numbers as it was typed, those with something that cannot be among them;
    `totals`: rows that were read from one end, as differences now.
    """

    values: dict[str, Value] = field(default_factory=dict)
    unread: dict[str, str] = field(default_factory=dict)
    odd: dict[str, str] = field(default_factory=dict)
    rows: dict[str, tuple[float, ...]] = field(default_factory=dict)
    totals: set[str] = field(default_factory=set)

    def without(self, names: frozenset[str]) -> "Readings":
        """Return the readings without the values of some fields."""
        left = {}
        for name, value in self.values.items():
            if name not in names:
                left[name] = value
        return Readings(left, self.unread, self.odd, self.rows, self.totals)

    def number(self, name: str) -> float | None:
        """Return a number, None where it was not read or cannot be."""
        found = self.values.get(name)
        if isinstance(found, float):
            return found
        return None

    def chosen(self, name: str) -> str:
        """Return a choice, "" where none was made."""
        found = self.values.get(name)
        if isinstance(found, str):
            return found
        return ""

    def row(self, name: str) -> tuple[float, ...]:
        """Return a row of numbers, empty where there is none."""
        found = self.values.get(name)
        if isinstance(found, tuple):
            return found
        return ()


@dataclass(frozen=True, slots=True)
class ReadAt:
    """Where and how the bike stands when a field is read: what Trace takes as a reading in
    volts."""

    field: str
    red: str
    black: str
    condition: str


class Instrument:
    """One instrument. `key` and codes are permanent; `options` are (name, label, ((value, words),
    …))."""

    key = ""
    title = ""
    helper = False
    """Whether it helps with something now and then, and nothing is left undone without it."""

    takes_log = ""
    """What a discharge log must hold, "" where the instrument takes none."""

    options: tuple[tuple[str, str, tuple[tuple[str, str], ...]], ...] = ()

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Return what it can be set on, on this bike."""
        raise NotImplementedError

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Return its steps, in order; `typed` is what was read so far, for those that ask by it."""
        raise NotImplementedError

    def judge(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Return what readings mean: what is a danger at its point first, then what the instrument
        says.

        A value that is a danger is used for nothing else, so that no advice is given on it.
        """
        typed = {name: _typed(value) for name, value in found.values.items()} | dict(options)
        fields = self.fields(bike, subject, typed)
        dangers = {}
        for item in fields:
            if told := dangers_at(bike, subject, item, found):
                dangers[item.id] = told
        single = frozenset(item.id for item in fields if item.id in dangers and not item.many)
        verdict = self.judged(bike, subject, found.without(single), options, last)
        first = tuple(danger for told in dangers.values() for danger in told)
        if not first:
            return verdict
        return replace(
            verdict, state="danger", title=first[0].text, findings=(*first, *verdict.findings)
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Return what an instrument makes of readings; `last` holds the values of the calibration
        before."""
        raise NotImplementedError

    def readings(self, bike: Bike, subject: str) -> tuple[ReadAt, ...]:
        """Return which of its fields are volts between two pins in a known state of the bike."""
        return ()

    def described(self, bike: Bike, subject: str, found: Readings) -> Bike:
        """Return the bike with what a finished sheet says of its description."""
        return bike

    def from_log(
        self, bike: Bike, subject: str, columns: Mapping[str, Sequence[float]]
    ) -> dict[str, str]:
        """Return readings by field from a log's columns; only where `takes_log` says what it must
        hold."""
        raise NotImplementedError

    def fields(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Field, ...]:
        """Return every field of its steps."""
        found = []
        for step in self.steps(bike, subject, typed):
            for item in step.fields:
                found.append(item)
        return tuple(found)


POINT_CODES = {
    "reversed": "S140",
    "too-high": "S141",
    "pack-high": "S142",
    "cell-low": "S071",
    "cell-high": "S072",
}
"""The code of a danger at a point, by the code of its hazard."""


def dangers_at(bike: Bike, subject: str, item: Field, found: Readings) -> tuple[SetFinding, ...]:
    """Return what is a danger among the values of one field, by the bands of its point."""
    bands = bands_of(bike, item.point, subject) if item.point else None
    if bands is None:
        return ()
    told = []
    for place, value in _values_of(item, found):
        hazard = bands.hazard(value)
        if hazard is not None:
            words = hazard.text.format(
                value=format_quantity(value, bands.unit), usual=bands.usual_words
            )
            text = f"{item.label}{place}: {words}"
            told.append(SetFinding(POINT_CODES[hazard.code], "danger", text, hazard.do))
    return tuple(told)


def _values_of(item: Field, found: Readings) -> tuple[tuple[str, float], ...]:
    """Return the numbers of a field, each with which of a row it is."""
    if item.many:
        row = found.rows.get(item.id, ())
        return tuple((f", number {n}", value) for n, value in enumerate(row, 1))
    number = found.number(item.id)
    if number is None:
        return ()
    return (("", number),)


def _typed(value: Value) -> str:
    if isinstance(value, str):
        return value
    if isinstance(value, float):
        return f"{value:g}"
    return ""


def read_all(fields: Sequence[Field], typed: Mapping[str, str]) -> Readings:
    """Return the readings of what was typed, by field id; what is empty is left out."""
    found = Readings()
    for item in fields:
        text = plain_text(str(typed.get(item.id, "")))
        if not text:
            continue
        try:
            _read(item, text, found)
        except ReadingError as error:
            found.unread[item.id] = str(error)
    return found


def _read(item: Field, text: str, found: Readings) -> None:
    if item.choices:
        if text not in dict(item.choices):
            raise ReadingError(
                f"{text!r} is none of {', '.join(value for value, _ in item.choices)}"
            )
        found.values[item.id] = text
        return
    if item.many:
        row = numbers_of(text, item.unit)
        if item.totals and (apart := differences(row, item.low, item.high)):
            row = apart
            found.totals.add(item.id)
        found.rows[item.id] = row
        wrong = [value for value in row if not item.low <= value <= item.high]
        if wrong:
            found.odd[item.id] = _cannot(item, wrong[0])
        else:
            found.values[item.id] = row
        return
    if item.words:
        found.values[item.id] = text
        return
    if text.lower() in OVER_LIMIT:
        _read_over(item, found)
        return
    value = parse_in(text, item.unit)
    if item.whole and value != round(value):
        raise ReadingError(f"{text!r} is not a whole number")
    if item.low <= value <= item.high:
        found.values[item.id] = value
    else:
        found.odd[item.id] = _cannot(item, value)


def _read_over(item: Field, found: Readings) -> None:
    """Take "over limit": open, where that can be told; in volts the range was too small, or it was
    ohms."""
    if item.over:
        found.values[item.id] = math.inf
    elif item.unit == "V":
        found.odd[item.id] = (
            f"{item.label}: OL in volts means that the meter's range was too small, or that it "
            "stood on ohms; read it again"
        )
    else:
        raise ReadingError("OL cannot be read here: type a number")


def _cannot(item: Field, value: float) -> str:
    return (
        f"{item.label}: {value:g} {item.unit} cannot be ({item.low:g} to {item.high:g}); "
        "read it again"
    )


YES_NO = (("yes", "yes"), ("no", "no"))


def next_step(steps: Sequence[Step], found: Readings) -> Step | None:
    """Return the first step with a reading that is needed and not there, None where all are."""
    for step in steps:
        if any(item.needed and item.id not in found.values for item in step.fields):
            return step
    return None


def verdict_of(
    findings: Sequence[SetFinding],
    complete: bool,
    good: str,
    values: Sequence[Measured] = (),
    pictures: Sequence[Picture] = (),
    waiting: str = "Go on with the next reading",
) -> Verdict:
    """Return a verdict by the gravest finding; good only where everything needed was read."""
    grave = [item for item in findings if item.severity == "danger"]
    faults = [item for item in findings if item.severity == "fault"]
    state, title = ("good", good) if complete else ("open", waiting)
    if faults:
        state, title = "mend", faults[0].text
    if grave:
        state, title = "danger", grave[0].text
    return Verdict(state, title, tuple(findings), tuple(values), tuple(pictures))
