"""The day plan: one list for each person, from promised dates, minutes to go and waits."""

from dataclasses import dataclass
from datetime import datetime

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from brightcircuit.bench.queries import jobs_of_the_day
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import HELD
from brightcore.procedure.day import DayJob, Hands, Turn, day_plan


@dataclass(frozen=True, slots=True)
class Listed:
    """One person's list with its jobs."""

    worker: str
    turns: list[tuple[Job, Turn]]
    aside: list[Job]

    @property
    def minutes(self) -> int:
        """Minutes of all that is to be done."""
        return self.turns[-1][1].ends_min if self.turns else 0


def day_page(request: HttpRequest) -> HttpResponse:
    """Show who does what in which order today; only stored summaries are read."""
    now, today = timezone.now(), timezone.localdate()
    jobs = {job.pk: job for job in jobs_of_the_day()}
    plan = day_plan([_seen(job, now) for job in jobs.values()], today)
    lists = [_listed(hands, jobs) for hands in plan]
    late = sum(turn.late for listed in lists for _, turn in listed.turns)
    return render(request, "bench/day.html", {"lists": lists, "today": today, "late": late})


def _seen(job: Job, now: datetime) -> DayJob:
    timers = [timer for timer in job.timers.all() if not timer.done]
    running = [timer for timer in timers if timer.due > now]
    words = job.waiting_words or (f"{running[0].words}" if running else "")
    return DayJob(
        job.pk,
        str(job.worker or job.opened_by),
        job.promised,
        job.summary.get("minutes"),
        words,
        bool(timers) and not running,
        job.summary.get("step") in HELD,
    )


def _listed(hands: Hands, jobs: dict[int, Job]) -> Listed:
    turns = [(jobs[turn.job.key], turn) for turn in hands.turns]
    return Listed(hands.worker, turns, [jobs[job.key] for job in hands.aside])
