"""The visit before this one: what was repaired, what the shop still answers for, what was left
open."""

from dataclasses import dataclass
from datetime import date

from django.utils import timezone

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.stations.registry import stations


@dataclass(frozen=True, slots=True)
class LastTime:
    """The last closed job of a bike.

    `repairs`: what was repaired and proven; `until`: the day to which the shop answers for it, None
    where nobody said; `holds`: whether that day is still to come; `left`: what was let go or
    accepted, with its reason.
    """

    job: Job
    repairs: tuple[str, ...]
    until: date | None
    holds: bool
    left: tuple[str, ...]

    def same_complaint(self, words: str) -> bool:
        """Return whether a complaint is the one that the bike came with then."""
        return bool(words.strip()) and _plain(words) == _plain(self.job.complaint)


def _plain(words: str) -> str:
    return " ".join(words.lower().split()).strip(".!? ")


def last_time(bike: Bike, before: Job | None = None) -> LastTime | None:
    """Return the last closed job of a bike (before another one), None where it was never here."""
    jobs = Job.objects.filter(revision__bike=bike, status=Job.Status.CLOSED).order_by("-closed")
    if before is not None:
        jobs = jobs.exclude(pk=before.pk).filter(closed__lte=before.opened)
    job = jobs.first()
    if job is None:
        return None
    proven = job.repairs.filter(proof=Repair.Proof.PASSED)
    made = {row.change: row.words for row in job.changes_done.filter(undone=False)}
    repairs = [made.get(f"fit:{row.made}") or row.action for row in proven]
    until = next(filter(None, (station.answers_until(job) for station in stations())), None)
    left: list[str] = []
    for station in stations():
        left += station.left_open(job)
    holds = until is not None and until >= timezone.localdate()
    return LastTime(job, tuple(repairs), until, holds, tuple(left))
