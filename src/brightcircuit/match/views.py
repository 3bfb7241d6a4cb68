"""The Match station."""

import uuid
from collections.abc import Callable
from dataclasses import replace

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import NOTHING_TO_DO, Posted, as_typed, status_of
from brightcircuit.engines.belief import JobTrace, job_trace
from brightcircuit.jobs.descriptions import keep_description
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of as way_plan
from brightcircuit.match import cards
from brightcircuit.match.models import MatchPlan
from brightcircuit.match.plan import Plan, read_money, read_riding, read_variant
from brightcircuit.match.sections import Question, section_context
from brightcircuit.match.services import add_variant, ask, drop_variant
from brightcircuit.match.space import changed_space, space_context
from brightcircuit.stations.frame import job_frame
from brightcore.bike.measured import as_measured
from brightcore.errors import BrightError, FormatError
from brightcore.matching.cost import Option
from brightcore.tracing.endings import conclude

FieldErrors = dict[str, str]

MOST_PLACE, MOST_OPTIONS = 60, 20
"""Letters of a place, options of a cost: what a form may send."""


def plan_of(job: Job) -> Plan:
    """Return the plan of a job, filled up with what nobody has asked yet."""
    row = MatchPlan.objects.filter(job=job).first()
    return Plan.of(way_plan(job).info.load_mass_kg, row.data if row else {})


PAGE_OF = {
    "ride": "match-ride",
    "variant": "match-ride",
    "drop": "match-ride",
    "place": "match-class",
    "cost": "match-cost",
    "tally": "match-cost",
}
"""The page that shows what an act was about."""


def section_page(request: HttpRequest, job_uuid: uuid.UUID, section: str) -> HttpResponse:
    """Show one section of Match; take what is asked there."""
    job = changing(request, job_uuid)
    errors: dict[str, str] = {}
    if request.method == "POST":
        action = request.POST.get("action", "")
        try:
            act = ACTS.get(action)
            if act is None:
                raise ValidationError(NOTHING_TO_DO)
            errors = act(Posted(request), job)
        except ValidationError as error:
            errors = {"action": error.messages[0]}
        except FormatError as error:
            errors = {"log": "; ".join(str(p) for p in error.problems[:8])}
        except BrightError as error:
            errors = {action or "action": str(error)}
        if not errors:
            return redirect(PAGE_OF[action], job.uuid)
        section = PAGE_OF.get(action, "match").removeprefix("match-").replace("match", "chain")
    return _page(request, job, section, errors)


def space_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show whether parts go where they are to go; take what is measured."""
    job = changing(request, job_uuid)
    bike = way_plan(job)
    errors: dict[str, str] = {}
    if request.method == "POST":
        space, what, errors = changed_space(bike, request.POST, request.POST.getlist("part"))
        if not errors:
            try:
                core = replace(bike, space=space)
                if space != bike.space:
                    keep_description(
                        actor=actor(request), job=job, core=core, station="match", what=what
                    )
                return redirect("space", job.uuid)
            except ValidationError as error:
                errors = {"action": error.messages[0]}
    typed = as_typed(request, errors)
    context = {**job_frame(job, "match"), **space_context(bike, errors, typed).context()}
    return render(request, "match/space.html", context, status=status_of(errors))


def _ride(posted: Posted, job: Job) -> FieldErrors:
    values, errors = read_riding(posted.all())
    if not errors:
        ask(actor=posted.who, job=job, values=values)
    return errors


def _place(posted: Posted, job: Job) -> FieldErrors:
    ask(actor=posted.who, job=job, values={"place": posted.text("place")[:MOST_PLACE]})
    return {}


def _cost(posted: Posted, job: Job) -> FieldErrors:
    data = posted.all()
    errors: FieldErrors = {}
    options = {}
    ids = [key.removesuffix("-parts_cost") for key in data if key.endswith("-parts_cost")]
    for own in ids[:MOST_OPTIONS]:
        options[own] = read_money(data, own, cards.OPTION_FIELDS, errors)
        if options[own].get("life_km", 1.0) < 1.0:
            errors[f"{own}-life"] = "A life of 1 km or more."
    if not errors:
        locked = posted.text("locked") == "on"
        values = {"locked": locked, "options": options}
        ask(actor=posted.who, job=job, values=values)
    return errors


def _tally(posted: Posted, job: Job) -> FieldErrors:
    errors: FieldErrors = {}
    data = posted.all()
    prices = read_money(data, "price", tuple(p.id for p in way_plan(job).parts), errors)
    minutes = read_money(data, "tally", ("min",), errors).get("min", 0.0)
    if not errors:
        ask(actor=posted.who, job=job, values={"tally": prices, "tally_min": minutes})
    return errors


def _variant(posted: Posted, job: Job) -> FieldErrors:
    variant, errors = read_variant(posted.all())
    if not errors:
        add_variant(actor=posted.who, job=job, variant=variant)
    return errors


def _drop(posted: Posted, job: Job) -> FieldErrors:
    drop_variant(actor=posted.who, job=job, index=whole_number(posted.text("index"), -1))
    return {}


ACTS: dict[str, Callable[[Posted, Job], FieldErrors]] = {
    "ride": _ride,
    "place": _place,
    "cost": _cost,
    "tally": _tally,
    "variant": _variant,
    "drop": _drop,
}
"""Every act, by the word that its form sends; each returns what is wrong, by field."""


def _page(request: HttpRequest, job: Job, section: str, errors: dict[str, str]) -> HttpResponse:
    found = job_trace(job)
    typed = as_typed(request, errors)
    question = Question(
        as_measured(way_plan(job)),
        way_plan(job),
        plan_of(job),
        typed,
        errors,
        _repair(job, found),
    )
    context = {**job_frame(job, "match", found), **section_context(section, question)}
    return render(request, f"match/{section}.html", context, status=status_of(errors))


def _repair(job: Job, found: JobTrace) -> Option | None:
    """Return the repair that this job's Trace names or has named, as an option, where it names
    one."""
    if found.trace is not None and job.is_open:
        with found.holder.lock:
            conclusion = conclude(found.trace)
        if conclusion.status == "repair" and conclusion.repair:
            return cards.repair_option(
                conclusion.repair.action, conclusion.repair.minutes, conclusion.repair.cost_level
            )
    if job.conclusion:
        ranking = job.conclusion.get("ranking")
    else:
        ranking = None
    repair = job.repairs.last()
    if repair is None or not ranking:
        return None
    return cards.repair_option(
        repair.action,
        float(job.conclusion.get("minutes", 20.0)),
        int(job.conclusion.get("cost_level", 1)),
    )
