"""From the description of a bike to a circuit: nodes, elements, controls and faults.

Every pin is a node, unless its kind ties it to an inner node of the part. Mated pins are stamped
by `contacts.py`, everything else by the kinds.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from brightcore.bike.model import Bike, Part
from brightcore.circuit.by_place import (
    ByPlace,
    cores_by_place,
    inside_repair,
    stamp_inside,
    stamp_to_frame,
)
from brightcore.circuit.contacts import stamp_join
from brightcore.circuit.controls import Control, KindTable
from brightcore.circuit.elements import OPEN, Element, Override
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.nets import Nets
from brightcore.circuit.stamper import Stamper
from brightcore.circuit.undescribed import places, stamp_undescribed
from brightcore.errors import BikeError, UnknownNameError
from brightcore.physics.copper import THICK_MM2


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
        named, free = stamp_join(stamper, nets, registry, join)
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


def unplug(circuit: Circuit, join_id: str) -> tuple[Override, ...]:
    """Return the overrides that open a join completely."""
    circuit.bike.join(join_id)
    prefixes = (f"{join_id}/contact:", f"{join_id}/cross:")
    found = []
    for e in circuit.elements:
        if e.id.startswith(prefixes):
            found.append(Override(e.id, OPEN))
    return tuple(found)
