"""The middle of the Line: packs and their leads on the left, motors and lanes on the right."""

from dataclasses import dataclass

from brightcore.bike.model import Part
from brightcore.circuit.netlist import Circuit
from brightcore.drawing.line_shapes import (
    CONTROLLER_W,
    CONTROLLER_X,
    LEAD,
    MOTOR_X,
    PACK_W,
    PACK_X,
    SMALL_MOTOR_X,
    Point,
    Shape,
    column,
    fitting,
)

PACK_H, SEVERAL_PACKS_H = 78.0, 46.0
MOTOR_RADIUS, SEVERAL_MOTORS_H = 62.0, 76.0
LARGE_FROM = 50.0
"""From this radius on a motor has room for lanes at their full distance."""

SPLIT_X = CONTROLLER_X - 44.0
"""Where the lead parts to several controllers."""


def energy(packs: list[Part], ends: list[float], height: float) -> list[Shape]:
    """Return packs and the leads from them: one lead each, and a common one behind the junction of
    several. `ends` are the heights of the controllers."""
    size = PACK_H if len(packs) == 1 else fitting(len(packs), height, SEVERAL_PACKS_H)
    centres = column([p.id for p in packs], height, size)
    middle = sum(centres.values()) / len(centres)
    shapes = []
    for pack in packs:
        corner = (PACK_X, centres[pack.id] - size / 2)
        shapes.append(Shape(f"part:{pack.id}", "box", pack.name, (corner,), (PACK_W, size), "pack"))
    last = _to_controllers(ends, middle)
    if len(packs) == 1:
        return [*shapes, _only_lead(packs[0], middle, last, len(ends))]
    return [*shapes, *_leads(packs, centres, middle, last)]


def _to_controllers(ends: list[float], middle: float) -> list[Point]:
    """Return the last points of the lead, to where the controllers are."""
    if len(ends) == 1 and abs(ends[0] - middle) < 1:
        return [(CONTROLLER_X, ends[0])]
    # To several controllers the lead runs out and back from one split: one line without lifting
    # the pen, which is what a stretch of the drawing has to be to light up as one.
    points: list[Point] = [(SPLIT_X, middle)]
    for y in ends:
        points += [(SPLIT_X, y), (CONTROLLER_X, y), (SPLIT_X, y)]
    return points


def _only_lead(pack: Part, middle: float, last: list[Point], controllers: int) -> Shape:
    right = PACK_X + PACK_W
    # Where the lead splits, its name moves away from the split.
    aside = 30.0 if controllers > 1 else 0.0
    label_at = ((right + CONTROLLER_X) / 2 - aside, middle - 12)
    points = ((right, middle), *last)
    return Shape(f"run:{pack.id}", "run", "main lead", points, label_at=label_at)


def _leads(
    packs: list[Part], centres: dict[str, float], middle: float, last: list[Point]
) -> list[Shape]:
    """Return the lead of each pack to the junction, and the common one from there."""
    right = PACK_X + PACK_W
    junction = right + 74.0
    shapes = []
    for pack in packs:
        y = centres[pack.id]
        points = ((right, y), (junction, y), (junction, middle))
        shapes.append(Shape(f"run:{pack.id}", "run", f"lead of {pack.name}", points))
    label_at = ((junction + SPLIT_X) / 2 + 6, middle - 12)
    common = ((junction, middle), *last)
    return [*shapes, Shape(LEAD, "run", "main lead", common, label_at=label_at)]


def drives(
    circuit: Circuit, motors: list[Part], boxes: dict[str, float], height: float
) -> list[Shape]:
    """Return motors and the lanes to them, each beside the controller that drives it. `boxes` are
    the heights of the controllers by their ids."""
    if len(motors) == 1 and len(boxes) == 1:
        radius = MOTOR_RADIUS
    else:
        radius = fitting(max(len(motors), len(boxes)), height, SEVERAL_MOTORS_H) / 2
    x = MOTOR_X if radius > LARGE_FROM else SMALL_MOTOR_X
    spare = column([m.id for m in motors], height, 2 * radius - 20.0)
    shapes: list[Shape] = []
    for motor in motors:
        driver = _driver_of(circuit, motor, boxes)
        # A motor stands level with the controller that drives it, so that its lanes run straight;
        # motors beyond that share the column evenly.
        y = boxes[driver] if driver and len(motors) <= len(boxes) else spare[motor.id]
        shapes.append(
            Shape(f"part:{motor.id}", "round", motor.name, ((x, y),), (radius, radius), "motor")
        )
        shapes += _lanes_of(motor, (x, y), radius)
    return shapes


def _driver_of(circuit: Circuit, motor: Part, boxes: dict[str, float]) -> str:
    """Return the controller that a motor's phases lead to, "" for none."""
    mates = circuit.nets.mates(motor.id, "phase_u", "phase_v", "phase_w")
    return next((name for name in boxes if name in mates), "")


@dataclass(frozen=True, slots=True)
class Lanes:
    """Wires of one plug of a motor, side by side: `top` is the height of the first over the middle
    of the motor, `step` their distance."""

    names: tuple[str, ...]
    top: float
    step: float
    kind: str
    label: str


def _lanes_of(motor: Part, at: Point, radius: float) -> list[Shape]:
    """Return the hall and phase lanes between a controller and its motor."""
    large = radius > LARGE_FROM
    # Beside a small motor the lanes move together, so that all of them still end on its circle.
    small = min(radius / 38.0, 1.0)
    if large:
        halls = Lanes(("a", "b", "c", "rest"), -31.0, 8.0, "fine", "hall plug")
        phases = Lanes(("u", "v", "w"), 11.0, 11.0, "run", "phases")
    else:
        halls = Lanes(("a", "b", "c", "rest"), -20.0 * small, 5.0 * small, "fine", "hall plug")
        phases = Lanes(("u", "v", "w"), 4.0 * small, 7.0 * small, "run", "phases")
    shapes = []
    if motor.has_role("hall_a"):
        over = (_middle_x(at, radius), at[1] + halls.top - 10)
        shapes += _drawn(motor, at, radius, halls, {"a": over})
    below = {}
    if large:
        last = at[1] + phases.top + 2 * phases.step
        below = {"w": (_middle_x(at, radius), last + 19)}
    return [*shapes, *_drawn(motor, at, radius, phases, below)]


def _middle_x(at: Point, radius: float) -> float:
    """Return the middle between the controller and the circle of a motor."""
    return (CONTROLLER_X + CONTROLLER_W + at[0] - radius) / 2


def _drawn(
    motor: Part, at: Point, radius: float, lanes: Lanes, labels: dict[str, Point]
) -> list[Shape]:
    right, centre = at
    left = CONTROLLER_X + CONTROLLER_W
    shapes = []
    for k, name in enumerate(lanes.names):
        y = centre + lanes.top + k * lanes.step
        # The lane ends on the circle, not at its middle.
        inset = (radius**2 - (y - centre) ** 2) ** 0.5
        points = ((left, y), (right - inset, y))
        shapes.append(
            Shape(
                f"run:{motor.id}:{name}",
                lanes.kind,
                lanes.label,
                points,
                label_at=labels.get(name),
            )
        )
    return shapes
