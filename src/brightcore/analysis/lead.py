"""The way of a controller's current: from the nearest pack through joins and leads, there and
back."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.loads import through_a
from brightcore.bike.model import Bike, Join, Part, Wire
from brightcore.kinds import REGISTRY
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import as_cable, controllers
from brightcore.physics.copper import wire_ohm

ENDS = (("battery_plus", "pack_plus"), ("battery_minus", "pack_minus"))
"""Roles at the controller and at the pack, of the way there and of the way back."""

Step = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Lead:
    """The described wires between a controller and the nearest pack.

    `length_m`: of the longer way; `area_mm2`: the thinnest piece; `current_a`: the most through any
    of them, `drop_v`, `heat_w`: what both ways lose, while every controller draws its limit.
    """

    length_m: float
    area_mm2: float
    current_a: float
    drop_v: float
    heat_w: float


def leads(bike: Bike) -> dict[str, Lead]:
    """Return the lead of every controller that has a described one, by the id of the controller."""
    case = analysis_of(bike)
    return case.remember("leads", lambda: _found(case))


def main_joins(bike: Bike, pack: Part[PackSpec]) -> Iterator[Join]:
    """Yield the joins of a pack that carry its plus."""
    for join in bike.joins_of(pack.id):
        own = next(port for part, port in join.sides() if part == pack.id)
        if any(pin.role == "pack_plus" for pin in pack.port(own).pins):
            yield join


def _found(case: Analysis) -> dict[str, Lead]:
    wires = _wires(case)
    found = {}
    for controller in controllers(case.bike):
        lengths, areas, currents, drop, heat = [0.0], [], [], 0.0, 0.0
        for own, wanted in ENDS:
            starts = []
            for place in case.places_of(controller):
                if place.pin.role == own:
                    starts.append(place.id)
            pieces = []
            for step in _way(case, starts, wanted):
                if step in wires:
                    pieces.append((step, wires[step]))
            lengths.append(sum(wire.length_m for _, wire in pieces))
            for (one, two), wire in pieces:
                current, ohm = through_a(case, one, two), wire_ohm(wire.length_m, wire.area_mm2)
                areas.append(wire.area_mm2)
                currents.append(current)
                drop += current * ohm
                heat += current**2 * ohm
        if areas:
            found[controller.id] = Lead(max(lengths), min(areas), max(currents), drop, heat)
    return found


def _way(case: Analysis, starts: list[str], wanted: str) -> list[Step]:
    """Return the steps of the shortest way from some pins to a pin of a role; none where there is
    no way."""
    came: dict[str, str] = dict.fromkeys(starts, "")
    queue = deque(starts)
    while queue:
        here = queue.popleft()
        if case.places[here].pin.role == wanted:
            return _steps(came, here)
        for there in sorted(case.edges.get(here, ())):
            if there not in came:
                came[there] = here
                queue.append(there)
    return []


def _steps(came: dict[str, str], here: str) -> list[Step]:
    steps = []
    while came[here]:
        steps.append((here, came[here]))
        here = came[here]
    return steps


def _wires(case: Analysis) -> dict[Step, Wire]:
    """Return the described wire between two pins that are directly connected, both ways round."""
    found: dict[Step, Wire] = {}

    def note(one: str, two: str, wire: Wire) -> None:
        if wire.area_mm2 > 0 and wire.length_m > 0:
            found[one, two] = found[two, one] = wire

    for join in case.bike.joins:
        for a, b in join.pairs:
            note(f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}", join.wire)
    for part in case.bike.parts:
        cable = as_cable(part)
        if cable is not None:
            for one, two in REGISTRY[part.kind].links(part):
                wire = Wire(cable.spec.area_mm2, cable.spec.length_m)
                note(f"{part.id}.{one}", f"{part.id}.{two}", wire)
    return found
