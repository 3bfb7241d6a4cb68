"""Weigh in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block
from brightcircuit.stations.registry import RecordPart, Restoring, Section, Station
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing

WEIGHED: dict[str, float] = {}
"""Kilograms by the job's UUID: a table of its own in a real station."""


SCHEMA: JsonObject = {
    "type": "object",
    "properties": {"weight_kg": {"type": "number", "exclusiveMinimum": 0}},
    "required": ["weight_kg"],
    "additionalProperties": False,
}


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """An unweighed bike is weighed before everything else."""
    return (
        None if str(job.uuid) in WEIGHED else NextThing("station-first", "dummy", "Weigh the bike")
    )


def blocks(job: Job) -> list[Block]:
    """A bike that is too heavy for the stand is not powered."""
    heavy = WEIGHED.get(str(job.uuid), 0.0) > 80.0
    return [Block("weight", "Too heavy for the stand.")] if heavy else []


def export(job: Job) -> JsonObject:
    """Return the weight."""
    kg = WEIGHED.get(str(job.uuid))
    return {} if kg is None else {"weight_kg": kg}


def restore(restoring: Restoring) -> None:
    """Keep the weight again."""
    part = restoring.part("dummy")
    if part:
        WEIGHED[str(restoring.job.uuid)] = part["weight_kg"]


def record(job: Job) -> list[RecordPart]:
    """Return the line of the sheet."""
    return (
        [RecordPart("Weight", (f"{WEIGHED[str(job.uuid)]:g} kg",))]
        if str(job.uuid) in WEIGHED
        else []
    )


STATION = Station(
    key="dummy",
    name="Weigh",
    shortcut="g",
    done=lambda job: str(job.uuid) in WEIGHED,
    sections=(Section("Scales", "dummy"), Section("Why", "dummy-why")),
    next_thing=next_thing,
    blocks=blocks,
    export=export,
    restore=restore,
    schema=SCHEMA,
    record=record,
    log_words={"weight": "bike weighed"},
)
