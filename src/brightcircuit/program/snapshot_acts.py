"""What can be done with snapshots: one function an act, all of them in `ACTS`."""

from brightcircuit.common.posted import Act, Posted
from brightcircuit.common.uploads import read_upload
from brightcircuit.jobs.models import Job
from brightcircuit.program.services import (
    copy_settings,
    restore_snapshot,
    take_settings,
    take_snapshot,
)


def _take(posted: Posted, job: Job) -> str:
    part, title = posted.text("part"), posted.text("title")
    made = take_snapshot(actor=posted.who, job=job, part=part, title=title)
    return f"Snapshot saved: {made.title}, {len(made.values)} values."


def _restore(posted: Posted, job: Job) -> str:
    count = restore_snapshot(actor=posted.who, job=job, uuid=posted.text("uuid"))
    return (
        f"{count} values are wanted again as they were. Enter them on Values, or write them over "
        "Link."
    )


def _copy(posted: Posted, job: Job) -> str:
    part, uuid = posted.text("part"), posted.text("uuid")
    copied, derived = copy_settings(actor=posted.who, job=job, part=part, uuid=uuid)
    return f"{copied} values wanted as there; {derived} derived anew for this bike."


def _file(posted: Posted, job: Job) -> str:
    upload = posted.file("file", "Choose a settings file: JSON, YAML or CSV.")
    count = take_settings(
        actor=posted.who,
        job=job,
        part=posted.text("part"),
        content=read_upload(upload),
        name=upload.name or "settings",
    )
    return f"{count} values taken as what the device has."


ACTS: dict[str, Act[Job]] = {"take": _take, "restore": _restore, "copy": _copy, "file": _file}
"""Every act, by the word that its form sends."""
