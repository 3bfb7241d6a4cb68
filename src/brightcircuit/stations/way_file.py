"""The way of a job in its file: how the bike arrived, what was done to it, and what is said of its
steps."""

from brightcircuit.bikes.services import keep_arrival
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import ChangeDone, Job, StepMark
from brightcircuit.jobs.way import way_of
from brightcircuit.stations.registry import Restoring
from brightcore.bike.model import Bike
from brightcore.formats.bike_file import read_bike, read_pieces
from brightcore.formats.bike_writing import bike_document
from brightcore.formats.plain import JsonObject


def way_part(job: Job) -> JsonObject:
    """Return what a job file says of the way; nothing where the bike arrived as it is described and
    nothing was changed."""
    done = [_done(row) for row in job.changes_done.order_by("pk")]
    marks = [_mark(row) for row in job.step_marks.order_by("pk")]
    said: JsonObject = {"begins": job.begins, "plans": job.plans, "opens": job.opens}
    way = way_of(job)
    # What is only described better since is in the bike of the file; the arrival is told where the
    # way begins there.
    if job.arrived is not None and job.arrived_id != job.revision_id and (done or way.left):
        said["arrival"] = bike_document(_arrival(job))
    if done:
        said["done"] = done
    if marks:
        said["marks"] = marks
    plain = {"begins": Job.Begins.DESCRIBED, "plans": False, "opens": []}
    if said == plain:
        return {}
    return {"way": said}


def _arrival(job: Job) -> Bike:
    assert job.arrived is not None
    return core_bike(job.arrived)


def _done(row: ChangeDone) -> JsonObject:
    return {
        "change": row.change,
        "how": row.how,
        "words": row.words,
        "undone": row.undone,
        "at": row.at.isoformat(),
        "by": row.by_name,
        **row.piece,
    }


def _mark(row: StepMark) -> JsonObject:
    return {
        "step": row.step,
        "what": row.what,
        "text": row.text,
        "words": row.words,
        "undone": row.undone,
        "at": row.at.isoformat(),
        "by": row.by_name,
    }


def arrival_of(document: JsonObject) -> list[Bike]:
    """Return the bike as it arrived in another shop, where a job file has it; raises
    FormatError."""
    raw = document["job"].get("way", {}).get("arrival")
    if raw:
        return [read_bike(raw, prefix="$.job.way.arrival")]
    return []


def restore_way(restoring: Restoring) -> None:
    """Store the way of a job of another shop: what was done there stands here too, marks are
    history.

    A file from before the way was told is taken as it is: the bike stands as it describes it.
    """
    job, way = restoring.job, restoring.head.get("way")
    if not way:
        return
    job.begins, job.plans, job.opens = way["begins"], way.get("plans", False), way.get("opens", [])
    for bike in arrival_of(restoring.document):
        job.arrived = keep_arrival(actor=restoring.actor, revision=job.revision, core=bike)
    job.save(update_fields=["begins", "plans", "opens", "arrived"])
    for i, raw in enumerate(way.get("done", [])):
        piece = {name: raw[name] for name in ("parts", "joins") if raw.get(name)}
        read_pieces(piece.get("parts", []), piece.get("joins", []))
        ChangeDone.objects.create(
            job=job,
            change=raw["change"],
            how=raw["how"],
            words=raw["words"],
            piece=piece,
            undone=raw.get("undone", False),
            imported=True,
            at=restoring.dates.get(f"$.job.way.done[{i}].at", job.opened),
            **restoring.who(raw),
        )
    for i, raw in enumerate(way.get("marks", [])):
        StepMark.objects.create(
            job=job,
            imported=True,
            at=restoring.dates.get(f"$.job.way.marks[{i}].at", job.opened),
            **{name: raw.get(name, "") for name in ("step", "what", "text", "words")},
            undone=raw.get("undone", False),
            **restoring.who(raw),
        )
