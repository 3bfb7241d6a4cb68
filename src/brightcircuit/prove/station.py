"""Prove in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.prove.help import HELP
from brightcircuit.prove.models import Proved, RideRow
from brightcircuit.prove.queries import LATER, holding, next_row, rows_of
from brightcircuit.stations.registry import (
    OpenItem,
    Proven,
    RecordPart,
    Restoring,
    Section,
    Station,
)
from brightcore.formats.plain import JsonObject
from brightcore.procedure.effort import proof_minutes
from brightcore.procedure.next_thing import NextThing

STORED = ("check_id", "title", "typed", "passed", "note", "shape", "undone")
RIDE = ("name", "told", "flags", "series", "undone")
SCHEMA: JsonObject = {
    "type": "object",
    "properties": {
        "proofs": {
            "type": "array",
            "maxItems": 1000,
            "items": {
                "type": "object",
                "properties": {
                    "check_id": {"type": "string", "maxLength": 80},
                    "title": {"type": "string", "maxLength": 200},
                    "typed": {"type": "string", "maxLength": 60},
                    "passed": {"type": "boolean"},
                    "note": {"type": "string", "maxLength": 500},
                    "shape": {"type": "string", "maxLength": 64},
                    "undone": {"type": "boolean"},
                    "at": {"type": "string"},
                    "by": {"type": "string", "maxLength": 150},
                },
                "required": ["check_id", "title", "passed", "at"],
                "additionalProperties": False,
            },
        },
        "rides": {
            "type": "array",
            "maxItems": 100,
            "items": {
                "type": "object",
                "properties": {
                    "name": {"type": "string", "maxLength": 120},
                    "began": {"type": "string", "maxLength": 40},
                    "told": {"type": "object", "additionalProperties": {"type": "number"}},
                    "flags": {
                        "type": "array",
                        "maxItems": 20,
                        "items": {"type": "string", "maxLength": 300},
                    },
                    "series": {
                        "type": "object",
                        "additionalProperties": {
                            "type": "array",
                            "maxItems": 2000,
                            "items": {"type": "array", "items": {"type": "number"}, "maxItems": 2},
                        },
                    },
                    "undone": {"type": "boolean"},
                    "at": {"type": "string"},
                    "by": {"type": "string", "maxLength": 150},
                },
                "required": ["name", "told", "at"],
                "additionalProperties": False,
            },
        },
    },
    "required": ["proofs"],
    "additionalProperties": False,
}


def begun(job: Job) -> bool:
    """Whether any check was made."""
    return job.proofs.filter(undone=False, imported=False).exists()


def done(job: Job) -> bool:
    """Whether all that stands before the hand-over has passed; a job without a check to make is
    not."""
    return begun(job) and not holding(rows_of(job))


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """What failed comes back first; a list that was begun goes on."""
    if not begun(job):
        return None
    rows = rows_of(job)
    row = next_row(rows)
    if row is None or not holding(rows):
        return None
    if row.state == "failed":
        return NextThing("station", "prove", f"Failed: {row.check.title}", row.check.failed[1])
    left = len(holding(rows))
    return NextThing("station", "prove", f"Prove: {row.check.title}", f"{left} to go.")


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """Every check that has not passed for what stands now, what failed first."""
    rows = holding(rows_of(job))
    rows.sort(key=lambda row: row.state != "failed")
    items = []
    for row in rows:
        said = {"failed": "failed", "fell": "to be proven again"}.get(row.state, "not proven")
        items.append(OpenItem(f"prove:{row.check.id}", "prove", f"{row.check.title}: {said}"))
    return items


def proven(job: Job) -> list[Proven]:
    """Return every check with its key, its title, and whether it has passed for what stands now."""
    return [(row.check.id, row.check.title, row.state == "passed") for row in rows_of(job)]


def wh_per_km(job: Job) -> float:
    """Return what the newest ride of a job told, in watt-hours a kilometre; 0 where none told."""
    for ride in job.rides.filter(undone=False).order_by("-pk"):
        used = ride.told.get("wh_per_km")
        if used:
            return float(used)
    return 0.0


def later(job: Job) -> list[str]:
    """Return what is looked at again once the bike has been ridden."""
    found: list[str] = []
    for row in rows_of(job):
        if row.check.group == LATER and row.state != "passed":
            found.append(row.check.title)
    return found


def export(job: Job) -> JsonObject:
    """Return every check that was made, undone ones too."""
    rows = []
    for row in job.proofs.all():
        rows.append(
            {name: getattr(row, name) for name in STORED}
            | {"at": row.at.isoformat(), "by": row.by_name}
        )
    rides = []
    for ride in job.rides.all():
        rides.append(
            {name: getattr(ride, name) for name in RIDE}
            | {
                "began": ride.began.isoformat() if ride.began else "",
                "at": ride.at.isoformat(),
                "by": ride.by_name,
            }
        )
    if not rows and not rides:
        return {}
    return {"proofs": rows} | ({"rides": rides} if rides else {})


def restore(restoring: Restoring) -> None:
    """Store the checks as history of another shop: here they count once they are made again."""
    for i, raw in enumerate(restoring.part("prove").get("proofs", [])):
        Proved.objects.create(
            job=restoring.job,
            at=restoring.dates.get(f"$.job.stations.prove.proofs[{i}].at", restoring.job.opened),
            imported=True,
            **{name: raw[name] for name in STORED if name in raw},
            **restoring.who(raw),
        )
    for i, raw in enumerate(restoring.part("prove").get("rides", [])):
        path = f"$.job.stations.prove.rides[{i}]"
        RideRow.objects.create(
            job=restoring.job,
            at=restoring.dates[f"{path}.at"],
            began=restoring.dates.get(f"{path}.began"),
            imported=True,
            **{name: raw[name] for name in RIDE if name in raw},
            **restoring.who(raw),
        )


def record(job: Job) -> list[RecordPart]:
    """Return what was proven, and what was not."""
    lines = []
    for row in job.proofs.filter(undone=False):
        typed = f" ({row.typed})" if row.typed else ""
        note = f": {row.note}" if row.note else ""
        if row.imported:
            where = ", in another shop"
        else:
            where = ""
        lines.append(f"{row}{typed}{note}, {row.by_name}{where}")
    rides = []
    for ride in job.rides.filter(undone=False):
        km, wh = ride.told.get("distance_km"), ride.told.get("wh_per_km")
        figures = [
            f"{km:.2f} km" if km is not None else "",
            f"{wh:.1f} Wh/km" if wh is not None else "",
        ]
        rides.append(f"Ride {ride}: {', '.join(filter(None, figures)) or 'read'}, {ride.by_name}")
    parts = [RecordPart("Proven", tuple(lines)), RecordPart("Rides", tuple(rides))]
    return [part for part in parts if part.lines]


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the usual minutes of the checks that were made here."""
    made = job.proofs.filter(undone=False, imported=False).values_list("check_id", flat=True)
    return [("Proving", proof_minutes(made))]


STATION = Station(
    help=HELP,
    key="prove",
    labour=labour,
    name="Prove",
    shortcut="v",
    done=done,
    sections=(Section("Checks", "prove"), Section("Ride log", "prove-rides")),
    next_thing=next_thing,
    open=whats_open,
    proven=proven,
    wh_per_km=wh_per_km,
    later=later,
    export=export,
    restore=restore,
    schema=SCHEMA,
    record=record,
    log_words={"prove": "check of Prove"},
)
