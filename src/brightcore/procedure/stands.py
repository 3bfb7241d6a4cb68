"""The bike as it stands, the bike as it shall be, and the way from one to the other.

A job begins with a description of the bike as it arrived and plans another one. What lies between
them are changes, each with an id of its own: a part is fitted or removed, two plugs are connected
or disconnected. A change that was done moves its part of the plan into *as it stands*; undone, it
moves back. Nothing else does: editing the plan moves nothing on the bike.

What is only known better than before (a value read from a label, a name, the colour of a wire) is
no change of the bike. It holds for both descriptions at once.
"""

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

from brightcore.bike.model import Bike, Join, Part
from brightcore.describing.compare import replaced_words
from brightcore.describing.edit import kept_frame
from brightcore.describing.join_words import port_words
from brightcore.errors import BrightError

FIT, REMOVE, CONNECT, DISCONNECT = "fit", "remove", "connect", "disconnect"
KINDS = (DISCONNECT, REMOVE, FIT, CONNECT)
"""Kinds of change, in the order in which hands make them."""


@dataclass(frozen=True, slots=True)
class Change:
    """One thing to do on a bike: its kind and the id of the part or connection it is about."""

    kind: str
    subject: str

    @property
    def id(self) -> str:
        """The id of the change, which is also the id of its step in the order of work."""
        return f"{self.kind}:{self.subject}"


@dataclass(frozen=True, slots=True)
class Done:
    """A change that was done, with what it brought as that was described then.

    `parts`: the part that was fitted or removed, or both parts of a connection; `join`: the
    connection that was made or taken apart.
    """

    change: str
    parts: tuple[Part, ...] = ()
    join: Join | None = None


def read_change(text: str) -> Change | None:
    """Return the change of an id such as `connect:j7`, None for the id of anything else."""
    kind, _, subject = text.partition(":")
    if kind in KINDS and subject:
        return Change(kind, subject)
    return None


def bare(bike: Bike) -> Bike:
    """Return a bike of which nothing electrical is fitted yet."""
    return replace(bike, parts=(), joins=(), settings=(), measured=(), profiles=())


def mates(join: Join) -> frozenset[tuple[str, str]]:
    """Return which pin meets which, whichever side is named first: what makes a connection the same
    one."""
    (a, p), (b, q) = join.sides()
    pairs = []
    for one, two in join.pairs:
        # Both pins by their full names, sorted: a connection is the same one whichever side a file
        # names first. The plugs stand in it as well, so that one without pairs is still a
        # connection.
        pairs.append(tuple(sorted((f"{a}.{p}.{one}", f"{b}.{q}.{two}"))))
    return frozenset((one, two) for one, two in pairs) | {(f"{a}.{p}", ""), (f"{b}.{q}", "")}


def changes_to(now: Bike, plan: Bike) -> tuple[Change, ...]:
    """Return what leads from one description to another, in the order in which hands do it."""
    old, new = {part.id: part for part in now.parts}, {part.id: part for part in plan.parts}
    # The same id with another kind is another thing: files written before parts had an identity may
    # say so.
    kept = set()
    for name, part in old.items():
        if name in new and new[name].kind == part.kind:
            kept.add(name)
    made = {mates(join) for join in now.joins}
    wanted = {mates(join) for join in plan.joins}
    found = []
    for join in now.joins:
        if mates(join) not in wanted:
            found.append(Change(DISCONNECT, join.id))
    found += [Change(REMOVE, name) for name in old if name not in kept]
    found += [Change(FIT, name) for name in new if name not in kept]
    for join in plan.joins:
        if mates(join) not in made:
            found.append(Change(CONNECT, join.id))
    return tuple(found)


def done_of(change: Change, now: Bike, plan: Bike) -> Done:
    """Return a change as it is kept once it is done: with what it brings, as the plan describes it,
    or with what it takes away, as that stands now.

    Raises UnknownNameError where neither has it.
    """
    bike = plan if change.kind in (FIT, CONNECT) else now
    if change.kind in (FIT, REMOVE):
        return Done(change.id, (bike.part(change.subject),))
    join = bike.join(change.subject)
    # A cable may be joined to itself, as a bridge: it is then one part.
    rows = []
    for name in dict.fromkeys((join.a_part, join.b_part)):
        rows.append(bike.part(name))
    parts = tuple(rows)
    return Done(change.id, parts, join)


def change_words(item: Done, bike: Bike) -> str:
    """Return a change done in words: `Connected …`, `Rear motor replaced by Front motor`.

    `bike`: the one as it stood, which has the part that was replaced.
    """
    change = read_change(item.change)
    if change is None or not item.parts:
        return item.change
    if item.join is not None:
        ends = {part.id: part for part in item.parts}
        words = " with ".join(
            port_words(ends[part], ends[part].port(port)) for part, port in item.join.sides()
        )
        return f"{'Connected' if change.kind == CONNECT else 'Disconnected'}: {words}"
    part = item.parts[0]
    if change.kind == REMOVE:
        return f"Removed: {part.name}"
    old = next((other for other in bike.parts if other.id == part.replaces), None)
    if old is None:
        return f"Fitted: {part.name}"
    return replaced_words(old.name, part.name)


def touched_by(item: Done) -> tuple[frozenset[str], frozenset[str]]:
    """Return (parts, plugs as `part.port`) that a change has touched."""
    if item.join is not None:
        return frozenset(), frozenset(".".join(side) for side in item.join.sides())
    return frozenset(part.id for part in item.parts), frozenset()


@lru_cache(maxsize=256)
def stands(arrival: Bike, done: tuple[Done, ...], plan: Bike) -> Bike:
    """Return the bike as it stands: as it arrived, with the changes done one after the other.

    A connection brings the parts that it joins, so that a part lying loosely beside the frame for
    the first power-up stands there. Descriptions come from the plan where it has the thing: they
    are what is known of it now. Facts that belong to a part (settings, measured values, places)
    stand with it.
    """
    parts = {part.id: part for part in arrival.parts}
    joins = {join.id: join for join in arrival.joins}
    for item in done:
        change = read_change(item.change)
        if change is None:
            continue
        if change.kind in (FIT, CONNECT):
            for part in item.parts:
                parts.setdefault(part.id, part)
        if change.kind == CONNECT and item.join is not None:
            _connect(joins, item.join)
        elif change.kind == DISCONNECT:
            joins.pop(change.subject, None)
        elif change.kind == REMOVE:
            parts.pop(change.subject, None)
            joins = {k: j for k, j in joins.items() if change.subject not in (j.a_part, j.b_part)}
    return _described(arrival, parts, joins, plan)


def _connect(joins: dict[str, Join], made: Join) -> None:
    """Put a connection among others; a plug holds one connection, so that an older one at it is
    apart."""
    sides = set(made.sides())
    for name, join in list(joins.items()):
        if sides & set(join.sides()):
            del joins[name]
    joins[made.id] = made


def _described(arrival: Bike, parts: dict[str, Part], joins: dict[str, Join], plan: Bike) -> Bike:
    """Return the bike of some parts and connections, each as the plan describes it where that has
    it."""
    planned = {part.id: part for part in plan.parts}
    now: dict[str, Part] = {}
    for name, part in parts.items():
        other = planned.get(name)
        # The plan's description is what is known now; a label read at the bench holds for the bike
        # as it stands too. Another kind under the same id is another thing and stays as it was.
        now[name] = other if other is not None and other.kind == part.kind else part
    same = {mates(join): join for join in plan.joins}
    kept: list[Join] = []
    for join in joins.values():
        if mates(join) in same:
            wire = same[mates(join)].wire
        else:
            wire = join.wire
        ends = _fitting_ends(join, now, parts)
        now |= ends
        kept.append(replace(join, wire=wire))
    place = {key: n for n, key in enumerate(same)}
    kept.sort(key=lambda join: place.get(mates(join), len(place)))
    ordered = _in_order(now, plan, arrival)
    there = set(now)
    whole = replace(
        plan,
        parts=tuple(ordered),
        joins=tuple(kept),
        settings=tuple(s for s in plan.settings if s.part in there),
        measured=tuple(v for v in plan.measured if v.part in there or not v.part),
        profiles=tuple(item for item in plan.profiles if item[0] in there),
    )
    return kept_frame(whole)


def _fitting_ends(join: Join, now: dict[str, Part], before: dict[str, Part]) -> dict[str, Part]:
    """Return the ends of a connection as they were, where the plan describes them without the pins
    it joins."""
    found = {}
    for (name, port), side in zip(join.sides(), (0, 1), strict=True):
        try:
            own = now[name].port(port)
            for pair in join.pairs:
                own.pin(pair[side])
        except BrightError:
            found[name] = before[name]
    return found


def _in_order(now: dict[str, Part], plan: Bike, arrival: Bike) -> list[Part]:
    """Return parts in the order of the plan, those that it has no more behind them in the order of
    arrival.

    Drawings and lists then look alike before and after a change is done.
    """
    order = [part.id for part in plan.parts]
    order += [part.id for part in arrival.parts if part.id not in set(order)]
    order += [name for name in now if name not in set(order)]
    return [now[name] for name in order if name in now]


def done_ids(done: Iterable[Done]) -> frozenset[str]:
    """Return the ids of changes."""
    return frozenset(item.change for item in done)


def shape_of(bike: Bike, settings: bool = False) -> str:
    """Return a hash of what is on a bike and how it is connected; with `settings` also of what it
    is set to.

    What is only known better (a label that was read, a name) leaves it as it is.
    """
    parts = sorted((part.id, part.kind) for part in bike.parts)
    joins = sorted(sorted(mates(join)) for join in bike.joins)
    if settings:
        told = sorted((s.part, s.role, s.value) for s in bike.settings)
    else:
        told = []
    return hashlib.sha256(repr((parts, joins, told)).encode()).hexdigest()
