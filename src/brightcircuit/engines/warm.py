"""Preparing engines of the newest open jobs when the server starts."""

from brightcircuit.engines.belief import description_now
from brightcircuit.engines.holders import holder_for
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import way_of

MOST_WARM = 6
"""Open jobs whose engines are prepared although nobody has asked yet."""


def warm_engines() -> None:
    """Start preparing the engines of the newest open jobs, so that their pages open at once."""
    open_jobs = Job.objects.filter(status=Job.Status.OPEN).select_related("revision")[:MOST_WARM]
    for job in reversed(list(open_jobs)):
        if way_of(job).is_whole:
            holder_for(description_now(job), warm=True)
