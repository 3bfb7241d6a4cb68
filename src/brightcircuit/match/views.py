"""The Match station."""

import uuid
from dataclasses import replace
from typing import Any

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.engines.belief import JobTrace, job_trace
from brightcircuit.jobs.descriptions import keep_description
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of as way_plan
from brightcircuit.match import cards
from brightcircuit.match.models import MatchPlan
from brightcircuit.match.plan import defaults, read_money, read_riding, read_variant
from brightcircuit.match.sections import Question, section_context
from brightcircuit.match.services import add_variant, ask, drop_variant
from brightcircuit.match.space import changed_space, space_context
from brightcircuit.stations.frame import job_frame
from brightcore.bike.measured import as_measured
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError, FormatError, RangeError
from brightcore.matching.cost import Option
from brightcore.tracing.endings import conclude


def plan_of(job: Job) -> dict[str, Any]:
    """Return the plan of a job, filled up with what nobody has asked yet."""
    row = MatchPlan.objects.filter(job=job).first()
    return defaults(way_plan(job).info.load_mass_kg) | (row.data if row else {})


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
            errors = _act(request, job)
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
    typed = request.POST if errors else {}
    context = {**job_frame(job, "match"), **space_context(bike, errors, typed)}
    return render(request, "match/space.html", context, status=422 if errors else 200)


def _act(request: HttpRequest, job: Job) -> dict[str, str]:
    """Do one posted action; returns errors by field."""
    action, data = request.POST.get("action"), request.POST
    if action == "ride":
        values, errors = read_riding(data)
        if not errors:
            ask(actor=actor(request), job=job, values=values)
        return errors
    if action == "place":
        ask(actor=actor(request), job=job, values={"place": data.get("place", "")[:60]})
        return {}
    if action == "cost":
        rate = parse_measure(data.get("labour_per_hour", ""))
        if not 0 <= rate <= 1000:
            raise RangeError("labour_per_hour", rate, "it must lie from 0 to 1000")
        errors = {}
        ids = [key.removesuffix("-parts_cost") for key in data if key.endswith("-parts_cost")]
        options = {i: read_money(data, i, cards.OPTION_FIELDS, errors) for i in ids[:20]}
        for i, o in options.items():
            if o.get("life_km", 1.0) < 1.0:
                errors[f"{i}-life"] = "A life of 1 km or more."
        if not errors:
            ask(
                actor=actor(request),
                job=job,
                values={
                    "labour_per_hour": rate,
                    "locked": data.get("locked") == "on",
                    "options": options,
                },
            )
        return errors
    if action == "tally":
        errors = {}
        names = tuple(p.id for p in way_plan(job).parts)
        prices = read_money(data, "price", names, errors)
        minutes = read_money(data, "tally", ("min",), errors).get("min", 0.0)
        if not errors:
            ask(actor=actor(request), job=job, values={"tally": prices, "tally_min": minutes})
        return errors
    if action == "variant":
        variant, errors = read_variant(data)
        if not errors:
            add_variant(actor=actor(request), job=job, variant=variant)
        return errors
    if action == "drop":
        drop_variant(actor=actor(request), job=job, index=whole_number(data.get("index"), -1))
        return {}
    raise ValidationError("Nothing to do.")


def _page(request: HttpRequest, job: Job, section: str, errors: dict[str, str]) -> HttpResponse:
    found = job_trace(job)
    typed = request.POST if errors else {}
    question = Question(
        as_measured(way_plan(job)),
        way_plan(job),
        plan_of(job),
        typed,
        errors,
        _repair(job, found),
    )
    context = {**job_frame(job, "match", found), **section_context(section, question)}
    return render(request, f"match/{section}.html", context, status=422 if errors else 200)


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
    ranking = job.conclusion.get("ranking") if job.conclusion else None
    repair = job.repairs.last()
    if repair is None or not ranking:
        return None
    return cards.repair_option(
        repair.action,
        float(job.conclusion.get("minutes", 20.0)),
        int(job.conclusion.get("cost_level", 1)),
    )
