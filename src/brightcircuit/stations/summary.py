"""The stored summary of a job: what the Bench shows without computing anything."""

from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.engines.belief import NOBODY, JobTrace, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import way_of
from brightcircuit.stations.registry import stations
from brightcircuit.stations.whats_open import whats_open
from brightcore.formats.engine_version import engine_version
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing, by_purpose, first_of
from brightcore.procedure.purpose import looks_for_faults, needed_stations


def refresh_summary(job: Job, found: JobTrace | None = None) -> None:
    """Compute and store a job's summary; the engine may not be ready yet."""
    # Nobody waits for this: the engine is not made to hurry for a summary.
    found = found or job_trace(job, who=NOBODY)
    summary: JsonObject = {
        "version": job.version,
        "traced": found.trace is not None,
        "engine": engine_version(),
        "of": job.revision.sha256,
        "small": _small(job, found),
        "open": len(whats_open(job)) if job.is_open else 0,
        **_next(next_thing(job, found)),
    }
    Job.objects.filter(pk=job.pk).update(summary=summary)


def _small(job: Job, found: JobTrace) -> str:
    """Return the small Line; while there is no belief, the one that was stored of the same
    description."""
    stored = job.summary
    if found.trace is None and found.entries and stored.get("of") == job.revision.sha256:
        return str(stored["small"])
    # While something is still to be done the plan is drawn: it stays the same from tick to tick.
    way = way_of(job)
    if not way.stands_as_planned:
        drawing = drawing_of(way.plan)
        return drawing.small(drawing.lights(None))
    drawing = drawing_of(way.stands)
    return drawing.small(drawing.lights(found.trace))


def refresh_for(key: str) -> None:
    """Refresh the summaries of the open jobs that use a description."""
    jobs = Job.objects.filter(revision__sha256=key, status=Job.Status.OPEN)
    for job in jobs.select_related("revision__bike", "arrival"):
        refresh_summary(job)


def stored_next(job: Job, found: JobTrace) -> NextThing:
    """Return the next thing as stored where it still holds, else worked out anew; nothing is
    written."""
    kept = job.summary
    if kept.get("version") != job.version or kept.get("traced") is not (found.trace is not None):
        return next_thing(job, found)
    return NextThing(kept["step"], kept["station"], kept["next"], kept["why"], kept["minutes"])


def _next(thing: NextThing) -> JsonObject:
    return {
        "next": thing.words,
        "why": thing.why,
        "step": thing.step,
        "station": thing.station,
        "minutes": thing.minutes,
    }


def _seeks(thing: NextThing) -> bool:
    """Return whether a thing is the next measurement of fault finding, which only a repair is
    for."""
    return thing.station == "trace" and thing.step == "measure"


def _by_purpose(job: Job) -> NextThing | None:
    """Return the first station that the purpose needs and that is not done."""
    known = {station.key: station for station in stations()}
    left = (
        key for key in needed_stations(job.purposes) if key in known and not known[key].done(job)
    )
    return next((thing for thing in map(by_purpose, left) if thing is not None), None)


def next_thing(job: Job, found: JobTrace) -> NextThing:
    """Return the one next thing to do on a job: the first of what its stations would have done."""
    if not job.is_open:
        return NextThing("done", "record", "Closed")
    # Every station is asked, and the most urgent answer wins, so that no station has to know
    # another.
    things = [station.next_thing(job, found) for station in stations()]
    # A build or a service does not send its technician measuring for a fault that nobody has told
    # of.
    if not looks_for_faults(job.purposes):
        things = [thing for thing in things if thing is None or not _seeks(thing)]
        things.append(_by_purpose(job))
    thing = first_of(things)
    return thing or NextThing("done", "record", "Nothing left to do")
