"""Changes to a description.

Every change returns a new bike; what no longer fits is listed, never dropped silently.
"""

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace

from brightcore.bike.mating import pairs_by_hand
from brightcore.bike.model import UNTOLD_WIRE, USUAL, Bike, BikeInfo, Join, Part, Port, Spec, Wire
from brightcore.describing.labels import field_label
from brightcore.describing.measured import label_of, shown_value
from brightcore.describing.specs import show_spec_value, shown_unit
from brightcore.errors import BikeError, require
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Registry
from brightcore.kinds.cable import Cable, CableSpec
from brightcore.kinds.select import as_cable

EXTENSION_MM2 = (0.25, 4.0)
"""Area of an extension for signals and for current, where nothing beside it is described (common
practice)."""

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


def add_join(
    bike: Bike,
    one: str,
    two: str,
    wire: Wire = UNTOLD_WIRE,
    pairs: tuple[tuple[str, str], ...] = (),
) -> Bike:
    """Return the bike with two ports (`part.port`) mated by the given pairs, or as a hand joins
    them.

    Raises BikeError where it does not fit.
    """
    (a, p), (b, q) = (tuple(end.partition(".")[::2]) for end in (one, two))
    if one == two:
        raise BikeError("a plug cannot be connected to itself")
    ports = bike.part(a).port(p), bike.part(b).port(q)
    for part, port in ((a, p), (b, q)):
        if any(bike.joins_of(part, port)):
            raise BikeError(
                f"{bike.part(part).name}, {bike.part(part).port(port).label or port} is "
                "connected already"
            )
    pairs = pairs or pairs_by_hand(*ports)
    for left, right in pairs:
        ports[0].pin(left), ports[1].pin(right)
    taken, n = {j.id for j in bike.joins}, len(bike.joins) + 1
    while f"j{n}" in taken:
        n += 1
    return replace(bike, joins=(*bike.joins, Join(f"j{n}", a, p, b, q, pairs, wire)))


def remove_join(bike: Bike, join_id: str) -> Bike:
    """Return the bike with a join taken apart."""
    gone = bike.join(join_id)
    return kept_frame(replace(bike, joins=tuple(j for j in bike.joins if j is not gone)))


def repin(bike: Bike, join_id: str, one: str, two: str) -> Bike:
    """Return the bike with a pin of the join's first plug brought to another pin of the second;
    what was there changes places.

    Raises UnknownNameError for a pin that is not on the plug.
    """
    join = bike.join(join_id)
    (a, p), (b, q) = join.sides()
    bike.part(a).port(p).pin(one), bike.part(b).port(q).pin(two)
    pairs = dict(join.pairs)
    if pairs.get(one) == two:
        return bike
    old, other = pairs.get(one), next((x for x, y in join.pairs if y == two), None)
    pairs[one] = two
    if other is not None:
        del pairs[other]
        if old is not None:
            pairs[other] = old
    order = [pin.name for pin in bike.part(a).port(p).pins]
    made = replace(join, pairs=tuple(sorted(pairs.items(), key=lambda pair: order.index(pair[0]))))
    return bike.with_join(made)


def set_pairs(bike: Bike, join_id: str, pairs: tuple[tuple[str, str], ...]) -> Bike:
    """Return the bike with a join's pins mated as given.

    Raises BikeError where a pin is used twice, UnknownNameError where there is none.
    """
    join = bike.join(join_id)
    ports = [bike.part(part).port(port) for part, port in join.sides()]
    for side, port in enumerate(ports):
        names = [pair[side] for pair in pairs]
        for name in names:
            if names.count(name) > 1:
                raise BikeError(
                    f"{port.pin(name).label or name} of {port.label or port.id} is mated twice"
                )
            port.pin(name)
    return bike.with_join(replace(join, pairs=pairs))


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


def change_wire(bike: Bike, join_id: str, wire: Wire) -> Bike:
    """Return the bike with another wire in a join."""
    join = bike.join(join_id)
    return bike.with_join(replace(join, wire=wire))


def extend(bike: Bike, join_id: str, length_m: float, what: str = "Extension") -> Bike:
    """Return the bike with an extension cable (or an adapter) in a join: same pins and plugs at
    both ends, the join's wire stays at its side.

    Raises RangeError for an impossible length.
    """
    require("length_m", length_m, 0.05, 10.0, "m")
    join = bike.join(join_id)
    (a, p), (b, q) = ((bike.part(part), bike.part(part).port(port)) for part, port in join.sides())
    turned = {"pins": "sockets", "sockets": "pins"}
    rows = []
    for pin in p.pins:
        if pin.name in dict(join.pairs):
            rows.append(replace(pin, role="wire", label=""))
    pins = tuple(rows)
    mates = dict(join.pairs)
    near = Port(
        "near",
        pins,
        f"{what} near end",
        p.family,
        gender=turned.get(p.gender, ""),
        key=p.key,
        rows=p.rows,
    )
    far = Port(
        "far",
        pins,
        f"{what} far end",
        q.family,
        gender=turned.get(q.gender, ""),
        key=q.key,
        rows=q.rows,
    )
    beside = []
    for part in (a, b):
        if (cable := as_cable(part)) is not None:
            beside.append(cable.spec.area_mm2)
    usual = EXTENSION_MM2[p.family.startswith("power")]
    spec = CableSpec(
        length_m=length_m, area_mm2=max(beside, default=0.0) or join.wire.area_mm2 or usual
    )
    name = f"{what} to {b.name if REGISTRY[a.kind].commutates else a.name}"[:MOST_NAME]
    cable = Part(free_id(bike, name), Cable.name, name, spec, (near, far))
    first = replace(
        join, b_part=cable.id, b_port="near", pairs=tuple((pin.name, pin.name) for pin in pins)
    )
    made = replace(bike.with_join(first), parts=(*bike.parts, cable))
    return add_join(
        made,
        f"{cable.id}.far",
        f"{b.id}.{q.id}",
        pairs=tuple((pin.name, mates[pin.name]) for pin in pins),
    )


def change_info(bike: Bike, info: BikeInfo) -> Bike:
    """Return the bike with other particulars."""
    return replace(bike, info=info)


def free_ports(bike: Bike) -> tuple[tuple[str, str], ...]:
    """Return (part.port, words) of every plug that is joined to nothing."""
    found = []
    for part in bike.parts:
        for port in part.ports:
            if not any(bike.joins_of(part.id, port.id)):
                found.append((f"{part.id}.{port.id}", port_words(part, port)))
    return tuple(found)


def join_words(bike: Bike, join: Join) -> str:
    """Return a join in words."""
    return " with ".join(port_words(bike.part(p), bike.part(p).port(q)) for p, q in join.sides())


def port_words(part: Part, port: Port) -> str:
    """Return a plug in words: its part and its label, without saying the same twice."""
    label = port.label or port.id
    if len(part.ports) == 1 or label.lower() == part.name.lower():
        return part.name
    if label.lower().startswith(part.name.lower()):
        return label
    return f"{part.name}, {label.lower()}"


def compare(old: Bike, new: Bike, registry: Registry) -> tuple[str, ...]:
    """Return every difference of two descriptions as one line each."""
    lines = []
    for f in fields(BikeInfo):
        was, now = getattr(old.info, f.name), getattr(new.info, f.name)
        if was != now:
            unit = shown_unit(f.name)
            lines.append(
                (
                    f"{field_label(f.name, '')}: {show_spec_value(was)} → "
                    f"{show_spec_value(now)} {unit}"
                ).rstrip()
            )
    before, after = {p.id: p for p in old.parts}, {p.id: p for p in new.parts}
    lines += _thing_lines(before, after, registry)
    for i in (i for i in before if i in after):
        lines += _part_lines(before[i], after[i], registry)
    joins = {join.id: join for join in old.joins}
    fresh = {join.id: join for join in new.joins}
    lines += [f"Disconnected: {join_words(old, j)}" for i, j in joins.items() if i not in fresh]
    lines += [f"Connected: {join_words(new, j)}" for i, j in fresh.items() if i not in joins]
    lines += [
        f"Connected otherwise: {join_words(new, j)}"
        for i, j in fresh.items()
        if i in joins and joins[i] != j
    ]
    settings = {(item.part, item.role): item.value for item in old.settings}
    wanted = {(item.part, item.role): item.value for item in new.settings}
    names = {**{p.id: p for p in old.parts}, **after}
    for part_id, role in sorted({*settings, *wanted}):
        was_set, now_set = settings.get((part_id, role)), wanted.get((part_id, role))
        if was_set != now_set:
            label = registry[names[part_id].kind].settings.get(role, role.replace("_", " "))
            lines.append(f"{names[part_id].name}, {label}: {_number(was_set)} → {_number(now_set)}")
    lines += _space_lines(old, new)
    lines += _measured_lines(old, new)
    for k, words, a, b in _frame_rows(old, new):
        if dict(a).get(k) != dict(b).get(k):
            lines.append(f"{words}: {dict(a).get(k, 'usual')} → {dict(b).get(k, 'usual')}")
    if (old.frame.pattern, old.frame.wrapped) != (new.frame.pattern, new.frame.wrapped):
        lines.append(
            f"Frame: {old.frame.pattern or 'guessed'} → "
            f"{new.frame.pattern or 'guessed'}{', wrapped' if new.frame.wrapped else ', tied'}"
        )
    return tuple(lines)


def replaced_words(old: str, new: str) -> str:
    """Return in words that one thing came in the place of another; like for like where both are
    called alike."""
    if old == new:
        return f"{old} replaced, like for like"
    return f"{old} replaced by {new}"


def _number(value: float | None) -> str:
    if value is None:
        return "—"
    return f"{value:.6g}"


def _thing_lines(before: dict[str, Part], after: dict[str, Part], registry: Registry) -> list[str]:
    """Return what came, what went, and what came in whose place."""
    came = [part for name, part in after.items() if name not in before]
    went = [part for name, part in before.items() if name not in after]
    replaced = {part.replaces: part for part in came if part.replaces in before}
    lines = []
    for part in went:
        new = replaced.get(part.id)
        lines.append(replaced_words(part.name, new.name) if new else f"Removed: {part.name}")
    for part in came:
        if part.replaces not in {gone.id for gone in went}:
            lines.append(f"Fitted: {part.name} ({registry[part.kind].title})")
    return lines


Pairs = tuple[tuple[str, float], ...] | tuple[tuple[str, str], ...]


def _measured_lines(old: Bike, new: Bike) -> list[str]:
    """Return what Set measured anew, and what it measured no longer."""
    before = {(value.part, value.name): value for value in old.measured}
    after = {(value.part, value.name): value for value in new.measured}
    lines = []
    for k, v in after.items():
        if before.get(k) != v:
            lines.append(f"Measured: {label_of(v)} {shown_value(v.value, v.unit)}, {v.on}")
    return lines + [
        f"No longer measured: {label_of(v)}" for k, v in before.items() if k not in after
    ]


def _space_lines(old: Bike, new: Bike) -> list[str]:
    """Return what was measured anew, one line a part or room."""
    names = {part.id: part.name for part in (*old.parts, *new.parts)}
    before = {size.part: size for size in old.space.sizes}
    after = {size.part: size for size in new.space.sizes}
    lines = []
    for i in after:
        if before.get(i) != after[i]:
            lines.append(f"Measured: {names.get(i, i)}")
    rooms = {room.id: room for room in old.space.rooms}
    fresh = {room.id: room for room in new.space.rooms}
    for i in fresh:
        if rooms.get(i) != fresh[i]:
            lines.append(f"Room: {fresh[i].name}")
    return lines + [f"Room no more: {rooms[i].name}" for i in rooms if i not in fresh]


def _frame_rows(old: Bike, new: Bike) -> list[tuple[str, str, Pairs, Pairs]]:
    """Return (key, words, old pairs, new pairs) of everything said of the frame."""
    rows: list[tuple[str, str, Pairs, Pairs]] = []
    said: tuple[tuple[str, Pairs, Pairs], ...] = (
        ("Stretch {}, m", old.frame.lengths, new.frame.lengths),
        ("{} sits at", old.frame.places, new.frame.places),
        ("{} is led by", old.frame.via, new.frame.via),
    )
    for words, a, b in said:
        keys = sorted({key for key, _ in (*a, *b)})
        rows += [(key, words.format(key), a, b) for key in keys]
    return rows


def _part_lines(old: Part, new: Part, registry: Registry) -> list[str]:
    if old.kind != new.kind:
        return [
            f"{old.name} ({registry[old.kind].title}) → {new.name} ({registry[new.kind].title})"
        ]
    if old.name == new.name:
        lines = []
    else:
        lines = [f"Name: {old.name} → {new.name}"]
    for f in fields(old.spec):
        a, b = getattr(old.spec, f.name), getattr(new.spec, f.name)
        if a != b:
            label = field_label(f.name, f.metadata.get("label", ""))
            unit = shown_unit(f.name)
            lines.append(
                f"{new.name}, {label}: {show_spec_value(a)} → {show_spec_value(b)} {unit}".rstrip()
            )
    return lines + ([f"{new.name}: plugs changed"] if old.ports != new.ports else [])
