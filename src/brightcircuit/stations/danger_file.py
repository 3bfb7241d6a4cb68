"""Dangers that were read, in a job's file: they stand wherever the file goes, until read well or
let go."""

from datetime import datetime

from brightcircuit.jobs.models import Danger, Job
from brightcircuit.stations.registry import Restoring
from brightcore.formats.plain import JsonObject


def dangers_part(job: Job) -> JsonObject:
    """Return the dangers that were read in a job, nothing where none was."""
    rows = [_danger(row) for row in job.dangers.order_by("pk")]
    if rows:
        return {"dangers": rows}
    return {}


def _danger(row: Danger) -> JsonObject:
    said = {
        "place": row.place,
        "station": row.station,
        "code": row.code,
        "words": row.words,
        "do": row.do,
        "at": row.at.isoformat(),
        "by": row.by_name,
    }
    if row.ended is None:
        return said
    return said | {
        "ended": row.ended.isoformat(),
        "how": row.how,
        "reason": row.reason,
        "ended_by": row.ended_by_name,
    }


def restore_dangers(restoring: Restoring) -> None:
    """Store the dangers of another shop; what was let go there stands here until it is let go
    here."""
    for i, raw in enumerate(restoring.head.get("dangers", [])):
        well = raw.get("how") == Danger.How.READ_WELL
        Danger.objects.create(
            bike=restoring.job.revision.bike,
            job=restoring.job,
            place=raw["place"],
            station=raw["station"],
            code=raw["code"],
            words=raw["words"],
            do=raw["do"],
            at=restoring.dates[f"$.job.dangers[{i}].at"],
            ended=_ended(restoring, i) if well else None,
            how=Danger.How.READ_WELL if well else Danger.How.STANDS,
            ended_by_name=raw.get("ended_by", "")[:150] if well else "",
            imported=True,
            **restoring.who(raw),
        )


def _ended(restoring: Restoring, i: int) -> datetime:
    """Return when a danger was read well: as the file says, else when it was read."""
    dates = restoring.dates
    return dates.get(f"$.job.dangers[{i}].ended", dates[f"$.job.dangers[{i}].at"])
