"""Match in the registry of stations."""

from brightcircuit.jobs.models import Job
from brightcircuit.match.help import HELP
from brightcircuit.match.models import MatchPlan
from brightcircuit.stations.registry import Restoring, Section, Station
from brightcore.formats.plain import JsonObject


def export(job: Job) -> JsonObject:
    """Return what was asked of Match."""
    plan = MatchPlan.objects.filter(job=job).first()
    return {"match": dict(plan.data) if plan else {}}


def restore(restoring: Restoring) -> None:
    """Store what was asked of Match."""
    if restoring.head.get("match"):
        MatchPlan.objects.create(job=restoring.job, data=restoring.head["match"])


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
    export=export,
    restore=restore,
    log_words={"match": "what was asked of Match"},
)
