"""The boxes of the wiring drawing: what stands in each, and how high, so that most wires run
straight."""

from collections import Counter

from brightcore.bike.model import Bike, Join, Part, Port
from brightcore.drawing.sheet_model import ROW, STEP, Box, Group, Spot, channel_of

MOST_SPREAD = ROW * 6
"""A box is drawn out for a wire to run straight by at most this between two plugs."""

Joined = dict[tuple[str, str], tuple[int, Join]]
"""The join of every joined plug and its number."""


def draft(bike: Bike, part: Part, columns: dict[str, int], at: Joined, bundled: bool) -> Box:
    """Return a part's box with its plugs on the side that looks at their mates."""
    own = columns[part.id]
    groups: list[Group] = []
    bare = len(part.ports) == 1
    bottoms = {-1: 0.0 if bare else ROW, 1: 0.0 if bare else ROW}
    before = {-1: "", 1: ""}
    for port in part.ports:
        number, join = at.get((part.id, port.id), (0, None))
        face = _face(own, columns, part, port, join)
        if join:
            mate = next((p for p, _ in join.sides() if p != part.id), "")
        else:
            mate = ""
        outward = own == 0 or (face > 0) == (own > 0)
        top = bottoms[face]
        if top > ROW:
            # The first plug of a side stands right below the name of the part.
            top += _gap(bike, before[face], mate) if outward else ROW * 0.5
        before[face] = mate or "-"
        spots = _spots(part, port, join, face, top, bundled)
        heading = f"{number} " if join else "free "
        heading += "" if bare else port.label or port.id
        height = ROW if bundled else ROW * (1 + len(spots))
        name, join_id = f"{part.id}.{port.id}", join.id if join else ""
        groups.append(Group(name, join_id, heading.strip(), face, top, height, spots))
        bottoms[face] = top + height
    height = max((g.dy + g.height for g in groups), default=ROW) + ROW * 0.4
    return Box(part.id, part.name, own, height, groups, len({g.face for g in groups}))


def _gap(bike: Bike, before: str, mate: str) -> float:
    """Return the room before a plug, so that its mate's box can stand level with it: less where
    both plugs lead to one box."""
    if mate and mate == before:
        return ROW * 0.5
    if mate and len(bike.part(mate).ports) > 1:
        return ROW * 2
    return ROW


def _face(own: int, columns: dict[str, int], part: Part, port: Port, join: Join | None) -> int:
    outward = 1 if own >= 0 else -1
    if join is None:
        if own:
            return outward
        return 1
    other = next((p for p, q in join.sides() if (p, q) != (part.id, port.id)), part.id)
    there = columns[other]
    if there == own:
        return outward
    if there > own:
        return 1
    return -1


def _spots(
    part: Part, port: Port, join: Join | None, face: int, top: float, bundled: bool
) -> list[Spot]:
    name = f"{part.id}.{port.id}"
    if bundled:
        return [Spot(name, "", 0, "", face, top + ROW * 0.5)]
    spots = []
    for n, pin in enumerate(port.pins, 1):
        y = top + ROW * (n + 0.5)
        spots.append(Spot(f"{name}.{pin.name}", pin.words, n, pin.colour, face, y))
    return spots


def place_all(boxes: dict[str, Box], spots: dict[str, Spot], mates: dict[str, str]) -> None:
    """Set the heights of all boxes: controllers first, then outward column by column, each box
    level with what it is joined to."""
    placed: set[str] = set()
    bottom = 0.0
    for box in (b for b in boxes.values() if b.column == 0):
        _set_y(box, bottom)
        bottom += box.height + 2 * ROW
        placed |= {spot.id for spot in box.spots()}
    for column in sorted({b.column for b in boxes.values() if b.column}, key=lambda c: (abs(c), c)):
        here = [b for b in boxes.values() if b.column == column]
        wanted = {}
        for box in here:
            _sort_inner(box, spots, mates, placed)
            wanted[box.part] = _level(box, spots, mates, placed)
        opposite = []
        for spot in spots.values():
            channel = channel_of(boxes[spot.part].column, spot.face)
            if spot.id in placed and channel == _inner(column):
                opposite.append(spot)
        bottom = 0.0
        for box in sorted(here, key=lambda b: (wanted[b.part] is None, wanted[b.part] or 0.0)):
            y = max(wanted[box.part] or 0.0, bottom)
            # A wire that runs straight across must meet its own mate, not end level with a
            # stranger: two ends at one height would read as joined.
            while _collides(box, y, opposite, mates, column):
                y += STEP
            _set_y(box, y)
            bottom = y + box.height + ROW * 0.6
        for box in here:
            placed |= {spot.id for spot in box.spots()}


def _set_y(box: Box, y: float) -> None:
    box.y = y
    for spot in box.spots():
        spot.y = round(y + spot.dy, 2)


def _inner(column: int) -> int:
    if column > 0:
        return column - 1
    return column


def _sort_inner(box: Box, spots: dict[str, Spot], mates: dict[str, str], placed: set[str]) -> None:
    """Bring the plugs that look inward into the order of their mates."""
    face = -1 if box.column > 0 else 1
    inner = [g for g in box.groups if g.face == face]
    if len(inner) < 2:
        return

    def height(group: Group) -> float:
        """Return where the plug would stand for its first joined wire to run straight."""
        levels = []
        for spot in group.spots:
            if mates.get(spot.id) in placed:
                levels.append(spots[mates[spot.id]].y - spot.dy + group.dy)
        return min(levels, default=float("inf"))

    top, base = inner[0].dy, None
    for group, level in sorted(((g, height(g)) for g in inner), key=lambda pair: pair[1]):
        if base is None:
            base = level - top
        if level < float("inf"):
            dy = min(max(top, level - base), top + MOST_SPREAD)
        else:
            dy = top
        for spot in group.spots:
            spot.dy += dy - group.dy
        group.dy = dy
        top = dy + group.height + ROW * 0.5
    box.height = max(g.dy + g.height for g in box.groups) + ROW * 0.4


def _level(
    box: Box, spots: dict[str, Spot], mates: dict[str, str], placed: set[str]
) -> float | None:
    """Return the height at which most wires of a box run straight, None where nothing it is joined
    to is placed."""
    heights: Counter[float] = Counter()
    for group in sorted(box.groups, key=lambda g: g.dy):
        for spot in group.spots:
            if mates.get(spot.id) in placed:
                level = max(spots[mates[spot.id]].y - spot.dy, 0.0)
                heights[round(level, 2)] += 1
    if heights:
        return heights.most_common(1)[0][0]
    return None


def _collides(box: Box, y: float, opposite: list[Spot], mates: dict[str, str], column: int) -> bool:
    """Return whether a pin would stand level with one across the channel that it is not joined
    to."""
    for group in box.groups:
        if channel_of(column, group.face) != _inner(column):
            continue
        for spot in group.spots:
            for other in opposite:
                if abs(y + spot.dy - other.y) < STEP * 0.9 and mates.get(spot.id) != other.id:
                    return True
    return False
