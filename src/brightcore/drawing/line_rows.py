"""The rows of the Line above and below the controller: what stands in them, and how each part's
branch runs to the controller without crossing another."""

from dataclasses import dataclass, replace

from brightcore.bike.model import Part
from brightcore.drawing.line_shapes import (
    CONTROLLER_W,
    CONTROLLER_X,
    LEAF,
    TOP_Y,
    TRUNK,
    Point,
    Shape,
)

BAR_GAP = 16.0
"""How far the harness runs from the edge of the controller."""

BETWEEN = 8.0
"""Room between two parts of a row."""


@dataclass(frozen=True, slots=True)
class Side:
    """Where a row stands: its height, the edge that faces the controller, the edge of the
    controller, how wide it is, and how wide where it is full. `outwards` is −1 above, +1 below."""

    outwards: int
    at_y: float
    box_edge: float
    edge: float
    span: Point
    full_span: Point


def top_side(edge: float) -> Side:
    """Return the row above the controllers, whose upper edge is at `edge`."""
    return Side(-1, TOP_Y, TOP_Y + LEAF[1], edge, (150.0, 950.0), (10.0, 980.0))


def bottom_side(edge: float, height: float) -> Side:
    """Return the row below the controllers, whose lower edge is at `edge`."""
    at_y = height - LEAF[1] - TOP_Y
    return Side(1, at_y, at_y, edge, (300.0, 900.0), (330.0, 980.0))


@dataclass(frozen=True, slots=True)
class Branches:
    """A row with a place for every member: the centre of its box, and where its branch leaves the
    controller (its tap)."""

    side: Side
    centres: list[float]
    taps: list[float]
    width: float
    on_trunk: list[int]

    @property
    def bar_y(self) -> float:
        """The height of the harness."""
        return self.side.edge + self.side.outwards * BAR_GAP

    def lane_y(self, i: int) -> float:
        """Return the height at which a branch turns.

        A branch that goes left is laid the deeper the further right it begins, and the other way
        round: nested elbows do not cross.
        """
        goes_left = [centre < tap for centre, tap in zip(self.centres, self.taps, strict=True)]
        if goes_left[i]:
            rank = sum(goes_left[: i + 1])
        else:
            rank = len(goes_left[i:]) - sum(goes_left[i:])
        count = max(sum(goes_left), len(goes_left) - sum(goes_left))
        room = abs(self.side.edge - self.side.box_edge)
        if self.on_trunk:
            room -= BAR_GAP
        share = (count - rank + 1) / (count + 1)
        return self.side.box_edge - self.side.outwards * room * share


def _branches(side: Side, members: list[Part], on_trunk: set[str]) -> Branches:
    """Share out a row among its members."""
    count = len(members)
    span = side.span
    if count * (LEAF[0] + BETWEEN) > span[1] - span[0]:
        span = side.full_span
    step = (span[1] - span[0]) / count
    return Branches(
        side,
        [span[0] + step * (i + 0.5) for i in range(count)],
        [CONTROLLER_X + CONTROLLER_W * (i + 1) / (count + 1) for i in range(count)],
        min(LEAF[0], step - BETWEEN),
        [i for i, part in enumerate(members) if part.id in on_trunk],
    )


def row(side: Side, members: list[Part], on_trunk: set[str]) -> list[Shape]:
    """Return boxes and branches of one row; `on_trunk` are the ids of those on the harness."""
    if not members:
        return []
    branches = _branches(side, members, on_trunk)
    shapes = []
    if branches.on_trunk:
        shapes.append(_trunk(branches))
    for i, part in enumerate(members):
        centre, tap, lane = branches.centres[i], branches.taps[i], branches.lane_y(i)
        start = branches.bar_y if i in branches.on_trunk else side.edge
        points = ((tap, start), (tap, lane), (centre, lane), (centre, side.box_edge))
        corner = (centre - branches.width / 2, side.at_y)
        size = (branches.width, LEAF[1])
        shapes.append(Shape(f"run:{part.id}", "run", part.name, points))
        shapes.append(Shape(f"part:{part.id}", "box", part.name, (corner,), size, "leaf"))
    return shapes


def _trunk(branches: Branches) -> Shape:
    """Return the part of the harness that a row hangs on."""
    first, last = branches.taps[branches.on_trunk[0]], branches.taps[branches.on_trunk[-1]]
    middle = (first + last) / 2
    y = branches.bar_y
    points = ((first, y), (last, y), (middle, y), (middle, branches.side.edge))
    # The word stands beside the line, on the side that no branch leaves it.
    beside = 6.0 if branches.side.outwards < 0 else -4.0
    return Shape(TRUNK, "run", "harness", points, label_at=(first - 10, y + beside))


def one_trunk(shapes: list[Shape]) -> list[Shape]:
    """Return the shapes with the trunks of both rows as one stretch (it passes behind the
    controller)."""
    trunks = [s for s in shapes if s.id == TRUNK]
    if len(trunks) < 2:
        return shapes
    first, second = trunks
    merged = replace(first, points=(*first.points, *second.points[::-1]))
    others = [shape for shape in shapes if shape is not second]
    return [merged if shape is first else shape for shape in others]
