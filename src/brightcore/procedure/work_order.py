"""The order of work: the way from the bike as it arrived to the bike as it shall be.

It is derived from the difference of two descriptions: what comes off, what goes on, every plug of a
new part, what is set, routed, glued and proven, and the pack's moves between. Gates and order are
common practice (no published source). Where the first power-up cannot run in the circuit there is
no order beyond it: what is mounted over a mistake comes off again.
"""

from dataclasses import dataclass, replace

from brightcore.bike.model import Bike
from brightcore.procedure.first_power_up import FirstPowerUp, find_first_power_up
from brightcore.procedure.pack_moves import with_pack_moves
from brightcore.procedure.stands import CONNECT, DISCONNECT, REMOVE, bare, changes_to, read_change
from brightcore.procedure.step import WorkStep, in_order
from brightcore.procedure.steps import FAMILIES
from brightcore.procedure.steps.base import POWER_UP
from brightcore.procedure.work_case import WorkCase
from brightcore.wiring.tryout import Hindrance, hindrances


@dataclass(frozen=True, slots=True)
class Order:
    """The steps of a job, and why there are none beyond the last: what keeps the first power-up
    from running."""

    steps: tuple[WorkStep, ...]
    hindered: tuple[Hindrance, ...] = ()


NOTHING = Order(())
"""The order of a job that changes nothing."""


def order_of_work(case: WorkCase) -> Order:
    """Return the steps of a job, each after all that it needs; the same every time."""
    if not case.changes and not case.opens:
        return NOTHING
    steps = []
    for family in FAMILIES:
        for step in family(case):
            steps.append(step)
    steps = _used(steps)
    ordered = in_order(steps)
    hindered: tuple[Hindrance, ...] = ()
    if case.tries and not case.light.scene:
        hindered = hindrances(case.plan)
        ordered = _before_power_up(ordered)
    moved = with_pack_moves(ordered, case.begins_in)
    ids = {step.id for step in moved}
    return Order(tuple(_without_unknown(step, ids) for step in moved), hindered)


def whole_order(bike: Bike) -> Order:
    """Return the order of building a whole bike from nothing."""
    return order_of_work(WorkCase(bare(bike), bare(bike), bike, find_first_power_up(bike)))


def way_order(start: Bike, stands: Bike, plan: Bike, opens: frozenset[str] = frozenset()) -> Order:
    """Return the order of work from one description of a bike to another.

    The circuit is asked for the first power-up only where there is one.
    """
    light = FirstPowerUp("", (), (), (), ())
    # Whether anything is tried at all follows from the changes; the circuit, which takes seconds on
    # a large bike, is asked only then.
    case = WorkCase(start, stands, plan, light, opens)
    if case.tries:
        case = WorkCase(start, stands, plan, find_first_power_up(plan), opens)
    return order_of_work(case)


def sketched_order(
    start: Bike, stands: Bike, plan: Bike, opens: frozenset[str] = frozenset()
) -> Order:
    """Return the steps of a way without trying its circuit: all connections as if the first
    power-up needed them.

    It names the same steps; only what comes before the first power-up and what after it may differ.
    """
    assumed = FirstPowerUp("assumed", tuple(join.id for join in plan.joins), (), (), ())
    return order_of_work(WorkCase(start, stands, plan, assumed, opens))


def _used(steps: list[WorkStep]) -> list[WorkStep]:
    """Return the steps without "wheel up", where nothing is tried with the pack in."""
    tried = any(step.powered for step in steps)
    return [step for step in steps if tried or step.id != "wheel-up"]


def _before_power_up(steps: tuple[WorkStep, ...]) -> tuple[WorkStep, ...]:
    """Return the steps that do not need the first power-up, and nothing with the pack in."""
    left: set[str] = set()
    for step in steps:
        # Steps stand in an order that keeps every need, so one pass finds all that hang on a step
        # that is left out.
        if step.id == POWER_UP or step.powered or left & set(step.needs):
            left.add(step.id)
    return tuple(step for step in steps if step.id not in left)


def _without_unknown(step: WorkStep, ids: set[str]) -> WorkStep:
    return replace(step, needs=tuple(need for need in step.needs if need in ids))


def satisfied(order: Order, stands: Bike, plan: Bike, start: Bike) -> frozenset[str]:
    """Return the steps whose change the bike as it stands already shows.

    A connection made or taken apart, a part taken off: that is seen on the bike. That a part is
    mounted is not; it stands there as soon as one of its plugs is in, so its step is done when
    somebody says so.
    """
    open_now = {change.id for change in changes_to(stands, plan)}
    went = {change.id for change in changes_to(start, stands)}
    found = set()
    for step in order.steps:
        change = read_change(step.id)
        if change is None or change.kind not in (CONNECT, DISCONNECT, REMOVE):
            continue
        # Taken apart and gone is seen on the bike. That a connection is there is no proof that this
        # job made it, unless it was missing when the bike came in.
        if step.id not in open_now and (step.id in went or change.kind != CONNECT):
            found.add(step.id)
    return frozenset(found)
