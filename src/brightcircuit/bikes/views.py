"""Pages of bikes."""

import uuid
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.defaultfilters import pluralize
from django.utils import timezone
from django.views.decorators.http import require_POST

from brightcircuit.bikes.drawings import PartCard, bare_line, bare_small, part_cards
from brightcircuit.bikes.models import Bike, Revision, RiderContact
from brightcircuit.bikes.queries import bike_page_of, latest_revision
from brightcircuit.bikes.services import add_listed, import_bike, restore_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.downloads import download
from brightcircuit.common.forms import ImportForm
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import status_of
from brightcircuit.common.shown import Shown
from brightcircuit.common.uploads import read_upload
from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike as CoreBike
from brightcore.describing.measured import MeasuredWords, measured_words
from brightcore.describing.patterns import PATTERNS
from brightcore.errors import FormatError, Problem
from brightcore.findings import hint
from brightcore.findings import render as render_finding
from brightcore.formats.bike_list import COLUMNS
from brightcore.kinds import REGISTRY
from brightcore.programming.derive import Derived, derive_settings
from brightcore.wiring.rules import check_whole


@dataclass(frozen=True)
class BikePage(Shown):
    """What the page of a bike shows."""

    bike: Bike
    revision: Revision
    revisions: QuerySet[Revision]
    line: str
    cards: list[PartCard]
    findings: list[dict[str, object]]
    settings: list[dict[str, object]]
    measured: tuple[MeasuredWords, ...]
    contact: RiderContact | None
    jobs: list[Any]


SORT_WORDS = (("name", "by name"), ("newest", "newest first"), ("frame", "by frame number"))


def bike_list(request: HttpRequest) -> HttpResponse:
    """Show the bikes of the shop, page by page, or those that fit some words."""
    words = request.GET.get("q", "").strip()
    sort, here = request.GET.get("sort", "name"), request.GET.get("here") == "1"
    page = bike_page_of(words, whole_number(request.GET.get("page"), 1), sort, here)
    context = {
        "page": page,
        "rows": [(bike, _small(bike)) for bike in page],
        "words": words,
        "sort": sort,
        "sorts": SORT_WORDS,
        "here": here,
        "asked": "?" + urlencode({"q": words, "sort": sort} | ({"here": "1"} if here else {})),
    }
    return render(request, "bikes/list.html", context)


def _small(bike: Bike) -> str:
    """Return the small Line of a bike; of one that came in before it was stored, drawn now."""
    if bike.small:
        return bike.small
    newest = bike.revisions.order_by("-number").first()
    if newest:
        return bare_small(core_bike(newest))
    return ""


def first_bikes(request: HttpRequest) -> HttpResponse:
    """Show how the bikes of a new shop come in: described one by one, or as a list."""
    return render(request, "bikes/first.html", {})


def list_import(request: HttpRequest) -> HttpResponse:
    """Take in a list of bikes, or say everything that is wrong with it."""
    form = ImportForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            made = add_listed(actor=actor(request), text=read_upload(form.cleaned_data["file"]))
            messages.success(request, f"{len(made)} bike{pluralize(len(made))} imported.")
            return redirect("bikes")
        except FormatError as error:
            problems = error.problems
    context = {"form": form, "problems": problems, "columns": COLUMNS, "patterns": PATTERNS}
    return render(request, "bikes/list_import.html", context, status=status_of(problems))


def bike_import(request: HttpRequest) -> HttpResponse:
    """Take a bike file in, or say everything that is wrong with it."""
    form = ImportForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        try:
            done = import_bike(actor=actor(request), text=read_upload(form.cleaned_data["file"]))
            words = {
                "new": "imported.",
                "here": "was already here.",
                "copy": "differs from the one here and came in as a copy.",
            }
            messages.success(request, f"{done.revision.bike.label} {words[done.outcome]}")
            return redirect("bike", done.revision.bike.uuid)
        except FormatError as error:
            problems = error.problems
    return render(
        request,
        "bikes/import.html",
        {"form": form, "problems": problems},
        status=status_of(problems),
    )


def bike_page(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Show one bike: Line, parts, findings, derived settings, revisions."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    revision = latest_revision(bike)
    core = core_bike(revision)
    findings = []
    for f in check_whole(as_measured(core), timezone.localdate()):
        findings.append({"finding": f, "text": render_finding(f), "hint": hint(f)})
    own_settings = []
    for d in derive_settings(as_measured(core)):
        own_settings.append({"d": d, "title": setting_title(core, d)})
    context = BikePage(
        bike=bike,
        revision=revision,
        revisions=bike.revisions.defer("document").select_related("created_by"),
        line=bare_line(core),
        cards=part_cards(core),
        findings=findings,
        settings=own_settings,
        measured=measured_words(core),
        contact=RiderContact.objects.filter(bike=bike).first(),
        jobs=[job for r in bike.revisions.prefetch_related("jobs") for job in r.jobs.all()],
    ).context()
    return render(request, "bikes/bike.html", context)


@require_POST
def restore(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Make an earlier revision the present one."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    number = whole_number(request.POST.get("number"), 0)
    try:
        made = restore_revision(
            actor=actor(request),
            bike=bike,
            number=number,
            base=whole_number(request.POST.get("base"), 0),
        )
        messages.success(request, f"Revision {made.number} is as revision {number} was.")
    except ValidationError as problem:
        messages.error(request, problem.messages[0])
    return redirect("bike", bike.uuid)


def setting_title(bike: CoreBike, derived: Derived) -> str:
    """Return a setting in words: its device and what is set."""
    part = bike.part(derived.part)
    return f"{part.name}: {REGISTRY[part.kind].settings[derived.role]}"


def bike_file(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Download the newest revision as a bike file."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    return download(latest_revision(bike).document, "application/json", f"{bike.label}.bike.json")


def bike_line(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Download the Line as SVG."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    return download(
        bare_line(core_bike(latest_revision(bike))), "image/svg+xml", f"{bike.label}.svg"
    )
