"""Writing a job's history."""

from django.db.models import F

from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job, LogEntry
from brightcircuit.shop.models import Person


def write(job: Job, actor: Person, what: str, text: str) -> None:
    """Append one line to a job's log and count the change."""
    LogEntry.objects.create(job=job, at=now(), by=str(actor), what=what, text=text)
    Job.objects.filter(pk=job.pk).update(version=F("version") + 1)
    job.refresh_from_db(fields=["version"])
