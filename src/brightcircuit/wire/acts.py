"""What can be done on the page of Wire: one function an act, all of them in `ACTS`.

What is not in the table is an edit of the wiring itself (`wire/edit.py` has those).
"""

from brightcircuit.common.posted import Act, Posted
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import waive_finding
from brightcircuit.jobs.way import plan_of
from brightcircuit.wire.edit import edit_wiring
from brightcircuit.wire.services import (
    accept_proposals,
    fix_finding,
    keep_wiring,
    take_joins,
    undo_wiring,
)


def _connections(count: int, verb: str) -> str:
    several = "" if count == 1 else "s"
    return f"{count} connection{several} {verb}."


def _accept(posted: Posted, job: Job) -> str:
    made = accept_proposals(actor=posted.who, job=job, wanted=[posted.text("pair", "|")])
    return _connections(made, "made")


def _accept_all(posted: Posted, job: Job) -> str:
    return _connections(accept_proposals(actor=posted.who, job=job, wanted=[]), "made")


def _take_file(posted: Posted, job: Job) -> str:
    upload = posted.file("file", "Choose a CSV file first.")
    made = take_joins(actor=posted.who, job=job, text=read_upload(upload))
    if not made:
        return "Every connection of the file was there already."
    return _connections(made, "imported")


def _waive(posted: Posted, job: Job) -> str:
    key, reason = posted.text("key"), posted.text("reason")
    waive_finding(actor=posted.who, job=job, key=key, reason=reason)
    return "Accepted; the reason stays on the job sheet."


def _fix(posted: Posted, job: Job) -> str:
    said = fix_finding(
        actor=posted.who,
        job=job,
        key=posted.text("key"),
        remedy=posted.text("fix"),
        done=posted.text("done") == "1",
    )
    return f"{said}."


def _undo(posted: Posted, job: Job) -> str:
    return f"{undo_wiring(actor=posted.who, job=job)}."


ACTS: dict[str, Act[Job]] = {
    "accept": _accept,
    "accept-all": _accept_all,
    "take-file": _take_file,
    "waive": _waive,
    "fix": _fix,
    "undo": _undo,
}
"""Every act but the edits, by the word that its form sends."""


def do_act(posted: Posted, job: Job, word: str) -> str:
    """Do what a form of Wire asks for and return what to say; raises Refused and
    ValidationError."""
    act = ACTS.get(word)
    if act is not None:
        return act(posted, job)
    return edited(posted, job, word)


def edited(posted: Posted, job: Job, word: str) -> str:
    """Change the wiring as posted and return what was done; raises Refused."""
    done = edit_wiring(plan_of(job), word, posted.request.POST)
    keep_wiring(actor=posted.who, job=job, core=done.bike, what=done.what)
    return f"{done.what}."
