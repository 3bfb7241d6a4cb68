"""The Bench, new jobs, and what is known about one part of a job's bike."""

import uuid
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.bench.forms import NewJobForm
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import import_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.forms import ImportForm
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.uploads import read_upload
from brightcircuit.engines.belief import PAGE, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import bench, whole_job
from brightcircuit.stations.files import import_job
from brightcircuit.stations.frame import job_frame, known_about
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.summary import refresh_summary, stored_next
from brightcore.errors import FormatError, Problem


def bench_page(request: HttpRequest) -> HttpResponse:
    """Show all jobs as small Lines with the next thing to do on each."""
    status, words = request.GET.get("status", "open"), request.GET.get("q", "").strip()
    page = bench(status, words, whole_number(request.GET.get("page"), 1))
    asked = "?" + urlencode({"status": status, "q": words})
    context = {"page": page, "status": status, "words": words, "asked": asked}
    return render(request, "bench/bench.html", context)


def new_job(request: HttpRequest) -> HttpResponse:
    """Open a job on a bike of the shop or on an imported bike file."""
    looking = "look" in request.POST
    typed = {"bike": request.GET.get("bike"), **(request.POST.dict() if looking else {})}
    sent = (None, None) if looking else (request.POST or None, request.FILES or None)
    form = NewJobForm(*sent, initial=typed)
    problems: tuple[Problem, ...] = ()
    if not looking and request.method == "POST" and form.is_valid():
        try:
            bike, upload = form.cleaned_data["bike"], form.cleaned_data["file"]
            if upload:
                revision = import_bike(actor=actor(request), text=read_upload(upload)).revision
            else:
                revision = latest_revision(bike)
            job = open_job(
                actor=actor(request),
                revision=revision,
                complaint=form.cleaned_data["complaint"],
                symptoms=form.symptoms(),
            )
            refresh_summary(job)
            return redirect(first_station(job), job.uuid)
        except FormatError as error:
            problems = error.problems
    status = 422 if problems or (form.is_bound and form.errors) else 200
    return render(request, "bench/new.html", {"form": form, "problems": problems}, status=status)


def job_import(request: HttpRequest) -> HttpResponse:
    """Take a job file in, or say everything that is wrong with it."""
    form = ImportForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            job, outcome = import_job(actor=actor(request), text=read_upload(form.cleaned_data["file"]))
            words = {
                "new": "is in.",
                "here": "was already here.",
                "copy": "differs from the one here and came in as a copy.",
            }
            messages.success(request, f"Job {job.number} {words[outcome]}")
            refresh_summary(job)
            return redirect("record", job.uuid)
        except FormatError as error:
            problems = error.problems
    return render(
        request, "bench/import.html", {"form": form, "problems": problems}, status=422 if problems else 200
    )


def job_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Go to the station the job is at."""
    job = get_object_or_404(whole_job(job_uuid))
    return redirect(first_station(job), job.uuid)


def first_station(job: Job) -> str:
    """Return the station a job is at: that of the one next thing to do."""
    return stored_next(job, job_trace(job, who=PAGE)).station


def shape_page(request: HttpRequest, job_uuid: uuid.UUID, shape_id: str) -> HttpResponse:
    """Show what is known about one part or stretch: plug cards, suspects, readings."""
    job = get_object_or_404(whole_job(job_uuid))
    frame = job_frame(job, "shape")
    known = known_about(job, shape_id)
    if known is None:
        raise Http404("There is no such part on this bike.")
    return render(request, "bench/shape.html", {**frame, **known})
