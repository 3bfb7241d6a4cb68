"""Addresses of Weigh."""

import uuid

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import path

from brightcircuit.jobs.queries import whole_job
from brightcircuit.stations.frame import job_frame


def page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the empty frame of a job page."""
    job = get_object_or_404(whole_job(job_uuid))
    return render(request, "job_base.html", job_frame(job, "dummy"))


urlpatterns = [path("", page, name="dummy"), path("why/", page, name="dummy-why")]
