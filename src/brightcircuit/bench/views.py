"""The Bench, new jobs, and what is known about one part of a job's bike."""

import uuid
from datetime import timedelta
from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone

from brightcircuit.bench.forms import ChooseBikeForm, NewJobForm
from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import latest_revision, recent
from brightcircuit.bikes.services import import_bike
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.forms import ImportForm
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import page_before, status_of
from brightcircuit.common.uploads import read_upload
from brightcircuit.engines.belief import PAGE, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import bench, bench_counts, open_jobs_on, whole_job
from brightcircuit.jobs.services import hand_over
from brightcircuit.stations.current import refresh_stale
from brightcircuit.stations.files import import_job
from brightcircuit.stations.frame import job_frame, known_about
from brightcircuit.stations.opening import open_job
from brightcircuit.stations.summary import refresh_summary, stored_next
from brightcircuit.stations.visits import last_time
from brightcore.errors import FormatError, Problem
from brightcore.kinds.select import is_cable
from brightcore.simulation.scenes import scenes_of

MOST_WORDS = 120
NEW_FOR = timedelta(days=14)
"""A new account is offered the guided case for so long."""

VIEWS = (
    ("open", "All open"),
    ("mine", "Mine"),
    ("held", "Hazard first"),
    ("promised", "Promised"),
    ("waits", "Waiting"),
    ("prove", "To prove or close"),
    ("closed", "Closed"),
    ("all", "All"),
)
"""Views of the Bench, as its tabs name them."""

SORT_WORDS = (
    ("newest", "newest first"),
    ("oldest", "oldest first"),
    ("promised", "by promised date"),
    ("bike", "by bike"),
)


def bench_page(request: HttpRequest) -> HttpResponse:
    """Show all jobs as small Lines with the next thing to do on each."""
    show, words = request.GET.get("show", "open"), request.GET.get("q", "").strip()[:MOST_WORDS]
    sort = request.GET.get("sort", "newest")
    person = actor(request)
    refresh_stale()
    page = bench(show, words, whole_number(request.GET.get("page"), 1), person, sort)
    counts = bench_counts(words, person)
    tabs = []
    for name, text in VIEWS:
        tabs.append(
            {
                "show": name,
                "words": text,
                "count": counts.get(name),
                "url": "?" + urlencode({"show": name, "q": words, "sort": sort}),
            }
        )
    context = {
        "page": page,
        "show": show,
        "words": words,
        "sort": sort,
        "sorts": SORT_WORDS,
        "tabs": tabs,
        "is_new": person.date_joined > timezone.now() - NEW_FOR and not person.rounds.exists(),
        "asked": "?" + urlencode({"show": show, "q": words, "sort": sort}),
    }
    return render(request, "bench/bench.html", context)


def new_job(request: HttpRequest) -> HttpResponse:
    """Open a job: first the bike is chosen, then the complaint and what the rider tells."""
    bike = _chosen(request.POST.get("bike") or request.GET.get("bike") or "")
    if bike is None:
        return _choose_bike(request)
    revision = latest_revision(bike)
    core = core_bike(revision)
    scenes = {scene.id: scene for scene in scenes_of(circuit_of(core))}
    fitted = [(part.id, part.name) for part in core.parts if not is_cable(part)]
    form = NewJobForm(request.POST or None, scenes=scenes, parts=fitted)
    if request.method == "POST" and form.is_valid():
        job = open_job(
            actor=actor(request),
            revision=revision,
            complaint=form.cleaned_data["complaint"],
            symptoms=form.symptoms(),
            purposes=form.cleaned_data["purposes"],
            beginning=form.beginning(),
        )
        refresh_summary(job)
        return redirect(first_station(job), job.uuid)
    context = {
        "form": form,
        "bike": bike,
        "small": bike.small,
        "others": open_jobs_on(bike),
        "last": last_time(bike),
    }
    return render(request, "bench/new.html", context, status=status_of(form.errors))


def _chosen(text: str) -> Bike | None:
    try:
        return Bike.objects.filter(uuid=uuid.UUID(text)).first()
    except ValueError:
        return None


def _choose_bike(request: HttpRequest) -> HttpResponse:
    """Show the bikes that came last, or those that fit some words; take in a bike file."""
    words = request.GET.get("q", "").strip()[:MOST_WORDS]
    form = ChooseBikeForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            bike = import_bike(actor=actor(request), text=read_upload(form.found())).revision.bike
            messages.success(request, f"{bike.label} is here. What is the matter with it?")
            return redirect(f"{reverse('job-new')}?{urlencode({'bike': bike.uuid})}")
        except FormatError as error:
            problems = error.problems
    context = {"form": form, "problems": problems, "words": words, "bikes": recent(words)}
    status = status_of(problems or form.errors)
    return render(request, "bench/choose.html", context, status=status)


def job_import(request: HttpRequest) -> HttpResponse:
    """Take a job file in, or say everything that is wrong with it."""
    form = ImportForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            job, outcome = import_job(
                actor=actor(request), text=read_upload(form.cleaned_data["file"])
            )
            words = {
                "new": "imported.",
                "here": "was already here.",
                "copy": "differs from the one here and came in as a copy.",
            }
            messages.success(request, f"Job {job.number} {words[outcome]}")
            refresh_summary(job)
            return redirect("record", job.uuid)
        except FormatError as error:
            problems = error.problems
    return render(
        request,
        "bench/import.html",
        {"form": form, "problems": problems},
        status=status_of(problems),
    )


def job_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Go to the station the job is at."""
    job = get_object_or_404(whole_job(job_uuid))
    return redirect(first_station(job), job.uuid)


def hand_over_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Put a job into somebody's hands, and go back to the page where that was said."""
    job = get_object_or_404(whole_job(job_uuid))
    if request.method == "POST":
        try:
            made = hand_over(
                actor=actor(request),
                job=job,
                worker_id=whole_number(request.POST.get("worker"), 0),
            )
            messages.success(request, f"The job is with {made} now.")
        except ValidationError as error:
            messages.error(request, error.messages[0])
    return redirect(page_before(request, reverse("job", args=(job.uuid,))))


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
    return render(request, "bench/shape.html", {**frame, **known.context()})
