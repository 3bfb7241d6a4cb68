"""What can be done on the page of an instrument: one function an act, all of them in `ACTS`."""

from dataclasses import dataclass
from typing import Any

from brightcircuit.common.posted import Act, Posted
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.set.finishing import finish, repin, undo_calibration
from brightcircuit.set.services import (
    begin_again,
    choose,
    choose_for_shop,
    start_timer,
    stop_timer,
    take_log,
    take_reading,
    waive,
)

MINUTES = "a number of minutes"


@dataclass(frozen=True, slots=True)
class At:
    """An instrument on one thing of a job's bike."""

    job: Job
    key: str
    subject: str

    def named(self, posted: Posted) -> dict[str, Any]:
        """Return who acts where, as the services of Set take it."""
        return {"actor": posted.who, "job": self.job, "key": self.key, "subject": self.subject}


def _take(posted: Posted, at: At) -> str:
    if posted.has("again"):
        minutes = posted.number("again", MINUTES)
    else:
        minutes = None
    take_reading(
        **at.named(posted),
        step_id=posted.text("step"),
        typed=posted.all(),
        ticked=posted.many("gate"),
        minutes=minutes,
    )
    return ""


def _log(posted: Posted, at: At) -> str:
    upload = posted.file("log", "Choose a CSV file with time, volts and amps.")
    take_log(**at.named(posted), content=read_upload(upload), ticked=posted.many("gate"))
    return ""


def _choose(posted: Posted, at: At) -> str:
    choose(**at.named(posted), options=posted.all())
    return ""


def _choose_for_shop(posted: Posted, at: At) -> str:
    choose_for_shop(**at.named(posted))
    return "Chosen for every job of the shop."


def _finish(posted: Posted, at: At) -> str:
    return f"Saved: {finish(**at.named(posted)).title}."


def _begin_again(posted: Posted, at: At) -> str:
    begin_again(**at.named(posted))
    return "Begun again; what was typed stays in the log."


def _waive(posted: Posted, at: At) -> str:
    waive(**at.named(posted), reason=posted.text("reason"))
    return "Waived; the reason stays on the job sheet."


def _undo(posted: Posted, at: At) -> str:
    undo_calibration(actor=posted.who, job=at.job, uuid=posted.text("uuid"))
    return "Undone. It stays to be read below."


def _repin(posted: Posted, at: At) -> str:
    moved = repin(actor=posted.who, job=at.job, uuid=posted.text("uuid"))
    return f"{moved}. Mark the wires on the bike the same."


def _start_timer(posted: Posted, at: At) -> str:
    start_timer(**at.named(posted), minutes=posted.number("minutes", MINUTES))
    return "The timer runs; the Bench says when to look."


def _looked(posted: Posted, at: At) -> str:
    stop_timer(**at.named(posted))
    return ""


ACTS: dict[str, Act[At]] = {
    "take": _take,
    "log": _log,
    "choose": _choose,
    "shop": _choose_for_shop,
    "finish": _finish,
    "again": _begin_again,
    "waive": _waive,
    "undo": _undo,
    "repin": _repin,
    "timer": _start_timer,
    "looked": _looked,
}
"""Every act, by the word that its form sends."""
