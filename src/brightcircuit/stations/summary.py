"""The stored summary of a job: what the Bench shows without computing anything."""

from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines.belief import NOBODY, JobTrace, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.stations.registry import stations
from brightcore.formats.engine_version import engine_version
from brightcore.formats.plain import JsonObject


def refresh_summary(job: Job, found: JobTrace | None = None) -> None:
    """Compute and store a job's summary; the engine may not be ready yet."""
    found = found or job_trace(job, who=NOBODY)
    summary: JsonObject = {
        "engine": engine_version(),
        "of": job.revision.sha256,
        "small": _small(job, found),
        "next": next_thing(job, found),
    }
    Job.objects.filter(pk=job.pk).update(summary=summary)


def _small(job: Job, found: JobTrace) -> str:
    """Return the small Line; while there is no belief, the one that was stored of the same description."""
    stored = job.summary
    if found.trace is None and found.entries and stored.get("of") == job.revision.sha256:
        return str(stored["small"])
    drawing = drawing_of(core_bike(job.revision))
    return drawing.small(drawing.lights(found.trace))


def refresh_for(key: str) -> None:
    """Refresh the summaries of the open jobs that use a description."""
    jobs = Job.objects.filter(revision__sha256=key, status=Job.Status.OPEN)
    for job in jobs.select_related("revision__bike", "arrival"):
        refresh_summary(job)


def next_thing(job: Job, found: JobTrace) -> str:
    """Return the next thing to do on a job as one line: what the station with the least rank would do."""
    if not job.is_open:
        return "Closed"
    offered = (station.next_thing(job, found) for station in stations())
    wanted = [thing for thing in offered if thing is not None]
    return min(wanted, key=lambda thing: thing.rank).words if wanted else "Nothing left to do"
