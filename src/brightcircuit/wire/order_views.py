"""The order of work: ticked off, split among people, with what was found on the way."""

import uuid
from dataclasses import dataclass, replace

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.urls import reverse

from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.jobs.descriptions import say_what_is_opened, was_so_already
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block, blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import way_of, words_of
from brightcircuit.shop.models import Person
from brightcircuit.stations.frame import job_frame
from brightcircuit.wire.queries import Steps, steps_of, whole_of, work_of
from brightcircuit.wire.services import found_at_step, give_step, tick
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.pack import PackSpec
from brightcore.procedure.changes import changes_between
from brightcore.procedure.effort import Effort, effort_of, minutes_of
from brightcore.procedure.step import WorkStep, missing

MOST_WAITS = 3
"""Steps that come before another, named at most."""


def order_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the order of work; tick steps off, give them to people, write down what was found."""
    job = changing(request, job_uuid)
    error = ""
    if request.method == "POST":
        try:
            posted = Posted(request)
            place = act_on(ACTS, posted.text("do"), posted, job)
            return redirect(f"{reverse('wire-order', args=(job.uuid,))}{place}")
        except ValidationError as refused:
            error = refused.messages[0]
    work, standing, way = work_of(job), blocks(job), way_of(job)
    said = steps_of(job, work)
    everything, mine = bool(request.GET.get("all")), request.GET.get("for", "")
    if everything:
        return _whole_page(request, job)
    steps = work.steps
    rows = _rows(steps, said, standing)
    if error:
        asked = request.POST.get("step")
    else:
        asked = request.GET.get("step")
    left = [row.s.id for row in rows if not row.by]
    people = list(Person.objects.filter(is_active=True).order_by("username"))
    shown = []
    for row in rows:
        if not mine or row.given == mine:
            shown.append(replace(row, opened=row.next or row.s.id == asked))
    openable = []
    for part in way.plan.parts:
        if isinstance(part.spec, (MotorSpec, PackSpec)):
            openable.append(part)
    context = {
        "rows": shown,
        "open_rows": [row for row in shown if not row.by_whom],
        "done_rows": [row for row in shown if row.by_whom],
        "asked_done": asked in said.done,
        "left": len(left),
        "minutes": minutes_of(left),
        "count": len(steps),
        "error": error,
        "typed": as_typed(request, error),
        "blocks": standing,
        "hindered": work.hindered,
        "exchanged": changes_between(way.arrival, way.plan).exchanged,
        "planned": list(words_of(way.left, way.stands, way.plan).items()),
        "openable": openable,
        "people": people,
        "hands": sorted(set(said.given.values())),
        "mine": mine,
    }
    page = {**job_frame(job, "wire"), **context}
    return render(request, "wire/order.html", page, status=status_of(error))


def _whole_page(request: HttpRequest, job: Job) -> HttpResponse:
    """Show the order of building the whole bike from nothing, to be read: nothing of it is ticked
    here."""
    steps = whole_of(job).steps
    page = {**job_frame(job, "wire"), "steps": steps}
    return render(request, "wire/order_whole.html", page)


def _give(posted: Posted, job: Job) -> str:
    step_id = posted.text("step")
    person = give_step(actor=posted.who, job=job, step_id=step_id, to=posted.text("to"))
    messages.success(posted.request, f"Given to {person}.")
    return f"#{step_id}"


def _found(posted: Posted, job: Job) -> str:
    step_id = posted.text("step")
    found_at_step(actor=posted.who, job=job, step_id=step_id, text=posted.text("found"))
    messages.success(posted.request, "Saved at the step.")
    return f"#{step_id}"


def _opens(posted: Posted, job: Job) -> str:
    say_what_is_opened(actor=posted.who, job=job, parts=posted.many("opens"))
    return ""


def _already(posted: Posted, job: Job) -> str:
    count = was_so_already(actor=posted.who, job=job, changes=posted.many("change"))
    words = f"{count} change{pluralize(count)} marked as so already."
    messages.success(posted.request, words)
    return ""


def _tick(posted: Posted, job: Job) -> str:
    done = posted.text("done") == "1"
    early = tick(actor=posted.who, job=job, step_id=posted.text("step"), done=done)
    if early:
        messages.warning(posted.request, early)
    return "#next"


ACTS: dict[str, Act[Job]] = {
    "give": _give,
    "found": _found,
    "opens": _opens,
    "already": _already,
    "": _tick,
}
"""Every act, by the word that its form sends (a tick sends none); each returns the place of the
page to go back to."""


@dataclass(frozen=True, slots=True)
class StepRow:
    """A step as the page shows it: how it looks, what holds it, who did it, and what was found."""

    s: WorkStep
    effort: Effort
    look: str
    held: bool
    by: str | None
    by_whom: bool
    given: str
    found: list[str]
    next: bool
    waits: list[str]
    more: str
    opened: bool = False


def _rows(steps: tuple[WorkStep, ...], said: Steps, standing: list[Block]) -> list[StepRow]:
    """Return what the page shows of each step."""
    titles = {step.id: step.title for step in steps}
    following = next((step.id for step in steps if step.id not in said.done), "")
    rows = []
    for step in steps:
        waits = [titles[name] for name in missing(step, said.done) if name in titles]
        held = bool(standing) and step.powered and step.id not in said.done
        looks = {
            "done": step.id in said.done,
            "waits": held or (bool(waits) and step.id != following),
            "next": step.id == following,
        }
        rows.append(
            StepRow(
                s=step,
                effort=effort_of(step.id),
                look=next((name for name, so in looks.items() if so), ""),
                held=held,
                by=said.done.get(step.id),
                by_whom=step.id in said.done,
                given=said.given.get(step.id, ""),
                found=said.found.get(step.id, []),
                next=step.id == following,
                waits=waits,
                more=f" and {len(waits) - MOST_WAITS} more" if len(waits) > MOST_WAITS else "",
            )
        )
    return rows
