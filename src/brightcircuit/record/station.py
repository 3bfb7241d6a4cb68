"""Record in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.jobs.repairs import is_proved
from brightcircuit.record.help import HELP
from brightcircuit.stations.registry import Restoring, Section, Station
from brightcore.formats.plain import JsonObject
from brightcore.formats.schema import REPAIR_TEXTS
from brightcore.procedure.next_thing import NextThing, close


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """A proved job is closed."""
    return close() if is_proved(job) else None


def export(job: Job) -> JsonObject:
    """Return repairs, proofs and how the job was closed."""
    return {
        "repairs": [_repair(repair) for repair in job.repairs.all()],
        "close_reason": job.close_reason,
        "conclusion": job.conclusion,
    }


def _repair(repair: Repair) -> JsonObject:
    texts = {name: getattr(repair, name) for name in REPAIR_TEXTS}
    own = {"round": repair.round, "proof": repair.proof, "by": repair.by_name, "at": repair.at.isoformat()}
    return texts | own


def restore(restoring: Restoring) -> None:
    """Store the repairs."""
    for i, raw in enumerate(restoring.head.get("repairs", [])):
        texts = {name: raw.get(name, "") for name in REPAIR_TEXTS}
        Repair.objects.create(
            job=restoring.job,
            round=raw["round"],
            proof=raw["proof"],
            imported=True,
            at=restoring.dates[f"$.job.repairs[{i}].at"],
            **restoring.who(raw),
            **texts,
        )


STATION = Station(
    help=HELP,
    key="record",
    name="Record",
    shortcut="e",
    done=lambda job: not job.is_open,
    sections=(Section("Shop's sheet", "record"), Section("Rider's sheet", "record-rider")),
    next_thing=next_thing,
    export=export,
    restore=restore,
    log_words={
        "closed": "job closed",
        "reopened": "job reopened",
        "opened": "job opened",
        "revision": "moved to the newest description",
        "imported": "from a file",
    },
)
