"""Pages of the Set station: the bench row, and one page for every instrument."""

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone

from brightcircuit.common.actor import actor
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.models import Calibration, Sheet
from brightcircuit.set.queries import (
    last_values,
    options_of,
    rows_of,
    sheet_of,
    standing_calibrations,
)
from brightcircuit.set.services import (
    begin_again,
    cautions_on,
    choose,
    choose_for_shop,
    finish,
    place_of,
    repin,
    start_timer,
    stop_timer,
    take_log,
    take_reading,
    undo_calibration,
    verdict,
    waive,
)
from brightcircuit.stations.frame import job_frame
from brightcore.describing.labels import LABELS
from brightcore.describing.measured import ONLY_MEASURED
from brightcore.drawing.gauges import picture_svg
from brightcore.errors import UnknownNameError
from brightcore.procedure.gates import GATES
from brightcore.setting import instrument
from brightcore.setting.contract import Curve, Field, Instrument, Step, next_step, read_all

LEAST_TREND, MOST_TRENDS = 2, 4
"""Times a value was measured before it is drawn over time, and how many values are."""

NOTHING = "bike"
"""Stands in addresses for the bike itself."""

SHOWN_UNITS = {"ohm": "Ω", "degC": "°C", "A*h": "Ah", "W*h": "Wh"}


def bench_row_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show everything there is to set on this bike, and where each stands."""
    job = get_object_or_404(whole_job(job_uuid))
    rows = rows_of(job)
    context = {
        "rows": [(row, row.subject.id or NOTHING) for row in rows if not row.instrument.helper],
        "helpers": [(row, row.subject.id or NOTHING) for row in rows if row.instrument.helper],
        "left": sum(
            row.state not in ("good", "waived") for row in rows if not row.instrument.helper
        ),
        "now": timezone.now(),
    }
    return render(request, "set/row.html", {**job_frame(job, "set"), **context})


def instrument_page(
    request: HttpRequest, job_uuid: uuid.UUID, key: str, subject: str
) -> HttpResponse:
    """Show one instrument: picture, one next step, one large entry; take what is read."""
    job = changing(request, job_uuid)
    subject = "" if subject == NOTHING else subject
    try:
        found = instrument(key)
    except UnknownNameError:
        raise Http404("There is no such instrument.") from None
    if subject not in {item.id for item in found.subjects(stands_of(job))}:
        raise Http404("That is not on this bike.")
    errors: dict[str, list[str]] = {}
    if request.method == "POST":
        try:
            done = _act(request, job, key, subject)
            if done:
                messages.success(request, done)
            return redirect("set-instrument", job.uuid, key, subject or NOTHING)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    context = {**job_frame(job, "set"), **_context(request, job, found, subject, errors)}
    return render(request, "set/instrument.html", context, status=422 if errors else 200)


def _act(request: HttpRequest, job: Job, key: str, subject: str) -> str:
    """Do one posted act; returns what to say."""
    data, who = request.POST, actor(request)
    what: dict[str, Any] = {"actor": who, "job": job, "key": key, "subject": subject}
    action = data.get("do", "take")
    if action == "take":
        gates = data.getlist("gate")
        minutes = _minutes(data["again"]) if data.get("again") else None
        step = data.get("step", "")
        take_reading(**what, step_id=step, typed=data.dict(), ticked=gates, minutes=minutes)
        return ""
    if action == "log":
        upload = request.FILES.get("log")
        if upload is None:
            raise ValidationError({"log": ["Choose a CSV file with time, volts and amps."]})
        take_log(**what, content=read_upload(upload), ticked=data.getlist("gate"))
        return ""
    if action == "choose":
        choose(**what, options=data.dict())
        return ""
    if action == "shop":
        choose_for_shop(**what)
        return "Chosen for every job of the shop."
    if action == "finish":
        return f"Saved: {finish(**what).title}."
    if action == "again":
        begin_again(**what)
        return "Begun again; what was typed stays in the log."
    if action == "waive":
        waive(**what, reason=data.get("reason", ""))
        return "Waived; the reason stays on the job sheet."
    if action == "undo":
        undo_calibration(actor=who, job=job, uuid=data.get("uuid", ""))
        return "Undone. It stays to be read below."
    if action == "repin":
        return (
            f"{repin(actor=who, job=job, uuid=data.get('uuid', ''))}. Mark the wires on "
            "the bike the same."
        )
    if action == "timer":
        start_timer(**what, minutes=_minutes(data.get("minutes", "")))
        return "The timer runs; the Bench says when to look."
    if action == "looked":
        stop_timer(**what)
        return ""
    raise ValidationError("Nothing to do.")


def _minutes(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValidationError({"minutes": [f"{text!r} is not a number of minutes."]}) from None


@dataclass(frozen=True, slots=True)
class Entry:
    """One field on the page, with what stands in it and what is wrong with it."""

    field: Field
    unit: str
    value: str
    error: str


def _entries(
    step: Step, sheet: Sheet, typed: dict[str, str], errors: dict[str, list[str]]
) -> list[Entry]:
    found: list[Entry] = []
    for item in step.fields:
        found.append(
            Entry(
                item,
                SHOWN_UNITS.get(item.unit, item.unit),
                typed.get(item.id, sheet.typed.get(item.id, "")),
                " ".join(errors.get(item.id, [])),
            )
        )
    return found


def _trends(past: list[Calibration]) -> list[str]:
    """Return a drawing of every value that was measured more than once, by days since the first."""
    rows: dict[str, list[tuple[datetime, float, str, str]]] = {}
    for row in reversed(past):
        for value in row.values:
            rows.setdefault(value["name"], []).append(
                (row.at, float(value["value"]), value["unit"], value["words"])
            )
    drawn = []
    for name, found in rows.items():
        days = [(at - found[0][0]) / timedelta(days=1) for at, *_ in found]
        if len(found) < LEAST_TREND or days[-1] < 1:
            continue
        points = tuple((day, value) for day, (_, value, *_) in zip(days, found, strict=True))
        title = (ONLY_MEASURED | LABELS).get(name, name.replace("_", " ").capitalize())
        drawn.append(
            picture_svg(Curve(title, found[-1][2], points, (), "days since the first time"))
        )
    return drawn[:MOST_TRENDS]


def _gates(job: Job, step: Step, sheet: Sheet) -> list[tuple[str, str, bool]]:
    """Return (caution, words, whether it stands already) of a step; between some steps none stands
    on."""
    stands = () if step.afresh else sheet.ticked
    return [(gate, GATES[gate], gate in stands) for gate in cautions_on(job, step)]


def _context(
    request: HttpRequest, job: Job, found: Instrument, subject: str, errors: dict[str, list[str]]
) -> dict[str, Any]:
    bike, sheet = stands_of(job), sheet_of(job, found.key, subject)
    options = options_of(sheet)
    steps = found.steps(bike, subject, sheet.typed | options)
    reading = read_all([item for step in steps for item in step.fields], sheet.typed)
    if errors:
        wanted = request.POST.get("step")
    else:
        wanted = request.GET.get("step")
    step = next((s for s in steps if s.id == wanted), None) or next_step(steps, reading)
    past = list(standing_calibrations(job, found.key, subject))[::-1]
    last, last_at = last_values(job, found.key, subject)
    result, shown = verdict(job, found, sheet), None
    if not sheet.typed and past:
        shown = past[0]
        if len(past) > 1:
            last = {row["name"]: float(row["value"]) for row in past[1].values}
        else:
            last = {}
        last_at = past[1].at if len(past) > 1 else None
        fields = found.fields(bike, subject, shown.typed | shown.options)
        result = found.judge(bike, subject, read_all(fields, shown.typed), shown.options, last)
    timer = job.timers.filter(instrument=found.key, subject=subject, done=False).first()
    moved = []
    for value in result.values:
        if value.name in last:
            moved.append((value, last[value.name], value.value - last[value.name]))
    optional = []
    for other in steps:
        if other is not step and not any(f.needed or sheet.typed.get(f.id) for f in other.fields):
            optional.append(other)
    read = []
    for s in steps:
        if any(sheet.typed.get(f.id) for f in s.fields):
            read.append(
                (
                    s,
                    [
                        (
                            f,
                            sheet.typed[f.id],
                            SHOWN_UNITS.get(f.unit, f.unit),
                            reading.odd.get(f.id, ""),
                        )
                        for f in s.fields
                        if sheet.typed.get(f.id)
                    ],
                )
            )
    own_options = []
    for name, words, choices in found.options:
        own_options.append((name, words, choices, options.get(name, choices[0][0])))
    return {
        "instrument": found,
        "subject_title": next(item.title for item in found.subjects(bike) if item.id == subject),
        "step": step,
        "optional": optional,
        "entries": _entries(step, sheet, request.POST.dict() if errors else {}, errors)
        if step
        else [],
        "gates": _gates(job, step, sheet) if step else [],
        "read": read,
        "options": own_options,
        "verdict": result,
        "shown": shown,
        "traced": shown is not None
        and shown.state in ("mend", "danger")
        and bool(found.readings(bike, subject)),
        "pictures": [picture_svg(picture) for picture in result.pictures],
        "past": past,
        "last_at": last_at,
        "trends": _trends(past),
        "moved": moved,
        "timer": timer,
        "timer_left": max(0, round((timer.due - timezone.now()) / timedelta(minutes=1)))
        if timer
        else 0,
        "again": f"{step.timer_min:g}" if step else "",
        "errors": errors,
        "general": [*errors.get("", []), *errors.get("log", [])],
        "blocks": blocks(job, (place_of(found.key, subject),)) if job.is_open else [],
        "typed": request.POST if errors else {},
    }
