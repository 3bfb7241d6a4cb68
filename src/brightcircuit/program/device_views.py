"""At the bike: one device, one parameter at a time, with the presses from where its menu stands."""

import json
import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import Block, pack_blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.program.queries import Device, Row, findings_of, profiles, seen_devices
from brightcircuit.program.services import name_profile, tell, undo_told, want_otherwise
from brightcircuit.stations.frame import job_frame
from brightcore.errors import BrightError
from brightcore.programming.cautions import CAUTIONS
from brightcore.programming.findings import ValueFinding
from brightcore.programming.keys import (
    Machine,
    Place,
    Press,
    leaving,
    look_up,
    machine_document,
    plan,
    standing_at,
)
from brightcore.programming.profile import Profile
from brightcore.sources import SOURCES
from brightcore.units import parse_in

ORDER = {"differs": 0, "unread": 1, "free": 2, "same": 3}
"""What comes first on a device: what is wrong, then what nobody has looked at."""

SAME = 1e-9
"""How near a value has to be to count as entered: only what a decimal fraction loses."""


@dataclass(frozen=True, slots=True)
class DeviceAt:
    """A parameter of a part of a job's bike, and where its menu stands afterwards."""

    job: Job
    part: str
    code: str
    where: dict[str, str] = field(default_factory=dict)
    """What goes into the address: the act writes where it leaves the menu."""


def values_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the device that has most to do; a bike without devices says so."""
    job = get_object_or_404(whole_job(job_uuid))
    devices = seen_devices(job)
    if not devices:
        return render(request, "program/none.html", job_frame(job, "program"))
    first = next((d for d in devices if d.wrong), None) or next(
        (d for d in devices if d.left), devices[0]
    )
    return _page(request, job, devices, first, {})


def device_page(request: HttpRequest, job_uuid: uuid.UUID, part: str) -> HttpResponse:
    """Show one device and one of its parameters; take what is read and entered."""
    job = changing(request, job_uuid)
    errors: dict[str, list[str]] = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            at = DeviceAt(job, part, posted.text("code"))
            said = act_on(ACTS, posted.text("do"), posted, at)
            if said:
                messages.success(request, said)
            target = reverse("program-device", args=(job.uuid, part))
            return redirect(f"{target}?{urlencode(at.where)}" if at.where else target)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    devices = seen_devices(job)
    device = next((d for d in devices if d.part.id == part), None)
    if device is None:
        raise Http404("That cannot be programmed, or is not on this bike.")
    return _page(request, job, devices, device, errors)


def presses(request: HttpRequest, job_uuid: uuid.UUID, part: str) -> HttpResponse:
    """Return the presses to a parameter from where a menu stands, as JSON."""
    job = get_object_or_404(whole_job(job_uuid))
    device = next((d for d in seen_devices(job) if d.part.id == part), None)
    if device is None or device.profile is None:
        raise Http404("That has no menu here.")
    row = next((r for r in device.rows if r.parameter.code == request.GET.get("code")), None)
    if row is None:
        raise Http404("That parameter is not in its menu.")
    try:
        way = _way_to_value(device, device.profile, row, request.GET)
    except BrightError as error:
        return JsonResponse({"error": str(error), "presses": []})
    return JsonResponse({"presses": [{"key": p.key, "times": p.times} for p in way]})


def _name(posted: Posted, at: DeviceAt) -> str:
    name_profile(actor=posted.who, job=at.job, part=at.part, profile=posted.text("profile"))
    return ""


def _tell(posted: Posted, at: DeviceAt) -> str:
    how = "entered" if posted.text("how") == "entered" else "seen"
    told = tell(
        actor=posted.who,
        job=at.job,
        part=at.part,
        code=at.code,
        text=posted.text("value"),
        how=how,
    )
    at.where["at"] = at.code
    if told.wanted is not None and abs(told.value - told.wanted) > SAME:
        # It is not as wanted yet: the same parameter stays open.
        at.where["code"] = at.code
    return f"Saved: {told.code} {how}."


def _keep(posted: Posted, at: DeviceAt) -> str:
    want_otherwise(
        actor=posted.who,
        job=at.job,
        part=at.part,
        code=at.code,
        text=posted.text("value"),
        reason=posted.text("reason"),
    )
    at.where.update(code=at.code, at=posted.text("at"))
    return ""


def _derived(posted: Posted, at: DeviceAt) -> str:
    """Want again what was reckoned."""
    want_otherwise(actor=posted.who, job=at.job, part=at.part, code=at.code, text="", reason="")
    at.where.update(code=at.code, at=posted.text("at"))
    return ""


def _undo(posted: Posted, at: DeviceAt) -> str:
    undo_told(actor=posted.who, job=at.job, part=at.part, code=at.code)
    at.where["code"] = at.code
    return "Undone; what was known before stands again."


ACTS: dict[str, Act[DeviceAt]] = {
    "name": _name,
    "tell": _tell,
    "keep": _keep,
    "derived": _derived,
    "undo": _undo,
}


def _current(device: Device, code: str) -> Row | None:
    """Return the row that is asked for, else the first of those that most need to be done."""
    asked = next((row for row in device.rows if row.parameter.code == code), None)
    return asked or min(device.rows, key=lambda row: ORDER[row.state], default=None)


def _stored(device: Device) -> dict[str, float]:
    return {row.parameter.code: row.has for row in device.rows if row.has is not None}


def _place(machine: Machine, query: Mapping[str, str]) -> Place:
    """Return where a menu stands by what is said of its display; raises BrightError."""
    shown = query.get("shown", "").strip()
    editing = query.get("editing") == "on"
    at = query.get("at", "")
    if at in machine.profile.groups() and machine.menu.kind == "tree":
        return Place("groups", machine.profile.groups().index(at))
    if shown and editing:
        value = parse_in(shown, "")
    else:
        value = None
    return standing_at(machine, at, value, editing)


def _way(device: Device, profile: Profile, row: Row, query: Mapping[str, str]) -> tuple[Press, ...]:
    """Return the presses that set a parameter, or only show it where nothing is to be changed."""
    machine = Machine(profile, _stored(device))
    if not profile.menu.kind:
        return ()
    start, code = _place(machine, query), row.parameter.code
    if row.state == "differs" and row.wanted is not None:
        return plan(machine, code, row.wanted, start)
    return look_up(machine, code, start)


def _way_to_value(
    device: Device, profile: Profile, row: Row, query: Mapping[str, str]
) -> tuple[Press, ...]:
    """Return the presses from a place of a rehearsal, with what was stored there; raises
    BrightError.

    `held`: `CODE=value,CODE=value` as stored meanwhile; `value`: what is to be set instead of what
    is wanted.
    """
    stored = _stored(device)
    for pair in filter(None, query.get("held", "").split(",")):
        code, _, value = pair.partition("=")
        item = profile.parameter(code)
        stored[code] = item.read(value)
    if not query.get("value") and not query.get("held"):
        return _way(device, profile, row, query)
    machine = Machine(profile, stored)
    wanted = row.wanted
    if query.get("value"):
        wanted = row.parameter.read(query["value"])
    start = _place(machine, query)
    if wanted is None:
        return look_up(machine, row.parameter.code, start)
    return plan(machine, row.parameter.code, wanted, start)


def _title(row: Row) -> str:
    name = row.parameter.name
    if name[:2].isupper():
        small = name
    else:
        small = name[0].lower() + name[1:]
    if row.state == "differs":
        return f"Set the {small} to {row.wanted_words}"
    if row.state == "unread":
        return f"Look up the {small}"
    return f"{name}: {row.has_words or 'not read yet'}"


@dataclass(frozen=True)
class DevicePage(Shown):
    """What the page of a device shows, whichever parameter is at hand."""

    section_url: str
    devices: tuple[Device, ...]
    device: Device
    choices: list[Profile]
    errors: dict[str, list[str]]
    general: list[list[str]]
    typed: dict[str, str]
    blocks: list[Block]
    dangers: list[ValueFinding]


def _page(
    request: HttpRequest,
    job: Job,
    devices: tuple[Device, ...],
    device: Device,
    errors: dict[str, list[str]],
) -> HttpResponse:
    data = request.POST if errors else request.GET
    dangers = []
    for item in findings_of(job, devices):
        if item.severity == "danger" and device.part.id in item.parts:
            dangers.append(item)
    context = DevicePage(
        section_url=reverse("program", args=(job.uuid,)),
        devices=devices,
        device=device,
        choices=[p for p in profiles().values() if p.device == device.kind],
        errors=errors,
        general=[words for name, words in errors.items() if name not in ("value", "reason")],
        typed=as_typed(request, errors),
        blocks=pack_blocks(job) if job.is_open else [],
        dangers=dangers,
    ).context()
    row = _current(device, data.get("code", ""))
    if row is not None and device.profile is not None:
        address = reverse("program-presses", args=(job.uuid, device.part.id))
        context |= _parameter(device, row, address).context()
        if device.profile.menu.kind:
            context |= _menu(device, device.profile, row, data).context()
    status = status_of(errors)
    return render(
        request, "program/device.html", {**job_frame(job, "program"), **context}, status=status
    )


@dataclass(frozen=True)
class MenuShown(Shown):
    """How a parameter is reached in the menu of its device; `slip` says what was wrong with where
    its display was said to stand."""

    way: tuple[Press, ...]
    count: int
    out: str
    at: str
    standing: tuple[str, str]
    editing: bool
    machine: str
    place: str
    groups: tuple[str, ...]
    slip: str


@dataclass(frozen=True)
class ParameterShown(Shown):
    """The parameter that is at hand, and where its presses are asked for as one goes."""

    row: Row
    title: str
    caution: str
    source: str
    reads: str
    now: str
    address: str


def _parameter(device: Device, row: Row, address: str) -> ParameterShown:
    """Return what is shown of the parameter that is at hand."""
    return ParameterShown(
        row=row,
        title=_title(row),
        caution=CAUTIONS.get(row.parameter.role, ""),
        source=SOURCES[row.source].text if row.source else "",
        reads=row.parameter.shown(row.wanted) if row.wanted is not None else "",
        now=row.parameter.shown(row.has) if row.has is not None else "",
        address=address,
    )


def _menu(device: Device, profile: Profile, row: Row, query: Mapping[str, str]) -> MenuShown:
    """Return how the parameter is reached from where the menu is said to stand.

    Where that cannot be, the way begins at the start, and what was wrong is said.
    """
    machine = Machine(profile, _stored(device))
    slip = ""
    try:
        place = _place(machine, query)
        way = _way(device, profile, row, query)
    except BrightError as error:
        place, way = Place(), _way(device, profile, row, {})
        slip = str(error)
    there = standing_at(machine, row.parameter.code, None, False)
    return MenuShown(
        way=way,
        count=sum(press.times for press in way),
        out=", ".join(press.words for press in leaving(machine, there)),
        at=query.get("at", ""),
        standing=machine.shown(place),
        editing=place.at == "edit",
        machine=json.dumps(machine_document(machine)),
        place=json.dumps(
            {"at": place.at, "group": place.group, "item": place.item, "value": place.value}
        ),
        groups=profile.groups() if profile.menu.kind == "tree" else (),
        slip=slip,
    )
