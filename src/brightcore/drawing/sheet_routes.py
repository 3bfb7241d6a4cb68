"""The ways of the wires of the wiring drawing: each in a lane of the channels between the columns.

Lanes are filled by the left-edge rule, so no two wires share a line (Hashimoto and Stevens, "Wire
routing by optimizing channel assignment", Design Automation Workshop, 1971, from memory).
"""

from dataclasses import dataclass

from brightcore.drawing.sheet_model import (
    LANE,
    ROW,
    SIDE,
    STEP,
    Box,
    Line,
    Sheet,
    Spot,
    channel_of,
)

LEVEL = 0.01
"""Ends nearer than this are level."""

Piece = tuple[int, int]
"""The number of a wire, and which of its upright pieces: 0 the only or the first one."""

Lanes = dict[int, dict[Piece, int]]
"""The lane of every upright piece, by channel."""


@dataclass(frozen=True, slots=True)
class Upright:
    """A piece of a wire that runs up or down in a channel: from its left end to its right one."""

    left_y: float
    right_y: float
    piece: Piece


@dataclass(frozen=True, slots=True)
class Run:
    """A wire with its two ends and the channels that they look into."""

    line: Line
    a: Spot
    b: Spot
    a_channel: int
    b_channel: int

    @property
    def is_across(self) -> bool:
        """Whether both ends look into one channel."""
        return self.a_channel == self.b_channel

    @property
    def is_straight(self) -> bool:
        """Whether it needs no lane: its ends look at each other and are level."""
        return self.a.face != self.b.face and abs(self.a.y - self.b.y) < LEVEL


def route(
    boxes: dict[str, Box],
    spots: dict[str, Spot],
    lines: list[Line],
    bundled: bool,
    widths: tuple[float, float],
) -> Sheet:
    """Give every wire its lanes, then every column its place."""
    runs = []
    for line in lines:
        a, b = (spots[end] for end in line.ends)
        channels = (channel_of(boxes[spot.part].column, spot.face) for spot in (a, b))
        runs.append(Run(line, a, b, *channels))
    bottom = max((box.y + box.height for box in boxes.values()), default=0.0)
    tracks = _tracks(runs, bottom)
    lanes = {}
    for channel, uprights in _uprights(runs, tracks).items():
        lanes[channel] = _lanes(uprights, lines)
    edges = _set_x(boxes, lanes, widths)
    for n, run in enumerate(runs):
        run.line.points = _points(n, run, tracks, lanes, edges)
    rights = [box.x + box.width for box in boxes.values()]
    for line in lines:
        rights += [x for x, _ in line.points]
    width = max(rights, default=1.0) + 2
    height = max([bottom, *tracks.values()], default=1.0) + 2
    return Sheet(list(boxes.values()), lines, width, height, bundled)


def _tracks(runs: list[Run], bottom: float) -> dict[int, float]:
    """Return the height below everything at which a wire between columns that are not neighbours
    runs: through the boxes there is no way."""
    tracks: dict[int, float] = {}
    for n, run in enumerate(runs):
        if not run.is_across:
            tracks[n] = bottom + ROW + LANE * len(tracks)
    return tracks


def _uprights(runs: list[Run], tracks: dict[int, float]) -> dict[int, list[Upright]]:
    """Return the pieces that need a lane, by channel."""
    uprights: dict[int, list[Upright]] = {}

    def needs(channel: int, upright: Upright) -> None:
        uprights.setdefault(channel, []).append(upright)

    for n, run in enumerate(runs):
        if not run.is_across:
            ends = ((run.a_channel, run.a), (run.b_channel, run.b))
            for k, (channel, spot) in enumerate(ends):
                if spot.face > 0:
                    needs(channel, Upright(spot.y, tracks[n], (n, k)))
                else:
                    needs(channel, Upright(tracks[n], spot.y, (n, k)))
        elif not run.is_straight:
            left, right = (run.a, run.b) if run.a.face > 0 else (run.b, run.a)
            needs(run.a_channel, Upright(left.y, right.y, (n, 0)))
    return uprights


def _points(
    n: int, run: Run, tracks: dict[int, float], lanes: Lanes, edges: dict[int, float]
) -> list[tuple[float, float]]:
    """Return the corners of a wire."""
    a, b = run.a, run.b

    def lane_x(channel: int, piece: Piece) -> float:
        return edges[channel] + SIDE + LANE * lanes[channel][piece]

    if not run.is_across:
        xa, xb = lane_x(run.a_channel, (n, 0)), lane_x(run.b_channel, (n, 1))
        y = tracks[n]
        return [(a.x, a.y), (xa, a.y), (xa, y), (xb, y), (xb, b.y), (b.x, b.y)]
    if run.is_straight:
        return [(a.x, a.y), (b.x, b.y)]
    x = lane_x(run.a_channel, (n, 0))
    return [(a.x, a.y), (x, a.y), (x, b.y), (b.x, b.y)]


def _lanes(uprights: list[Upright], lines: list[Line]) -> dict[Piece, int]:
    """Return the lane of every wire of a channel: those going down from the lowest, those going up
    from the highest, so that bundles do not cross themselves."""
    down = [u for u in uprights if u.right_y > u.left_y]
    rise = [u for u in uprights if u.right_y <= u.left_y]
    down.sort(key=lambda u: (-u.left_y, u.piece[0]))
    rise.sort(key=lambda u: (u.left_y, u.piece[0]))
    taken: list[list[tuple[float, float]]] = []
    lanes = {}
    least: dict[tuple[str, bool], int] = {}
    for upright in (*down, *rise):
        low = min(upright.left_y, upright.right_y) - STEP
        high = max(upright.left_y, upright.right_y) + STEP
        # Wires of one join that go the same way keep their order: each at least one lane further.
        bundle = lines[upright.piece[0]].join, upright.right_y > upright.left_y
        lane = _free_lane(taken, least.get(bundle, 0), low, high)
        while len(taken) <= lane:
            taken.append([])
        taken[lane].append((low, high))
        least[bundle] = lane + 1
        lanes[upright.piece] = lane
    return lanes


def _free_lane(taken: list[list[tuple[float, float]]], first: int, low: float, high: float) -> int:
    """Return the first lane from `first` on in which nothing lies between two heights."""
    for lane in range(first, len(taken)):
        if all(high < a or low > b for a, b in taken[lane]):
            return lane
    return max(len(taken), first)


def _set_x(boxes: dict[str, Box], lanes: Lanes, widths: tuple[float, float]) -> dict[int, float]:
    """Set the left edges of all columns; return the left edge of every channel."""
    columns = sorted({box.column for box in boxes.values()})
    edges: dict[int, float] = {}
    x = 0.0
    for channel in range(min(columns) - 1, max(columns) + 1):
        edges[channel] = x
        count = max(lanes.get(channel, {}).values(), default=-1) + 1
        inside = min(columns) <= channel < max(columns)
        if count or inside:
            x += 2 * SIDE + LANE * max(count - 1, 0)
        here = [box for box in boxes.values() if box.column == channel + 1]
        width = max((widths[box.faces > 1] for box in here), default=0.0)
        for box in here:
            box.x, box.width = x, width
            for spot in box.spots():
                spot.x = x + (width if spot.face > 0 else 0.0)
        x += width
    return edges
