"""The Arrive station."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from brightcircuit.arrive.acts import ACTS, ADDS, NOTE, Arriving
from brightcircuit.arrive.forms import NoteForm, SymptomForm, TriageForm
from brightcircuit.arrive.models import CIRCUMSTANCES, WIRES, Arrival
from brightcircuit.arrive.questions import questions
from brightcircuit.bikes.drawings import PartCard, part_cards
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.guard import Stale
from brightcircuit.common.posted import Posted, Unfilled, act_on, page_before, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job, Photo, Quarantine
from brightcircuit.jobs.quarantine import marks_of, standing_quarantines
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import Block, ShownFinding, blocks, findings_of
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.visits import LastTime, last_time
from brightcore.circuit.contacts import join_title
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.symptoms import BY_ID
from brightcore.tracing.wording import suggested

STALE = 409
"""Status of a page whose form was based on what has changed since."""


@dataclass(frozen=True)
class ArrivePage(Shown):
    """What Arrive shows."""

    last: LastTime | None
    again: bool
    triage: TriageForm
    note: NoteForm
    symptoms: SymptomForm
    error: str
    action: str | None
    typed_reason: str
    findings: list[ShownFinding]
    circumstances: list[tuple[str, str, bool]]
    wires: list[tuple[str, str, bool, str]]
    plugs: list[tuple[str, str]]
    suggested: list[str]
    asks_symptoms: bool
    photos: QuerySet[Photo]
    cards: list[PartCard]
    arrival: Arrival
    quarantines: list[Quarantine]
    dangers: list[Block]
    unmarked: bool
    stale: bool


PAGE_OF = {
    "triage": "job",
    "symptoms": "job",
    "note": "arrive-found",
    "found": "arrive-found",
    "photo": "arrive-found",
}
"""Where an act leads; the pack's page for all others."""


def arrive_page(request: HttpRequest, job_uuid: uuid.UUID, page: str) -> HttpResponse:
    """Show and take what was found at arrival: pack and findings, what was found, what is
    fitted."""
    action = request.POST.get("action", "") if request.method == "POST" else None
    job = changing(request, job_uuid, adds=action in ADDS)
    sent = {action: request.POST}
    scenes = {scene.id: scene for scene in scenes_of(circuit_of(plan_of(job)))}
    at = Arriving(
        job,
        TriageForm(sent.get("triage"), answers=job.arrival.triage, asked=questions(job)),
        NoteForm(sent.get(NOTE), initial={"note": job.arrival.note}),
        SymptomForm(sent.get("symptoms"), scenes=scenes),
    )
    error, status = "", status_of(action is not None)
    if action is not None:
        try:
            said = act_on(ACTS, action, Posted(request), at)
            if said:
                messages.success(request, said)
            leads_to = reverse(PAGE_OF.get(action, "arrive"), args=(job.uuid,))
            return redirect(page_before(request, leads_to))
        except Unfilled:
            pass  # what is wrong stands at the fields
        except Stale:
            if action != NOTE:
                raise
            job, status = get_object_or_404(whole_job(job_uuid)), STALE
            error = (
                "Somebody changed the note meanwhile. Both stand below: put them "
                "together, then save."
            )
        except ValidationError as problem:
            error = problem.messages[0]
        except PermissionDenied as problem:
            error = str(problem)
    if job.is_open:
        before = last_time(job.revision.bike, job)
    else:
        before = None
    likely = [BY_ID[name].words for name in suggested(job.complaint)]
    own_wires = []
    for i, w in WIRES:
        own_wires.append((i, w, i in job.arrival.wires, job.arrival.wire_places.get(i, "")))
    context = ArrivePage(
        triage=at.triage,
        note=at.note,
        symptoms=at.symptoms,
        error=error,
        action=action,
        typed_reason=request.POST.get("reason", ""),
        findings=findings_of(job),
        last=before,
        again=before is not None and before.same_complaint(job.complaint),
        circumstances=[(i, w, i in job.arrival.circumstances) for i, w in CIRCUMSTANCES],
        wires=own_wires,
        plugs=plug_choices(job),
        suggested=likely,
        asks_symptoms=bool(likely) and not job.evidence.exists(),
        photos=job.photos.filter(place=""),
        cards=part_cards(plan_of(job)) if page == "fitted" else [],
        arrival=job.arrival,
        quarantines=standing_quarantines(job),
        dangers=[block for block in blocks(job) if block.kind == "reading"],
        stale=status == STALE,
        unmarked=not marks_of(latest_revision(job.revision.bike)),
    ).context()
    if action in ("note", "found", "photo", "symptoms"):
        page = "found"
    return render(
        request, f"arrive/{page}.html", {**job_frame(job, "arrive"), **context}, status=status
    )


def plug_choices(job: Job) -> list[tuple[str, str]]:
    """Return (id, words) of every plug of the bike."""
    bike = plan_of(job)
    return [(join.id, join_title(bike, join)) for join in bike.joins]
