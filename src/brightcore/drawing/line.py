"""The Line: where every part and stretch of a bike is drawn.

Energy runs left to right (pack, lead, controller, motor); bar controls hang above, sensors
and lamps below. Everything that joins one leaf part to the controller is one stretch; what
several leaves share is the trunk. What lives where on it is told by `line_places`.
"""

from collections import Counter, deque
from dataclasses import dataclass, replace

from brightcore.bike.model import Bike, Join, Part
from brightcore.circuit.netlist import Circuit
from brightcore.drawing.line_motors import drives, energy
from brightcore.drawing.line_rows import bottom_side, one_trunk, row, top_side
from brightcore.drawing.line_shapes import (
    CONTROLLER_W,
    CONTROLLER_X,
    HEIGHT,
    LEAD,
    TAG,
    TALL,
    TRUNK,
    LineLayout,
    Shape,
    along,
    column,
    fitting,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Registry
from brightcore.kinds.select import as_cable, at_place

CONTROLLER_H, SEVERAL_CONTROLLERS_H = 82.0, 56.0


def joins_between(bike: Bike, registry: Registry, start: str, ends: set[str]) -> set[str]:
    """Return the joins on the ways from a part to any of `ends` through inline parts (cables,
    modules)."""
    inline = _inline_from(bike, registry, start)
    nodes = inline | ends | {start}
    way: dict[str, set[str]] = {}
    for join in bike.joins:
        sides = {part for part, _ in join.sides()}
        if sides <= nodes and not sides <= ends and sides & (inline | {start}):
            way[join.id] = sides
    return _without_loose_ends(way, inline)


def _inline_from(bike: Bike, registry: Registry, start: str) -> set[str]:
    """Return the inline parts that can be reached from a part through inline parts alone."""
    inline: set[str] = set()
    queue = deque([start])
    while queue:
        for join in bike.joins_of(queue.popleft()):
            for other, _ in join.sides():
                # Only cables and modules lead further: a way from the throttle to the controller
                # does not run through the display that hangs on the same harness.
                if other not in inline | {start} and registry[bike.part(other).kind].inline:
                    inline.add(other)
                    queue.append(other)
    return inline


def _without_loose_ends(way: dict[str, set[str]], inline: set[str]) -> set[str]:
    """Return the joins of a way (their parts by their ids) that lead through.

    A branch that ends nowhere (the lamp's end of a splitter) is no part of the way; it is taken
    off until only what leads through is left.
    """
    while True:
        ends_at = Counter(part for sides in way.values() for part in sides)
        loose = {part for part in inline if ends_at[part] == 1}
        through = {join: sides for join, sides in way.items() if not sides & loose}
        if len(through) == len(way):
            return set(through)
        way = through


@dataclass(frozen=True, slots=True)
class Cast:
    """The parts of a bike by where they stand on the Line, and the joins that each reaches the
    controllers by."""

    controllers: list[Part]
    packs: list[Part]
    motors: list[Part]
    leaves: list[Part]
    reach: dict[str, set[str]]

    def owners(self, join: Join) -> tuple[str, ...]:
        """Return the parts whose way to the controllers runs through a join."""
        parts = (*self.packs, *self.motors, *self.leaves)
        return tuple(part.id for part in parts if join.id in self.reach[part.id])

    def on_trunk(self) -> set[str]:
        """Return the leaves that share a join with another leaf: those on the harness."""
        uses = Counter(join for leaf in self.leaves for join in self.reach[leaf.id])
        shared = {join for join, count in uses.items() if count > 1}
        return {leaf.id for leaf in self.leaves if self.reach[leaf.id] & shared}


def _cast(bike: Bike) -> Cast:
    def at(*places: str) -> list[Part]:
        return [part for part in bike.parts if REGISTRY[part.kind].place in places]

    controllers = at_place(bike, "controller")
    packs, motors, leaves = at("energy"), at("motor"), at("bar", "sensor", "light")
    ends = {part.id for part in controllers}
    reach = {}
    for part in (*packs, *motors, *leaves):
        reach[part.id] = joins_between(bike, REGISTRY, part.id, ends)
    return Cast(list(controllers), packs, motors, leaves, reach)


def layout_line(circuit: Circuit) -> LineLayout:
    """Return the shapes of a bike's Line; the same description gives the same drawing."""
    bike = circuit.bike
    cast = _cast(bike)
    several = max(len(cast.controllers), len(cast.motors)) > 1
    height = TALL if several else HEIGHT
    shapes = _controllers(cast.controllers, height)
    top_edge = shapes[0].points[0][1]
    bottom_edge = shapes[-1].points[0][1] + shapes[-1].size[1]
    centres = {}
    for part, shape in zip(cast.controllers, shapes, strict=True):
        centres[part.id] = shape.points[0][1] + shape.size[1] / 2
    shapes += energy(cast.packs, list(centres.values()), height)
    shapes += drives(circuit, cast.motors, centres, height)
    on_trunk = cast.on_trunk()
    shapes += row(top_side(top_edge), _members(cast, on_trunk, ("bar",)), on_trunk)
    below = _members(cast, on_trunk, ("sensor", "light"))
    shapes += row(bottom_side(bottom_edge, height), below, on_trunk)
    shapes = one_trunk(shapes)
    layout = LineLayout(
        tuple(shapes),
        {join.id: _run_of(cast, join) for join in bike.joins},
        {join.id: cast.owners(join) for join in bike.joins},
        tuple(part.id for part in cast.controllers),
        tuple(part.id for part in cast.motors),
        height,
    )
    return replace(layout, shapes=(*shapes, *_tags(bike, layout)))


def _controllers(controllers: list[Part], height: float) -> list[Shape]:
    """Return the boxes in the middle, one below the other."""
    if len(controllers) == 1:
        tall = CONTROLLER_H
    else:
        tall = fitting(len(controllers), height, SEVERAL_CONTROLLERS_H)
    centres = column([part.id for part in controllers], height, tall)
    shapes = []
    for part in controllers:
        corner = (CONTROLLER_X, centres[part.id] - tall / 2)
        size = (CONTROLLER_W, tall)
        shapes.append(Shape(f"part:{part.id}", "box", part.name, (corner,), size, "controller"))
    return shapes


def _members(cast: Cast, on_trunk: set[str], places: tuple[str, ...]) -> list[Part]:
    """Return the parts of a row. Those on the harness stand side by side, so that its trunk is one
    line and no branch crosses it."""
    members = [part for part in cast.leaves if REGISTRY[part.kind].place in places]
    return sorted(members, key=lambda part: part.id not in on_trunk)


def _run_of(cast: Cast, join: Join) -> str:
    """Return the stretch that a join is drawn on."""
    owners = cast.owners(join)
    packs = {part.id for part in cast.packs}
    energy_owners = [name for name in owners if name in packs]
    if len(energy_owners) == 1:
        return f"run:{energy_owners[0]}"
    if len(owners) == 1:
        return f"run:{owners[0]}"
    if energy_owners:
        return LEAD
    if owners:
        return TRUNK
    return f"part:{cast.controllers[0].id}"


def _tags(bike: Bike, layout: LineLayout) -> list[Shape]:
    """Return a small square on the stretch of every inline module that is no cable."""
    tags = []
    for part in bike.parts:
        if not REGISTRY[part.kind].inline or as_cable(part) is not None:
            continue
        shape = _stretch_of(bike, layout, part)
        if shape is None:
            continue
        x, y = shape.points[0] if shape.id == LEAD else along(shape.points, 0.5)
        corner = (x - TAG / 2, y - TAG / 2)
        tags.append(Shape(f"part:{part.id}", "tag", part.name, (corner,), (TAG, TAG), "module"))
    return tags


def _stretch_of(bike: Bike, layout: LineLayout, part: Part) -> Shape | None:
    """Return the stretch that a module sits on: the common lead before any other."""
    runs = [layout.join_run[join.id] for join in bike.joins_of(part.id)]
    for run in sorted(runs, key=lambda name: name != LEAD):
        shape = layout.shape(run)
        if shape is not None and shape.kind == "run":
            return shape
    return None
