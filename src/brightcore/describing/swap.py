"""Another part in a part's place: another thing, whose connections are all to be made.

What fitted the old part and fits the new one is planned as a connection of the new one; the rest is
told.
"""

from dataclasses import replace

from brightcore.bike import roles
from brightcore.bike.mating import PLAIN, fit_in_hand, one_make
from brightcore.bike.model import Bike, Join, Part, Pin, Port, Spec
from brightcore.describing.edit import Changed, free_name, kept_frame
from brightcore.describing.join_words import join_words
from brightcore.describing.things import ids_of, next_id

Pairs = tuple[tuple[str, str], ...]


def swap_part(
    bike: Bike, part_id: str, kind: str, name: str, spec: Spec, ports: tuple[Port, ...]
) -> Changed:
    """Return the bike with another part in a part's place. Connections that still fit are planned
    anew, others listed.

    The new part has an id of its own and says which one it replaces; its connections have new ids
    too, for they are other connections than those of the part that left. A connection fits where
    the new part has a plug of the same make for the same use: the one of the same id, or one whose
    pins have the roles of the old one. Settings and measured values belong to the part that they
    were made for: the new one has none yet.
    """
    old = bike.part(part_id)
    own = next_id(part_id, ids_of(bike))
    new = Part(own, kind, free_name(bike, name, part_id), spec, ports, replaces=part_id)
    parts = tuple(new if p.id == part_id else p for p in bike.parts)
    settings = tuple(s for s in bike.settings if s.part != part_id)
    used: set[str] = set()
    taken = set(ids_of(bike)) | {own}
    joins: list[Join] = []
    lost: list[str] = []
    for join in bike.joins:
        if part_id not in (join.a_part, join.b_part):
            joins.append(join)
            continue
        fresh = _rejoin(bike, join, old, new, used)
        if fresh is None:
            lost.append(join_words(bike, join))
            continue
        fresh = replace(fresh, id=next_id(join.id, taken))
        taken.add(fresh.id)
        joins.append(fresh)
    rows = []
    for part, place in bike.frame.places:
        rows.append((own if part == part_id else part, place))
    places = tuple(rows)
    made = replace(
        bike,
        parts=parts,
        joins=tuple(joins),
        settings=settings,
        frame=replace(bike.frame, places=places),
        measured=tuple(value for value in bike.measured if value.part != part_id),
        profiles=tuple(item for item in bike.profiles if item[0] != part_id),
    )
    gone = tuple(s.role for s in bike.settings if s.part == part_id)
    return Changed(kept_frame(made), tuple(lost), gone, own)


def _rejoin(bike: Bike, join: Join, old: Part, new: Part, used: set[str]) -> Join | None:
    """Return a join with the new part in the place of the old one, None where it does not fit any
    more."""
    first = join.a_part == old.id
    sides = join.sides() if first else join.sides()[::-1]
    port, other = (bike.part(part).port(name) for part, name in sides)
    if first:
        mates = join.pairs
    else:
        mates = tuple((b, a) for a, b in join.pairs)
    # The plug of the same name comes first; of several that would do, it is the one meant.
    for candidate in sorted(new.ports, key=lambda p: p.id != port.id):
        if candidate.id in used:
            continue
        pairs = _kept_pairs(mates, port, candidate, other)
        if not pairs:
            continue
        used.add(candidate.id)
        if first:
            return replace(join, pairs=pairs, a_part=new.id, a_port=candidate.id)
        turned = tuple((b, a) for a, b in pairs)
        return replace(join, pairs=turned, b_part=new.id, b_port=candidate.id)
    return None


def _kept_pairs(
    mates: tuple[tuple[str, str], ...], old: Port, new: Port, other: Port
) -> tuple[tuple[str, str], ...]:
    """Return the pairs of a new plug with the mate of an old one, () where it is not for the same
    use.

    What was left off stays off. Where the new plug has its pins in another order and goes in as it
    is, position meets position: the rules tell what that does. Of a plug whose make nobody knows,
    another order means another plug.
    """
    if not one_make(old, new) or len(new.pins) != len(old.pins):
        return ()
    by_use: list[tuple[str, str]] = []
    for mine, theirs in mates:
        taken = {name for name, _ in by_use}
        pin = _same_use(old, old.pin(mine), new, other.pin(theirs), taken)
        if pin is None:
            return ()
        by_use.append((pin.name, theirs))
    straight = fit_in_hand(old, other) and all(
        _place(old, mine) == _place(other, theirs) for mine, theirs in mates
    )
    in_order = all(_place(new, mine) == _place(other, theirs) for mine, theirs in by_use)
    if straight and not in_order and new.family in PLAIN:
        return ()
    if straight and fit_in_hand(new, other):
        places = {_place(other, theirs) for _, theirs in mates}
        return tuple(
            (pin.name, other.pins[n].name) for n, pin in enumerate(new.pins) if n in places
        )
    return tuple(by_use)


def _place(port: Port, name: str) -> int:
    """Return where on a plug a pin is, from 0."""
    return port.pins.index(port.pin(name))


def _same_use(old: Port, was: Pin, new: Port, mate: Pin, taken: set[str]) -> Pin | None:
    """Return the pin of a new plug that does what a pin of the old one did, None where there is
    none."""
    free = [pin for pin in new.pins if pin.name not in taken]
    alike = [pin for pin in free if pin.role == was.role]
    named = next((pin for pin in alike if pin.name == was.name), None)
    if was.role == "wire":
        if new.id == old.id:
            return named
        return None
    if named or alike:
        return named or alike[0]
    same_plug = (
        pin
        for pin in free
        if new.id == old.id and mate.role != "wire" and roles.mate(pin.role, mate.role)
    )
    return next(same_plug, None)
