"""The day plan: one list for each person, from promised dates, minutes to go and waits; changed by
hand."""

from dataclasses import dataclass
from datetime import date, datetime

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from brightcircuit.bench.queries import jobs_of_the_day
from brightcircuit.common.posted import Act, Posted, act_on
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import HELD
from brightcircuit.jobs.services import put_in_turn
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import set_away
from brightcircuit.stations.current import refresh_stale
from brightcore.procedure.day import DayJob, Hands, Turn, day_plan, takes_over

MOVES = {"up": -1, "down": 1}


@dataclass(frozen=True, slots=True)
class Listed:
    """One person's list with its jobs; `aside`: (job, when what it waits for has set, None: not
    known)."""

    hands: Hands
    person: Person | None
    turns: list[tuple[Job, Turn]]
    aside: list[tuple[Job, datetime | None]]


def day_page(request: HttpRequest) -> HttpResponse:
    """Show who does what in which order today; only stored summaries are read. Take changes of the
    order."""
    today = timezone.localdate()
    if request.method == "POST":
        try:
            _act(request, today)
        except ValidationError as error:
            messages.error(request, error.messages[0])
        return redirect("day")
    refresh_stale()
    lists = _lists(today)
    late = sum(turn.late for listed in lists for _, turn in listed.turns)
    context = {
        "lists": lists,
        "today": today,
        "late": late,
        "takes_over": takes_over([listed.hands for listed in lists]),
    }
    return render(request, "bench/day.html", context)


def _lists(today: date) -> list[Listed]:
    now = timezone.now()
    jobs = {job.pk: job for job in jobs_of_the_day()}
    people = {str(person): person for person in Person.objects.filter(is_active=True)}
    away = set()
    for name, who in people.items():
        if who.away_until is not None and who.away_until >= today:
            away.add(name)
    plan = day_plan([_seen(job, now, today) for job in jobs.values()], today, away, people)
    return [_listed(hands, jobs, people.get(hands.worker)) for hands in plan]


def _seen(job: Job, now: datetime, today: date) -> DayJob:
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
        job.turn if job.turn_on == today else None,
    )


def _listed(hands: Hands, jobs: dict[int, Job], person: Person | None) -> Listed:
    turns = [(jobs[turn.job.key], turn) for turn in hands.turns]
    aside = [(jobs[job.key], _sets_at(jobs[job.key])) for job in hands.aside]
    return Listed(hands, person, turns, aside)


def _sets_at(job: Job) -> datetime | None:
    """Return when the first thing that a job waits for has set, None where it has no timer."""
    due = [timer.due for timer in job.timers.all() if not timer.done]
    return min(due, default=None)


@dataclass(frozen=True, slots=True)
class OnList:
    """The list of one person on a day."""

    today: date
    listed: Listed

    def jobs(self) -> list[Job]:
        """Return the jobs in the order in which they stand."""
        return [job for job, _ in self.listed.turns]

    def person(self) -> Person:
        """Return whose list it is; raises ValidationError where nobody of that name works here."""
        if self.listed.person is None:
            raise ValidationError("Nobody of that name works here.")
        return self.listed.person


def _away(posted: Posted, at: OnList) -> str:
    set_away(actor=posted.who, person=at.person(), until=at.today)
    return ""


def _here(posted: Posted, at: OnList) -> str:
    set_away(actor=posted.who, person=at.person(), until=None)
    return ""


def _reset(posted: Posted, at: OnList) -> str:
    put_in_turn(actor=posted.who, jobs=at.jobs(), on=None)
    return ""


def _move(posted: Posted, at: OnList) -> str:
    """Put a job one place up or down."""
    order = at.jobs()
    step = MOVES[posted.text("do")]
    place = next((n for n, job in enumerate(order) if str(job.uuid) == posted.text("job")), None)
    if place is None or not 0 <= place + step < len(order):
        raise ValidationError("That job does not move there.")
    order[place], order[place + step] = order[place + step], order[place]
    put_in_turn(actor=posted.who, jobs=order, on=at.today)
    return ""


ACTS: dict[str, Act[OnList]] = {
    "away": _away,
    "here": _here,
    "reset": _reset,
    **dict.fromkeys(MOVES, _move),
}


def _act(request: HttpRequest, today: date) -> None:
    """Do one posted act on the list that it names."""
    posted = Posted(request)
    lists = {listed.hands.worker: listed for listed in _lists(today)}
    listed = lists.get(posted.text("list"))
    if listed is None:
        raise ValidationError("That list is not there any more.")
    act_on(ACTS, posted.text("do"), posted, OnList(today, listed))
