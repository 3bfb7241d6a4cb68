"""Every connection that is made: heat-shrink before, thick before thin where soldered, thin before
thick at lugs."""

from collections.abc import Iterable

from brightcore.bike.model import Join
from brightcore.procedure.first_power_up import PACK
from brightcore.procedure.stands import CONNECT, DISCONNECT
from brightcore.procedure.step import OUT, PLUG, WorkStep
from brightcore.procedure.steps.base import POWER_UP, WHEEL_UP, Steps
from brightcore.procedure.steps.loom import soldered
from brightcore.procedure.steps.opened import before_plugs
from brightcore.procedure.work_case import WorkCase

LIVE = "Every connection still to be made is then made live: a slip takes the controller with it."
DEAD = "A plug connected live can take the controller with it."


def plugs(case: WorkCase) -> Steps:
    """The connections of the first power-up, the pack's last; then the rest, after the pack is out
    again."""
    signals_first = sorted(case.made, key=case.rank)
    needed = {join.id for join in case.needed}
    first = [join for join in signals_first if join.id in needed and case.rank(join) < PACK]
    last = [join for join in signals_first if case.rank(join) == PACK]
    later = [join for join in signals_first if join.id not in needed and case.rank(join) < PACK]
    # Where nothing is tried in between, all of them come before the pack goes in.
    before_pack = first if case.tries else [*first, *later]
    for join in before_pack:
        yield from _connect(case, join, _before(case, join, before_pack), OUT)
    ready = tuple(_id(join) for join in before_pack)
    for join in last:
        yield from _connect(case, join, (*ready, WHEEL_UP), PLUG)
    if case.tries:
        for join in later:
            yield from _connect(case, join, (POWER_UP, *_before(case, join, later)), OUT)


def _id(join: Join) -> str:
    return f"{CONNECT}:{join.id}"


def _connect(case: WorkCase, join: Join, needs: tuple[str, ...], power: str) -> Steps:
    """Yield the steps of one connection."""
    title = case.words(join)
    by_hand = any(port.rewireable for _, port in case.ends(join))
    if by_hand:
        yield WorkStep(
            f"sleeve:{join.id}",
            f"Heat-shrink over each wire: {title}",
            (),
            "The joint has to be cut and made again.",
        )
        needs = (*needs, f"sleeve:{join.id}")
    for part, port in case.ends(join):
        needs = (*needs, *before_plugs(case, part, port.id))
    # A plug holds one connection: the old one comes off before the new one goes on.
    needs = (*needs, *_freed(case, join))
    if any(soldered(port) for _, port in case.ends(join)):
        words, caution = (
            f"Solder or crimp {title}",
            "Never solder or cut live; joints staggered, each one sleeved.",
        )
    else:
        words, caution = f"Connect {title}", "Align, push, never twist."
    yield WorkStep(_id(join), words, needs, LIVE if power == PLUG else DEAD, caution, power)


def _freed(case: WorkCase, join: Join) -> tuple[str, ...]:
    """Return what has to come off both plugs of a connection before it is made."""
    sides = set(join.sides())
    found = []
    for old in case.apart:
        if sides & set(old.sides()):
            found.append(f"{DISCONNECT}:{old.id}")
    return tuple(found)


def _before(case: WorkCase, join: Join, among: Iterable[Join]) -> tuple[str, ...]:
    """Return the connections at the same parts that come before one.

    Plugs: the thinner ones, for there is no room for fingers afterwards. Soldered ends: the thicker
    ones, for they need the most heat and the most room (common practice).
    """
    found = []
    own = {part for part, _ in join.sides()}
    for other in among:
        if other is join or not own & {part for part, _ in other.sides()}:
            continue
        thick_first = _soldered(case, join) and _soldered(case, other)
        one, two = case.rank(other), case.rank(join)
        if (one > two) if thick_first else (one < two and not _soldered(case, other)):
            found.append(_id(other))
    return tuple(found)


def _soldered(case: WorkCase, join: Join) -> bool:
    return any(soldered(port) for _, port in case.ends(join))
