"""The time that rows of jobs are stamped with: never before what stands there already.

What came first is told by these times, over tables: a proof made before a step was done says
nothing of it. A machine whose clock was put back (a wrong zone mended, a set-up after a flat
battery) would turn that round.
"""

from datetime import datetime, timedelta

from django.utils import timezone

from brightcircuit.jobs.models import LogEntry

MOST_BEHIND = timedelta(hours=26)
"""So far a clock is waited for: a day and a change of zone. Beyond it the earlier time was wrong,
and stamping the years after it would be worse; `./bright check` says so."""

TICK = timedelta(microseconds=1)


def newest_line() -> datetime | None:
    """Return the time of the newest line of any job's log, None in an empty shop."""
    return LogEntry.objects.order_by("-pk").values_list("at", flat=True).first()


def behind() -> timedelta:
    """Return how far this machine's clock stands before the newest line; zero where it does not."""
    newest = newest_line()
    if newest is None:
        return timedelta(0)
    return max(newest - timezone.now(), timedelta(0))


def now() -> datetime:
    """Return the time to stamp a row with."""
    real, late = timezone.now(), behind()
    if timedelta(0) < late <= MOST_BEHIND:
        return real + late + TICK
    return real
