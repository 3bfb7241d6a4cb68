"""Describing what was found on a line."""

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.jobs.descriptions import keep_description, ready_core
from brightcircuit.jobs.models import Job
from brightcircuit.library.queries import parts
from brightcircuit.library.translate import core_entry
from brightcircuit.shop.models import Person
from brightcore.describing.on_line import kinds_on, put_on_line


@transaction.atomic
def describe_on_line(*, actor: Person, job: Job, line: str, kind: str) -> tuple[str, str]:
    """Put a usual part of a kind on the line of a repair `describe:…`; the job goes on with it.

    Returns its name and how it is taken to be joined in words, "" where it was not. Raises
    ValidationError for a kind that is not found on that line.
    """
    bike = ready_core(job, actor)
    if kind not in kinds_on(line):
        raise ValidationError("Choose what was found on the line.")
    row = parts(kind).order_by("pk").first()
    if row is None:
        raise ValidationError("The library has no such part: describe it by hand.")
    entry = core_entry(row)
    made, plug = put_on_line(bike, line, entry.kind, entry.name, entry.spec, entry.ports)
    name = made.parts[-1].name
    what = f"Found on the line: {name}" + (f", taken as {plug}" if plug else "")
    keep_description(actor=actor, job=job, core=made, station="trace", what=what)
    return name, plug
