"""What the wiring sheet is made of: boxes, plugs, spots and lines, and the page they are drawn
on."""

from dataclasses import dataclass, field

A4 = (794.0, 1123.0)
"""A4 upright at 96 per inch."""

MARGIN, HEAD, FOOT = 24.0, 46.0, 40.0
ROW, PIN_SIZE, HEAD_SIZE = 12.0, 8.5, 9.5
WIDTHS = ((170.0, 230.0), (150.0, 200.0), (130.0, 176.0), (104.0, 152.0))
"""Widths of a box with plugs on one side and on two, the widest that can still be read is taken."""

NARROW = ((88.0, 128.0),)
"""Narrower still, where no pins are named."""

LANE, SIDE = 6.0, 10.0
STEP = 3.0
"""Boxes are moved by this much where a pin would stand opposite to one it is not joined to."""

GOOD_PT, LEAST_PT = 6.2, 5.4
"""Print that reads well, and the smallest that is still read; below it wires are drawn as one line
a plug."""


@dataclass(slots=True)
class Spot:
    """Where a wire meets a part: a pin, or in a bundled drawing a plug.

    `face` is -1 for the left side, 1 for the right.
    """

    id: str
    words: str
    number: int
    colour: str
    face: int
    dy: float
    x: float = 0.0
    y: float = 0.0

    @property
    def part(self) -> str:
        """The id of the part that it is on."""
        return self.id.split(".")[0]


@dataclass(slots=True)
class Group:
    """A plug on the side of its part: heading and pins."""

    port: str
    join: str
    heading: str
    face: int
    dy: float
    height: float
    spots: list[Spot]


@dataclass(slots=True)
class Box:
    """A part on the drawing."""

    part: str
    title: str
    column: int
    height: float
    groups: list[Group]
    faces: int
    x: float = 0.0
    y: float = 0.0
    width: float = 0.0

    def spots(self) -> list[Spot]:
        """Return the spots of all plugs."""
        return [spot for group in self.groups for spot in group.spots]


@dataclass(slots=True)
class Line:
    """A wire between two spots, at right angles; `count` wires in a bundled drawing."""

    join: str
    ends: tuple[str, str]
    colour: str
    thick: bool
    count: int
    points: list[tuple[float, float]] = field(default_factory=list)


@dataclass(slots=True)
class Sheet:
    """The whole drawing in its own units, and the scale that brings it on the page."""

    boxes: list[Box]
    lines: list[Line]
    width: float
    height: float
    bundled: bool

    @property
    def page(self) -> tuple[float, float]:
        """Return width and height of the A4 page: lying or upright, whichever shows the drawing
        larger."""
        return max((A4[::-1], A4), key=self._scale_on)

    def _scale_on(self, page: tuple[float, float]) -> float:
        return min(
            1.3, (page[0] - 2 * MARGIN) / self.width, (page[1] - HEAD - FOOT - MARGIN) / self.height
        )

    @property
    def scale(self) -> float:
        """Return units of the page per unit of the drawing; at most 1.3."""
        return self._scale_on(self.page)

    @property
    def least_pt(self) -> float:
        """Return the size of the smallest print in points."""
        return PIN_SIZE * self.scale * 0.75


def channel_of(column: int, face: int) -> int:
    """Return the channel a face looks into; channel n lies between columns n and n + 1."""
    if face > 0:
        return column
    return column - 1
