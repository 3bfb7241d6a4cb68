"""Set in the registry of stations."""

from collections.abc import Sequence
from typing import Any

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.help import HELP
from brightcircuit.set.models import Calibration
from brightcircuit.set.queries import due_timers, rows_of
from brightcircuit.set.services import take_reading
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import OpenItem, RecordPart, Restoring, Station
from brightcore.formats.plain import JsonObject
from brightcore.procedure.effort import setting_minutes
from brightcore.procedure.next_thing import NextThing
from brightcore.procedure.purpose import looks_after_all
from brightcore.setting import instrument
from brightcore.setting.contract import STATES

STORED = (
    "instrument",
    "subject",
    "about",
    "of",
    "typed",
    "options",
    "state",
    "title",
    "findings",
    "values",
    "meter",
)

SCHEMA: JsonObject = {
    "type": "array",
    "maxItems": 500,
    "items": {
        "type": "object",
        "properties": {
            "instrument": {"type": "string", "maxLength": 30},
            "subject": {"type": "string", "maxLength": 120},
            "about": {"type": "string", "maxLength": 120},
            "of": {"type": "string", "maxLength": 64},
            "typed": {
                "type": "object",
                "additionalProperties": {"type": "string", "maxLength": 200},
            },
            "options": {
                "type": "object",
                "additionalProperties": {"type": "string", "maxLength": 40},
            },
            "state": {"enum": [*STATES, "waived"]},
            "title": {"type": "string", "maxLength": 600},
            "findings": {"type": "array", "maxItems": 40, "items": {"type": "object"}},
            "values": {"type": "array", "maxItems": 40, "items": {"type": "object"}},
            "meter": {"type": "string", "maxLength": 160},
            "at": {"type": "string"},
            "by": {"type": "string", "maxLength": 150},
            "undone": {"type": "boolean"},
        },
        "required": ["instrument", "subject", "typed", "state", "title", "at"],
        "additionalProperties": False,
    },
}


def done(job: Job) -> bool:
    """Whether everything there is to set is good or waived."""
    rows = [row for row in rows_of(job) if not row.instrument.helper]
    return bool(rows) and all(row.state in ("good", "waived") for row in rows)


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """What was found to be a danger, always; what is to be set and is not, where the job needs it.

    Beside that, whatever was begun or is set on a part that this job has fitted.
    """
    fitted = changes_of(job).fitted
    items = []
    for row in rows_of(job):
        if row.instrument.helper or row.state in ("good", "waived"):
            continue
        own = row.subject.id.partition(".")[0] in fitted
        if row.state != "danger" and not own and not (needed and looks_after_all(job.purposes)):
            continue
        if row.state == "danger":
            said = "a danger stands"
        else:
            said = row.words
        if row.subject.title:
            of = f", {row.subject.title}"
        else:
            of = ""
        items.append(
            OpenItem(
                f"set:{row.instrument.key}:{row.subject.id}",
                "set",
                f"{row.instrument.title}{of}: {said}",
            )
        )
    return items


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """A timer that has run out comes before other work; a sheet that was begun after it."""
    due = due_timers(job).first()
    if due is not None:
        return NextThing(
            "station-first", "set", due.words, "It has set: look before it is too hard to move."
        )
    begun = job.sheets.order_by("-at").first()
    if begun is None:
        return None
    title = instrument(begun.instrument).title
    return NextThing("station", "set", f"Go on: {title}", "Readings were begun and not finished.")


def export(job: Job) -> JsonObject:
    """Return every calibration and waiver, undone ones too."""
    rows = []
    for row in job.calibrations.all():
        rows.append(
            {name: getattr(row, name) for name in STORED}
            | {"at": row.at.isoformat(), "by": row.by_name, "undone": row.undone}
        )
    if rows:
        return {"calibrations": rows}
    return {}


def restore(restoring: Restoring) -> None:
    """Store the calibrations as history of another shop."""
    for i, raw in enumerate(restoring.part("set").get("calibrations", [])):
        Calibration.objects.create(
            job=restoring.job,
            at=restoring.dates.get(
                f"$.job.stations.set.calibrations[{i}].at", restoring.job.opened
            ),
            undone=raw.get("undone", False),
            imported=True,
            **{name: raw[name] for name in STORED if name in raw},
            **restoring.who(raw),
        )


def _value_words(value: JsonObject) -> str:
    """Return one measured value in words: what it is of, else its name without the underscores."""
    said = value.get("words") or value["name"].replace("_", " ")
    return f"{value['value']:g} {value['unit']} {said}".replace("  ", " ")


def record(job: Job) -> list[RecordPart]:
    """Return what was set, with its values."""
    lines = []
    for row in job.calibrations.filter(undone=False):
        values = "; ".join(_value_words(value) for value in row.values)
        title = instrument(row.instrument).title
        if row.subject:
            of = f", {row.about or row.subject}"
        else:
            of = ""
        if row.state == "waived":
            words = f"waived: {row.title}"
        else:
            words = row.title
        lines.append(f"{title}{of}: {words}{f' ({values})' if values else ''}, {row.by_name}")
    if lines:
        return [RecordPart("Set", tuple(lines))]
    return []


def tells(job: Job) -> list[str]:
    """Return what was set, by instrument and part; figures are the shop's."""
    rows = job.calibrations.filter(undone=False, imported=False, state="good")
    named = dict.fromkeys((row.instrument, row.about) for row in rows)
    return [f"Set: {instrument(key).title}{f', {about}' if about else ''}" for key, about in named]


def worked(job: Job) -> set[str]:
    """Return the parts that were measured or set in this job."""
    rows = job.calibrations.filter(undone=False, imported=False)
    return set(rows.values_list("subject", flat=True))


def take_over(
    *, actor: Person, job: Job, key: str, subject: str, typed: dict[str, str], ticked: Sequence[str]
) -> None:
    """Take readings that another station has made as those of an instrument, step by step."""
    found = instrument(key)
    for step in found.steps(stands_of(job), subject, {}):
        if any(item.id in typed for item in step.fields):
            what: dict[str, Any] = {"actor": actor, "job": job, "key": key, "subject": subject}
            take_reading(**what, step_id=step.id, typed=typed, ticked=ticked)


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the usual minutes of the instruments that were laid out here."""
    readings = [
        len(row.typed)
        for row in job.calibrations.all()
        if row.state != "waived" and not row.undone and not row.imported
    ]
    return [("Setting up", setting_minutes(readings))]


STATION = Station(
    help=HELP,
    key="set",
    labour=labour,
    name="Set",
    shortcut="s",
    done=done,
    next_thing=next_thing,
    export=export,
    restore=restore,
    schema={
        "type": "object",
        "properties": {"calibrations": SCHEMA},
        "required": ["calibrations"],
        "additionalProperties": False,
    },
    record=record,
    take_over=take_over,
    open=whats_open,
    tells=tells,
    worked=lambda job: set(
        job.calibrations.filter(undone=False, imported=False).values_list("subject", flat=True)
    ),
    log_words={"set": "reading or calibration of Set"},
)
