"""The table of codes that a display shows."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import Act, Posted, act_on, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import stands_of
from brightcircuit.stations.frame import job_frame
from brightcircuit.trace.codes import CODE, SEEN, codes_of, display_name, forget_code, remember_code
from brightcore.behaviour.vocabulary import OBSERVABLES

MEANINGS = [(name, words) for name, words in OBSERVABLES["error"].classes if name != "none"]


@dataclass(frozen=True)
class CodesPage(Shown):
    """What the page shows."""

    display: str
    codes: list[tuple[str, str]]
    meanings: list[tuple[str, str]]
    typed: str
    chosen: str
    error: str


def _forget(posted: Posted, display: str) -> str:
    forget_code(actor=posted.who, display=display, code=posted.text("forget"))
    return "Taken out of the table."


def _remember(posted: Posted, display: str) -> str:
    remember_code(
        actor=posted.who,
        display=display,
        code=posted.text("code"),
        meaning=posted.text("meaning"),
    )
    return "Saved for every display of this name."


ACTS: dict[str, Act[str]] = {"forget": _forget, "remember": _remember}


def codes_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what the codes of this bike's display mean; add or change one, or take one out."""
    job = changing(request, job_uuid, adds=True)
    display = display_name(stands_of(job))
    typed, chosen, error = request.POST.get("code", ""), request.POST.get("meaning", ""), ""
    if request.method == "POST" and display:
        try:
            posted = Posted(request)
            word = "forget" if posted.has("forget") else "remember"
            said = act_on(ACTS, word, posted, display)
            messages.success(request, said)
            return redirect("trace-codes", job.uuid)
        except ValidationError as problem:
            error = str(problem.messages[0])
    words = dict(MEANINGS)
    known = []
    for code, meaning in sorted(codes_of(display).items()):
        known.append((code, words.get(meaning, meaning)))
    page = CodesPage(display, known, MEANINGS, typed, chosen, error)
    context = {**job_frame(job, "trace"), **page.context()}
    return render(request, "trace/codes.html", context, status=status_of(error))


def learn_code(request: HttpRequest, display: str, data: dict[str, str]) -> None:
    """Keep a code that was typed together with its meaning."""
    if data.get(CODE, "").strip() and data.get(SEEN, "none") != "none" and display:
        try:
            remember_code(
                actor=actor(request), display=display, code=data[CODE], meaning=data[SEEN]
            )
        except ValidationError as problem:
            messages.error(request, str(problem.messages[0]))
