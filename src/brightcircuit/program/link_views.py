"""The link in pages: connect, read, compare, confirm what is written, live values, learning run."""

import math
import uuid
from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from brightcircuit.common.actor import actor
from brightcircuit.common.posted import Posted, act_on, as_typed, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block, shown_blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.program.hands import has_hands
from brightcircuit.program.keeping import SWEEP_STEP_V
from brightcircuit.program.lines import linked
from brightcircuit.program.link_acts import ACTS, At
from brightcircuit.program.link_services import look_live
from brightcircuit.program.models import Line, Run
from brightcircuit.program.queries import Device, Row, seen_devices
from brightcircuit.program.run_services import (
    STANDS_STILL,
    confirm,
    end_learning,
    resume,
    stop,
    write_gates,
)
from brightcircuit.stations.frame import job_frame
from brightcore.linking.layout import LIVE, Field, fault_words
from brightcore.linking.learning import STAGES
from brightcore.linking.model import LINE_FAULTS
from brightcore.linking.transfer import STATES, UNKNOWN, Item
from brightcore.procedure.gates import GATES
from brightcore.programming.cautions import CAUTIONS
from brightcore.programming.profile import Profile
from brightcore.setting.commutation import codes

ADDS = ("bench", "connect", "read", "keep", "sweep")
"""Acts that overwrite nothing, whatever has happened since the page was shown."""

STANDIN_UNIT = {"Otter": 1, "Fern": 2}
"""Units of the stand-in's demo devices, proposed where the demo runs."""


def link_page(request: HttpRequest, job_uuid: uuid.UUID, part: str = "") -> HttpResponse:
    """Show the line of a device and do what is posted there."""
    job = changing(request, job_uuid, adds=request.POST.get("do") in ADDS)
    errors: dict[str, list[str]] = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            target = act_on(ACTS, posted.text("do"), posted, At(job, part))
            return redirect(target or reverse("program-link-device", args=(job.uuid, part)))
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    reachable = [d for d in seen_devices(job) if d.profile is not None and d.profile.identity]
    device = next((d for d in reachable if d.part.id == part), None) or next(iter(reachable), None)
    if part and (device is None or device.part.id != part):
        raise Http404("That has no link, or is not on this bike.")
    context: dict[str, object] = {
        "section_url": reverse("program-link", args=(job.uuid,)),
        "reachable": reachable,
        "device": device,
        "errors": errors,
    }
    if device is not None:
        context |= _line_context(request, job, device, errors)
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/link.html", page, status=status_of(errors))


def run_page(request: HttpRequest, job_uuid: uuid.UUID, part: str, run: int) -> HttpResponse:
    """Show one run: what is to be confirmed, how far it is, what is known of every value."""
    job = changing(request, job_uuid)
    found = get_object_or_404(job.runs, pk=run, part=part)
    errors: dict[str, list[str]] = {}
    here = reverse("program-run", args=(job.uuid, part, run))
    if request.method == "POST":
        who, ticked = actor(request), request.POST.getlist("gate")
        try:
            action = request.POST.get("do")
            if action == "confirm":
                confirm(actor=who, job=job, run=found, ticked=ticked)
            elif action == "go":
                resume(actor=who, job=job, run=found)
            elif action == "ended":
                read = end_learning(actor=who, job=job, run=found, ticked=ticked)
                return redirect("program-run", job.uuid, part, read.pk)
            elif action == "stop":
                stop(actor=who, job=job, run=found)
                return redirect("program-link-device", job.uuid, part)
            return redirect(here)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    context = _run_context(request, job, found).context() | {"errors": errors}
    context["section_url"] = reverse("program-link", args=(job.uuid,))
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/run.html", page, status=status_of(errors))


@require_POST
def live_values(request: HttpRequest, job_uuid: uuid.UUID, part: str) -> HttpResponse:
    """Return the live values of a device as JSON."""
    job = get_object_or_404(Job, uuid=job_uuid)
    try:
        found = look_live(actor=actor(request), job=job, part=part)
    except ValidationError as error:
        return JsonResponse({"error": error.messages[0]})
    return JsonResponse(
        {"values": found, "faults": fault_words(found["faults"]), "sector": _sector(found)}
    )


def _sector(values: dict[str, float]) -> int:
    """Return the sector of the hall dial, −1 where the code makes no sense."""
    bits = int(values["halls"])
    code = (bits & 1, bits >> 1 & 1, bits >> 2 & 1)
    if code in codes(120):
        return codes(120).index(code)
    return -1


@dataclass(frozen=True, slots=True)
class Sector:
    """One sector of the hall dial: its code and the path of its piece."""

    code: str
    path: str
    x: float
    y: float


def _dial() -> list[Sector]:
    """Return the hall dial: six sectors, each with its code, as pieces of a ring."""
    made = []
    for i, code in enumerate(codes(120)):
        points = []
        for radius, angles in (
            (78.0, (i * 60 - 88, i * 60 - 32)),
            (44.0, (i * 60 - 34, i * 60 - 86)),
        ):
            for degrees in angles:
                angle = math.radians(degrees)
                points.append(
                    f"{90 + radius * math.cos(angle):.1f} {90 + radius * math.sin(angle):.1f}"
                )
        middle = math.radians(i * 60 - 60)
        path = f"M{points[0]} A78 78 0 0 1 {points[1]} L{points[2]} A44 44 0 0 0 {points[3]} Z"
        made.append(
            Sector(
                "".join(map(str, code)),
                path,
                90 + 61 * math.cos(middle),
                95 + 61 * math.sin(middle),
            )
        )
    return made


@dataclass(frozen=True)
class LineShown(Shown):
    """The line of a device: its address, the values that it reaches, and what may be done."""

    line: Line | None
    proposed: str
    typed: dict[str, str]
    blocks: list[Block]
    general: list[str]
    rows: list[Row]
    unread: int
    differing: list[Row]
    unfinished: Run | None


def _line_context(
    request: HttpRequest, job: Job, device: Device, errors: dict[str, list[str]]
) -> dict[str, object]:
    """Return what is shown of a device's line, and of what it offers once it is connected."""
    line = job.lines.filter(part=device.part.id).first()
    rows = linked(device)
    unit = STANDIN_UNIT.get(job.revision.bike.label)
    if settings.STANDIN and unit:
        proposed = f"{settings.STANDIN}/{unit}"
    else:
        proposed = ""
    last = unended(job, device.part.id)
    context = LineShown(
        line=line,
        proposed=request.POST.get("address", proposed),
        typed=as_typed(request, errors),
        blocks=shown_blocks(job),
        general=[words for name, found in errors.items() if name != "address" for words in found],
        rows=rows,
        unread=sum(row.at is None for row in rows),
        differing=[row for row in rows if _may_write(row)],
        unfinished=last,
    ).context()
    if line is not None:
        context |= _connected(job, device, line).context()
    return context


def unended(job: Job, part: str) -> Run | None:
    """Return the run of a device that has not ended: a learning stage first, then the last one."""
    left = job.runs.filter(part=part, state__in=("going", "paused", "asked"))
    return left.filter(kind="learn").last() or left.last()


def _may_write(row: Row) -> bool:
    register = row.parameter.register
    return row.state == "differs" and register is not None and not register.read_only


@dataclass(frozen=True)
class Connected(Shown):
    """What a line that is connected offers."""

    live: list[Field]
    dial: list[Sector]
    gates: list[tuple[str, str]]
    learnt_some: bool
    stages: Any
    hands: list[tuple[int, str]]
    throttles: bool
    sweep_step: float


def _connected(job: Job, device: Device, line: Line) -> Connected:
    learnt = {}
    for run in job.runs.filter(part=device.part.id, kind="learn", state="done"):
        for item in run.items:
            learnt[item["stage"]] = item
    return Connected(
        live=[field for field in LIVE if field.name not in ("halls", "faults", "state")],
        dial=_dial(),
        gates=[(gate, GATES[gate]) for gate in write_gates(job)],
        learnt_some=bool(learnt),
        stages=[(stage, learnt.get(stage.key)) for stage in STAGES],
        hands=list(LINE_FAULTS.items()) if has_hands(line) else [],
        throttles=_has_throttle(device),
        sweep_step=SWEEP_STEP_V,
    )


def _has_throttle(device: Device) -> bool:
    return device.part.has_role("throttle_signal")


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of one value of a run, in words."""

    item: Item
    name: str
    before: str
    wanted: str
    shown: str

    @property
    def state(self) -> str:
        """What is known, in words."""
        return STATES[self.item.state]


@dataclass(frozen=True)
class WriteRun(Shown):
    """A run that writes or reads: what is known of each value, and what stands before it."""

    run: Run
    device: Device
    rows: list[Known]
    left: int
    finished: int
    unknown: list[str]
    cautions: list[str]
    gates: list[tuple[str, str]]
    ticked: list[str]
    blocks: list[Block]


@dataclass(frozen=True)
class LearnRun(Shown):
    """A run that learns: what each stage found."""

    run: Run
    device: Device
    learnt: list[dict[str, object]]
    gates: list[tuple[str, str]]
    ticked: list[str]


def _run_context(request: HttpRequest, job: Job, run: Run) -> LearnRun | WriteRun:
    device = next((d for d in seen_devices(job) if d.part.id == run.part), None)
    if device is None or device.profile is None:
        raise Http404("That device is not on this bike any more.")
    if run.kind == "learn":
        return LearnRun(
            run=run,
            device=device,
            learnt=_learnt(run),
            gates=[(STANDS_STILL, GATES[STANDS_STILL])],
            ticked=[],
        )
    rows = [_known(device.profile, Item(**raw)) for raw in run.items]
    left = sum(Item(**raw).is_left for raw in run.items)
    return WriteRun(
        run=run,
        device=device,
        rows=rows,
        left=left,
        finished=len(rows) - left,
        unknown=[row.item.code for row in rows if row.item.state == UNKNOWN],
        cautions=_cautions(device.profile, run),
        gates=[(gate, GATES[gate]) for gate in write_gates(job)],
        ticked=request.POST.getlist("gate"),
        blocks=shown_blocks(job),
    )


def _cautions(profile: Profile, run: Run) -> list[str]:
    """Return what to mind before these values are written, each once."""
    roles = [profile.parameter(raw["code"]).role for raw in run.items]
    return list(dict.fromkeys(CAUTIONS[role] for role in roles if role in CAUTIONS))


def _known(profile: Profile, item: Item) -> Known:
    parameter = profile.parameter(item.code)

    def words(value: float | None) -> str:
        if value is None:
            return ""
        return parameter.words(value)

    return Known(item, parameter.name, words(item.before), words(item.wanted), words(item.shown))


def _learnt(run: Run) -> list[dict[str, object]]:
    return [item for item in run.items if "learnt" in item]
