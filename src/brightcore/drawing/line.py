"""The Line: where every part and stretch of a bike is drawn, and which faults live on it.

Energy runs left to right (pack, lead, controller, motor); bar controls hang above, sensors
and lamps below. Everything that joins one leaf part to the controller is one stretch; what
several leaves share is the trunk.
"""

from collections import deque
from dataclasses import dataclass, replace

from brightcore.bike.model import Bike, Join, Part
from brightcore.circuit.netlist import Circuit, join_title
from brightcore.circuit.nets import Nets
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Registry
from brightcore.kinds.select import as_cable, at_place
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet

WIDTH, HEIGHT, TALL = 1140.0, 240.0, 300.0
"""Size of the drawing; it is taller where there are two controllers."""

CONTROLLER_X, CONTROLLER_W = 452.0, 168.0
PACK_X, PACK_W = 14.0, 132.0
MOTOR_X, SMALL_MOTOR_X = 1046.0, 986.0
LEAF = (150.0, 34.0)
TAG = 20.0
TOP_Y = 4.0
TRUNK = "run:trunk"
"""The stretch that everything of a harness shares."""

HALL_LANES = ("a", "b", "c", "rest")
PHASE_LANES = ("u", "v", "w")

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Shape:
    """A part (`box`, `round`, `tag`) or a stretch (`run`, `fine`), with its label and place."""

    id: str
    kind: str
    label: str
    points: tuple[Point, ...]
    size: Point = (0.0, 0.0)
    symbol: str = ""
    label_at: Point | None = None


@dataclass(frozen=True)
class LineLayout:
    """All shapes of a bike's Line; ids are `part:…` and `run:…`. `controllers` and `motors` hold
    part ids."""

    shapes: tuple[Shape, ...]
    join_run: dict[str, str]
    leaf_of_join: dict[str, tuple[str, ...]]
    controllers: tuple[str, ...]
    motors: tuple[str, ...]
    height: float = HEIGHT

    def shape(self, shape_id: str) -> Shape | None:
        """Return the shape of that id."""
        return next((s for s in self.shapes if s.id == shape_id), None)


def joins_between(bike: Bike, registry: Registry, start: str, ends: set[str]) -> set[str]:
    """Return the joins on the ways from a part to any of `ends` through inline parts (cables,
    modules)."""
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
    nodes = inline | ends | {start}
    left = {}
    for j in bike.joins:
        if {p for p, _ in j.sides()} <= nodes:
            left[j.id] = {p for p, _ in j.sides()}
    left = {
        j: sides for j, sides in left.items() if not sides <= ends and sides & (inline | {start})
    }
    while True:
        loose = set()
        for node in inline:
            # A branch that ends nowhere (the lamp's end of a splitter) is no part of the way; it is
            # taken off until only what leads through is left.
            if sum(node in sides for sides in left.values()) == 1:
                loose.add(node)
        kept = {j: sides for j, sides in left.items() if not sides & loose}
        if len(kept) == len(left):
            return set(kept)
        left = kept


def layout_line(circuit: Circuit) -> LineLayout:
    """Return the shapes of a bike's Line; the same description gives the same drawing."""
    bike, registry = circuit.bike, REGISTRY
    controllers = at_place(bike, "controller")
    motors = [p for p in bike.parts if registry[p.kind].place == "motor"]
    packs = [p for p in bike.parts if registry[p.kind].place == "energy"]
    leaves = [p for p in bike.parts if registry[p.kind].place in ("bar", "sensor", "light")]
    ends = {p.id for p in controllers}
    reach = {p.id: joins_between(bike, registry, p.id, ends) for p in (*packs, *motors, *leaves)}
    shared = _shared(reach, [p.id for p in leaves])
    height = HEIGHT if max(len(controllers), len(motors)) == 1 else TALL
    if len(controllers) == 1:
        tall = 82.0
    else:
        tall = _fitting(len(controllers), height, 56.0)
    boxes = _column([p.id for p in controllers], height, tall)
    shapes = [
        Shape(
            f"part:{p.id}",
            "box",
            p.name,
            ((CONTROLLER_X, boxes[p.id] - tall / 2),),
            (CONTROLLER_W, tall),
            "controller",
        )
        for p in controllers
    ]
    shapes += _energy(packs, [boxes[p.id] for p in controllers], height)
    shapes += _drives(circuit, motors, boxes, height)
    edges = (
        shapes[0].points[0][1],
        shapes[len(controllers) - 1].points[0][1] + shapes[len(controllers) - 1].size[1],
    )
    for row, places in (("top", ("bar",)), ("bottom", ("sensor", "light"))):
        members = [p for p in leaves if registry[p.kind].place in places]
        # Those on the harness stand side by side, so that its trunk is one line and no branch
        # crosses it.
        members.sort(key=lambda p: (not (reach[p.id] & shared),))
        shapes += _row(
            row,
            members,
            {p.id: bool(reach[p.id] & shared) for p in members},
            edges[row == "bottom"],
            height,
        )
    shapes = _one_trunk(shapes)
    join_run = {}
    leaf_of: dict[str, tuple[str, ...]] = {}
    for join in bike.joins:
        owners = tuple(p.id for p in (*packs, *motors, *leaves) if join.id in reach[p.id])
        leaf_of[join.id] = owners
        energy = []
        for o in owners:
            if o in {p.id for p in packs}:
                energy.append(o)
        if len(energy) == 1:
            one = energy[0]
        elif len(owners) == 1:
            one = owners[0]
        else:
            one = ""
        several = "run:lead" if energy else TRUNK
        join_run[join.id] = (
            f"run:{one}" if one else several if owners else f"part:{controllers[0].id}"
        )
    layout = LineLayout(
        tuple(shapes),
        join_run,
        leaf_of,
        tuple(p.id for p in controllers),
        tuple(p.id for p in motors),
        height,
    )
    return replace(layout, shapes=(*shapes, *_tags(bike, registry, layout)))


def _fitting(count: int, height: float, wanted: float) -> float:
    """Return the height of each of `count` boxes in a column: as wanted, or what there is room
    for."""
    return min(wanted, (height - 56.0) / count - 6.0)


def _column(names: list[str], height: float, size: float) -> dict[str, float]:
    """Return the centre of each of the names, one below the other around the middle of the
    panel."""
    step = min(size + 24.0, (height - 56.0) / max(len(names), 1))
    middle = height / 2 + (19.0 if len(names) < 3 else 0.0)
    found: dict[str, float] = {}
    for i, name in enumerate(names):
        found[name] = middle + step * (i - (len(names) - 1) / 2)
    return found


def _energy(packs: list[Part], ends: list[float], height: float) -> list[Shape]:
    """Return packs and the leads from them: one lead each, and a common one behind the junction of
    several."""
    if len(packs) == 1:
        size = 78.0
    else:
        size = _fitting(len(packs), height, 46.0)
    centres = _column([p.id for p in packs], height, size)
    middle, split = sum(centres.values()) / len(centres), CONTROLLER_X - 44.0
    last: list[Point] = (
        [(CONTROLLER_X, ends[0])] if len(ends) == 1 and abs(ends[0] - middle) < 1 else []
    )
    if not last:
        # To several controllers the lead runs out and back from one split: one line without lifting
        # the pen, which is what a stretch of the drawing has to be to light up as one.
        last = [(split, middle)]
        for y in ends:
            last += [(split, y), (CONTROLLER_X, y), (split, y)]
    shapes = [
        Shape(
            f"part:{p.id}",
            "box",
            p.name,
            ((PACK_X, centres[p.id] - size / 2),),
            (PACK_W, size),
            "pack",
        )
        for p in packs
    ]
    right = PACK_X + PACK_W
    if len(packs) == 1:
        label = ((right + CONTROLLER_X) / 2 - (30.0 if len(ends) > 1 else 0.0), middle - 12)
        return [
            *shapes,
            Shape(
                f"run:{packs[0].id}", "run", "main lead", ((right, middle), *last), label_at=label
            ),
        ]
    junction = right + 74.0
    for p in packs:
        y = centres[p.id]
        shapes.append(
            Shape(
                f"run:{p.id}",
                "run",
                f"lead of {p.name}",
                ((right, y), (junction, y), (junction, middle)),
            )
        )
    return [
        *shapes,
        Shape(
            "run:lead",
            "run",
            "main lead",
            ((junction, middle), *last),
            label_at=((junction + split) / 2 + 6, middle - 12),
        ),
    ]


def _drives(
    circuit: Circuit, motors: list[Part], boxes: dict[str, float], height: float
) -> list[Shape]:
    """Return motors and the lanes to them, each beside the controller that drives it."""
    shapes: list[Shape] = []
    if len(motors) == 1 and len(boxes) == 1:
        radius = 62.0
    else:
        radius = _fitting(max(len(motors), len(boxes)), height, 76.0) / 2
    spare = _column([m.id for m in motors], height, 2 * radius - 20.0)
    for motor in motors:
        drivers = []
        for c in boxes:
            if c in circuit.nets.mates(motor.id, "phase_u", "phase_v", "phase_w"):
                drivers.append(c)
        # A motor stands level with the controller that drives it, so that its lanes run straight;
        # motors beyond that share the column evenly.
        if drivers and len(motors) <= len(boxes):
            y = boxes[drivers[0]]
        else:
            y = spare[motor.id]
        x = MOTOR_X if radius > 50 else SMALL_MOTOR_X
        shapes.append(
            Shape(f"part:{motor.id}", "round", motor.name, ((x, y),), (radius, radius), "motor")
        )
        shapes += _lanes(motor, (x, y), radius)
    return shapes


def _shared(reach: dict[str, set[str]], leaves: list[str]) -> set[str]:
    counts: dict[str, int] = {}
    for leaf in leaves:
        for join in reach[leaf]:
            counts[join] = counts.get(join, 0) + 1
    return {join for join, count in counts.items() if count > 1}


def _lanes(motor: Part, at: Point, radius: float) -> list[Shape]:
    """Return the hall and phase lanes between a controller and its motor."""
    left, large = CONTROLLER_X + CONTROLLER_W, radius > 50
    right, centre = at
    runs = []
    roles = set()
    for port in motor.ports:
        for pin in port.pins:
            roles.add(pin.role)
    small = min(radius / 38.0, 1.0)
    if large:
        tops = (centre - 31, centre + 11)
    else:
        tops = (centre - 20 * small, centre + 4 * small)
    for lanes, top, step, kind, label in (
        (HALL_LANES, tops[0], 8.0 if large else 5.0 * small, "fine", "hall plug"),
        (PHASE_LANES, tops[1], 11.0 if large else 7.0 * small, "run", "phases"),
    ):
        if lanes is HALL_LANES and not roles & {"hall_a"}:
            continue
        for k, lane in enumerate(lanes):
            y = top + k * step
            # The lane ends on the circle, not at its middle.
            inset = (radius**2 - (y - centre) ** 2) ** 0.5
            middle = (left + right - radius) / 2
            if lanes is HALL_LANES and k == 0:
                label_at = (middle, top - 10)
            elif lane == "w" and large:
                label_at = (middle, y + 19)
            else:
                label_at = None
            runs.append(
                Shape(
                    f"run:{motor.id}:{lane}",
                    kind,
                    label,
                    ((left, y), (right - inset, y)),
                    label_at=label_at,
                )
            )
    return runs


def _row(
    row: str, members: list[Part], on_trunk: dict[str, bool], edge: float, height: float
) -> list[Shape]:
    """Return boxes and branches of one row, routed so that no two branches cross."""
    if not members:
        return []
    shapes: list[Shape] = []
    top = row == "top"
    span = (150.0, 950.0) if top else (300.0, 900.0)
    if len(members) * (LEAF[0] + 8) > span[1] - span[0]:
        span = (10.0 if top else 330.0, 980.0)
    step = (span[1] - span[0]) / len(members)
    width = min(LEAF[0], step - 8)
    centres = [span[0] + step * (i + 0.5) for i in range(len(members))]
    trunk = [i for i, p in enumerate(members) if on_trunk[p.id]]
    taps = [CONTROLLER_X + CONTROLLER_W * (i + 1) / (len(members) + 1) for i in range(len(members))]
    at_y = TOP_Y if top else height - LEAF[1] - 4.0
    box_edge = at_y + LEAF[1] if top else at_y
    bar_y = edge - 16 if top else edge + 16
    if trunk:
        middle = (taps[trunk[0]] + taps[trunk[-1]]) / 2
        points = (
            (taps[trunk[0]], bar_y),
            (taps[trunk[-1]], bar_y),
            (middle, bar_y),
            (middle, edge),
        )
        words_at = (taps[trunk[0]] - 10, bar_y + (6 if top else -4))
        shapes.append(Shape(TRUNK, "run", "harness", points, label_at=words_at))
    room = abs(edge - box_edge) - (16 if trunk else 0)
    for i, part in enumerate(members):
        # A branch that goes left is laid the deeper the further right it begins, and the other way
        # round: nested elbows do not cross.
        left = []
        for k in range(len(members)):
            if centres[k] < taps[k] and k <= i:
                left.append(k)
        right = []
        for k in range(len(members)):
            if centres[k] >= taps[k] and k >= i:
                right.append(k)
        rank = len(left) if centres[i] < taps[i] else len(right)
        count = max(
            sum(c < t for c, t in zip(centres, taps, strict=True)),
            sum(c >= t for c, t in zip(centres, taps, strict=True)),
        )
        reach = (count - rank + 1) / (count + 1)
        lane = box_edge + (room * reach if top else -room * reach)
        start = bar_y if i in trunk else edge
        points = ((taps[i], start), (taps[i], lane), (centres[i], lane), (centres[i], box_edge))
        shapes.append(Shape(f"run:{part.id}", "run", part.name, points))
        shapes.append(
            Shape(
                f"part:{part.id}",
                "box",
                part.name,
                ((centres[i] - width / 2, at_y),),
                (width, LEAF[1]),
                "leaf",
            )
        )
    return shapes


def _one_trunk(shapes: list[Shape]) -> list[Shape]:
    """Return the shapes with the trunks of both rows as one stretch (it passes behind the
    controller)."""
    trunks = [s for s in shapes if s.id == TRUNK]
    if len(trunks) < 2:
        return shapes
    merged = replace(trunks[0], points=(*trunks[0].points, *trunks[1].points[::-1]))
    found: list[Shape] = []
    for s in shapes:
        if s is not trunks[1]:
            found.append(merged if s is trunks[0] else s)
    return found


def _tags(bike: Bike, registry: Registry, layout: LineLayout) -> list[Shape]:
    """Return a small square on the stretch of every inline module that is no cable."""
    tags = []
    for part in bike.parts:
        if not registry[part.kind].inline or as_cable(part) is not None:
            continue
        runs = [layout.join_run[j.id] for j in bike.joins_of(part.id)]
        shared = [run for run in runs if run == "run:lead"]
        shape = next(
            (
                s
                for run in (*shared, *runs)
                if (s := layout.shape(run)) is not None and s.kind == "run"
            ),
            None,
        )
        if shape is None:
            continue
        x, y = shape.points[0] if shape.id == "run:lead" else _along(shape.points, 0.5)
        tags.append(
            Shape(
                f"part:{part.id}",
                "tag",
                part.name,
                ((x - TAG / 2, y - TAG / 2),),
                (TAG, TAG),
                "module",
            )
        )
    return tags


def shape_of(layout: LineLayout, circuit: Circuit, hypothesis: Hypothesis) -> str:
    """Return the id of the shape a hypothesis lives on, "" for the special ones."""
    if hypothesis.mode is None:
        return ""
    bike = circuit.bike
    place, _, rest = hypothesis.mode.id.partition("/")
    part_id, port_id, pin = place.split(".")
    if hypothesis.repair.id.startswith(("join:", "order:")):
        join = bike.join(hypothesis.repair.id.split(":")[1])
        return _lane(
            layout, circuit.nets, layout.join_run[join.id], f"{join.a_part}.{join.a_port}.{pin}"
        )
    if as_cable(bike.part(part_id)) is None:
        if layout.shape(f"part:{part_id}"):
            return f"part:{part_id}"
        return f"part:{layout.controllers[0]}"
    far_port = rest.split("/")[0].removeprefix("wire-to-").split(".")[0]
    runs = []
    for p in (far_port, port_id):
        for j in bike.joins_of(part_id, p):
            runs.append(layout.join_run[j.id])
    own = [run for run in runs if run != TRUNK]
    return _lane(
        layout,
        circuit.nets,
        (own or runs or [f"part:{layout.controllers[0]}"])[0],
        f"{part_id}.{port_id}.{pin}",
    )


def _lane(layout: LineLayout, nets: Nets, run: str, pin: str) -> str:
    if run.removeprefix("run:") not in layout.motors:
        if layout.shape(run):
            return run
        return f"part:{layout.controllers[0]}"
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
    shape = layout.shape(
        _lane(layout, circuit.nets, layout.join_run[join.id], pin)
    ) or layout.shape(f"part:{layout.controllers[0]}")
    if shape is None or shape.kind in ("box", "round", "tag"):
        return _middle(shape)
    owners = layout.leaf_of_join[join.id]
    ends = {p for p, _ in join.sides()}
    share = 0.5
    if set(layout.controllers) & ends:
        share = 0.22
    elif ends & set(owners):
        share = 0.78
    share += 0.08 if part_id in owners else -0.08 if part_id in layout.controllers else 0.0
    if owners and REGISTRY[circuit.bike.part(owners[0]).kind].place == "energy":
        share = 1.0 - share
    return _along(shape.points, share)


def _middle(shape: Shape | None) -> Point:
    if shape is None:
        return (WIDTH / 2, HEIGHT / 2)
    x, y = shape.points[0]
    if shape.kind == "round":
        return (x, y)
    return (x + shape.size[0] / 2, y + shape.size[1] / 2)


def _along(points: tuple[Point, ...], share: float) -> Point:
    lengths = [
        abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in zip(points, points[1:], strict=False)
    ]
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
    if owner in ("trunk", "lead"):
        if owner == "trunk":
            return "Harness trunk"
        return "Main lead, both packs"
    lane = shape.id.split(":")[2] if shape.id.count(":") > 1 else ""
    if lane:
        if lane in "abc":
            return f"Hall {lane.upper()} wire"
        if lane in "uvw":
            return f"Phase {lane.upper()} wire"
        return "Hall supply, ground and sensors"
    joins = []
    for j, run in layout.join_run.items():
        if run == shape.id:
            joins.append(circuit.bike.join(j))
    if joins:
        plugs = f" ({', '.join(_titles(circuit.bike, joins))})"
    else:
        plugs = ""
    return f"Lead to {circuit.bike.part(owner).name}{plugs}"


def _titles(bike: Bike, joins: list[Join]) -> list[str]:
    return list(dict.fromkeys(join_title(bike, join) for join in joins))
