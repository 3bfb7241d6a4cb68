"""Pages of the Set station: the bench row, and one page for every instrument."""

import uuid
from dataclasses import dataclass
from datetime import datetime

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.common.posted import Posted, act_on, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.acts import ACTS, At
from brightcircuit.set.page import Errors, instrument_shown
from brightcircuit.set.queries import Row, rows_of
from brightcircuit.stations.frame import job_frame
from brightcore.errors import UnknownNameError
from brightcore.setting import instrument

NOTHING = "bike"
"""Stands in addresses for the bike itself."""

SETTLED = ("good", "waived")


@dataclass(frozen=True)
class RowPage(Shown):
    """The bench row: what there is to set, what helps when it is needed, and how much is left."""

    rows: list[tuple[Row, str]]
    helpers: list[tuple[Row, str]]
    left: int
    now: datetime


def bench_row_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show everything there is to set on this bike, and where each stands."""
    job = get_object_or_404(whole_job(job_uuid))
    rows, helpers, left = [], [], 0
    for row in rows_of(job):
        addressed = (row, row.subject.id or NOTHING)
        if row.instrument.helper:
            helpers.append(addressed)
            continue
        rows.append(addressed)
        left += row.state not in SETTLED
    page = RowPage(rows, helpers, left, timezone.now())
    return render(request, "set/row.html", {**job_frame(job, "set"), **page.context()})


def instrument_page(
    request: HttpRequest, job_uuid: uuid.UUID, key: str, subject: str
) -> HttpResponse:
    """Show one instrument: picture, one next step, one large entry; take what is read."""
    job = changing(request, job_uuid)
    subject = "" if subject == NOTHING else subject
    try:
        found = instrument(key)
    except UnknownNameError:
        raise Http404("There is no such instrument.") from None
    if subject not in {item.id for item in found.subjects(stands_of(job))}:
        raise Http404("That is not on this bike.")
    errors: Errors = {}
    posted = Posted(request)
    if request.method == "POST":
        try:
            said = act_on(ACTS, posted.text("do", "take"), posted, At(job, key, subject))
            if said:
                messages.success(request, said)
            return redirect("set-instrument", job.uuid, key, subject or NOTHING)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    # A form that could not be taken comes back at its own step with what was typed.
    wanted: str | None
    if errors:
        wanted = posted.text("step")
    else:
        wanted = request.GET.get("step")
    typed = posted.all() if errors else {}
    page = instrument_shown(job, found, subject, wanted, typed, errors)
    context = {**job_frame(job, "set"), **page.context()}
    return render(request, "set/instrument.html", context, status=status_of(errors))
