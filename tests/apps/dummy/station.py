"""Weigh in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block
from brightcircuit.stations.registry import RecordPart, Restoring, Section, Station
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing
from tests.apps.dummy.models import Weight
from tests.apps.dummy.queries import weight_of

STAND_KG = 80.0
"""What the shop's stand carries (invented)."""

SCHEMA: JsonObject = {
    "type": "object",
    "properties": {"weight_kg": {"type": "number", "exclusiveMinimum": 0}},
    "required": ["weight_kg"],
    "additionalProperties": False,
}


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """An unweighed bike is weighed before everything else."""
    if weight_of(job):
        return None
    return NextThing("station-first", "dummy", "Weigh the bike")


def blocks(job: Job) -> list[Block]:
    """A bike that is too heavy for the stand is not powered."""
    weight = weight_of(job)
    if weight and weight.kg > STAND_KG:
        return [Block("weight", "Too heavy for the stand.")]
    return []


def export(job: Job) -> JsonObject:
    """Return the weight."""
    weight = weight_of(job)
    return {"weight_kg": weight.kg} if weight else {}


def restore(restoring: Restoring) -> None:
    """Keep the weight again."""
    part = restoring.part("dummy")
    if part:
        Weight.objects.create(job=restoring.job, kg=part["weight_kg"])


def record(job: Job) -> list[RecordPart]:
    """Return the line of the sheet."""
    weight = weight_of(job)
    return [RecordPart("Weight", (str(weight),))] if weight else []


STATION = Station(
    key="dummy",
    name="Weigh",
    shortcut="g",
    done=lambda job: weight_of(job) is not None,
    sections=(Section("Scales", "dummy"), Section("Why", "dummy-why")),
    next_thing=next_thing,
    blocks=blocks,
    export=export,
    restore=restore,
    schema=SCHEMA,
    record=record,
    log_words={"weight": "bike weighed"},
)
