"""What can be done at arrival: one function an act, all of them in `ACTS`.

A form that was not filled in as it must be raises `Unfilled`: what is wrong stands at its fields,
and the page shows it again.
"""

from dataclasses import dataclass

from brightcircuit.arrive.forms import NoteForm, SymptomForm, TriageForm
from brightcircuit.arrive.models import WIRES
from brightcircuit.arrive.services import answer_triage, lift_quarantine, note_found
from brightcircuit.common.posted import Act, Posted, Unfilled
from brightcircuit.jobs.dangers import let_danger_go
from brightcircuit.jobs.descriptions import use_newest_revision
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.photos import add_photo
from brightcircuit.jobs.safety import waive_finding
from brightcircuit.jobs.services import confirm_symptoms

NOTE = "note"

ADDS = (NOTE, "symptoms", "photo")
"""Acts that overwrite nothing: the note carries the text that it was based on."""


@dataclass(frozen=True, slots=True)
class Arriving:
    """A job at arrival, with the forms of the page as they were sent."""

    job: Job
    triage: TriageForm
    note: NoteForm
    symptoms: SymptomForm


def _triage(posted: Posted, at: Arriving) -> str:
    if not at.triage.is_valid():
        raise Unfilled
    answer_triage(actor=posted.who, job=at.job, answers=at.triage.answers())
    return ""


def _note(posted: Posted, at: Arriving) -> str:
    if not at.note.is_valid():
        raise Unfilled
    answer_triage(
        actor=posted.who,
        job=at.job,
        answers={},
        note=at.note.cleaned_data["note"],
        note_was=_lines(posted.text("was")),
    )
    return "Note saved."


def _lines(text: str) -> str:
    """Return a text as forms store it: line ends as one sign, no space around."""
    return text.replace("\r\n", "\n").strip()


def _symptoms(posted: Posted, at: Arriving) -> str:
    if not at.symptoms.is_valid():
        raise Unfilled
    confirm_symptoms(actor=posted.who, job=at.job, symptoms=at.symptoms.symptoms())
    return ""


def _found(posted: Posted, at: Arriving) -> str:
    note_found(
        actor=posted.who,
        job=at.job,
        circumstances=posted.many("circumstances"),
        wires=posted.many("wires"),
        places={name: posted.text(f"at-{name}") for name, _ in WIRES},
    )
    return ""


def _photo(posted: Posted, at: Arriving) -> str:
    upload = posted.file("photo", "Choose a picture.")
    add_photo(actor=posted.who, job=at.job, upload=upload, caption=posted.text("caption"))
    return ""


def _revision(posted: Posted, at: Arriving) -> str:
    use_newest_revision(actor=posted.who, job=at.job)
    return ""


def _lift(posted: Posted, at: Arriving) -> str:
    lift_quarantine(actor=posted.who, job=at.job, reason=posted.text("reason"))
    return ""


def _danger(posted: Posted, at: Arriving) -> str:
    let_danger_go(
        actor=posted.who, job=at.job, uuid=posted.text("danger"), reason=posted.text("reason")
    )
    return "Let go; the rider's sheet says so."


def _waive(posted: Posted, at: Arriving) -> str:
    waive_finding(
        actor=posted.who, job=at.job, key=posted.text("key"), reason=posted.text("reason")
    )
    return ""


ACTS: dict[str, Act[Arriving]] = {
    "triage": _triage,
    NOTE: _note,
    "symptoms": _symptoms,
    "found": _found,
    "photo": _photo,
    "revision": _revision,
    "lift": _lift,
    "danger": _danger,
    "waive": _waive,
}
