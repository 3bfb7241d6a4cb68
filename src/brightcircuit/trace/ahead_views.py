"""Looking ahead: the flow sheet to print, and the questions by telephone."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import status_of
from brightcircuit.common.shown import Context, Shown
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import Block, blocks, shown_blocks
from brightcircuit.jobs.services import keep_told
from brightcircuit.jobs.stale import changing
from brightcircuit.stations.frame import job_frame, percent
from brightcircuit.trace.testcard import minutes_words
from brightcore.procedure.gates import GATES
from brightcore.tracing.outlook import Leaf, Question, answer_evidence, flow_sheet, telephone
from brightcore.tracing.trace import Trace

WAIT_S = 3.5
"""Seconds that a page waits for an engine that is just starting."""

NOT_SAID = ""

WITHHOLDING = ("quarantine", "reading", "finding")
"""The blocks under which nobody is asked to try the bike, and no powered step is printed."""


def _withholding(job: Job) -> list[Block]:
    """Return the dangers that stand, while which nothing ahead is shown."""
    return [block for block in blocks(job) if block.kind in WITHHOLDING]


@dataclass(frozen=True, slots=True)
class Step:
    """One line of the flow sheet. `depth` indents it; `answer` and `share` say how one comes to it;
    `cautions` are those of a test."""

    depth: int
    answer: str
    share: str
    meaning: str
    act: str
    state: str
    minutes: str
    cautions: tuple[str, ...]
    ends: bool


def steps_of(leaf: Leaf, depth: int = 0, answer: str = "", share: str = "") -> list[Step]:
    """Return the lines of a tree, each test before what its answers lead to."""
    if leaf.conclusion is not None and leaf.conclusion.repair is not None:
        repair = leaf.conclusion.repair
        minutes = minutes_words(repair.minutes)
        return [Step(depth, answer, share, leaf.meaning, repair.action, "", minutes, (), True)]
    if leaf.proposal is None:
        return [Step(depth, answer, share, leaf.meaning, "", "", "", (), True)]
    test = leaf.proposal.test
    cautions = tuple(GATES[gate] for gate in test.gates)
    minutes = minutes_words(leaf.proposal.minutes)
    found = [
        Step(
            depth,
            answer,
            share,
            leaf.meaning,
            test.title,
            ", ".join(test.steps),
            minutes,
            cautions,
            False,
        )
    ]
    for branch in leaf.branches:
        found += steps_of(branch.then, depth + 1, branch.label, percent(branch.probability))
    return found


@dataclass(frozen=True)
class FlowPage(Shown):
    """What the flow sheet shows."""

    steps: list[Step]
    standing: list[Block]
    held: bool


def flow_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the expected tree for this bike and complaint, to print."""
    job = get_object_or_404(whole_job(job_uuid))
    found = job_trace(job, WAIT_S)
    steps: list[Step] = []
    held = job.is_open and bool(_withholding(job))
    if found.trace is not None and job.is_open and not held:
        with found.holder.lock:
            steps = steps_of(flow_sheet(found.trace))
    page = FlowPage(steps, shown_blocks(job), held)
    return render(request, "trace/flow.html", {**job_frame(job, "trace", found), **page.context()})


@dataclass(frozen=True, slots=True)
class Asked:
    """One question with its answers and what was chosen in the form that came back."""

    key: str
    question: Question
    chosen: str


@dataclass(frozen=True)
class PhonePage(Shown):
    """What the questions by telephone show."""

    asked: list[Asked]
    error: str
    standing: list[Block]


def phone_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the questions that tell most before the bike comes in, and keep the answers as told."""
    job = changing(request, job_uuid, adds=True)
    found = job_trace(job, WAIT_S)
    asked: list[Asked] = []
    error = ""
    standing = _withholding(job) if job.is_open else []
    if found.trace is not None and job.is_open and not standing:
        with found.holder.lock:
            asked = _asked(found.trace, request.POST)
    if request.method == "POST":
        error = _keep(request, job, asked)
        if not error:
            messages.success(
                request,
                "Saved as told by the rider. Trace looks at it again when the bike is here.",
            )
            return redirect("trace", job.uuid)
    page = PhonePage(asked, error, standing)
    context: Context = {**job_frame(job, "trace", found), **page.context()}
    return render(request, "trace/phone.html", context, status=status_of(error))


def _asked(trace: Trace, typed: QueryDict) -> list[Asked]:
    rows = []
    for question in telephone(trace):
        key = f"{question.scene}/{question.observable}"
        rows.append(Asked(key, question, typed.get(key) or NOT_SAID))
    return rows


def _keep(request: HttpRequest, job: Job, asked: list[Asked]) -> str:
    """Store what was answered; returns what is wrong, "" where nothing is."""
    items = []
    for row in asked:
        if row.chosen in dict(row.question.answers):
            items.append(answer_evidence(row.question, row.chosen))
    if not items:
        return "Choose an answer to at least one question."
    try:
        keep_told(actor=actor(request), job=job, items=items)
    except ValidationError as problem:
        return str(problem.messages[0])
    return ""
