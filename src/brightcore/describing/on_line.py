"""What was found on a line and is not described: into the description, and joined as a hand would
find it.

It stands in a plug of that line that nothing is joined to, or on a splice in front of the plug that
is taken.
"""

from collections.abc import Iterator
from dataclasses import replace

from brightcore.bike.mating import propose_pairs
from brightcore.bike.model import UNTOLD_WIRE, Bike, Join, Part, Pin, Port, Spec
from brightcore.circuit.nets import Nets
from brightcore.circuit.undescribed import line_of, pins_of_role
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import add_join
from brightcore.describing.join_words import free_ports, port_words
from brightcore.errors import BrightError
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import SPLICE_M, CableSpec


def kinds_on(repair_id: str) -> tuple[str, ...]:
    """Return the kinds of part that are usually found on the line of a repair `describe:…`."""
    _, role = line_of(repair_id)
    return tuple(kind.name for kind in REGISTRY if role in kind.found_on)


def put_on_line(
    bike: Bike, repair_id: str, kind: str, name: str, spec: Spec, ports: tuple[Port, ...]
) -> tuple[Bike, str]:
    """Return the bike with one more part on a line, and how that is taken to be joined in words, ""
    for not at all: nobody has said how, so it is told as taken."""
    controller, role = line_of(repair_id)
    made = add_part(bike, kind, name, spec, ports)
    part = made.parts[-1]
    for whole, words in (
        *_in_free_plugs(made, part, controller, role),
        *_spliced(made, part, controller, role),
    ):
        if part.id in Nets(whole, REGISTRY).mates(controller, role):
            return whole, words
    return made, ""


def _in_free_plugs(
    bike: Bike, part: Part, controller: str, role: str
) -> Iterator[tuple[Bike, str]]:
    """Yield the bike with a part joined to each free plug of the line."""
    nets = Nets(bike, REGISTRY)
    line = {nets.find(pin) for pin in pins_of_role(bike.part(controller), role)}
    for side, words in free_ports(bike):
        owner, port = side.split(".")
        pins = (f"{side}.{pin.name}" for pin in bike.part(owner).port(port).pins)
        if owner == part.id or not any(nets.find(pin) in line for pin in pins):
            continue
        for own in part.ports:
            try:
                yield add_join(bike, side, f"{part.id}.{own.id}"), f"at {words}"
            except BrightError:
                continue


def _spliced(bike: Bike, part: Part, controller: str, role: str) -> Iterator[tuple[Bike, str]]:
    """Yield the bike with a splice in front of each plug of the line at the controller, the part on
    it.

    The join that was there keeps its id and its far side, so that what was read at it keeps its
    place.
    """
    brain = bike.part(controller)
    for port in brain.ports:
        joins = list(bike.joins_of(controller, port.id))
        if not joins or not any(pin.role == role for pin in port.pins):
            continue
        words = f"spliced in at {port_words(brain, port)}"
        items = []
        for name in ("trunk", "through", "branch"):
            items.append(_end(name, port))
        ends = tuple(items)
        made = add_part(
            bike, "cable", f"Splice for {part.name}", CableSpec(length_m=SPLICE_M), ends
        )
        splice = made.parts[-1]
        same = tuple((pin.name, pin.name) for pin in port.pins)
        rows = []
        for join in made.joins:
            rows.append(_moved(join, (controller, port.id), splice.id) if join in joins else join)
        kept = tuple(rows)
        made = add_join(
            replace(made, joins=kept),
            f"{controller}.{port.id}",
            f"{splice.id}.trunk",
            UNTOLD_WIRE,
            same,
        )
        for own in part.ports:
            try:
                pairs = propose_pairs(port, own)
                yield (
                    add_join(
                        made, f"{splice.id}.branch", f"{part.id}.{own.id}", UNTOLD_WIRE, pairs
                    ),
                    words,
                )
            except BrightError:
                continue


def _end(name: str, port: Port) -> Port:
    """Return one end of a splice: conductors by the names that a plug's pins have."""
    rows = []
    for pin in port.pins:
        rows.append(Pin(pin.name, "wire", pin.label, pin.colour))
    pins = tuple(rows)
    return Port(name, pins, f"splice, {name}")


def _moved(join: Join, side: tuple[str, str], splice: str) -> Join:
    """Return a join whose one side is the splice instead."""
    if (join.a_part, join.a_port) == side:
        return replace(join, a_part=splice, a_port="through")
    return replace(join, b_part=splice, b_port="through")
