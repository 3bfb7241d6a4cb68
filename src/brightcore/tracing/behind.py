"""What hangs behind one plug of a bike, away from pack, controller and motor.

A front end on its main cable, a display with its lead: a shop that has two equal bikes parts both
at that plug and lends the whole of it, long before single parts are taken off. Only a plug that is
the one way to what is behind it parts a bike so.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join, Port
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import CableSpec
from brightcore.kinds.motor import MotorSpec

LEAST_PARTS = 2
"""One part alone is swapped in as a known-good part."""


@dataclass(frozen=True, slots=True)
class Behind:
    """What is behind a plug: `parts` and the `joins` between them by id, away from `join`.

    `at`: part and port of the plug's side that stays on the bike, `end`: of the side that goes.
    """

    join: str
    at: tuple[str, str]
    end: tuple[str, str]
    parts: frozenset[str]
    joins: frozenset[str]

    @property
    def owners(self) -> frozenset[str]:
        """Parts and connections of which a repair may be, without the plug itself."""
        return self.parts | self.joins

    def port(self, bike: Bike) -> Port:
        """Return the plug of the side that goes."""
        return bike.part(self.end[0]).port(self.end[1])


def all_behind(bike: Bike) -> tuple[Behind, ...]:
    """Return what can be lent behind one plug, the most parts first."""
    found = []
    for join in bike.joins:
        found += list(_of_join(bike, join))
    return tuple(sorted(found, key=lambda one: (-len(one.parts), one.join)))


def behind_join(bike: Bike, join: str) -> Behind | None:
    """Return what can be lent behind a plug, None where that plug does not part the bike so."""
    return next((one for one in all_behind(bike) if one.join == join), None)


def words_behind(bike: Bike, behind: Behind) -> str:
    """Return the parts behind a plug in words, without the cables between them."""
    named = []
    for part in bike.parts:
        if part.id in behind.parts and not isinstance(part.spec, CableSpec):
            named.append(part.name.lower())
    if len(named) < LEAST_PARTS:
        return "".join(named)
    return f"{', '.join(named[:-1])} and {named[-1]}"


def _of_join(bike: Bike, join: Join) -> Iterator[Behind]:
    for at, end in (join.sides(), join.sides()[::-1]):
        parts, joins = _reached(bike, end[0], join.id)
        if at[0] in parts or len(parts) < LEAST_PARTS:
            continue
        if not any(_stays(bike, part) for part in parts):
            yield Behind(join.id, at, end, parts, joins)


def _stays(bike: Bike, part: str) -> bool:
    """Return whether a part is what the rest is lent to: a pack or what feeds like one, a
    controller, a motor (for the motor there are the halves)."""
    here = bike.part(part)
    kind = REGISTRY[here.kind]
    return kind.grounds or kind.commutates or isinstance(here.spec, MotorSpec)


def _reached(bike: Bike, start: str, without: str) -> tuple[frozenset[str], frozenset[str]]:
    """Return the parts and joins that are reached from a part without one join."""
    parts, joins, queue = {start}, set(), [start]
    while queue:
        here = queue.pop()
        for join in bike.joins_of(here):
            if join.id == without:
                continue
            joins.add(join.id)
            other = join.b_part if join.a_part == here else join.a_part
            if other not in parts:
                parts.add(other)
                queue.append(other)
    return frozenset(parts), frozenset(joins)
