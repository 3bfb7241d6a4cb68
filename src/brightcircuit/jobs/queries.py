"""Reading jobs."""

import uuid

from django.core.paginator import Page, Paginator
from django.db.models import Count, Q, QuerySet

from brightcircuit.jobs.models import Job, Repair


def bench(status: str, words: str, page: int) -> "Page[Job]":
    """Return one page of jobs for the Bench, newest first; only stored summaries are read."""
    found: QuerySet[Job] = Job.objects.select_related("revision__bike").defer(
        "revision__document", "conclusion"
    )
    if status in Job.Status.values:
        found = found.filter(status=status)
    if words:
        found = found.filter(Q(revision__bike__label__icontains=words) | Q(complaint__icontains=words))
    return Paginator(found, 24).get_page(page)


def proofs_by_belief() -> list[tuple[float | None, str, int]]:
    """Return (belief when it was named, None where Trace did not; proof; how many) of this shop's repairs."""
    rows = Repair.objects.filter(imported=False).exclude(proof=Repair.Proof.OPEN)
    return list(rows.values_list("probability", "proof").annotate(n=Count("id")))


def whole_job(job_uuid: uuid.UUID) -> QuerySet[Job]:
    """Return the one job with what every station page needs."""
    return Job.objects.filter(uuid=job_uuid).select_related(
        "revision__bike", "arrival", "match_plan", "donor__bike"
    )
