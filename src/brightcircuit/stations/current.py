"""Keeping the summaries of jobs current: every change of a job ends with a fresh one."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from brightcircuit.jobs.queries import whole_job
from brightcircuit.stations.summary import refresh_summary

Answer = Callable[[HttpRequest], HttpResponse]


def summaries(answer: Answer) -> Answer:
    """Middleware: what was posted to a job and changed it is in its summary before the answer goes out."""

    def with_summary(request: HttpRequest) -> HttpResponse:
        found = answer(request)
        match = request.resolver_match
        if request.method != "POST" or match is None or "job_uuid" not in match.kwargs:
            return found
        job = whole_job(match.kwargs["job_uuid"]).first()
        if job is not None and job.summary.get("version") != job.version:
            refresh_summary(job)
        return found

    return with_summary
