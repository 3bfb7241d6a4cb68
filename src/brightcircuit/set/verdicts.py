"""What an instrument on a job says of what was typed, and which instrument it is."""

from django.core.exceptions import ValidationError

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.set.models import Sheet
from brightcircuit.set.queries import (
    last_values,
    options_of,
)
from brightcore.errors import UnknownNameError
from brightcore.setting import instrument
from brightcore.setting.contract import Instrument, Verdict, read_all


def verdict(job: Job, found: Instrument, sheet: Sheet) -> Verdict:
    """Return what the readings of a sheet mean."""
    bike = stands_of(job)
    reading = read_all(
        found.fields(bike, sheet.subject, sheet.typed | options_of(sheet)), sheet.typed
    )
    last, _ = last_values(job, found.key, sheet.subject)
    return found.judge(bike, sheet.subject, reading, options_of(sheet), last)


MINUTES_EACH = 0.7
"""Minutes that a reading of Set counts for (common practice)."""


def instrument_on(job: Job, key: str, subject: str) -> Instrument:
    """Return an instrument for one thing of the bike; raises ValidationError for none such."""
    try:
        found = instrument(key)
    except UnknownNameError as error:
        raise ValidationError(str(error)) from None
    if subject not in {item.id for item in found.subjects(stands_of(job))}:
        raise ValidationError("That is not on this bike any more.")
    return found
