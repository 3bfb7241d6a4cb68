"""The day plan: one list for each person, from promised dates, minutes to go and waits; changed by
hand.

A shop may have hundreds of open jobs. The plan is reckoned from a few columns of each; whole jobs
are read only of the few that a page shows.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone

from brightcircuit.bench.queries import DayRow, day_rows, reach_of, shown_jobs
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import Act, Posted, act_on
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.queries import HELD
from brightcircuit.jobs.services import hand_over, put_in_turn
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import set_away, workers
from brightcircuit.stations.current import refresh_stale
from brightcore.procedure.day import DayJob, Hands, Turn, day_plan, takes_over

MOVES = {"up": -1, "down": 1}

FIRST_SHOWN = 6
"""Jobs of each list that the page of everybody shows; the rest is a tap away."""

LIST_PAGE = 25
"""Jobs on one page of one person's list."""


@dataclass(frozen=True, slots=True)
class Doing:
    """A job in its turn, as the page shows it; `reach`: whom to call where it will be late."""

    job: Job
    turn: Turn
    reach: str


@dataclass(frozen=True, slots=True)
class Aside:
    """A job that waits: for what, and when that is ready (None: not known)."""

    job: Job
    waits: str
    ready: datetime | None


@dataclass(frozen=True, slots=True)
class Listed:
    """One person's list of the day; `more`: how many jobs of it are not shown."""

    hands: Hands
    person: Person | None
    doing: list[Doing]
    aside: list[Aside]
    more: int
    url: str


def day_page(request: HttpRequest) -> HttpResponse:
    """Show who does what in which order today; only stored summaries are read. Take changes of the
    order."""
    today = timezone.localdate()
    if request.method == "POST":
        try:
            said = _act(request, today)
            if said:
                messages.success(request, said)
        except ValidationError as error:
            messages.error(request, error.messages[0])
        return redirect(request.get_full_path())
    refresh_stale()
    rows = {row.pk: row for row in day_rows()}
    plan = _plan(rows.values(), today)
    whose = request.GET.get("whose", "")
    page = None
    if any(hands.worker == whose for hands in plan):
        shown = [hands for hands in plan if hands.worker == whose]
        page = Paginator(_keys(shown[0]), LIST_PAGE).get_page(
            whole_number(request.GET.get("page"), 1)
        )
        wanted = list(page)
    else:
        shown, wanted = list(plan), []
        for hands in plan:
            wanted += _keys(hands)[:FIRST_SHOWN]
    context = {
        "lists": _listed(shown, wanted, rows),
        "page": page,
        "whose": whose if page else "",
        "asked": "?" + urlencode({"whose": whose}),
        "today": today,
        "late": sum(turn.late for hands in plan for turn in hands.turns),
        "takes_over": takes_over(plan),
        "workers": workers(),
    }
    return render(request, "bench/day.html", context)


def _plan(rows: Iterable[DayRow], today: date) -> tuple[Hands, ...]:
    now = timezone.now()
    people = {str(person): person for person in workers()}
    away = set()
    for name, who in people.items():
        if who.away_until is not None and who.away_until >= today:
            away.add(name)
    return day_plan([_seen(row, now, today) for row in rows], today, away, people)


def _seen(row: DayRow, now: datetime, today: date) -> DayJob:
    running = [timer for timer in row.timers if timer.due > now]
    words = row.waiting_words or (running[0].words if running else "")
    return DayJob(
        row.pk,
        row.worker,
        row.promised,
        row.minutes,
        words,
        bool(row.timers) and not running,
        row.step in HELD,
        row.turn if row.turn_on == today else None,
    )


def _keys(hands: Hands) -> list[int]:
    """Return the jobs of a list as they stand on the page: what is done, then what waits."""
    return [turn.job.key for turn in hands.turns] + [job.key for job in hands.aside]


def _listed(shown: Iterable[Hands], wanted: Iterable[int], rows: dict[int, DayRow]) -> list[Listed]:
    """Return lists with the wanted jobs of each, read whole."""
    jobs = shown_jobs(wanted)
    reach = reach_of(jobs.values())
    people = {str(person): person for person in workers()}
    found = []
    for hands in shown:
        doing = []
        for turn in hands.turns:
            job = jobs.get(turn.job.key)
            if job is not None:
                doing.append(Doing(job, turn, reach.get(job.pk, "") if turn.late else ""))
        aside = []
        for item in hands.aside:
            job = jobs.get(item.key)
            if job is not None:
                aside.append(Aside(job, item.waits, _ready(rows[item.key])))
        more = len(_keys(hands)) - len(doing) - len(aside)
        url = "?" + urlencode({"whose": hands.worker})
        found.append(Listed(hands, people.get(hands.worker), doing, aside, more, url))
    return found


def _ready(row: DayRow) -> datetime | None:
    """Return when the first thing that a job waits for has set, None where it has no timer."""
    return min((timer.due for timer in row.timers), default=None)


@dataclass(frozen=True, slots=True)
class OnList:
    """The list of one person on a day."""

    today: date
    hands: Hands

    def jobs(self) -> list[Job]:
        """Return the jobs in the order in which they stand."""
        keys = [turn.job.key for turn in self.hands.turns]
        jobs = shown_jobs(keys)
        return [jobs[key] for key in keys if key in jobs]

    def person(self) -> Person:
        """Return whose list it is; raises ValidationError where nobody of that name works here."""
        for person in workers():
            if str(person) == self.hands.worker:
                return person
        raise ValidationError("Nobody of that name works here.")

    def job(self, uuid: str) -> Job:
        """Return a job of the list, one that waits too; raises ValidationError where it is on it no
        more."""
        for job in shown_jobs(_keys(self.hands)).values():
            if str(job.uuid) == uuid:
                return job
        raise ValidationError("That job is not on this list any more.")


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


def _hand_over(posted: Posted, at: OnList) -> str:
    job = at.job(posted.text("job"))
    made = hand_over(actor=posted.who, job=job, worker_id=whole_number(posted.text("worker"), 0))
    return f"Job {job.number} is with {made} now."


ACTS: dict[str, Act[OnList]] = {
    "away": _away,
    "here": _here,
    "reset": _reset,
    "hand-over": _hand_over,
    **dict.fromkeys(MOVES, _move),
}


def _act(request: HttpRequest, today: date) -> str:
    """Do one posted act on the list that it names; returns what to say."""
    posted = Posted(request)
    lists = {hands.worker: hands for hands in _plan(day_rows(), today)}
    hands = lists.get(posted.text("list"))
    if hands is None:
        raise ValidationError("That list is not there any more.")
    return act_on(ACTS, posted.text("do"), posted, OnList(today, hands))
