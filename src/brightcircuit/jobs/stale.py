"""Changes that were based on something that has changed since: they are shown, not stored."""

from brightcircuit.jobs.models import Job


class Stale(Exception):
    """The job has changed since the form was shown."""


def require_fresh(job: Job, version: int) -> None:
    """Raise Stale unless the job, as it stands in the database, is at the version a form was based on."""
    if Job.objects.select_for_update().get(pk=job.pk).version != version:
        raise Stale
