"""Wire in the registry of stations."""

from brightcircuit.engines.belief import JobTrace
from brightcircuit.jobs.models import Job, StepMark
from brightcircuit.jobs.safety import findings_of
from brightcircuit.jobs.way import plan_of, way_of, words_of
from brightcircuit.stations.registry import OpenItem, Section, Station
from brightcircuit.wire.help import HELP
from brightcircuit.wire.queries import open_steps
from brightcore.describing.join_words import free_ports
from brightcore.procedure.effort import minutes_of
from brightcore.procedure.next_thing import NextThing, connect
from brightcore.wiring.offers import offers_of
from brightcore.wiring.rules.plugs import required_plug


def next_thing(job: Job, found: JobTrace) -> NextThing | None:
    """Work that was begun goes on; plugs that are needed and free come before measuring."""
    way = way_of(job)
    if job.step_marks.filter(undone=False).exists() and way.changes:
        steps = open_steps(job)
        if steps:
            return NextThing(
                "station", "wire", steps[0].title, f"{len(steps)} steps of the work to go."
            )
    if found.entries:
        return None
    codes = {item.finding.code for item in findings_of(job) if not item.waived}
    if required_plug.type.code not in codes:
        return None
    offered = offers_of(plan_of(job)).proposals
    best = max(offered, key=lambda proposal: proposal.certain, default=None)
    return connect(best.words if best else "", best.reason if best else "", len(offered))


def whats_open(job: Job, needed: bool) -> list[OpenItem]:
    """Changes that are planned and not done, and steps with a caution or a torque that nobody has
    ticked."""
    way = way_of(job)
    if not way.changes:
        return []
    steps = open_steps(job)
    open_now = {change.id for change in way.left}
    left = [step for step in steps if step.id in open_now or step.holds_back]
    items = [OpenItem(f"step:{step.id}", "wire", step.title) for step in left]
    named = {step.id for step in steps}
    # A change without a step of its own (a cable, a charger) is done with its plugs, or said to be
    # there.
    for change, words in words_of(way.left, way.stands, way.plan).items():
        if change not in named:
            items.append(OpenItem(f"change:{change}", "wire", f"Not done yet: {words}"))
    return items


def done(job: Job) -> bool:
    """Whether nothing of the plan is left to do; on a bike that nothing changes, whether every plug
    has a mate."""
    if way_of(job).changes:
        return not whats_open(job, True)
    return not free_ports(plan_of(job))


def labour(job: Job) -> list[tuple[str, float]]:
    """Return the usual minutes of the steps that were ticked here."""
    marks = job.step_marks.filter(what=StepMark.What.DONE, undone=False, imported=False)
    return [("Order of work", minutes_of(marks.values_list("step", flat=True)))]


STATION = Station(
    help=HELP,
    key="wire",
    name="Wire",
    shortcut="w",
    done=done,
    open=whats_open,
    sections=(
        Section("Connections", "wire"),
        Section("Pins", "wire-pins"),
        Section("Cable routes", "wire-routes"),
        Section("Cut list", "wire-lists"),
        Section("First power-up", "first-power-up", "Trying every connection,"),
        Section("Order of work", "wire-order", "Working it out,"),
        Section("Sheet", "wire-sheet"),
        Section("Plug cards", "wire-cards"),
        Section("Wire size", "wire-size"),
    ),
    next_thing=next_thing,
    labour=labour,
    log_words={"wire": "wiring changed", "order": "step of the order of work"},
)
