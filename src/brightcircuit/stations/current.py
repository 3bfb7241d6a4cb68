"""Keeping the summaries of jobs current: whoever looks at a job, or at the Bench, sees a fresh
one."""

import logging
from collections.abc import Callable
from uuid import UUID

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.stations.summary import refresh_summary

logger = logging.getLogger(__name__)


class Summaries:
    """Middleware: what was posted to a job is in its summary before a page is shown that tells it.

    An act that leads back to a page of the same job leaves the summary to that page: a tick is
    quick.
    """

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass a request on; see to the summary where the answer does not lead to a page of the
        job."""
        found = self.answer(request)
        match = request.resolver_match
        if request.method != "POST" or match is None or "job_uuid" not in match.kwargs:
            return found
        job_uuid = match.kwargs["job_uuid"]
        leads_to = found.headers.get("Location", "")
        # The page that follows refreshes it anyway. Doing it here as well would make every tick
        # wait twice.
        if not leads_to.startswith(reverse("job", args=(job_uuid,))):
            _refresh_where_stale(job_uuid)
        return found

    def process_view(
        self, request: HttpRequest, view: object, places: object, named: dict[str, object]
    ) -> None:
        """See to the summary before a page of a job is made."""
        job_uuid = named.get("job_uuid")
        if request.method != "POST" and isinstance(job_uuid, UUID):
            _refresh_where_stale(job_uuid)


MOST_STALE = 8
"""Summaries refreshed at one look at the Bench, the newest jobs first; each takes a tenth of a
second."""


def refresh_stale() -> None:
    """Refresh the summaries of open jobs that changed and were not looked at since, some at a
    time."""
    # Newest first: what is on the bench now is looked at, what waits for parts can wait here too.
    jobs = Job.objects.filter(status=Job.Status.OPEN).order_by("-number")
    told = jobs.values_list("pk", "version", "summary__version")
    stale = [pk for pk, version, known in told if known != version]
    for job in Job.objects.filter(pk__in=stale[:MOST_STALE]).select_related(
        "revision__bike", "arrival"
    ):
        _refresh(job)


def _refresh_where_stale(job_uuid: UUID) -> None:
    # Asked first without the job itself: most often nothing has changed.
    told = Job.objects.filter(uuid=job_uuid).values_list("version", "summary__version").first()
    if told is None or told[0] == told[1]:
        return
    job = whole_job(job_uuid).first()
    if job is not None:
        _refresh(job)


def _refresh(job: Job) -> None:
    """Refresh a summary; where it cannot be stored it stays stale, and no page or act fails by
    that."""
    # A summary is a copy. Under a lock or a full disk the page matters more than its copy.
    try:
        refresh_summary(job)
    except OperationalError:
        logger.warning("the summary of job %s could not be stored", job.number)
