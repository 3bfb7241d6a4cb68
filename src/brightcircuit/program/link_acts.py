"""What can be done on the page of a link: one function an act, all of them in `ACTS`.

Each returns where to go, "" for the page of the device; what is to be said goes into the messages.
"""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.urls import reverse

from brightcircuit.common.posted import Act, Posted
from brightcircuit.jobs.models import Job
from brightcircuit.program.hands import turn_bench
from brightcircuit.program.keeping import keep_reading, sweep_to_set
from brightcircuit.program.link_services import connect, disconnect, learn
from brightcircuit.program.models import Run
from brightcircuit.program.run_services import begin_read, choose, save_device


@dataclass(frozen=True, slots=True)
class At:
    """A device of a job's bike."""

    job: Job
    part: str

    def named(self, posted: Posted) -> dict[str, Any]:
        """Return who acts on which device, as the services of the link take it."""
        return {"actor": posted.who, "job": self.job, "part": self.part}


def _to_run(at: At, run: Run) -> str:
    # A read that is through has its values on the device's page; nothing of it is left to confirm.
    if run.kind == "read" and run.state == "done":
        return ""
    return reverse("program-run", args=(at.job.uuid, run.part, run.pk))


def _connect(posted: Posted, at: At) -> str:
    line = connect(**at.named(posted), text=posted.text("address"))
    messages.success(posted.request, f"Connected: firmware {line.firmware}.")
    return ""


def _disconnect(posted: Posted, at: At) -> str:
    disconnect(**at.named(posted))
    return ""


def _read(posted: Posted, at: At) -> str:
    return _to_run(at, begin_read(**at.named(posted)))


def _choose(posted: Posted, at: At) -> str:
    return _to_run(at, choose(**at.named(posted), codes=posted.many("code")))


def _save(posted: Posted, at: At) -> str:
    save_device(**at.named(posted))
    messages.success(posted.request, "Saved on the device, and read again: as it was.")
    return ""


def _learn(posted: Posted, at: At) -> str:
    run = learn(**at.named(posted), key=posted.text("stage"), ticked=posted.many("gate"))
    return _to_run(at, run)


def _bench(posted: Posted, at: At) -> str:
    turn_bench(**at.named(posted), values=posted.all())
    return ""


def _keep(posted: Posted, at: At) -> str:
    messages.success(posted.request, keep_reading(**at.named(posted), name=posted.text("name")))
    return ""


def _sweep(posted: Posted, at: At) -> str:
    said = sweep_to_set(**at.named(posted), values=posted.all(), ticked=posted.many("gate"))
    messages.success(posted.request, said)
    return ""


ACTS: dict[str, Act[At]] = {
    "connect": _connect,
    "disconnect": _disconnect,
    "read": _read,
    "choose": _choose,
    "save": _save,
    "learn": _learn,
    "bench": _bench,
    "keep": _keep,
    "sweep": _sweep,
}
"""Every act, by the word that its form sends."""
