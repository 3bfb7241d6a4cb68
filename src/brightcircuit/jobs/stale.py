"""Changes that were based on something that has changed since: they are shown, not stored."""

from collections.abc import Callable
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from brightcircuit.common.guard import Stale, require_unchanged
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.sent import sent_with
from brightcircuit.jobs.models import Job, LogEntry
from brightcircuit.jobs.queries import whole_job

MOST_LINES = 12


def changing(request: HttpRequest, job_uuid: UUID, adds: bool = False) -> Job:
    """Return the job of a page; what is posted there counts as based on the version that its form
    carries.

    `adds`: what is posted overwrites nothing, so it counts whatever has happened since.
    """
    job = get_object_or_404(whole_job(job_uuid))
    if request.method == "POST" and "version" in request.POST and not adds:
        job.based_on = whole_number(request.POST["version"], -1)
    return job


def require_fresh(job: Job, version: int) -> None:
    """Raise Stale unless the job, as it stands in the database, is at the version a form was based
    on."""
    fresh = Job.objects.select_for_update().get(pk=job.pk)
    fresh.based_on = version
    require_unchanged(fresh)


def meanwhile(job: Job, version: int) -> list[LogEntry]:
    """Return what has happened to a job since one of its versions, oldest first, the newest lines
    at most."""
    count = min(max(job.version - version, 0), MOST_LINES)
    return list(job.log.order_by("-id")[:count])[::-1]


class ShowStale:
    """Middleware: a change that came too late is shown beside what has happened since; nothing is
    lost."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Pass a request on."""
        return self.answer(request)

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """Return the page of a stale change, None for any other exception."""
        match = request.resolver_match
        if not isinstance(exception, Stale) or match is None or "job_uuid" not in match.kwargs:
            return None
        job = get_object_or_404(whole_job(match.kwargs["job_uuid"]))
        context = {
            "job": job,
            "lines": meanwhile(job, whole_number(request.POST.get("version"), job.version)),
            "sent": sent_with(request),
        }
        return render(request, "409.html", context, status=409)
