"""What the order of work is made from: what comes off, what goes on, and the bike before and
after."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.bike.model import Bike, Join, Part, Port
from brightcore.describing.join_words import port_words
from brightcore.kinds import REGISTRY
from brightcore.kinds.charging import ChargerSpec
from brightcore.kinds.select import is_cable, is_pedalled
from brightcore.procedure.changes import drives
from brightcore.procedure.first_power_up import PACK, FirstPowerUp, join_rank
from brightcore.procedure.stands import CONNECT, DISCONNECT, FIT, REMOVE, Change, changes_to

SOLDERED = "bare"
"""Make of an end that has no plug: its wires are soldered or crimped."""


@dataclass(frozen=True)
class WorkCase:
    """A job as the order of work sees it.

    `start`: the bike as it arrived; `stands`: as it is now; `plan`: as it shall be. `light`: the
    first power-up of the plan. `opens`: ids of the parts that this job opens.
    """

    start: Bike
    stands: Bike
    plan: Bike
    light: FirstPowerUp
    opens: frozenset[str] = frozenset()

    @cached_property
    def changes(self) -> tuple[Change, ...]:
        """What the whole job changes: the way from arrival to plan, with what was done beside
        it."""
        found = dict.fromkeys(changes_to(self.start, self.plan))
        # A change that was done and is not planned any more still has its step, and its way back
        # has one too.
        found |= dict.fromkeys(changes_to(self.start, self.stands))
        found |= dict.fromkeys(changes_to(self.stands, self.plan))
        return tuple(found)

    def _subjects(self, kind: str) -> set[str]:
        found: set[str] = set()
        for change in self.changes:
            if change.kind == kind:
                found.add(change.subject)
        return found

    @cached_property
    def fitted(self) -> tuple[Part, ...]:
        """The parts that come onto the bike."""
        return _first_of(self._subjects(FIT), (*self.plan.parts, *self.stands.parts))

    @cached_property
    def removed(self) -> tuple[Part, ...]:
        """The parts that leave the bike."""
        return _first_of(self._subjects(REMOVE), (*self.start.parts, *self.stands.parts))

    @cached_property
    def made(self) -> tuple[Join, ...]:
        """The connections that are made; a charger is plugged in when it charges, not when a bike
        is built."""
        found = _first_of(self._subjects(CONNECT), (*self.plan.joins, *self.stands.joins))
        return tuple(join for join in found if not self._charges(join))

    @cached_property
    def apart(self) -> tuple[Join, ...]:
        """The connections that are taken apart."""
        return _first_of(self._subjects(DISCONNECT), (*self.start.joins, *self.stands.joins))

    def _charges(self, join: Join) -> bool:
        return any(isinstance(part.spec, ChargerSpec) for part, _ in self.ends(join))

    def ends(self, join: Join) -> tuple[tuple[Part, Port], tuple[Part, Port]]:
        """Return both plugs of a connection with the parts they belong to."""
        found = []
        for part_id, port_id in join.sides():
            part = self._by_id[part_id]
            found.append((part, part.port(port_id)))
        return found[0], found[1]

    @cached_property
    def _by_id(self) -> dict[str, Part]:
        """Every part by its id: as planned, else as it stands or stood."""
        found: dict[str, Part] = {}
        for bike in (self.plan, self.stands, self.start):
            for part in bike.parts:
                found.setdefault(part.id, part)
        return found

    def words(self, join: Join) -> str:
        """Return a connection in words."""
        return " with ".join(port_words(part, port) for part, port in self.ends(join))

    @cached_property
    def _ranks(self) -> dict[Join, int]:
        """When each connection is made, from the first description that has both its parts."""
        found: dict[Join, int] = {}
        for bike in (self.plan, self.stands, self.start):
            there = {part.id for part in bike.parts}
            for join in (*self.made, *self.apart):
                if join not in found and {join.a_part, join.b_part} <= there:
                    found[join] = join_rank(bike, join)
        return found

    def rank(self, join: Join) -> int:
        """Return when a connection is made: signals first, the pack last (see `join_rank`)."""
        return self._ranks.get(join, 0)

    def plugs_of(self, part: Part) -> tuple[str, ...]:
        """Return the steps that make the connections of a part."""
        found = []
        for join in self.made:
            if part.id in (join.a_part, join.b_part):
                found.append(f"{CONNECT}:{join.id}")
        return tuple(found)

    def pulled(self, part: Part) -> tuple[str, ...]:
        """Return the steps that take the connections of a part apart."""
        found = []
        for join in self.apart:
            if part.id in (join.a_part, join.b_part):
                found.append(f"{DISCONNECT}:{join.id}")
        return tuple(found)

    @cached_property
    def tries(self) -> bool:
        """Whether this job has a first power-up: something that drives the motor is fitted or
        connected anew."""
        if not self.plan_turns:
            return False
        # A new cable alone tries nothing: the connections at its ends say whether it drives.
        if any(drives(part) and not is_cable(part) for part in self.fitted):
            return True
        return any(self._is_of_drive(join) for join in self.made)

    @property
    def plan_turns(self) -> bool:
        """Whether the plan has something that could turn at all."""
        return any(REGISTRY[part.kind].place == "motor" for part in self.plan.parts)

    def _is_of_drive(self, join: Join) -> bool:
        return all(drives(part) for part, _ in self.ends(join))

    @property
    def begins_in(self) -> bool:
        """Whether a pack is connected when the work begins."""
        return any(join_rank(self.start, join) == PACK for join in self.start.joins)

    @cached_property
    def needed(self) -> tuple[Join, ...]:
        """The connections made before the first power-up: what has to be there for the motor to
        turn.

        Where it cannot run at all, nobody can tell which could be left off: all of them.
        """
        if not self.light.scene:
            return self.made
        wanted = set(self.light.needed)
        return tuple(join for join in self.made if join.id in wanted)

    @property
    def pedalled(self) -> bool:
        """Whether the bike has pedals, and so a freewheel and gears to think of."""
        return is_pedalled(self.plan) and self.plan.info.pedals != "hand"

    @cached_property
    def circuit(self) -> Analysis:
        """The plan looked at as one circuit."""
        return analysis_of(self.plan)


Thing = TypeVar("Thing", Part, Join)


def _first_of(ids: set[str], things: Iterable[Thing]) -> tuple[Thing, ...]:
    """Return the things of some ids, each as the first description has it that has it at all."""
    found: dict[str, Thing] = {}
    for thing in things:
        if thing.id in ids:
            found.setdefault(thing.id, thing)
    return tuple(found.values())
