"""What the devices say together, their snapshots and files, and the profiles that are known."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from brightcircuit.common.actor import actor
from brightcircuit.common.downloads import download
from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of
from brightcircuit.program.models import Plan, ShopProfile, Snapshot
from brightcircuit.program.queries import (
    Device,
    aim_of,
    devices_of,
    findings_of,
    profiles,
    seen_devices,
    snapshots_elsewhere,
)
from brightcircuit.program.services import (
    add_profile,
    ask,
    retire_profile,
)
from brightcircuit.program.snapshot_acts import ACTS
from brightcircuit.stations.frame import job_frame
from brightcore.errors import BrightError, FormatError
from brightcore.formats.profile_file import dump_profile
from brightcore.formats.settings_file import settings_csv, settings_document
from brightcore.programming.case import STYLES
from brightcore.programming.profile import Profile

THROTTLES = (("", "as wanted"), ("walk", "to walking pace"), ("none", "none"))
NOW = "now"
"""Stands for what a device has now, where two snapshots are chosen."""

Errors = dict[str, list[str]]


def _errors(error: ValidationError) -> Errors:
    found: Errors = error.message_dict if hasattr(error, "error_dict") else {"": error.messages}
    return found


def checks_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what the values mean together; take what the bike is to be."""
    job = changing(request, job_uuid)
    errors: Errors = {}
    if request.method == "POST":
        try:
            ask(actor=actor(request), job=job, values=request.POST.dict())
            messages.success(request, "Saved. Wanted values follow.")
            return redirect("program-checks", job.uuid)
        except ValidationError as error:
            errors = _errors(error)
    devices = seen_devices(job)
    names = {part.id: part.name for part in plan_of(job).parts}
    plan, typed = Plan.objects.filter(job=job).first(), request.POST.dict() if errors else {}
    founds = []
    for item in findings_of(job, devices):
        founds.append((item, [(p, names[p]) for p in item.parts]))
    context = {
        "found": founds,
        "unread": sum(row.has is None for device in devices for row in device.rows),
        "unnamed": [device for device in devices if device.profile is None],
        "aim": aim_of(job),
        "asked": {"limit_kmh": "", "limit_why": ""} | (plan.data if plan else {}) | typed,
        "styles": STYLES.items(),
        "throttles": THROTTLES,
        "errors": errors,
    }
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/checks.html", page, status=status_of(errors))


def snapshots_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the snapshots of every device; take, compare, want again, copy; files in."""
    job = changing(request, job_uuid)
    errors: Errors = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, act_on(ACTS, posted.text("do"), posted, job))
            return redirect("program-snapshots", job.uuid)
        except ValidationError as error:
            errors = _errors(error)
        except FormatError as error:
            errors = {"file": [str(problem) for problem in error.problems]}
    named = [device for device in seen_devices(job) if device.profile is not None]
    kept = list(job.snapshots.all())
    elsewhere = snapshots_elsewhere(job)
    rows = []
    for device in named:
        elsewheres = []
        for s in elsewhere:
            if device.profile and s.profile == device.profile.id:
                elsewheres.append(s)
        rows.append(
            {
                "device": device,
                "snapshots": [s for s in kept if s.part == device.part.id][::-1],
                "elsewhere": elsewheres,
            }
        )
    context = {
        "rows": rows,
        "compared": _compared(request, named, kept),
        "errors": [words for found in errors.values() for words in found],
        "typed": as_typed(request, errors),
    }
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/snapshots.html", page, status=status_of(errors))


@dataclass(frozen=True, slots=True)
class Compared:
    """Two sets of values of one device side by side, those that differ."""

    device: Device
    one: str
    other: str
    rows: list[tuple[str, str, str, str]]
    same: int


def _compared(request: HttpRequest, devices: list[Device], kept: list[Snapshot]) -> Compared | None:
    """Return what is to be compared, None where nothing is chosen."""
    device = next((d for d in devices if d.part.id == request.GET.get("part")), None)
    if device is None or device.profile is None:
        return None
    sides = []
    for name in ("one", "other"):
        chosen = request.GET.get(name, NOW)
        snapshot = next((s for s in kept if str(s.uuid) == chosen), None)
        sides.append((snapshot.title, snapshot.values) if snapshot else ("now", _now(device)))
    (one, before), (other, after) = sides
    rows, same = [], 0
    for item in device.profile.parameters:
        pair = [side.get(item.code) for side in (before, after)]
        if pair[0] == pair[1]:
            same += 1
            continue
        first, second = ("not read" if value is None else item.words(value) for value in pair)
        rows.append((item.code, item.name, first, second))
    return Compared(device, one, other, rows, same)


def _now(device: Device) -> dict[str, float]:
    return {row.parameter.code: row.has for row in device.rows if row.has is not None}


def settings_file(request: HttpRequest, job_uuid: uuid.UUID, part: str, kind: str) -> HttpResponse:
    """Send the settings of a device, or of one of its snapshots, as a file."""
    job = get_object_or_404(whole_job(job_uuid))
    device = next((d for d in devices_of(job) if d.part.id == part and d.profile is not None), None)
    if device is None or device.profile is None or kind not in ("json", "yaml", "csv"):
        raise Http404("There are no settings of that.")
    values = _now(device)
    if "snapshot" in request.GET:
        try:
            snapshot = get_object_or_404(
                job.snapshots, uuid=uuid.UUID(request.GET["snapshot"]), part=part
            )
        except ValueError:
            raise Http404("There is no such snapshot.") from None
        values = snapshot.values
    name = f"{job.revision.bike.label}-{device.part.name}.{kind}"
    if kind == "csv":
        return download(settings_csv(device.profile, values), "text/csv", name)
    return download(settings_document(device.profile, values), "application/json", name)


def profiles_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the profiles that are known; add one of the shop's own by file, retire one."""
    job = get_object_or_404(whole_job(job_uuid))
    errors: list[str] = []
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, act_on(PROFILE_ACTS, posted.text("do"), posted, job))
            return redirect("program-profiles", job.uuid)
        except ValidationError as error:
            errors = error.messages
        except BrightError as error:
            errors = [str(error)]
    own = {row.name: row for row in ShopProfile.objects.all()}
    rows: list[tuple[Profile, Any]] = [
        (profile, own.get(profile.id)) for profile in profiles().values()
    ]
    context = {"rows": rows, "retired": [r for r in own.values() if r.retired], "errors": errors}
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/profiles.html", page, status=status_of(errors))


def _retire(posted: Posted, job: Job) -> str:
    retire_profile(actor=posted.who, name=posted.text("name"))
    return "Retired: it is no longer offered. Add its file again to bring it back."


def _add(posted: Posted, job: Job) -> str:
    upload = posted.file("profile_file", "Choose a profile file.")
    return f"Added: {add_profile(actor=posted.who, content=read_upload(upload))}."


PROFILE_ACTS: dict[str, Act[Job]] = {"retire": _retire, "add": _add}


def profile_page(request: HttpRequest, job_uuid: uuid.UUID, name: str) -> HttpResponse:
    """Show a profile as text, to be changed here: under its own id, or under another one as a
    copy."""
    job = get_object_or_404(whole_job(job_uuid))
    found = profiles().get(name)
    if found is None:
        raise Http404("There is no such profile.")
    errors: list[str] = []
    text = request.POST.get("text", dump_profile(found))
    if request.method == "POST":
        try:
            title = add_profile(actor=actor(request), content=text.encode())
            messages.success(request, f"Saved: {title}.")
            return redirect("program-profiles", job.uuid)
        except ValidationError as error:
            errors = error.messages
    context = {
        "profile": found,
        "text": text,
        "errors": errors,
        "section_url": reverse("program-profiles", args=(job.uuid,)),
    }
    page = {**job_frame(job, "program"), **context}
    return render(request, "program/profile.html", page, status=status_of(errors))


def profile_file(request: HttpRequest, job_uuid: uuid.UUID, name: str) -> HttpResponse:
    """Send a profile as a file, to be changed and added again."""
    found = profiles().get(name)
    if found is None:
        raise Http404("There is no such profile.")
    return download(dump_profile(found), "application/json", f"{name}.json")
