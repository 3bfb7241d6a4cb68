"""From the description of a bike to a circuit: nodes, elements, controls and faults.

Every pin is a node, unless its kind ties it to an inner node of the part. Every mated pin
pair is a contact resistance; the kinds stamp the rest. Dormant elements for shorted
neighbours and exchanged pins wait for a fault to wake them.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from brightcore.bike.model import Bike, Join, Part, Pin, Port
from brightcore.bike.roles import role_of
from brightcore.circuit.by_place import (
    ByPlace,
    contacts_by_place,
    cores_by_place,
    inside_repair,
    several_of,
    stamp_across,
    stamp_halls,
    stamp_inside,
    stamp_to_frame,
)
from brightcore.circuit.controls import Control, KindTable
from brightcore.circuit.elements import (
    INF,
    OPEN,
    Element,
    Override,
    Regions,
    resistor,
)
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.nets import Nets
from brightcore.circuit.undescribed import places, stamp_undescribed
from brightcore.errors import BikeError, UnknownNameError
from brightcore.physics.contacts import GOOD_POWER_OHM, GOOD_SIGNAL_OHM
from brightcore.physics.copper import THICK_MM2, wire_ohm

SEVERITIES = {
    "power": (
        ("warm", 0.04, 0.5),
        ("slight", 0.5, 0.5),
        ("mid", 5.0, 0.5),
        ("high", 100.0, 0.8),
        ("far", 5e3, 0.9),
    ),
    "ground": (("low", 8.0, 0.6), ("slight", 4e3, 0.4), ("mid", 22e3, 0.45), ("high", 220e3, 0.6)),
    "signal": (("slight", 4e3, 0.4), ("mid", 22e3, 0.45), ("high", 220e3, 0.6)),
}
"""Resistance in ohm and relative spread of the levels of a bad contact or wire: a melted power
contact has 10 to 100 mΩ; a ground that several share shifts them all from a few ohm on."""

PLUG_WEIGHT = 3.0
"""Prior of everything that can be wrong in one plug, however many pins it has (common practice)."""

PLUG_SHARES = {"open": 0.5, "resistive": 0.26, "short": 0.1, "leak": 0.08, "exchanged": 0.06}
"""How that is shared out (common practice)."""

LOOSE_SHARE = 0.35
"""How often an open contact is one that comes and goes, against one that stays (common
practice)."""

HOT = {"warm": 0.85, "slight": 0.95, "mid": 0.7}
"""How often a bad power contact is hot to the hand after a hard pull, by level (common
practice)."""

LEAKS = (("leak", 2.5e3, 0.7), ("damp", 3e4, 0.8))
"""Water between neighbouring pins: 1 to 100 kΩ (common practice)."""


@dataclass(frozen=True, slots=True)
class Circuit:
    """A compiled description: `nodes` in order (ground is "0" and not among them)."""

    bike: Bike
    nodes: tuple[str, ...]
    elements: tuple[Element, ...]
    node_of: dict[str, str]
    controls: dict[str, tuple[str, Control]]
    faults: tuple[FaultMode, ...]
    registry: KindTable
    nets: Nets
    by_place: tuple[ByPlace, ...] = ()

    def node(self, name: str) -> str:
        """Return the node of a pin or inner node name; raises UnknownNameError."""
        try:
            return self.node_of[name]
        except KeyError:
            raise UnknownNameError("pin", name, tuple(self.node_of)) from None

    def fault(self, fault_id: str) -> FaultMode:
        """Return the fault mode of that id; raises UnknownNameError."""
        for mode in self.faults:
            if mode.id == fault_id:
                return mode
        raise UnknownNameError("fault", fault_id, tuple(f.id for f in self.faults))


class Stamper:
    """Collects elements; kinds see only this while stamping."""

    def __init__(self, bike: Bike) -> None:
        self.bike = bike
        self.elements: list[Element] = []
        self._parent: dict[str, str] = {}

    def node(self, part: Part, name: str) -> str:
        """Return the name of an inner node of a part."""
        return self._add(f"{part.id}:{name}")

    def pin(self, part: Part, port: Port, pin: Pin) -> str:
        """Return the node name of a pin."""
        return self._add(f"{part.id}.{port.id}.{pin.name}")

    def pins(self, part: Part, *roles: str) -> list[str]:
        """Return the nodes of all pins of a part that have one of the roles."""
        found: list[str] = []
        for port in part.ports:
            for pin in port.pins:
                if pin.role in roles:
                    found.append(self.pin(part, port, pin))
        return found

    def tie(self, a: str, b: str) -> None:
        """Make two names one node."""
        self._parent[self.find(self._add(a))] = self.find(self._add(b))

    def tie_role(self, part: Part, role: str, inner: str) -> str:
        """Tie every pin of a role to one inner node and return it."""
        node = self.node(part, inner)
        for pin in self.pins(part, role):
            self.tie(pin, node)
        return node

    def add(
        self,
        part: Part,
        name: str,
        a: str,
        b: str,
        regions: Regions,
        c: str = "",
        d: str = "",
        by_control: bool = False,
        tol_g: float = 0.0,
        tol_j: float = 0.0,
        fuse_a: float = INF,
        tol_dead: float | None = None,
    ) -> str:
        """Add an element of a part and return its id `part/name`."""
        element_id = f"{part.id}/{name}"
        for node in (a, b, c, d):
            if node:
                self._add(node)
        self.elements.append(
            Element(element_id, a, b, regions, c, d, by_control, tol_g, tol_j, fuse_a, tol_dead)
        )
        return element_id

    def find(self, name: str) -> str:
        """Return the representative of a node name."""
        root = name
        while self._parent[root] != root:
            root = self._parent[root]
        # The path is shortened on the way, as a big harness ties hundreds of pins to few nodes.
        self._parent[name] = root
        return root

    def _add(self, name: str) -> str:
        self._parent.setdefault(name, name)
        return name

    def names(self) -> dict[str, str]:
        """Return every known name with its representative node."""
        return {name: self.find(name) for name in list(self._parent)}


def pair_class(bike: Bike, join: Join, pair: tuple[str, str]) -> str:
    """Return "power" or "signal" for a mated pin pair, from the roles and wires on both sides."""
    thick = []
    for (part_id, port_id), name in zip(join.sides(), pair, strict=True):
        part = bike.part(part_id)
        if role_of(part.port(port_id).pin(name).role).carries_power:
            return "power"
        thick.append(getattr(part.spec, "area_mm2", 0.0) >= THICK_MM2)
    if all(thick):
        return "power"
    return "signal"


def compile_circuit(bike: Bike, registry: KindTable) -> Circuit:
    """Return the circuit of a bike with every control and every fault it could have.

    Raises BikeError where there is no pack to be the ground of the circuit.
    """
    stamper = Stamper(bike)
    faults: list[FaultMode] = []
    controls: dict[str, tuple[str, Control]] = {}
    for part in bike.parts:
        for port in part.ports:
            for pin in port.pins:
                stamper.pin(part, port, pin)
    for part in bike.parts:
        kind = registry[part.kind]
        # All pins are nodes before any kind is stamped, so that a kind may tie to pins of its own
        # in any order.
        kind.stamp(stamper, part)
        faults.extend(kind.faults(part))
        for control in kind.controls(part):
            controls[f"{part.id}.{control.id}"] = (part.id, control)
    nets = Nets(bike, registry)
    by_place: list[ByPlace] = []
    for part in bike.parts:
        by_place.extend(_inside(stamper, registry, part))
    for join in bike.joins:
        named, free = _stamp_join(stamper, nets, registry, join)
        faults.extend(named)
        by_place.extend(free)
    for place in places(bike, registry, nets):
        faults.extend(stamp_undescribed(stamper.elements, place))
    grounding = [part for part in bike.parts if registry[part.kind].grounds]
    if not grounding:
        raise BikeError("a circuit needs a pack")
    names = stamper.names()
    # The first pack's minus is zero volts. Of several packs the others are measured against it, in
    # series too.
    ground = names[f"{grounding[0].id}:minus"]
    node_of = {name: "0" if node == ground else node for name, node in names.items()}
    nodes = tuple(sorted({node for node in node_of.values() if node != "0"}))

    def at(name: str) -> str:
        if name:
            return node_of[name]
        return ""

    rows = []
    for e in stamper.elements:
        rows.append(replace(e, a=at(e.a), b=at(e.b), c=at(e.c), d=at(e.d)))
    elements = tuple(rows)
    known = {element.id for element in elements}
    for fault in faults:
        for override in fault.overrides:
            # A fault that changes nothing would be believed and never shown: it is an error of its
            # kind, and told at once.
            if override.element not in known:
                raise BikeError(f"fault {fault.id} changes unknown element {override.element}")
    told = tuple(replace(fault, title=nets.fill(fault.title)) for fault in faults)
    free_ones = tuple(replace(place, title=nets.fill(place.title)) for place in by_place)
    return Circuit(bike, nodes, elements, node_of, controls, told, registry, nets, free_ones)


def _inside(stamper: Stamper, registry: KindTable, part: Part) -> Iterator[ByPlace]:
    """Yield what may lead between the pins of a small part, and the cores of a cable."""
    modes = registry[part.kind].faults(part)
    links = list(registry[part.kind].links(part))
    pack = next((p for p in stamper.bike.parts if registry[p.kind].grounds), None)
    minus = f"{pack.id}:minus" if pack is not None else ""
    if links:
        repair = next((mode.repair for mode in modes if mode.repair.of_cable), None)
        if repair is not None and getattr(part.spec, "area_mm2", 0.0) < THICK_MM2:
            yield from cores_by_place(part, links, repair)
            if minus:
                ends = [one for one, _ in links]
                yield from stamp_to_frame(stamper.elements, part, ends, repair, minus)
        return
    repair = inside_repair(registry, part, modes)
    if repair is not None:
        yield from stamp_inside(stamper.elements, part, repair)
        if minus:
            ends = [f"{port.id}.{pin.name}" for port in part.ports for pin in port.pins]
            yield from stamp_to_frame(stamper.elements, part, ends, repair, minus)


def level_class(circuit_class: str, roles: set[str]) -> str:
    """Return the class of `SEVERITIES` for a contact or wire on a net with these roles."""
    ground = bool(roles) and all(role_of(role).ground_like for role in roles)
    # A ground shared by several sensors shifts all of them from a few ohms on; a signal wire alone
    # stands kilo-ohms. So the same plug has levels of its own on that pin.
    if ground and circuit_class == "signal":
        return "ground"
    return circuit_class


def contact_id(join: Join, pair: tuple[str, str]) -> str:
    """Return the element id of a mated pin pair."""
    return f"{join.id}/contact:{pair[0]}"


def _stamp_join(
    stamper: Stamper, nets: Nets, registry: KindTable, join: Join
) -> tuple[list[FaultMode], list[ByPlace]]:
    """Add a join's contacts and its dormant shorts and swaps; return its fault modes, and its
    places of a free value."""
    bike = nets.bike
    holder = bike.part(join.a_part)
    port = holder.port(join.a_port)
    faults: list[FaultMode] = []
    repair = RepairKind(
        f"join:{join.id}",
        f"Clean and re-seat the {join_title(bike, join)}; re-crimp or re-terminate if pins are bad",
        12,
        "Water, strain or a pin not fully home: seal it, point it down, give the cable a drip loop",
        0,
    )
    ends = {}
    count = max(len(join.pairs), 1)
    for pair in join.pairs:
        a = f"{join.a_part}.{join.a_port}.{pair[0]}"
        b = f"{join.b_part}.{join.b_port}.{pair[1]}"
        ends[pair] = (a, b)
        circuit_class = pair_class(bike, join, pair)
        if circuit_class == "power":
            ohm = GOOD_POWER_OHM
        else:
            ohm = GOOD_SIGNAL_OHM
        if join.wire.area_mm2 > 0:
            ohm += wire_ohm(join.wire.length_m, join.wire.area_mm2)
        element = contact_id(join, pair)
        stamper.elements.append(Element(element, a, b, resistor(ohm), tol_g=0.5))
        base = f"{join.a_part}.{join.a_port}.{pair[0]}"
        title = f"{{{base}}} contact, {join_title(bike, join)}"
        faults.append(
            FaultMode(
                f"{base}/contact/open",
                f"{title}: open",
                PLUG_WEIGHT * PLUG_SHARES["open"] / count,
                repair,
                (Override(element, OPEN),),
                family=base,
                seen_by_eye=0.4,
                loose=LOOSE_SHARE,
            )
        )
        levels = SEVERITIES[level_class(circuit_class, nets.roles_of(a))]
        each = PLUG_WEIGHT * PLUG_SHARES["resistive"] / count / len(levels)
        for level, fault_ohm, spread in levels:
            faults.append(
                FaultMode(
                    f"{base}/contact/{level}",
                    f"{title}: resistive",
                    each,
                    repair,
                    (Override(element, resistor(fault_ohm), tol_g=spread),),
                    family=base,
                    seen_by_eye=0.4,
                    hot=HOT.get(level, 0.0) if circuit_class == "power" else 0.0,
                )
            )
    faults.extend(_shorts(stamper, join, ends, port, repair, bike))
    if port.rewireable:
        faults.extend(_swaps(stamper, join, ends, nets, registry))
    title = join_title(bike, join)
    faults.extend(several_of(join, port, repair, title))
    faults.extend(stamp_halls(stamper.elements, join, registry, bike, title))
    plain = [pair for pair in join.pairs if pair_class(bike, join, pair) != "power"]
    # Half as likely as the named levels: those stand for most of the range already.
    weight = 0.5 * PLUG_WEIGHT * PLUG_SHARES["resistive"] * len(plain) / count
    by_place = list(contacts_by_place(join, repair, plain, weight, title, nets))
    by_place += stamp_across(stamper.elements, join, port, repair, title, nets)
    return faults, by_place


def _shorts(
    stamper: Stamper,
    join: Join,
    ends: dict[tuple[str, str], tuple[str, str]],
    port: Port,
    repair: RepairKind,
    bike: Bike,
) -> list[FaultMode]:
    faults = []
    order = [pin.name for pin in port.pins]
    pairs = sorted(join.pairs, key=lambda pair: order.index(pair[0]))
    count = max(len(pairs) - 1, 1)
    for first, second in zip(pairs, pairs[1:], strict=False):
        # Neighbours only: water and bent pins bridge what lies side by side.
        element = f"{join.id}/short:{first[0]}-{second[0]}"
        stamper.elements.append(Element(element, ends[first][0], ends[second][0], OPEN))
        where = f"{join.a_part}.{join.a_port}"
        title = (
            f"{{{where}.{first[0]}}} and {{{where}.{second[0]}}} shorted, {join_title(bike, join)}"
        )
        faults.append(
            FaultMode(
                f"{join.a_part}.{join.a_port}.{first[0]}/short-to-{second[0]}/full",
                title,
                PLUG_WEIGHT * PLUG_SHARES["short"] / count,
                repair,
                (Override(element, resistor(0.02), tol_g=0.5),),
                family=f"{join.id}/short",
                seen_by_eye=0.5,
                loose=LOOSE_SHARE / 2,
            )
        )
        for level, ohm, spread in LEAKS:
            faults.append(
                FaultMode(
                    f"{join.a_part}.{join.a_port}.{first[0]}/short-to-{second[0]}/{level}",
                    (
                        f"{{{where}.{first[0]}}} leaks to {{{where}.{second[0]}}}, wet "
                        f"{join_title(bike, join)}"
                    ),
                    PLUG_WEIGHT * PLUG_SHARES["leak"] / count / len(LEAKS),
                    repair,
                    (Override(element, resistor(ohm), tol_g=spread),),
                    family=f"{join.id}/short",
                    seen_by_eye=0.5,
                )
            )
    return faults


def _swaps(
    stamper: Stamper,
    join: Join,
    ends: dict[tuple[str, str], tuple[str, str]],
    nets: Nets,
    registry: KindTable,
) -> list[FaultMode]:
    faults, bike = [], nets.bike
    order = RepairKind(
        f"order:{join.id}",
        f"Put the wires of the {join_title(bike, join)} back in order",
        5,
        "Wires swapped when it was last connected: mark them",
        0,
    )
    if join.pairs:
        first_pin = f"{join.a_part}.{join.a_port}.{join.pairs[0][0]}"
    else:
        first_pin = ""
    here = set()
    for name in nets.pins:
        if first_pin and nets.find(name) == nets.find(first_pin):
            here.add(name.split(".")[0])
    phases = bool(first_pin) and any(
        role_of(role).use == "phase" for role in nets.roles_of(first_pin)
    )
    driving = []
    for p in sorted(here):
        if registry[bike.part(p).kind].commutates:
            driving.append(p)
    wrong = tuple(f"{p}:order_wrong" for p in driving) if phases else ()
    for first, second in zip(join.pairs, join.pairs[1:], strict=False):
        cross = []
        for one, two in ((first, second), (second, first)):
            element = f"{join.id}/cross:{one[0]}-{two[0]}"
            stamper.elements.append(Element(element, ends[one][0], ends[two][1], OPEN))
            cross.append(Override(element, resistor(GOOD_POWER_OHM)))
        rows = []
        for pair in (first, second):
            rows.append(Override(contact_id(join, pair), OPEN))
        straight = tuple(rows)
        faults.append(
            FaultMode(
                f"{join.a_part}.{join.a_port}.{first[0]}/exchanged-with-{second[0]}/full",
                f"{{{join.a_part}.{join.a_port}.{first[0]}}} and "
                f"{{{join.a_part}.{join.a_port}.{second[0]}}} exchanged, {join_title(bike, join)}",
                PLUG_WEIGHT * PLUG_SHARES["exchanged"] / max(len(join.pairs) - 1, 1),
                order,
                (*straight, *cross),
                wrong,
                f"{join.id}/order",
                0.3,
            )
        )
    return faults


def unplug(circuit: Circuit, join_id: str) -> tuple[Override, ...]:
    """Return the overrides that open a join completely."""
    circuit.bike.join(join_id)
    prefixes = (f"{join_id}/contact:", f"{join_id}/cross:")
    found = []
    for e in circuit.elements:
        if e.id.startswith(prefixes):
            found.append(Override(e.id, OPEN))
    return tuple(found)


def join_title(bike: Bike, join: Join) -> str:
    """Return words for a join: the label of the port that has one."""
    for part_id, port_id in join.sides():
        port = bike.part(part_id).port(port_id)
        if port.label:
            if "plug" not in port.label:
                return f"{port.label} plug"
            return port.label
    return f"{bike.part(join.a_part).name} to {bike.part(join.b_part).name} plug"
