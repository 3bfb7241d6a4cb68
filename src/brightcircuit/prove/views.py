"""The Prove station: the list, one check at a time."""

import uuid

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from brightcircuit.common.posted import Act, Posted, act_on, as_typed, status_of
from brightcircuit.common.shown import Context
from brightcircuit.jobs.changed import changes_of
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import findings_of, shown_blocks
from brightcircuit.jobs.stale import changing
from brightcircuit.prove.queries import (
    Row,
    acknowledged,
    gates_of,
    has_link,
    holding,
    next_row,
    rows_of,
    symptoms_of,
)
from brightcircuit.prove.services import enter, undo
from brightcircuit.stations.frame import job_frame
from brightcore.procedure.gates import GATES
from brightcore.procedure.proofs.case import GROUPS

GRAVE = ("danger", "fault")
"""Findings that are shown beside the proofs: dangers hold the hand-over until they are accepted."""


def prove_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show what is to be proven and take what was seen."""
    job = changing(request, job_uuid)
    errors: dict[str, list[str]] = {}
    if request.method == "POST":
        try:
            posted = Posted(request)
            messages.success(request, act_on(ACTS, posted.text("do"), posted, job))
            return redirect("prove", job.uuid)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    rows = rows_of(job)
    groups = []
    for key, title in GROUPS.items():
        groups.append((title, [r for r in rows if r.check.group == key]))
    findings = []
    for item in findings_of(job):
        if not item.waived and item.finding.severity in GRAVE:
            findings.append(item)
    context = {
        **_current(request, job, rows, errors),
        "groups": groups,
        "rows": rows,
        "left": len(holding(rows)),
        "failed": sum(row.state == "failed" for row in rows),
        "changes": changes_of(job),
        "findings": findings,
        "errors": errors,
        "general": errors.get("", []),
        "typed": as_typed(request, errors),
        "blocks": shown_blocks(job),
    }
    page = {**job_frame(job, "prove"), **context}
    return render(request, "prove/prove.html", page, status=status_of(errors))


def _undo(posted: Posted, job: Job) -> str:
    undo(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return "Undone. It stays in the log."


def _enter(posted: Posted, job: Job) -> str:
    made = enter(
        actor=posted.who,
        job=job,
        check_id=posted.text("check"),
        text=posted.text("value"),
        answer=posted.text("answer"),
        note=posted.text("note"),
        symptom=posted.text("symptom"),
        link=posted.text("link") == "on",
        ticked=posted.many("gate"),
    )
    return f"Saved: {made}."


ACTS: dict[str, Act[Job]] = {"undo": _undo, "": _enter}
"""Every act, by the word that its form sends; the form of a check sends none."""


def _current(
    request: HttpRequest, job: Job, rows: list[Row], errors: dict[str, list[str]]
) -> Context:
    """Return the check that is at hand: the one asked for, else the next."""
    if errors:
        asked = request.POST.get("check")
    else:
        asked = request.GET.get("check")
    row = next((row for row in rows if row.check.id == asked), None) or next_row(rows)
    if row is None:
        return {"row": None}
    station, words = row.check.failed
    if errors:
        ticked = request.POST.getlist("gate")
    else:
        ticked = []
    stands = acknowledged(job, row.check)
    gates = []
    for gate in gates_of(job, row.check):
        gates.append((gate, GATES[gate], gate in ticked or gate in stands))
    return {
        "row": row,
        "stands": stands,
        "links": row.check.live and job.is_open and has_link(job),
        "gates": gates,
        "symptoms": symptoms_of(job) if station == "trace" else [],
        "leads": (reverse(station, args=(job.uuid,)), station.title(), words),
    }
