"""Identity of parts and connections: a part that is exchanged is another thing, with an id of its
own.

Readings, settings, measured values, proofs and steps name the ids of what they were about. An id is
never given to a second thing of the same bike, so that none of it can slip from the old part to the
new one.
"""

import re
from collections.abc import Collection, Mapping
from dataclasses import replace

from brightcore.bike.model import Bike, Frame, Join, Part
from brightcore.bike.space import Space

_NUMBERED = re.compile(r"^(.*?)_?(\d+)$")


def ids_of(bike: Bike) -> frozenset[str]:
    """Return the ids of all parts and connections of a bike."""
    return frozenset(part.id for part in bike.parts) | frozenset(join.id for join in bike.joins)


def next_id(wanted: str, taken: Collection[str]) -> str:
    """Return an id like `wanted` that is not taken: the next number behind the same stem.

    >>> next_id("motor", {"motor"}), next_id("motor_2", {"motor", "motor_2"}), next_id("lamp", ())
    ('motor_2', 'motor_3', 'lamp')
    """
    if wanted not in taken:
        return wanted
    numbered = _NUMBERED.match(wanted)
    stem, number = (numbered[1], int(numbered[2])) if numbered else (wanted, 1)
    between = "" if re.fullmatch(r"j\d+", wanted) else "_"
    while True:
        number += 1
        made = f"{stem}{between}{number}"
        if made not in taken:
            return made


def with_fresh_ids(before: Bike, after: Bike, used: Collection[str]) -> Bike:
    """Return a changed bike in which whatever is new bears an id that the bike has never used.

    `before`: the description that was changed; `used`: all ids that were ever given on this bike.
    """
    known = ids_of(before)
    clash = [name for name in sorted(ids_of(after) - known) if name in used]
    if not clash:
        return after
    taken = set(used) | known | ids_of(after)
    names: dict[str, str] = {}
    for name in clash:
        names[name] = next_id(name, taken)
        taken.add(names[name])
    return renamed(after, names)


def under_old_ids(before: Bike, after: Bike) -> Bike:
    """Return a changed bike under the ids of the old one, wherever something came in the place of
    something.

    Only to compare what rules find on both: a finding of the old controller and the same one of the
    new controller are then at one place.
    """
    old = {part.id for part in before.parts}
    names = {}
    for part in after.parts:
        if part.replaces in old and part.id not in old:
            names[part.id] = part.replaces
    ends = {_ends(join, {}): join.id for join in before.joins}
    known = {join.id for join in before.joins}
    for join in after.joins:
        same = ends.get(_ends(join, names))
        if join.id not in known and same is not None:
            names[join.id] = same
    if names:
        return renamed(after, names)
    return after


def _ends(join: Join, names: Mapping[str, str]) -> frozenset[tuple[str, str]]:
    """Return both plugs of a connection, under other ids of their parts where there are some."""
    found = []
    for part, port in join.sides():
        found.append((names.get(part, part), port))
    return frozenset(found)


def renamed(bike: Bike, names: Mapping[str, str]) -> Bike:
    """Return a bike with other ids of parts and connections, everywhere they stand in its
    description."""

    def new(name: str) -> str:
        return names.get(name, name)

    joins = []
    for join in bike.joins:
        joins.append(
            replace(join, id=new(join.id), a_part=new(join.a_part), b_part=new(join.b_part))
        )
    parts: list[Part] = []
    for part in bike.parts:
        parts.append(replace(part, id=new(part.id), replaces=new(part.replaces)))
    return replace(
        bike,
        parts=tuple(parts),
        joins=tuple(joins),
        settings=tuple(replace(setting, part=new(setting.part)) for setting in bike.settings),
        frame=_renamed_frame(bike.frame, names),
        space=_renamed_space(bike.space, names),
        measured=tuple(replace(value, part=new(value.part)) for value in bike.measured),
        profiles=tuple((new(part), profile) for part, profile in bike.profiles),
    )


def _renamed_frame(frame: Frame, names: Mapping[str, str]) -> Frame:
    places = tuple((names.get(part, part), place) for part, place in frame.places)
    via = []
    for run, place in frame.via:
        ends = []
        for end in run.split("|"):
            part, dot, port = end.partition(".")
            ends.append(f"{names.get(part, part)}{dot}{port}")
        via.append(("|".join(ends), place))
    return replace(frame, places=places, via=tuple(via))


def _renamed_space(space: Space, names: Mapping[str, str]) -> Space:
    rows = []
    for size in space.sizes:
        rows.append(replace(size, part=names.get(size.part, size.part)))
    sizes = tuple(rows)
    rooms = []
    for room in space.rooms:
        rooms.append(replace(room, parts=tuple(names.get(part, part) for part in room.parts)))
    return replace(space, sizes=sizes, rooms=tuple(rooms))
