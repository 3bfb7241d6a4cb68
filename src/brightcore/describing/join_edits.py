"""Changes of how a bike is joined: connect, part, pair otherwise, extend."""

from dataclasses import replace

from brightcore.bike.mating import pairs_by_hand
from brightcore.bike.model import UNTOLD_WIRE, Bike, Join, Part, Port, Wire
from brightcore.describing.edit import MOST_NAME, free_id, kept_frame
from brightcore.errors import BikeError, require
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import Cable, CableSpec
from brightcore.kinds.select import as_cable

EXTENSION_MM2 = (0.25, 4.0)
"""Area of an extension for signals and for current, where nothing beside it is described (common
practice)."""


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
