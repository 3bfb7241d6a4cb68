"""The Arrive station."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.arrive.forms import NoteForm, SymptomForm, TriageForm
from brightcircuit.arrive.models import CIRCUMSTANCES, WIRES, Arrival
from brightcircuit.arrive.questions import questions
from brightcircuit.arrive.services import answer_triage, lift_quarantine, note_found
from brightcircuit.bikes.drawings import PartCard, part_cards
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.actor import actor
from brightcircuit.common.guard import Stale
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.dangers import let_danger_go
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.jobs.models import Job, Photo, Quarantine
from brightcircuit.jobs.photos import add_photo
from brightcircuit.jobs.quarantine import marks_of, standing_quarantines
from brightcircuit.jobs.queries import whole_job
from brightcircuit.jobs.safety import Block, ShownFinding, blocks, findings_of, waive_finding
from brightcircuit.jobs.services import confirm_symptoms
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.frame import job_frame
from brightcircuit.stations.visits import LastTime, last_time
from brightcore.circuit.netlist import join_title
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.symptoms import BY_ID
from brightcore.tracing.wording import suggested

ADDS = ("note", "symptoms", "photo")
"""Actions that overwrite nothing: the note carries the text that it was based on."""

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
    newer: bool
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
    job = changing(request, job_uuid, adds=request.POST.get("action") in ADDS)
    post, action = (
        (request.POST, request.POST.get("action")) if request.method == "POST" else (None, None)
    )
    triage = TriageForm(
        post if action == "triage" else None, answers=job.arrival.triage, asked=questions(job)
    )
    note = NoteForm(post if action == "note" else None, initial={"note": job.arrival.note})
    scenes = {scene.id: scene for scene in scenes_of(circuit_of(plan_of(job)))}
    symptoms = SymptomForm(post if action == "symptoms" else None, scenes=scenes)
    error, status = "", 422 if action else 200
    if action:
        try:
            if _act(request, job, action, triage, note, symptoms):
                return redirect(PAGE_OF.get(action, "arrive"), job.uuid)
        except Stale:
            if action != "note":
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
        triage=triage,
        note=note,
        symptoms=symptoms,
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
        newer=latest_revision(job.revision.bike).number > job.revision.number,
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


def _lines(text: str) -> str:
    """Return a text as forms store it: line ends as one sign, no space around."""
    return text.replace("\r\n", "\n").strip()


def _act(
    request: HttpRequest,
    job: Job,
    action: str,
    triage: TriageForm,
    note: NoteForm,
    symptoms: SymptomForm,
) -> bool:
    """Do one posted action; returns False where its form has errors."""
    if action == "triage":
        if not triage.is_valid():
            return False
        answer_triage(actor=actor(request), job=job, answers=triage.answers())
    elif action == "note":
        if not note.is_valid():
            return False
        answer_triage(
            actor=actor(request),
            job=job,
            answers={},
            note=note.cleaned_data["note"],
            note_was=_lines(request.POST.get("was", "")),
        )
        messages.success(request, "Note saved.")
    elif action == "symptoms":
        if not symptoms.is_valid():
            return False
        confirm_symptoms(actor=actor(request), job=job, symptoms=symptoms.symptoms())
    elif action == "found":
        note_found(
            actor=actor(request),
            job=job,
            circumstances=request.POST.getlist("circumstances"),
            wires=request.POST.getlist("wires"),
            places={name: request.POST.get(f"at-{name}", "") for name, _ in WIRES},
        )
    elif action == "photo":
        upload = request.FILES.get("photo")
        if upload is None:
            raise ValidationError("Choose a picture.")
        add_photo(
            actor=actor(request), job=job, upload=upload, caption=request.POST.get("caption", "")
        )
    elif action == "revision":
        use_newest_revision(actor=actor(request), job=job)
    elif action == "lift":
        lift_quarantine(actor=actor(request), job=job, reason=request.POST.get("reason", ""))
    elif action == "danger":
        posted = request.POST.get("danger", ""), request.POST.get("reason", "")
        let_danger_go(actor=actor(request), job=job, uuid=posted[0], reason=posted[1])
        messages.success(request, "Let go; the rider's sheet says so.")
    elif action == "waive":
        waive_finding(
            actor=actor(request),
            job=job,
            key=request.POST.get("key", ""),
            reason=request.POST.get("reason", ""),
        )
    else:
        raise ValidationError("Nothing to do.")
    return True
