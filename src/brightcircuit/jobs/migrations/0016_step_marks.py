"""Ticks of the order of work used to be lines of the log; they become rows of their own, the lines stay."""

import re
from typing import Any

from django.db import migrations

TICK = re.compile(r"^(Done|Not done) \((\S+)\): (.*)$", re.DOTALL)
GIVEN = re.compile(r"^Given to (.*?) \((\S+)\): (.*)$", re.DOTALL)
FOUND = re.compile(r"^Found at \((\S+)\): (.*)$", re.DOTALL)

NEW_NAMES = {"plug": "connect", "first-light": "power-up", "mount": "fit", "bar": "fit", "wheel-in": "fit"}
"""What the families of steps are called now."""


def new_name(step: str) -> str:
    """Return the present id of a step."""
    family, colon, subject = step.partition(":")
    return f"{NEW_NAMES.get(family, family)}{colon}{subject}"[:160]


def marks_from_log(apps: Any, schema_editor: Any) -> None:
    """Make rows of what the log of every job says of its steps; lines of another shop count as its own."""
    lines = apps.get_model("jobs", "LogEntry")
    marks = apps.get_model("jobs", "StepMark")
    for line in lines.objects.filter(what="order").select_related("job").order_by("pk").iterator():
        tick, given, found = TICK.match(line.text), GIVEN.match(line.text), FOUND.match(line.text)
        common = {
            "job": line.job,
            "at": line.at,
            "by_id": line.job.opened_by_id,
            "by_name": line.by[:150],
            "imported": line.imported,
        }
        if tick and tick[1] == "Done":
            marks.objects.create(step=new_name(tick[2]), what="done", words=tick[3][:500], **common)
        elif tick:
            rows = marks.objects.filter(job=line.job, step=new_name(tick[2]), what="done")
            rows.update(undone=True)
        elif given:
            marks.objects.create(
                step=new_name(given[2]), what="given", text=given[1][:300], words=given[3][:500], **common
            )
        elif found:
            marks.objects.create(
                step=new_name(found[1]), what="found", text=found[2][:300], words=found[1][:500], **common
            )


class Migration(migrations.Migration):
    dependencies = [("jobs", "0015_way")]
    operations = [migrations.RunPython(marks_from_log, migrations.RunPython.noop)]
