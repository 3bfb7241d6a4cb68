"""What may stand on a controller's lines and nobody has described: a second lever, another lamp, an
alarm.

It pulls or holds up a line where the description has nothing that could: at the controller, or at a
plug that nothing is joined to. Nothing is bought before somebody has followed the line.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Bike, Part
from brightcore.circuit.controls import KindTable
from brightcore.circuit.elements import OPEN, Element, Override, resistor, switched
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.nets import Nets


@dataclass(frozen=True, slots=True)
class Line:
    """A line that something undescribed may stand on: role of the controller's pin, words, what is
    usually found there, levels of ohm to ground when that fails, ohm to ground while it is
    powered (0: it works unpowered), and levels of ohm to the 5 V supply where it may hold the line
    up. Which kinds of part are found on it, they say themselves."""

    role: str
    words: str
    usual: str
    pulls_ohm: tuple[float, ...]
    driven_ohm: float = 0.0
    feeds_ohm: tuple[float, ...] = ()


LINES = (
    Line(
        "brake_signal",
        "brake line",
        "a lever, gear sensor, stand switch or brake lamp",
        (0.5, 50.0, 2e3),
        50.0,
    ),
    Line(
        "throttle_signal",
        "throttle line",
        "a second throttle or a cruise switch",
        (0.5, 100.0),
        0.0,
        (500.0, 25e3),
    ),
    Line("pedal_signal", "pedal line", "a second sensor", (0.5, 40.0), 50.0),
    Line(
        "supply_5v",
        "5 V line",
        "a sensor, lamp or alarm",
        (0.1, 8.0),
    ),
    Line(
        "battery_out",
        "pack + line to the display",
        "a tracker, a converter or an alarm",
        (120.0, 500.0, 2e3),
    ),
    Line(
        "accessory_plus",
        "lamp line",
        "a lamp, horn or charger socket",
        (0.5,),
    ),
)
"""All figures are common practice."""

LEVELS = ("full", "part", "weak")
"""Names of the levels of what pulls or feeds a line, the strongest first."""

DRIVEN_FROM_V = 3.0
"""Supply from which something with electronics pulls (common practice)."""

LINE_WEIGHT = 1.2
"""Prior of each such line, against a plug's 3 (common practice)."""


@dataclass(frozen=True, slots=True)
class Place:
    """One pin at which something undescribed may stand, and the controller's pins of ground and 5 V
    ("": it has none)."""

    controller: Part
    line: Line
    pin: str
    ground: str
    rail: str


def places(bike: Bike, registry: KindTable, nets: Nets) -> Iterator[Place]:
    """Yield the pins of every such line: one at the controller, and those of plugs that nothing is
    joined to."""
    joined = set()
    for join in bike.joins:
        for side in join.sides():
            joined.add(side)
    open_pins = [
        f"{part.id}.{port.id}.{pin.name}"
        for part in bike.parts
        for port in part.ports
        for pin in port.pins
        if (part.id, port.id) not in joined
    ]
    for controller in bike.parts:
        if not registry[controller.kind].commutates:
            continue
        ground = (*pins_of_role(controller, "battery_minus"), "")[0]
        rail = (*pins_of_role(controller, "supply_5v"), "")[0]
        for line in LINES if ground else ():
            own = pins_of_role(controller, line.role)
            nodes = {nets.find(pin) for pin in own}
            far = [
                pin
                for pin in open_pins
                if nets.find(pin) in nodes and pin.split(".")[0] != controller.id
            ]
            # Each brake input is a line of its own; the pins of the other roles stand on one rail.
            near = own if line.role == "brake_signal" else own[:1]
            for pin in dict.fromkeys((*near, *far)):
                yield Place(controller, line, pin, ground, rail)


def line_of(repair_id: str) -> tuple[str, str]:
    """Return (controller, role) of a repair `describe:controller:role`, empty for anything else."""
    pieces = repair_id.split(":")
    if len(pieces) == 3 and pieces[0] == "describe":
        return (pieces[1], pieces[2])
    return ("", "")


def newly_described(before: Nets, after: Nets, repair_id: str) -> tuple[str, ...]:
    """Return the names of the parts that a newer description has on the line of a repair
    `describe:…`."""
    controller, role = line_of(repair_id)
    known = [part.id for part in before.bike.parts]
    if controller not in known or controller not in {part.id for part in after.bike.parts}:
        return ()
    more = after.mates(controller, role) - before.mates(controller, role)
    found = []
    for part in after.bike.parts:
        if part.id in more and part.id not in known:
            found.append(part.name)
    return tuple(found)


def pins_of_role(part: Part, role: str) -> list[str]:
    """Return `part.port.pin` of every pin of a role."""
    found: list[str] = []
    for port in part.ports:
        for pin in port.pins:
            if pin.role == role:
                found.append(f"{part.id}.{port.id}.{pin.name}")
    return found


def stamp_undescribed(found: list[Element], place: Place) -> list[FaultMode]:
    """Add the dormant elements of one place to a list and return its fault modes."""
    controller, line, pin = place.controller, place.line, place.pin
    repair = RepairKind(
        f"describe:{controller.id}:{line.role}",
        f"Describe what else is on the {line.words}, then continue diagnosis with it",
        3,
        "It was added later, or forgotten when the bike was described",
        0,
    )
    question = (
        f"Is anything else on the {line.words}, such as {line.usual}, that is not described here?"
    )
    title = f"Something on the {line.words} of the {controller.name.lower()} that is not described"
    ground, rail = place.ground, place.rail
    pulls = Element(f"{controller.id}/other:{pin}", pin, ground, OPEN)
    ends = [
        (level, pulls, resistor(ohm)) for level, ohm in zip(LEVELS, line.pulls_ohm, strict=False)
    ]
    if rail:
        feeds = Element(f"{controller.id}/feeds:{pin}", rail, pin, OPEN)
        levels = zip(LEVELS, line.feeds_ohm, strict=False)
        ends += [(f"high-{level}", feeds, resistor(ohm)) for level, ohm in levels]
    if rail and line.driven_ohm:
        driven = Element(f"{controller.id}/driven:{pin}", pin, ground, OPEN, rail, ground, True)
        ends.append(("driven", driven, switched(line.driven_ohm, DRIVEN_FROM_V)))
    found.extend({element.id: element for _, element, _ in ends}.values())
    if pin.startswith(f"{controller.id}."):
        whose = ""
    else:
        whose = f"-{controller.id}"
    modes = []
    for level, element, regions in ends:
        modes.append(
            FaultMode(
                f"{pin}/undescribed{whose}/{level}",
                title,
                LINE_WEIGHT / len(ends),
                repair,
                (Override(element.id, regions, tol_g=0.9),),
                family=pin,
                question=question,
            )
        )
    return modes
