"""Wire in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import findings_of
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.registry import Section, Station
from brightcircuit.wire.help import HELP
from brightcircuit.wire.queries import done_steps
from brightcore.describing.edit import free_ports
from brightcore.procedure.effort import minutes_of
from brightcore.procedure.next_thing import NextThing, connect
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.rules.plugs import required_plug


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """Plugs that are needed and free come before measuring, while nothing is measured yet."""
    if found.entries:
        return None
    codes = {item.finding.code for item in findings_of(job) if not item.waived}
    if required_plug.type.code not in codes:
        return None
    offered = propose_joins(plan_of(job))
    best = max(offered, key=lambda proposal: proposal.certain, default=None)
    return connect(best.words if best else "", best.reason if best else "", len(offered))


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the usual minutes of the steps that were ticked here."""
    return [("Order of work", minutes_of(done_steps(job)))]


STATION = Station(
    help=HELP,
    key="wire",
    name="Wire",
    shortcut="w",
    done=lambda job: not free_ports(plan_of(job)),
    sections=(
        Section("Connections", "wire"),
        Section("Pins", "wire-pins"),
        Section("Cable routes", "wire-routes"),
        Section("Cut list", "wire-lists"),
        Section("First power-up", "first-light", "Trying every connection,"),
        Section("Order of work", "wire-order", "Working it out,"),
        Section("Sheet", "wire-sheet"),
        Section("Plug cards", "wire-cards"),
        Section("Wire size", "wire-size"),
    ),
    next_thing=next_thing,
    labour=labour,
    log_words={"wire": "wiring changed", "order": "step of the order of work"},
)
