"""What the Line is made of: shapes with a place, and the sizes that they share."""

from dataclasses import dataclass

WIDTH, HEIGHT, TALL = 1140.0, 240.0, 300.0
"""Size of the drawing; it is taller where there are two controllers."""

CONTROLLER_X, CONTROLLER_W = 452.0, 168.0
PACK_X, PACK_W = 14.0, 132.0
MOTOR_X, SMALL_MOTOR_X = 1046.0, 986.0
LEAF = (150.0, 34.0)
"""Width and height of a part of the bar, a sensor, a lamp."""

TAG = 20.0
TOP_Y = 4.0
MARGIN = 56.0
"""Height that the rows above and below leave to no column."""

TRUNK = "run:trunk"
"""The stretch that everything of a harness shares."""

LEAD = "run:lead"
"""The stretch that several packs share."""

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


def along(points: tuple[Point, ...], share: float) -> Point:
    """Return the point that lies a share of the way along a line of straight pieces."""
    pieces = list(zip(points, points[1:], strict=False))
    lengths = [abs(b[0] - a[0]) + abs(b[1] - a[1]) for a, b in pieces]
    left = share * sum(lengths)
    for (a, b), length in zip(pieces, lengths, strict=True):
        if left <= length and length > 0:
            t = left / length
            return (a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]))
        left -= length
    return points[-1]


def fitting(count: int, height: float, wanted: float) -> float:
    """Return the height of each of `count` boxes in a column: as wanted, or what there is room
    for."""
    return min(wanted, (height - MARGIN) / count - 6.0)


def column(names: list[str], height: float, size: float) -> dict[str, float]:
    """Return the centre of each of the names, one below the other around the middle of the
    panel."""
    step = min(size + 24.0, (height - MARGIN) / max(len(names), 1))
    # The row above is taller than the one below by its labels: a short column sits lower.
    lower = 19.0 if len(names) < 3 else 0.0
    middle = height / 2 + lower
    centres: dict[str, float] = {}
    for i, name in enumerate(names):
        centres[name] = middle + step * (i - (len(names) - 1) / 2)
    return centres
