"""Pages and posts of the Trace station."""

import uuid
from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from brightcircuit.common.actor import actor
from brightcircuit.common.guard import Stale
from brightcircuit.common.shown import Context
from brightcircuit.engines.belief import job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.repairs import do_repair, prove, withdraw_repair
from brightcircuit.jobs.safety import shown_blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import stands_of
from brightcircuit.shop.services import use_meter
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.registry import hand_over
from brightcircuit.trace.cards import proof_card, repair_plan, trace_context
from brightcircuit.trace.code_views import learn_code
from brightcircuit.trace.codes import display_name, with_meaning
from brightcircuit.trace.forms import FreeReadingForm, answers_from_post
from brightcircuit.trace.sent import entry_id, proving, repairing, saving, skipping
from brightcircuit.trace.services import (
    Again,
    Blocked,
    add_evidence,
    confirm_reading,
    skip_test,
    undo_evidence,
    unskip_tests,
)
from brightcircuit.trace.testcard import all_tests
from brightcore.circuit.conditions import parse_condition
from brightcore.errors import BrightError
from brightcore.procedure.gates import GATES
from brightcore.tracing.advice import evidence_value
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import kind_of
from brightcore.tracing.trace import Trace

WAIT_S = 3.5
"""Seconds that a post waits for an engine that is just starting."""

WRONG_POWER = "Ohms are read with the pack out, volts with the pack in: choose a fitting state."


def _job(job_uuid: uuid.UUID) -> Job:
    return get_object_or_404(whole_job(job_uuid))


def trace_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the one next thing, suspects and evidence."""
    return _page(request, _job(job_uuid), request.GET.get("test", ""))


def _page(
    request: HttpRequest,
    job: Job,
    wanted: str = "",
    typed: Any = None,
    errors: dict[str, str] | None = None,
    status: int = 200,
) -> HttpResponse:
    # A page is shown at once and says how far the engine is. What was typed waits for it, so that
    # nothing has to be typed again.
    found = job_trace(job, wait_s=0.0 if request.method == "GET" else WAIT_S)
    context: Context = {
        "proof": proof_card(job),
        "blocks": shown_blocks(job),
    }
    red = black = ""
    if found.trace is not None and job.is_open:
        context |= trace_context(job, found, wanted, typed, errors)
        card = context["card"]
        if card and not context["proof"]:
            red, black = card.test.red, card.test.black
    context["errors"] = errors or {}
    return render(
        request,
        "trace/trace.html",
        {**job_frame(job, "trace", found, red, black), **context},
        status=status,
    )


def more_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show every test of the bike, and the form for a reading at any two points."""
    return _more(request, _job(job_uuid))


def _more(
    request: HttpRequest, job: Job, free: FreeReadingForm | None = None, status: int = 200
) -> HttpResponse:
    found = job_trace(job, WAIT_S)
    context: Context = {}
    if found.trace is not None and job.is_open:
        with found.holder.lock:
            form = free or FreeReadingForm(engine=found.trace.engine, bike=found.trace.engine.bike)
            context = {"all_tests": all_tests(found.trace), "free": form, "gates": GATES}
    return render(
        request, "trace/more.html", {**job_frame(job, "trace", found), **context}, status=status
    )


def progress(request: HttpRequest, job_uuid: uuid.UUID) -> JsonResponse:
    """Return how far the predictions are: percent, whether a first proposal can be made, and
    whether all is done."""
    holder = job_trace(_job(job_uuid)).holder
    return JsonResponse(
        {"percent": holder.percent, "first": holder.first.is_set(), "all": holder.finished.is_set()}
    )


def _store(request: HttpRequest, job: Job, trace: Trace, items: list[Evidence]) -> None:
    """Store evidence; raises BrightError, Blocked, Again or Stale."""
    person = actor(request)
    sent = saving(request.POST)
    if sent.meter is not None:
        meter = use_meter(actor=person, meter_id=sent.meter)
        items = [replace(item, meter=meter.name if meter else "") for item in items]
    add_evidence(
        actor=person,
        job=job,
        trace=trace,
        items=items,
        ticked=sent.ticked,
        client=sent.client,
        version=sent.version,
        again=sent.again,
    )


@require_POST
def keep(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Keep the answer of a test of the list."""
    job = _job(job_uuid)
    found = job_trace(job, WAIT_S)
    test_id = request.POST.get("test", "")
    if found.trace is None or test_id not in found.trace.engine.by_id:
        messages.error(request, "That test is not on the list of this bike. Nothing was saved.")
        return redirect("trace", job.uuid)
    test = found.trace.engine.by_id[test_id]
    display = display_name(found.trace.engine.bike)
    data, unknown = with_meaning(display, request.POST)
    items, errors = answers_from_post(test, found.trace.engine, data)
    if unknown:
        errors = {"value": unknown}
    status = 422
    if not errors:
        try:
            _store(request, job, found.trace, items)
            learn_code(request, display, data)
            _tell(request, job, items)
            return _done(job)
        except Again as error:
            errors = {"again": str(error)}
        except (BrightError, Blocked) as error:
            errors = {"value": str(error)}
        except Stale:
            job, status = _job(job_uuid), 409
            errors = {
                "value": (
                    "The job changed meanwhile: look at the evidence, then save again. What you "
                    "typed is still here."
                )
            }
    return _page(request, job, test_id, request.POST, errors, status=status)


def _tell(request: HttpRequest, job: Job, items: list[Evidence]) -> None:
    """Say what was saved, and how many suspects it put out."""
    after = job_trace(job, WAIT_S).trace
    values = ", ".join(evidence_value(item) for item in items)
    if after is None:
        messages.success(request, f"Saved: {values}.")
        return
    left = sum(suspect.is_left for suspect in after.suspects)
    messages.success(
        request, f"Saved: {values}. {left} of {len(after.suspects)} suspects are left."
    )


def _done(job: Job) -> HttpResponse:
    return redirect("trace", job.uuid)


@require_POST
def free_reading(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Keep a reading at any two points."""
    job = _job(job_uuid)
    found = job_trace(job, WAIT_S)
    if found.trace is None:
        messages.error(request, "Still starting; try again in a moment. Nothing was saved.")
        return redirect("trace", job.uuid)
    form = FreeReadingForm(request.POST, engine=found.trace.engine, bike=stands_of(job))
    status = 422
    if form.is_valid():
        data = form.cleaned_data
        condition = parse_condition(found.trace.engine.circuit, data["condition"])
        item = Evidence(data["kind"], data["free_value"], condition.id, data["red"], data["black"])
        try:
            if condition.power not in kind_of(item.kind).free_power:
                raise Blocked(WRONG_POWER)
            _store(request, job, found.trace, [item])
            _tell(request, job, [item])
            return _done(job)
        except Again as error:
            form.again = str(error)
        except (BrightError, Blocked) as error:
            form.add_error("free_value", str(error))
        except Stale:
            job, status = _job(job_uuid), 409
            form.add_error("free_value", "The job changed meanwhile: look, then save again.")
    return _more(request, job, form, status)


@require_POST
def undo(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Take one piece of evidence out."""
    job = changing(request, job_uuid)
    entry = job.evidence.filter(pk=entry_id(request.POST)).first()
    try:
        undo_evidence(
            actor=actor(request), job=job, entry_id=entry.pk if entry else 0, words=str(entry or "")
        )
    except ValidationError as error:
        messages.error(request, error.messages[0])
    return _done(job)


@require_POST
def confirm(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Let a reading count that was in question."""
    job = changing(request, job_uuid)
    try:
        confirm_reading(actor=actor(request), job=job, entry_id=entry_id(request.POST))
    except ValidationError as error:
        messages.error(request, error.messages[0])
    return _done(job)


@require_POST
def skip(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Leave a test out, or offer all again."""
    job = changing(request, job_uuid)
    sent = skipping(request.POST)
    if sent.offers_all:
        unskip_tests(actor=actor(request), job=job)
        return _done(job)
    trace = job_trace(job, WAIT_S).trace
    test = trace.engine.by_id.get(sent.test) if trace else None
    if test:
        skip_test(actor=actor(request), job=job, test_id=test.id, words=test.title)
    return _done(job)


@require_POST
def repair(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Record that a repair was done, or take that back."""
    job = changing(request, job_uuid)
    sent = repairing(request.POST)
    try:
        if sent.withdraws:
            withdraw_repair(actor=actor(request), job=job)
            return _done(job)
        found = job_trace(job, WAIT_S)
        plan = None
        if found.trace is not None:
            with found.holder.lock:
                plan = repair_plan(found.trace, sent.repair)
        if plan is None:
            messages.error(request, "That repair is not on this bike's list. Nothing was saved.")
            return _done(job)
        with transaction.atomic():
            do_repair(
                actor=actor(request),
                job=job,
                plan=plan,
                decision=sent.decision,
                thing=sent.thing,
            )
            if sent.stock:
                _from_stock(request, job, sent.stock)
    except ValidationError as error:
        messages.error(request, error.messages[0])
    return _done(job)


def _from_stock(request: HttpRequest, job: Job, stock: str) -> None:
    """Put what was fitted on the job as one of a row of stock."""
    hand_over(
        "record",
        actor=actor(request),
        job=job,
        key="stock",
        subject=stock,
        typed={"count": "1"},
        ticked=(),
    )


@require_POST
def proof(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Record a proof passed or failed."""
    job = changing(request, job_uuid)
    try:
        sent = proving(request.POST)
        prove(
            actor=actor(request),
            job=job,
            passed=sent.passed,
            keep=sent.keeps_readings,
            cause=sent.cause,
        )
    except ValidationError as error:
        messages.error(request, error.messages[0])
        return redirect("trace", job.uuid)
    return redirect("record" if sent.passed else "trace", job.uuid)
