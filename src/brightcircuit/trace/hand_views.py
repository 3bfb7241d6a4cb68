"""What is to hand: known good parts, and a donor bike that may lend halves."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.bikes.queries import MOST_DONORS, donors_for, latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import set_hand
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.terms import problems_with, swappable
from brightcircuit.jobs.way import stands_of
from brightcircuit.stations.frame import job_frame
from brightcore.circuit.contacts import join_title
from brightcore.tracing.behind import all_behind, words_behind
from brightcore.tracing.donor import spare_of
from brightcore.tracing.tests.half import HALVES


@dataclass(frozen=True, slots=True)
class SpareRow:
    """One part that may be swapped: whether a known good one is to hand, and what speaks against
    the donor's."""

    id: str
    name: str
    on: bool
    lender: str
    problems: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class HalfRow:
    """One half of the donor, and what speaks against it."""

    words: str
    problems: tuple[str, ...]


@dataclass(frozen=True)
class HandPage(Shown):
    """What the page shows."""

    spares: list[SpareRow]
    donors: list[tuple[int, str]]
    words: str
    searching: bool
    halves: list[HalfRow]
    error: str


def hand_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show and store what is to hand for one job."""
    job = changing(request, job_uuid)
    error = ""
    words = request.GET.get("q", "").strip()
    donors = donors_for(job.revision.bike, words)
    lending = job.donor.bike if job.donor else None
    if lending and lending not in donors:
        donors.insert(0, lending)
    if request.method == "POST":
        wanted = whole_number(request.POST.get("donor"), 0)
        chosen = next((bike for bike in donors if bike.pk == wanted), None)
        try:
            set_hand(
                actor=actor(request),
                job=job,
                spares=request.POST.getlist("spares"),
                donor=latest_revision(chosen) if chosen else None,
            )
            messages.success(request, "Saved. Trace proposes only what can be done.")
            return redirect("trace-hand", job.uuid)
        except ValidationError as problem:
            error = str(problem.messages[0])
    choices = [(bike.pk, bike.label) for bike in donors]
    searching = bool(words) or len(donors) >= MOST_DONORS
    page = HandPage(_spares(job), choices, words, searching, _halves(job), error)
    context = {**job_frame(job, "trace"), **page.context()}
    return render(request, "trace/hand.html", context, status=status_of(error))


def _spares(job: Job) -> list[SpareRow]:
    bike = stands_of(job)
    donor = core_bike(job.donor) if job.donor else None
    rows = []
    for part in swappable(bike):
        if donor:
            spare = spare_of(bike, part, donor)
        else:
            spare = None
        on = job.spares is None or part.id in job.spares
        lender, problems = (spare.part.name, spare.problems) if spare else ("", ())
        rows.append(SpareRow(part.id, part.name, on, lender, problems))
    return rows


def _halves(job: Job) -> list[HalfRow]:
    if job.donor is None:
        return []
    bike = stands_of(job)
    words = dict(HALVES)
    for behind in all_behind(bike):
        plug = join_title(bike, bike.join(behind.join)).lower()
        words[f"behind {behind.join}"] = f"{words_behind(bike, behind)}, at the {plug}"
    found: list[HalfRow] = []
    for half, problems in problems_with(bike, job.donor):
        found.append(HalfRow(words[half], problems))
    return found
