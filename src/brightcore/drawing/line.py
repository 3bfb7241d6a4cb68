"""The Line: where every part and stretch of a bike is drawn, and which faults live on it.

Energy runs left to right (pack, lead, controller, motor); bar controls hang above, sensors
and lamps below. Everything that joins one leaf part to the controller is one stretch; what
several leaves share is the trunk.
"""

from collections import deque
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join, Part
from brightcore.circuit.netlist import Circuit, join_title
from brightcore.circuit.nets import Nets
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet

WIDTH, HEIGHT = 1140.0, 240.0
CONTROLLER = (452.0, 98.0, 168.0, 82.0)
PACK = (14.0, 100.0, 132.0, 78.0)
MOTOR = (1046.0, 139.0, 62.0)
LEAF = (150.0, 34.0)
TOP_Y, BOTTOM_Y = 4.0, HEIGHT - LEAF[1] - 4.0
HALL_LANES = ("a", "b", "c", "rest")
PHASE_LANES = ("u", "v", "w")

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Shape:
    """A part (`box`, `round`) or a stretch (`run`, `fine`), with its label and place."""

    id: str
    kind: str
    label: str
    points: tuple[Point, ...]
    size: Point = (0.0, 0.0)
    symbol: str = ""
    label_at: Point | None = None


@dataclass(frozen=True)
class LineLayout:
    """All shapes of a bike's Line; ids are `part:…` and `run:…`."""

    shapes: tuple[Shape, ...]
    join_run: dict[str, str]
    leaf_of_join: dict[str, tuple[str, ...]]
    controller: str
    motor: str

    def shape(self, shape_id: str) -> Shape | None:
        """Return the shape of that id."""
        return next((s for s in self.shapes if s.id == shape_id), None)


def hangs_on(bike: Bike, part: Part) -> tuple[set[str], set[str]]:
    """Return (join ids, cable ids) reached from a part without passing other parts than cables."""
    joins: set[str] = set()
    cables: set[str] = set()
    queue = deque([part.id])
    while queue:
        here = queue.popleft()
        for join in bike.joins_of(here):
            joins.add(join.id)
            for other, _ in join.sides():
                if other != here and bike.part(other).kind == "cable" and other not in cables:
                    cables.add(other)
                    queue.append(other)
    return joins, cables


def layout_line(circuit: Circuit) -> LineLayout:
    """Return the shapes of a bike's Line; the same description gives the same drawing."""
    bike, registry = circuit.bike, circuit.registry
    controller = bike.of_kind("controller")[0]
    motors = [p for p in bike.parts if registry[p.kind].place == "motor"]
    packs = [p for p in bike.parts if registry[p.kind].place == "energy"]
    leaves = [p for p in bike.parts if registry[p.kind].place in ("bar", "sensor", "light")]
    reach = {p.id: _from_leaf(bike, p, controller.id) for p in (*packs, *motors, *leaves)}
    shared = _shared(reach, [p.id for p in leaves])
    shapes = [Shape(f"part:{controller.id}", "box", controller.name, ((CONTROLLER[0], CONTROLLER[1]),), CONTROLLER[2:], "controller")]
    for pack in packs[:1]:
        shapes.append(Shape(f"part:{pack.id}", "box", pack.name, ((PACK[0], PACK[1]),), PACK[2:], "pack"))
        y = PACK[1] + PACK[3] / 2
        shapes.append(
            Shape(f"run:{pack.id}", "run", "main lead", ((PACK[0] + PACK[2], y), (CONTROLLER[0], y)), label_at=((PACK[0] + PACK[2] + CONTROLLER[0]) / 2, y - 12))
        )  # fmt: skip
    for motor in motors[:1]:
        shapes.append(Shape(f"part:{motor.id}", "round", motor.name, ((MOTOR[0], MOTOR[1]),), (MOTOR[2], MOTOR[2]), "motor"))
        shapes += _motor_runs(motor)
    for row, places in (("top", ("bar",)), ("bottom", ("sensor", "light"))):
        members = [p for p in leaves if registry[p.kind].place in places]
        members.sort(key=lambda p: (not (reach[p.id] & shared),))
        shapes += _row(row, members, {p.id: bool(reach[p.id] & shared) for p in members})
    join_run = {}
    leaf_of: dict[str, tuple[str, ...]] = {}
    for join in bike.joins:
        owners = tuple(p.id for p in (*packs, *motors, *leaves) if join.id in reach[p.id])
        leaf_of[join.id] = owners
        join_run[join.id] = "run:trunk" if len(owners) > 1 else f"run:{owners[0]}" if owners else f"part:{controller.id}"
    return LineLayout(tuple(shapes), join_run, leaf_of, controller.id, motors[0].id if motors else "")


def _from_leaf(bike: Bike, part: Part, controller: str) -> set[str]:
    """Return the joins on the ways from a part to the controller (branches to other leaves left out)."""
    joins, cables = hangs_on(bike, part)
    kept = set()
    for join_id in joins:
        ends = {p for p, _ in bike.join(join_id).sides()}
        others = ends - cables - {part.id, controller}
        if not others:
            kept.add(join_id)
    return kept


def _shared(reach: dict[str, set[str]], leaves: list[str]) -> set[str]:
    counts: dict[str, int] = {}
    for leaf in leaves:
        for join in reach[leaf]:
            counts[join] = counts.get(join, 0) + 1
    return {join for join, count in counts.items() if count > 1}


def _motor_runs(motor: Part) -> list[Shape]:
    left, right = CONTROLLER[0] + CONTROLLER[2], MOTOR[0]
    runs = []
    roles = {pin.role for port in motor.ports for pin in port.pins}
    for lanes, top, step, kind, label in ((HALL_LANES, 108.0, 8.0, "fine", "hall plug"), (PHASE_LANES, 150.0, 11.0, "run", "phases")):
        if lanes is HALL_LANES and not roles & {"hall_a"}:
            continue
        for k, lane in enumerate(lanes):
            y = top + k * step
            inset = (MOTOR[2] ** 2 - (y - MOTOR[1]) ** 2) ** 0.5
            middle = (left + right - MOTOR[2]) / 2
            at = (middle, top - 10) if lanes is HALL_LANES and k == 0 else (middle, y + 19) if lane == "w" else None
            runs.append(Shape(f"run:{motor.id}:{lane}", kind, label, ((left, y), (right - inset, y)), label_at=at))
    return runs


def _row(row: str, members: list[Part], on_trunk: dict[str, bool]) -> list[Shape]:
    """Return boxes and branches of one row, routed so that no two branches cross."""
    if not members:
        return []
    shapes: list[Shape] = []
    top = row == "top"
    span = (150.0, 950.0) if top else (300.0, 900.0)
    step = (span[1] - span[0]) / len(members)
    centres = [span[0] + step * (i + 0.5) for i in range(len(members))]
    edge = CONTROLLER[1] if top else CONTROLLER[1] + CONTROLLER[3]
    trunk = [i for i, p in enumerate(members) if on_trunk[p.id]]
    taps = [CONTROLLER[0] + CONTROLLER[2] * (i + 1) / (len(members) + 1) for i in range(len(members))]
    box_edge = TOP_Y + LEAF[1] if top else BOTTOM_Y
    bar_y = edge - 16 if top else edge + 16
    if trunk:
        middle = (taps[trunk[0]] + taps[trunk[-1]]) / 2
        points = ((taps[trunk[0]], bar_y), (taps[trunk[-1]], bar_y), (middle, bar_y), (middle, edge))
        shapes.append(Shape("run:trunk", "run", "harness", points, label_at=(taps[trunk[0]] - 10, bar_y + 6)))
    room = abs(edge - box_edge) - (16 if trunk else 0)
    for i, part in enumerate(members):
        left = [k for k in range(len(members)) if centres[k] < taps[k] and k <= i]
        right = [k for k in range(len(members)) if centres[k] >= taps[k] and k >= i]
        rank = len(left) if centres[i] < taps[i] else len(right)
        count = max(sum(c < t for c, t in zip(centres, taps, strict=True)), sum(c >= t for c, t in zip(centres, taps, strict=True)))
        reach = (count - rank + 1) / (count + 1)
        lane = box_edge + (room * reach if top else -room * reach)
        start = bar_y if i in trunk else edge
        points = ((taps[i], start), (taps[i], lane), (centres[i], lane), (centres[i], box_edge))
        shapes.append(Shape(f"run:{part.id}", "run", part.name, points))
        y = TOP_Y if top else BOTTOM_Y
        shapes.append(Shape(f"part:{part.id}", "box", part.name, ((centres[i] - LEAF[0] / 2, y),), LEAF, "leaf"))
    return shapes


def shape_of(layout: LineLayout, circuit: Circuit, hypothesis: Hypothesis) -> str:
    """Return the id of the shape a hypothesis lives on, "" for the special ones."""
    if hypothesis.mode is None:
        return ""
    bike = circuit.bike
    place, _, rest = hypothesis.mode.id.partition("/")
    part_id, port_id, pin = place.split(".")
    if hypothesis.repair.id.startswith(("join:", "order:")):
        join = bike.join(hypothesis.repair.id.split(":")[1])
        return _lane(layout, circuit.nets, layout.join_run[join.id], f"{join.a_part}.{join.a_port}.{pin}")
    if bike.part(part_id).kind != "cable":
        return f"part:{part_id}"
    far_port = rest.split("/")[0].removeprefix("wire-to-").split(".")[0]
    runs = [layout.join_run[j.id] for p in (far_port, port_id) for j in bike.joins_of(part_id, p)]
    own = [run for run in runs if run != "run:trunk"]
    return _lane(layout, circuit.nets, (own or runs or [f"part:{layout.controller}"])[0], f"{part_id}.{port_id}.{pin}")


def _lane(layout: LineLayout, nets: Nets, run: str, pin: str) -> str:
    if run != f"run:{layout.motor}":
        return run
    roles = nets.roles_of(pin)
    for role in roles:
        if role.startswith(("phase_", "hall_")):
            return f"{run}:{role[-1]}"
    return f"{run}:rest"


def membership(layout: LineLayout, circuit: Circuit, hypotheses: HypothesisSet) -> tuple[str, ...]:
    """Return the shape id of every hypothesis."""
    return tuple(shape_of(layout, circuit, item) for item in hypotheses.items)


def probe_point(layout: LineLayout, circuit: Circuit, pin: str) -> Point:
    """Return where on the drawing a pin is: along its stretch, near the end it belongs to."""
    part_id, port_id, _ = pin.split(".")
    join = next(iter(circuit.bike.joins_of(part_id, port_id)), None)
    if join is None:
        return _middle(layout.shape(f"part:{part_id}"))
    shape = layout.shape(_lane(layout, circuit.nets, layout.join_run[join.id], pin)) or layout.shape(f"part:{layout.controller}")
    if shape is None or shape.kind in ("box", "round"):
        return _middle(shape)
    owners = layout.leaf_of_join[join.id]
    ends = {p for p, _ in join.sides()}
    share = 0.5
    if layout.controller in ends:
        share = 0.22
    elif ends & set(owners):
        share = 0.78
    share += 0.08 if part_id in owners else -0.08 if part_id == layout.controller else 0.0
    if owners and circuit.registry[circuit.bike.part(owners[0]).kind].place == "energy":
        share = 1.0 - share
    return _along(shape.points, share)


def _middle(shape: Shape | None) -> Point:
    if shape is None:
        return (WIDTH / 2, HEIGHT / 2)
    x, y = shape.points[0]
    return (x, y) if shape.kind == "round" else (x + shape.size[0] / 2, y + shape.size[1] / 2)


def _along(points: tuple[Point, ...], share: float) -> Point:
    lengths = [abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in zip(points, points[1:], strict=False)]
    left = share * sum(lengths)
    for (a, b), length in zip(zip(points, points[1:], strict=False), lengths, strict=True):
        if left <= length and length > 0:
            t = left / length
            return (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]))
        left -= length
    return points[-1]


def stretch_title(layout: LineLayout, circuit: Circuit, shape: Shape) -> str:
    """Return words for a shape, for its text equivalent."""
    if shape.id.startswith("part:"):
        return shape.label
    owner = shape.id.split(":")[1]
    if owner == "trunk":
        return "Harness trunk"
    lane = shape.id.split(":")[2] if shape.id.count(":") > 1 else ""
    if lane:
        return (
            f"Hall {lane.upper()} wire"
            if lane in "abc"
            else f"Phase {lane.upper()} wire"
            if lane in "uvw"
            else "Hall supply, ground and sensors"
        )
    joins = [circuit.bike.join(j) for j, run in layout.join_run.items() if run == shape.id]
    return f"Lead to {circuit.bike.part(owner).name} ({', '.join(_titles(circuit.bike, joins))})"


def _titles(bike: Bike, joins: list[Join]) -> list[str]:
    return list(dict.fromkeys(join_title(bike, join) for join in joins))
