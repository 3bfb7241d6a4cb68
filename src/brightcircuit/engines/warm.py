"""Preparing engines of the newest open jobs when the server starts."""

from brightcircuit.engines.holders import MOST_ENGINES, holder_for
from brightcircuit.jobs.models import Job


def warm_engines() -> None:
    """Start preparing the engines of the newest open jobs, so that their pages open at once."""
    open_jobs = Job.objects.filter(status=Job.Status.OPEN).select_related("revision")[: MOST_ENGINES - 1]
    for job in reversed(list(open_jobs)):
        holder_for(job.revision).wanted.set()
