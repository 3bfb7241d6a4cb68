"""Pages of the Wire station."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.bikes.describe import Refused
from brightcircuit.bikes.drawings import part_card
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.posted import Posted, as_typed, status_of
from brightcircuit.common.shown import Context, Shown
from brightcircuit.jobs.models import Edit, Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import ShownFinding, blocks, findings_of
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of, way_of
from brightcircuit.library.translate import shelf
from brightcircuit.stations.frame import job_frame
from brightcircuit.wire.acts import do_act
from brightcircuit.wire.queries import first_power_up_of, undoable
from brightcore.describing.join_words import free_ports, join_words
from brightcore.drawing.sheet_svg import sheet_svg
from brightcore.errors import BrightError, FormatError, Problem
from brightcore.procedure.first_power_up import bench_cautions, bench_steps
from brightcore.wiring.fixes import fixes_for, has_remedies
from brightcore.wiring.offers import HeldBack, offers_of
from brightcore.wiring.propose import fits_of
from brightcore.wiring.rules import RULES


@dataclass(frozen=True)
class WirePage(Shown):
    """What Wire shows."""

    drawing: str
    fits: dict[str, tuple[str, ...]]
    undo: Edit | None
    to_do: int
    errors: dict[str, str]
    proposals: list[dict[str, object]]
    certain_count: int
    held_back: tuple[HeldBack, ...]
    left_over: list[tuple[str, str]]
    free: list[tuple[str, str]]
    findings: list[ShownFinding]
    fixable: list[str]
    joins: list[tuple[int, str, str]]
    typed: dict[str, str]


def wire_page(request: HttpRequest, job_uuid: uuid.UUID, page: str = "wire") -> HttpResponse:
    """Show what is connected to what, as a drawing or as a list of pins; connect and disconnect
    plugs."""
    job = changing(request, job_uuid)
    errors: dict[str, str] = {}
    problems: tuple[Problem, ...] = ()
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, do_act(posted, job, posted.text("action")))
            return redirect("wire-pins" if page == "pins" else "wire", job.uuid)
        except ValidationError as error:
            errors = {"action": error.messages[0]}
        except Refused as error:
            errors = error.errors
        except FormatError as error:
            problems = error.problems
        except BrightError as error:
            errors = {"action": str(error)}
    context = {**job_frame(job, "wire"), **_context(request, job, errors), "problems": problems}
    return render(request, f"wire/{page}.html", context, status=status_of(errors or problems))


def plug_page(
    request: HttpRequest, job_uuid: uuid.UUID, part_id: str, port_id: str
) -> HttpResponse:
    """Show the card of one plug: face, colours, mate and the volts to expect, to stand beside the
    drawing."""
    job = get_object_or_404(whole_job(job_uuid))
    bike = plan_of(job)
    part = next((part for part in bike.parts if part.id == part_id), None)
    if part:
        index = next((n for n, port in enumerate(part.ports) if port.id == port_id), None)
    else:
        index = None
    if part is None or index is None:
        raise Http404("There is no such plug on this bike.")
    card = part_card(bike, circuit_of(bike).nets, part)
    return render(request, "wire/plug.html", {"plug": card.plugs[index], "part": part})


def _context(request: HttpRequest, job: Job, errors: dict[str, str]) -> Context:
    bike = plan_of(job)
    labels = dict(free_ports(bike))
    offers = offers_of(bike, shelf())
    offered = offers.proposals
    proposals = []
    for p in offered:
        proposals.append(
            {"p": p, "pair": f"{p.one}|{p.two}", "others": [labels.get(o, o) for o in p.others]}
        )
    proposed = set()
    for p in offered:
        for end in (p.one, p.two):
            proposed.add(end)
    fits, undo = fits_of(bike), undoable(job)
    return WirePage(
        drawing=sheet_svg(
            bike,
            f"Wiring of {bike.info.label}",
            live=True,
            proposals=[(p.one, p.two, p.words) for p in offered] if job.is_open else [],
        ),
        fits={a: b for a, b in fits.items() if b},
        undo=undo,
        to_do=len(way_of(job).left),
        errors=errors,
        proposals=proposals,
        certain_count=len(offers.certain),
        held_back=offers.held_back,
        left_over=[(i, w) for i, w in labels.items() if i not in proposed],
        free=list(labels.items()),
        findings=findings_of(job),
        fixable=[rule.type.code for rule in RULES if rule.remedies],
        joins=[(n, j.id, join_words(bike, j)) for n, j in enumerate(bike.joins, 1)],
        typed=as_typed(request, errors),
    ).context()


def fixes_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show for every open finding of the wiring what would put it right, each tried on the bike."""
    job = get_object_or_404(whole_job(job_uuid))
    bike, parts = plan_of(job), shelf()
    rows = []
    for item in findings_of(job):
        if not item.waived and has_remedies(item.finding.code):
            rows.append({"f": item, "fixes": fixes_for(bike, item.finding, parts)})
    return render(request, "wire/fixes.html", {**job_frame(job, "wire"), "rows": rows})


def first_power_up_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the smallest set of joins with which the motor must turn, worked out with the
    circuit."""
    job = get_object_or_404(whole_job(job_uuid))
    bike = plan_of(job)
    light = first_power_up_of(bike)
    context = {
        "light": light,
        "steps": bench_steps(bike, light),
        "cautions": bench_cautions(bike),
        "blocks": blocks(job),
        "not_needed": [join_words(bike, bike.join(j)) for j in light.not_needed],
    }
    return render(request, "wire/first_power_up.html", {**job_frame(job, "wire"), **context})
