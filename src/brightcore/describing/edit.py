"""Changes to a description.

Every change returns a new bike; what no longer fits is listed, never dropped silently.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from brightcore.bike.model import USUAL, Bike, BikeInfo, Part, Port, Spec
from brightcore.describing.join_words import join_words
from brightcore.errors import BikeError
from brightcore.kinds import REGISTRY

MOST_NAME, MOST_MARK = 120, 80
"""Characters of a part's name, and of its mark."""


@dataclass(frozen=True, slots=True)
class Changed:
    """A changed bike, words for every join that no longer fits and was taken apart, the roles of
    settings that the new part does not have yet, and its id ("" where nothing new came)."""

    bike: Bike
    lost: tuple[str, ...] = ()
    unset: tuple[str, ...] = ()
    made: str = ""


def free_id(bike: Bike, wanted: str) -> str:
    """Return an id like `wanted` that no part of the bike has."""
    base = (
        "".join(
            c if c.isascii() and (c.isalnum() or c == "_") else "_" for c in wanted.lower()
        ).strip("_")[:30]
        or "part"
    )
    taken, n, name = {p.id for p in bike.parts}, 2, base
    while name in taken:
        name, n = f"{base}_{n}", n + 1
    return name


def free_name(bike: Bike, wanted: str, part_id: str = "") -> str:
    """Return a name like `wanted` that no other part of the bike has: two of one name are numbered
    apart."""
    taken = {p.name.lower() for p in bike.parts if p.id != part_id}
    name, n = wanted, 2
    while name.lower() in taken:
        name, n = f"{wanted[: MOST_NAME - 4]} {n}", n + 1
    return name


def numbered_apart(bike: Bike) -> Bike:
    """Return the bike with every part of a name that another has before it numbered."""
    made = replace(bike, parts=())
    for part in bike.parts:
        made = replace(made, parts=(*made.parts, replace(part, name=free_name(made, part.name))))
    if made.parts != bike.parts:
        return replace(bike, parts=made.parts)
    return bike


def add_part(bike: Bike, kind: str, name: str, spec: Spec, ports: tuple[Port, ...]) -> Bike:
    """Return the bike with one more part, joined to nothing, under a name that no other has."""
    name = free_name(bike, name)
    return replace(bike, parts=(*bike.parts, Part(free_id(bike, name), kind, name, spec, ports)))


def remove_part(bike: Bike, part_id: str) -> Changed:
    """Return the bike without a part and its joins. Raises BikeError for the last pack or
    controller."""
    part = bike.part(part_id)
    if REGISTRY[part.kind].needed and len(bike.of_kind(part.kind)) == 1:
        raise BikeError(f"a bike needs a {part.kind}: swap {part.name} for another instead")
    gone = [j for j in bike.joins if part_id in (j.a_part, j.b_part)]
    kept = tuple(j for j in bike.joins if j not in gone)
    parts = tuple(p for p in bike.parts if p.id != part_id)
    bare = replace(
        bike,
        parts=parts,
        joins=kept,
        settings=tuple(s for s in bike.settings if s.part != part_id),
        measured=tuple(value for value in bike.measured if value.part != part_id),
        profiles=tuple(item for item in bike.profiles if item[0] != part_id),
    )
    return Changed(kept_frame(bare), tuple(join_words(bike, j) for j in gone))


def kept_frame(bike: Bike) -> Bike:
    """Return the bike without places, sizes of parts and ways of runs that it has no more."""
    parts = {p.id for p in bike.parts}
    plugs: set[str] = set()
    for join in bike.joins:
        plugs |= {".".join(side) for side in join.sides()}
    places = tuple(item for item in bike.frame.places if item[0] in parts)
    rows = []
    for item in bike.frame.via:
        if set(item[0].split("|")) <= plugs:
            rows.append(item)
    via = tuple(rows)
    sizes = tuple(size for size in bike.space.sizes if size.part in parts)
    rooms = []
    for room in bike.space.rooms:
        rooms.append(replace(room, parts=tuple(part for part in room.parts if part in parts)))
    return replace(
        bike,
        frame=replace(bike.frame, places=places, via=via),
        space=replace(bike.space, sizes=sizes, rooms=tuple(rooms)),
    )


def change_part(bike: Bike, part_id: str, name: str, spec: Spec) -> Bike:
    """Return the bike with another name and spec of a part; its ports and joins stay."""
    # `replace` keeps what makes it this thing: its mark, what it replaces, where its values come
    # from.
    part = replace(bike.part(part_id), name=free_name(bike, name, part_id), spec=spec)
    return bike.with_part(part)


def known_as(bike: Bike, part_id: str, known: Mapping[str, str]) -> Bike:
    """Return the bike with where values of a part come from (field, a key of WHENCE); usual ones
    are not named."""
    old = bike.part(part_id)
    said = {name: whence for name, whence in known.items() if whence != USUAL}
    part = replace(old, known=tuple(sorted(said.items())))
    return bike.with_part(part)


def marked(bike: Bike, part_id: str, mark: str) -> Bike:
    """Return the bike with the serial number or the shop's mark of a part."""
    part = replace(bike.part(part_id), mark=mark.strip()[:MOST_MARK])
    return bike.with_part(part)


def with_port(bike: Bike, part_id: str, made: Port) -> Bike:
    """Return the bike with a plug in the place of the one of the same id."""
    part = bike.part(part_id)
    part = replace(part, ports=tuple(made if q.id == made.id else q for q in part.ports))
    return bike.with_part(part)


def look_at(
    bike: Bike,
    part_id: str,
    port_id: str,
    gender: str,
    key: str,
    rows: int,
    family: str,
    colours: dict[str, str],
) -> Bike:
    """Return the bike with what was seen of a plug: gender, key, rows of pins, make, and colours of
    its wires by pin."""
    port = bike.part(part_id).port(port_id)
    kept = []
    for pin in port.pins:
        kept.append(replace(pin, colour=colours.get(pin.name, pin.colour)))
    pins = tuple(kept)
    return with_port(
        bike, part_id, replace(port, pins=pins, gender=gender, key=key, rows=rows, family=family)
    )


def order_pins(bike: Bike, part_id: str, port_id: str, names: tuple[str, ...]) -> Bike:
    """Return the bike with a plug's pins in another order, first to last.

    Raises BikeError unless every pin is named once.
    """
    port = bike.part(part_id).port(port_id)
    if sorted(names) != sorted(pin.name for pin in port.pins):
        raise BikeError("every pin of the plug must be named once")
    return with_port(bike, part_id, replace(port, pins=tuple(port.pin(n) for n in names)))


def change_info(bike: Bike, info: BikeInfo) -> Bike:
    """Return the bike with other particulars."""
    return replace(bike, info=info)
