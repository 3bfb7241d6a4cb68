"""Program in the registry of stations."""

from collections import Counter
from collections.abc import Collection, Sequence
from datetime import datetime

from django.template.defaultfilters import pluralize

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import plan_of
from brightcircuit.program.help import HELP
from brightcircuit.program.link_services import look_live
from brightcircuit.program.models import Otherwise, Plan, Snapshot, Told
from brightcircuit.program.queries import devices_of, findings_of, programmed, seen_devices
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import Live, OpenItem, RecordPart, Restoring, Section, Station
from brightcore.formats.plain import JsonObject
from brightcore.linking.layout import LIVE, fault_words
from brightcore.procedure.effort import menu_minutes
from brightcore.procedure.next_thing import NextThing
from brightcore.procedure.purpose import looks_after_all

TOLD = ("part", "code", "value", "before", "wanted", "how", "why", "firmware", "undone")
OTHERWISE = ("part", "code", "value", "reason")
SNAPSHOT = ("part", "profile", "title", "values")

_CODE = {"type": "string", "maxLength": 10}
_PART = {"type": "string", "maxLength": 60}
_NUMBER = {"type": "number", "minimum": -1e6, "maximum": 1e6}
_NUMBER_OR_NOT = {"type": ["number", "null"], "minimum": -1e6, "maximum": 1e6}
_TEXT = {"type": "string", "maxLength": 200}
_WHO = {"type": "string", "maxLength": 150}


def _rows(properties: JsonObject, required: list[str], most: int) -> JsonObject:
    who: JsonObject = {"at": {"type": "string"}, "by": _WHO}
    item = {
        "type": "object",
        "properties": properties | who,
        "required": required,
        "additionalProperties": False,
    }
    return {"type": "array", "maxItems": most, "items": item}


SCHEMA: JsonObject = {
    "type": "object",
    "properties": {
        "aim": {"type": "object"},
        "told": _rows(
            {
                "part": _PART,
                "code": _CODE,
                "value": _NUMBER,
                "before": _NUMBER_OR_NOT,
                "wanted": _NUMBER_OR_NOT,
                "how": {"type": "string", "maxLength": 10},
                "why": _TEXT,
                "firmware": {"type": "string", "maxLength": 20},
                "undone": {"type": "boolean"},
            },
            ["part", "code", "value", "how", "at"],
            5000,
        ),
        "otherwise": _rows(
            {"part": _PART, "code": _CODE, "value": _NUMBER, "reason": _TEXT},
            ["part", "code", "value", "reason", "at"],
            1000,
        ),
        "snapshots": _rows(
            {
                "part": _PART,
                "profile": {"type": "string", "maxLength": 40},
                "title": {"type": "string", "maxLength": 120},
                "values": {"type": "object", "additionalProperties": _NUMBER},
            },
            ["part", "profile", "title", "values", "at"],
            200,
        ),
    },
    "additionalProperties": False,
}


def done(job: Job) -> bool:
    """Whether every device whose profile is named is set as wanted."""
    if not programmed(job):
        return False
    devices = [device for device in seen_devices(job) if device.profile is not None]
    return bool(devices) and not any(device.left for device in devices)


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """What was written and not saved comes first, then a device that was begun and is not as
    wanted."""
    unsaved = job.lines.filter(saved=False).first()
    if unsaved is not None:
        why = "What was written over the link is lost when it is switched off."
        return NextThing("station", "program", "Save on the device", why)
    if not job.told.filter(undone=False, how__in=("entered", "written")).exists():
        return None
    device = next((d for d in devices_of(job) if d.profile is not None and d.left), None)
    if device is None:
        return None
    words = f"Go on: {device.part.name}, {device.left} parameter{pluralize(device.left)} left"
    return NextThing(
        "station", "program", words, "It was begun; half a set of values may ride worse than none."
    )


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """What was written and not saved, and values that are a danger, always; where the job needs it,
    devices that are not set as wanted.

    A build and a set-up need every device, any other job those that it has fitted.
    """
    items = []
    if job.lines.filter(saved=False).exists():
        items.append(
            OpenItem(
                "program:unsaved",
                "program",
                "What was written over the link is not saved on the device",
            )
        )
    read = job.told.filter(undone=False).exists()
    for item in findings_of(job, devices_of(job)) if read else ():
        if item.severity == "danger":
            key = f"program:danger:{item.code}:{'+'.join(item.parts)}"
            items.append(OpenItem(key, "program", f"Danger {item.code}: {item.text}"))
    if not needed:
        return items
    fitted = changes_of(job).fitted
    for device in devices_of(job):
        if device.part.id not in fitted and not looks_after_all(job.purposes):
            continue
        key = f"program:{device.part.id}"
        if device.profile is None:
            words = (
                f"{device.part.name}: its profile is not named, so that none of its "
                "values are written down"
            )
            items.append(OpenItem(key, "program", words))
        elif device.left:
            words = f"{device.part.name}: {device.left} value{pluralize(device.left)} not as wanted"
            items.append(OpenItem(key, "program", words))
    return items


def tells(job: Job) -> list[str]:
    """Return which devices were programmed."""
    own = worked(job)
    return [f"Programmed: {part.name}" for part in plan_of(job).parts if part.id in own]


def worked(job: Job) -> set[str]:
    """Return the devices that were set to something in this job."""
    rows = job.told.filter(undone=False, imported=False, how__in=("entered", "written"))
    return set(rows.values_list("part", flat=True))


def export(job: Job) -> JsonObject:
    """Return all that was told, wanted otherwise and kept, undone rows too."""
    plan = Plan.objects.filter(job=job).first()
    found: JsonObject = {
        "told": [_written(row, TOLD) for row in job.told.all()],
        "otherwise": [_written(row, OTHERWISE) for row in job.otherwise.all()],
        "snapshots": [_written(row, SNAPSHOT) for row in job.snapshots.all()],
        "aim": plan.data if plan else {},
    }
    return {name: rows for name, rows in found.items() if rows}


def _written(row: Told | Otherwise | Snapshot, names: Sequence[str]) -> JsonObject:
    """Return some fields of a row as a job file has them, with who wrote it and when."""
    fields = {name: getattr(row, name) for name in names}
    return fields | {"at": row.at.isoformat(), "by": row.by_name}


def restore(restoring: Restoring) -> None:
    """Store what another shop told, as history; what it wanted otherwise and its aim stand."""
    part, job = restoring.part("program"), restoring.job

    def at(name: str, i: int) -> datetime:
        return restoring.dates.get(f"$.job.stations.program.{name}[{i}].at", job.opened)

    if part.get("aim"):
        Plan.objects.create(job=job, data=part["aim"])
    for i, raw in enumerate(part.get("told", [])):
        fields = {name: raw[name] for name in TOLD if name in raw}
        Told.objects.create(
            job=job, at=at("told", i), imported=True, **fields, **restoring.who(raw)
        )
    for i, raw in enumerate(part.get("otherwise", [])):
        fields = {name: raw[name] for name in OTHERWISE}
        by_name = restoring.who(raw)["by_name"]
        Otherwise.objects.create(job=job, at=at("otherwise", i), by_name=by_name, **fields)
    for i, raw in enumerate(part.get("snapshots", [])):
        fields = {name: raw[name] for name in SNAPSHOT}
        Snapshot.objects.create(
            job=job, at=at("snapshots", i), imported=True, **fields, **restoring.who(raw)
        )


def record(job: Job) -> list[RecordPart]:
    """Return what devices were set to, from what, and what was wanted otherwise, with the
    reasons."""
    if not programmed(job):
        return []
    lines = []
    own = {(row.part, row.code): row for row in job.otherwise.all()}
    for device in devices_of(job):
        told = {row.code: row for row in job.told.filter(undone=False, part=device.part.id)}
        for row in device.rows:
            code = row.parameter.code
            entry, other = told.get(code), own.get((device.part.id, code))
            if entry is None:
                continue
            if entry.before is not None:
                before = f", was {row.parameter.words(entry.before)}"
            else:
                before = ""
            if other:
                why = f"; wanted {row.parameter.words(other.value)}: {other.reason}"
            else:
                why = ""
            words = f"{row.parameter.words(entry.value)}{before}{why}"
            lines.append(
                f"{device.part.name} {code} {row.parameter.name}: {words}, {entry.by_name}"
            )
    if lines:
        return [RecordPart("Programmed", tuple(lines))]
    return []


def live_now(job: Job, actor: Person, names: Collection[str]) -> list[Live]:
    """Return what the devices on this job's lines read now, by device; raises ValidationError."""
    titles = {part.id: part.name for part in plan_of(job).parts}
    found = []
    for line in job.lines.all():
        values = look_live(actor=actor, job=job, part=line.part)
        shown = (field for field in LIVE if field.name in names and field.name != "faults")
        said = [field.words(values[field.name]) for field in shown]
        if "faults" in names:
            faults = fault_words(values["faults"])
        else:
            faults = ()
        if "faults" in names:
            said.append(", ".join(faults) or "no error")
        words = f"{titles.get(line.part, line.part)}: {', '.join(filter(None, said))}"
        found.append(Live(words, bool(faults)))
    return found


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the usual minutes of what was looked up and entered by hand."""
    # A link reads a hundred values by itself: they are nobody's work.
    told = job.told.filter(undone=False, imported=False, how__in=("seen", "entered"))
    each = Counter(told.values_list("part", flat=True))
    return [("Programming", menu_minutes(each.values()))]


STATION = Station(
    help=HELP,
    key="program",
    labour=labour,
    name="Program",
    shortcut="p",
    done=done,
    sections=(
        Section("Values", "program"),
        Section("Link", "program-link"),
        Section("Checks", "program-checks"),
        Section("Snapshots", "program-snapshots"),
        Section("Profiles", "program-profiles"),
    ),
    next_thing=next_thing,
    worked=worked,
    open=whats_open,
    tells=tells,
    live=live_now,
    export=export,
    restore=restore,
    schema=SCHEMA,
    record=record,
    log_words={"program": "value, snapshot or profile of Program"},
)
