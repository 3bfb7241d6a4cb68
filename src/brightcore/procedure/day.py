"""The day plan: which job comes next for whom, what waits by itself, and what will be late.

Earliest promised date first: it keeps the greatest lateness least on one pair of hands (Jackson
1955, from memory). A job that waits stands aside, and comes to the front once what it waits for has
set.
"""

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import date

UNKNOWN_MIN = 45
"""Minutes reckoned for a job of which nobody can tell what is left (common practice)."""

DAY_MIN = 420
"""Working minutes of a day on one pair of hands."""

FAR = date.max


@dataclass(frozen=True, slots=True)
class DayJob:
    """A job as the day plan sees it.

    `minutes`: left to do, None where nobody can tell; `waits`: in words, "" where for nothing;
    `ready`: what it waits for has come (a timer that has run out); `held`: something that can hurt
    stands before it; `turn`: its place in the list as somebody has put it by hand, counted from 0.
    """

    key: int
    worker: str
    promised: date | None
    minutes: int | None = None
    waits: str = ""
    ready: bool = False
    held: bool = False
    turn: int | None = None


@dataclass(frozen=True, slots=True)
class Turn:
    """A job in somebody's list: minutes from now when it is begun and done, and whether it will be
    late."""

    job: DayJob
    begins_min: int
    ends_min: int
    late: bool


@dataclass(frozen=True, slots=True)
class Hands:
    """One person's list of the day, and what stands aside.

    `away`: not in the shop; the jobs then wait to be handed over. `by_hand`: somebody has put the
    order.
    """

    worker: str
    turns: tuple[Turn, ...]
    aside: tuple[DayJob, ...]
    away: bool = False

    @property
    def by_hand(self) -> bool:
        """Whether the order is not the proposed one."""
        return any(turn.job.turn is not None for turn in self.turns)

    @property
    def count(self) -> int:
        """How many jobs are on it, those that wait too."""
        return len(self.turns) + len(self.aside)

    @property
    def minutes(self) -> int:
        """Minutes of all that is to be done."""
        if self.turns:
            return self.turns[-1].ends_min
        return 0


def day_plan(
    jobs: Iterable[DayJob], today: date, away: Collection[str] = (), here: Collection[str] = ()
) -> tuple[Hands, ...]:
    """Return one list for each person, in the order of names, jobs in nobody's hands last.

    `away`: names of who is not in the shop today; `here`: names that have a list even without a
    job.
    """
    by_worker: dict[str, list[DayJob]] = {name: [] for name in here}
    for job in jobs:
        by_worker.setdefault(job.worker, []).append(job)
    names = sorted(by_worker, key=lambda name: (name == "", name))
    return tuple(_hands(name, by_worker[name], today, name in away) for name in names)


def takes_over(plan: Iterable[Hands]) -> str:
    """Return who has least to do today of those who are here, "" where nobody is."""
    free = [hands for hands in plan if hands.worker and not hands.away]
    if free:
        return min(free, key=lambda hands: hands.minutes).worker
    return ""


def _hands(worker: str, jobs: list[DayJob], today: date, away: bool) -> Hands:
    aside = [job for job in jobs if job.waits and not job.ready]
    doing = _in_turn([job for job in jobs if job not in aside])
    turns, at = [], 0
    for job in doing:
        ends = at + (job.minutes if job.minutes is not None else UNKNOWN_MIN)
        turns.append(Turn(job, at, ends, _late(job, ends, today)))
        at = ends
    return Hands(worker, tuple(turns), tuple(sorted(aside, key=_urgency)), away)


def _in_turn(jobs: Iterable[DayJob]) -> list[DayJob]:
    """Return jobs in their order: what was put by hand at its place, the rest by urgency around
    it."""
    every = sorted(jobs, key=_urgency)
    put = sorted((job for job in every if job.turn is not None), key=lambda job: job.turn or 0)
    order = [job for job in every if job.turn is None]
    for job in put:
        order.insert(min(job.turn or 0, len(order)), job)
    return order


def _urgency(job: DayJob) -> tuple[bool, bool, date, int]:
    """Return what comes first: what can hurt, what has just set, then the earliest promise, the
    shortest."""
    minutes = job.minutes if job.minutes is not None else UNKNOWN_MIN
    return not job.held, not job.ready, job.promised or FAR, minutes


def _late(job: DayJob, ends_min: int, today: date) -> bool:
    """Return whether a job is done after the day it was promised for, a day being so many
    minutes."""
    if job.promised is None:
        return False
    days_needed = (ends_min - 1) // DAY_MIN if ends_min > 0 else 0
    return today.toordinal() + days_needed > job.promised.toordinal()
