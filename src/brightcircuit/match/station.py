"""Match in the registry of stations."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import plan_of
from brightcircuit.match.cards import unread
from brightcircuit.match.help import HELP
from brightcircuit.match.models import MatchPlan
from brightcircuit.match.plan import LOGGED, read_logged
from brightcircuit.match.services import ask
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import OpenItem, Restoring, Section, Station
from brightcore.bike.measured import as_measured
from brightcore.formats.plain import JsonObject
from brightcore.procedure.next_thing import NextThing
from brightcore.procedure.purpose import changes_the_bike


def export(job: Job) -> JsonObject:
    """Return what was asked of Match."""
    plan = MatchPlan.objects.filter(job=job).first()
    return {"match": dict(plan.data) if plan else {}}


def restore(restoring: Restoring) -> None:
    """Store what was asked of Match."""
    if restoring.head.get("match"):
        MatchPlan.objects.create(job=restoring.job, data=restoring.head["match"])


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """Whether the parts suit each other, where the job brings parts."""
    if not needed or hasattr(job, "match_plan"):
        return []
    return [OpenItem("match", "match", "Nobody has looked whether the parts suit each other")]


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """Where parts are brought and Match was asked, the labels on which its answer rests are
    read."""
    if not changes_the_bike(job.purposes) or not hasattr(job, "match_plan"):
        return None
    left = unread(as_measured(plan_of(job)))
    if not left:
        return None
    return NextThing(
        "describe", "match", f"Read the label: {left[0]}", "Match rests on it until somebody has."
    )


def take_over(
    *, actor: Person, job: Job, key: str, subject: str, typed: dict[str, str], ticked: Sequence[str]
) -> None:
    """Take a ride that was logged elsewhere as Match's own log, in place of one that was typed."""
    if key != "ride":
        raise ValidationError("Match takes rides alone.")
    wanted = {field.name: typed[field.name] for field in LOGGED if field.name in typed}
    values, errors = read_logged(wanted)
    if errors:
        raise ValidationError(errors)
    ask(actor=actor, job=job, values=values)


STATION = Station(
    help=HELP,
    key="match",
    name="Match",
    shortcut="m",
    done=lambda job: hasattr(job, "match_plan"),
    sections=(
        Section("Chain", "match"),
        Section("Ride", "match-ride"),
        Section("Curves", "match-curves"),
        Section("Class", "match-class"),
        Section("Packs", "match-packs"),
        Section("Cost", "match-cost"),
        Section("Space", "space"),
    ),
    take_over=take_over,
    open=whats_open,
    next_thing=next_thing,
    export=export,
    restore=restore,
    log_words={"match": "what was asked of Match"},
)
