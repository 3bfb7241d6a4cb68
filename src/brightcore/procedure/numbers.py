"""What a shop's closed jobs tell: minutes, first repairs that were right, what came back, what
fails."""

import statistics
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

COMES_BACK = timedelta(days=90)
"""A bike that is here again for the same fault within this time has come back."""

LEAST_JOBS = 3
"""Fewer jobs of a kind than this tell nothing of it."""


@dataclass(frozen=True, slots=True)
class Done:
    """A repair that was done: what failed, its action, and whether its proof passed (None: never
    proved)."""

    failed: str
    action: str
    passed: bool | None


@dataclass(frozen=True, slots=True)
class ClosedJob:
    """A closed job: its bike, purposes, days, minutes of evidence, and its repairs in order."""

    bike: int
    purposes: tuple[str, ...]
    opened: date
    closed: date
    minutes: float
    repairs: tuple[Done, ...] = ()


@dataclass(frozen=True, slots=True)
class Numbers:
    """What the jobs tell.

    `kinds`: (purpose, jobs, median minutes); `first_right`: (first repairs that were right, all
    that were judged); `came_back`: (jobs that came back, jobs with a repair); `failing`: (action,
    times).
    """

    kinds: tuple[tuple[str, int, float], ...]
    first_right: tuple[int, int]
    came_back: tuple[int, int]
    failing: tuple[tuple[str, int], ...]


def numbers(jobs: Iterable[ClosedJob], most: int = 10) -> Numbers:
    """Return what closed jobs tell; kinds of fewer than three jobs are left out."""
    every = sorted(jobs, key=lambda job: job.opened)
    minutes: dict[str, list[float]] = defaultdict(list)
    for job in every:
        for purpose in job.purposes:
            minutes[purpose].append(job.minutes)
    kinds = []
    for name, found in minutes.items():
        kinds.append((name, len(found), statistics.median(found)))
    first = [
        job.repairs[0].passed for job in every if job.repairs and job.repairs[0].passed is not None
    ]
    failing = Counter(repair.action for job in every for repair in job.repairs if repair.passed)
    return Numbers(
        tuple(sorted((row for row in kinds if row[1] >= LEAST_JOBS), key=lambda row: -row[1])),
        (sum(first), len(first)),
        (_came_back(every), sum(bool(job.repairs) for job in every)),
        tuple(failing.most_common(most)),
    )


def _came_back(jobs: Sequence[ClosedJob]) -> int:
    """Return how many jobs were followed by another on the same bike for the same fault, soon."""
    count = 0
    for n, job in enumerate(jobs):
        own = {repair.failed for repair in job.repairs if repair.failed}
        later = (other for other in jobs[n + 1 :] if other.bike == job.bike)
        soon = (other for other in later if timedelta(0) <= other.opened - job.closed <= COMES_BACK)
        count += any(own & {repair.failed for repair in other.repairs} for other in soon)
    return count
