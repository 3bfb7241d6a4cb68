"""Layout of the whole wiring on one A4 page: parts in columns around the controllers, wires at
right angles in lanes between them.

Deterministic: the same bike gives the same drawing. Lanes are filled by the left-edge rule, so no
two wires share a line (Hashimoto and Stevens, "Wire routing by optimizing channel assignment",
Design Automation Workshop, 1971, from memory).
"""

from collections import Counter
from collections.abc import Iterator

from brightcore.bike.model import Bike, Join, Part, Port
from brightcore.bike.roles import thick_roles
from brightcore.drawing.sheet_model import (
    GOOD_PT,
    LANE,
    LEAST_PT,
    NARROW,
    ROW,
    SIDE,
    STEP,
    WIDTHS,
    Box,
    Group,
    Line,
    Sheet,
    Spot,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import at_place

THICK = frozenset(thick_roles())
"""Roles of the wires that are drawn thick."""


def layout_sheet(bike: Bike) -> Sheet:
    """Return the drawing of a bike, wire by wire; plug by plug where that would be too small to
    read."""
    for bundled in (False, True):
        boxes, spots, lines = _arrange(bike, bundled)
        # Routed once at the widest: if even that is too small to read wire by wire, the narrower
        # ones need not be tried.
        if not bundled and _route(boxes, spots, lines, bundled, WIDTHS[-1]).least_pt < LEAST_PT:
            continue
        for widths in (*WIDTHS, *NARROW[: int(bundled)]):
            made = _route(boxes, spots, lines, bundled, widths)
            if made.least_pt >= GOOD_PT:
                return made
        if made.least_pt >= LEAST_PT:
            break
    return made


def _arrange(bike: Bike, bundled: bool) -> tuple[dict[str, Box], dict[str, Spot], list[Line]]:
    """Return the boxes by part with their columns and heights set, all spots by id, and the wires
    still without their ways."""
    columns = _columns(bike)
    at = {}
    for n, join in enumerate(bike.joins, 1):
        for side in join.sides():
            at[side] = (n, join)
    boxes = {}
    for part in bike.parts:
        boxes[part.id] = _draft(bike, part, columns, at, bundled)
    spots = {}
    for box in boxes.values():
        for g in box.groups:
            for s in g.spots:
                spots[s.id] = s
    pairs = []
    for join in bike.joins:
        for ends in _ends(join, bundled):
            pairs.append((join, ends))
    mates: dict[str, str] = {}
    for _, (a, b) in pairs:
        mates[a], mates[b] = b, a
    _place_all(boxes, spots, mates)
    return boxes, spots, [_line(bike, join, ends, spots, bundled) for join, ends in pairs]


def _ends(join: Join, bundled: bool) -> Iterator[tuple[str, str]]:
    one, two = (".".join(side) for side in join.sides())
    if bundled:
        yield one, two
    else:
        for a, b in join.pairs:
            yield f"{one}.{a}", f"{two}.{b}"


def _columns(bike: Bike) -> dict[str, int]:
    """Return the column of every part: controllers 0, bar controls to the left, energy and motor to
    the right, the rest to the shorter side."""
    near: dict[str, list[str]] = {p.id: [] for p in bike.parts}
    for join in bike.joins:
        near[join.a_part].append(join.b_part)
        near[join.b_part].append(join.a_part)
    found = {c.id: 0 for c in at_place(bike, "controller")}
    rows = {-1: 0, 1: 0}

    def size(part_id: str) -> int:
        return sum(len(q.pins) + 2 for q in bike.part(part_id).ports)

    def branch(start: str) -> list[str]:
        """Return the parts that hang on a part, controllers aside, nearest first."""
        order, seen = [start], {start}
        for part_id in order:
            fresh = []
            for n in dict.fromkeys(near[part_id]):
                if n not in seen and n not in found:
                    fresh.append(n)
            seen |= set(fresh)
            order += fresh
        return order

    starts = [
        n for c in at_place(bike, "controller") for n in dict.fromkeys(near[c.id]) if n not in found
    ]
    for start in (*starts, *(p.id for p in bike.parts)):
        if start in found:
            continue
        members = branch(start)
        places = {REGISTRY[bike.part(m).kind].place for m in members}
        if places & {"energy", "motor"}:
            side = 1
        elif "bar" in places:
            side = -1
        else:
            side = 0
        # What is neither energy nor bar goes to the shorter side, so that the page stays about
        # square.
        side = side or (-1 if rows[-1] < rows[1] else 1)
        depth = {m: 1 for m in members if m == start or any(found.get(n) == 0 for n in near[m])}
        order = list(depth)
        for m in order:
            fresh = [n for n in near[m] if n in members and n not in depth]
            depth |= dict.fromkeys(fresh, depth[m] + 1)
            order += fresh
        found |= {m: side * depth[m] for m in members}
        rows[side] += sum(size(m) for m in members)
    return found


MOST_SPREAD = ROW * 6
"""A box is drawn out for a wire to run straight by at most this between two plugs."""

Joined = dict[tuple[str, str], tuple[int, Join]]
"""The join of every joined plug and its number."""


def _draft(bike: Bike, part: Part, columns: dict[str, int], at: Joined, bundled: bool) -> Box:
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
        top = bottoms[face] + (_gap(bike, before[face], mate) if outward else ROW * 0.5) * (
            bottoms[face] > ROW
        )
        before[face] = mate or "-"
        spots = _spots(part, port, join, face, top, bundled)
        heading = f"{number} " if join else "free "
        heading += "" if bare else port.label or port.id
        height = ROW if bundled else ROW * (1 + len(spots))
        groups.append(
            Group(
                f"{part.id}.{port.id}",
                join.id if join else "",
                heading.strip(),
                face,
                top,
                height,
                spots,
            )
        )
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
    found: list[Spot] = []
    for n, pin in enumerate(port.pins, 1):
        found.append(
            Spot(f"{name}.{pin.name}", pin.words, n, pin.colour, face, top + ROW * (n + 0.5))
        )
    return found


def _place_all(boxes: dict[str, Box], spots: dict[str, Spot], mates: dict[str, str]) -> None:
    """Set the heights of all boxes: controllers first, then outward column by column, each box
    level with what it is joined to."""
    placed: set[str] = set()
    bottom = 0.0
    for box in (b for b in boxes.values() if b.column == 0):
        _set_y(box, bottom)
        bottom += box.height + 2 * ROW
        placed |= {s.id for g in box.groups for s in g.spots}
    for column in sorted({b.column for b in boxes.values() if b.column}, key=lambda c: (abs(c), c)):
        here = [b for b in boxes.values() if b.column == column]
        wanted = {}
        for box in here:
            _sort_inner(box, spots, mates, placed)
            wanted[box.part] = _level(box, spots, mates, placed)
        opposite = []
        for s in spots.values():
            if s.id in placed and _channel(boxes[s.id.split(".")[0]].column, s.face) == _inner(
                column
            ):
                opposite.append(s)
        bottom = 0.0
        for box in sorted(here, key=lambda b: (wanted[b.part] is None, wanted[b.part] or 0.0)):
            y = max(wanted[box.part] or 0.0, bottom)
            # A wire that runs straight across must meet its own mate, not end level with a
            # stranger: two ends at one height would read as joined.
            while _collides(box, y, opposite, mates, column):
                y += STEP
            _set_y(box, y)
            bottom = y + box.height + ROW * 0.6
        placed |= {s.id for b in here for g in b.groups for s in g.spots}


def _set_y(box: Box, y: float) -> None:
    box.y = y
    for group in box.groups:
        for spot in group.spots:
            spot.y = round(y + spot.dy, 2)


def _channel(column: int, face: int) -> int:
    """Return the channel a face looks into; channel n lies between columns n and n + 1."""
    if face > 0:
        return column
    return column - 1


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
        return min(
            (
                spots[mates[s.id]].y - s.dy + group.dy
                for s in group.spots
                if mates.get(s.id) in placed
            ),
            default=float("inf"),
        )

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
    joined = [
        s
        for g in sorted(box.groups, key=lambda g: g.dy)
        for s in g.spots
        if mates.get(s.id) in placed
    ]
    heights = Counter(round(max(spots[mates[s.id]].y - s.dy, 0.0), 2) for s in joined)
    if heights:
        return heights.most_common(1)[0][0]
    return None


def _collides(box: Box, y: float, opposite: list[Spot], mates: dict[str, str], column: int) -> bool:
    """Return whether a pin would stand level with one across the channel that it is not joined
    to."""
    for group in box.groups:
        if _channel(column, group.face) != _inner(column):
            continue
        for spot in group.spots:
            for other in opposite:
                if abs(y + spot.dy - other.y) < STEP * 0.9 and mates.get(spot.id) != other.id:
                    return True
    return False


def _line(
    bike: Bike, join: Join, ends: tuple[str, str], spots: dict[str, Spot], bundled: bool
) -> Line:
    roles = set()
    for p, q in join.sides():
        for pin in bike.part(p).port(q).pins:
            roles.add(pin.role)
    if not bundled:
        roles = {bike.pin(end)[2].role for end in ends}
    return Line(
        join.id,
        ends,
        spots[ends[0]].colour or spots[ends[1]].colour,
        bool(roles & THICK),
        len(join.pairs) if bundled else 1,
    )


def _route(
    boxes: dict[str, Box],
    spots: dict[str, Spot],
    lines: list[Line],
    bundled: bool,
    widths: tuple[float, float],
) -> Sheet:
    """Give every wire its lanes, then every column its place."""
    column = {p: b.column for p, b in boxes.items()}
    bottom = max((b.y + b.height for b in boxes.values()), default=0.0)
    wants: dict[int, list[tuple[float, float, int, int]]] = {}
    tracks: dict[int, float] = {}
    for n, line in enumerate(lines):
        a, b = (spots[end] for end in line.ends)
        ca, cb = (_channel(column[s.id.split(".")[0]], s.face) for s in (a, b))
        if ca == cb:
            straight = a.face != b.face and abs(a.y - b.y) < 0.01
            if not straight:
                left, right = (a, b) if a.face > 0 else (b, a)
                wants.setdefault(ca, []).append((left.y, right.y, n, 0))
        else:
            # A wire between columns that are not neighbours runs below everything: through the
            # boxes there is no way.
            tracks[n] = bottom + ROW + LANE * len(tracks)
            for k, (channel, s) in enumerate(((ca, a), (cb, b))):
                if s.face > 0:
                    ends = (s.y, tracks[n])
                else:
                    ends = (tracks[n], s.y)
                wants.setdefault(channel, []).append((*ends, n, k))
    lanes = {
        channel: _lanes(asked, [line.join for line in lines]) for channel, asked in wants.items()
    }
    edges = _set_x(boxes, lanes, widths)
    for n, line in enumerate(lines):
        a, b = (spots[end] for end in line.ends)
        ca, cb = (_channel(column[s.id.split(".")[0]], s.face) for s in (a, b))
        if ca != cb:
            xa, xb = (edges[c] + SIDE + LANE * lanes[c][n, k] for k, c in enumerate((ca, cb)))
            line.points = [
                (a.x, a.y),
                (xa, a.y),
                (xa, tracks[n]),
                (xb, tracks[n]),
                (xb, b.y),
                (b.x, b.y),
            ]
        elif (n, 0) in lanes.get(ca, {}):
            x = edges[ca] + SIDE + LANE * lanes[ca][n, 0]
            line.points = [(a.x, a.y), (x, a.y), (x, b.y), (b.x, b.y)]
        else:
            line.points = [(a.x, a.y), (b.x, b.y)]
    width = (
        max(
            [b.x + b.width for b in boxes.values()] + [x for line in lines for x, _ in line.points],
            default=1.0,
        )
        + 2
    )
    height = max([bottom, *(t for t in tracks.values())], default=1.0) + 2
    return Sheet(list(boxes.values()), lines, width, height, bundled)


def _lanes(
    asked: list[tuple[float, float, int, int]], joins: list[str]
) -> dict[tuple[int, int], int]:
    """Return the lane of every wire of a channel: those going down from the lowest, those going up
    from the highest, so that bundles do not cross themselves."""
    down = sorted((w for w in asked if w[1] > w[0]), key=lambda w: (-w[0], w[2]))
    rise = sorted((w for w in asked if w[1] <= w[0]), key=lambda w: (w[0], w[2]))
    taken: list[list[tuple[float, float]]] = []
    found = {}
    least: dict[tuple[str, bool], int] = {}
    for left, right, n, k in (*down, *rise):
        low, high = min(left, right) - STEP, max(left, right) + STEP
        bundle = joins[n], right > left
        after = least.get(bundle, 0)
        lane = next(
            (
                i
                for i, spans in enumerate(taken)
                if i >= after and all(high < a or low > b for a, b in spans)
            ),
            max(len(taken), after),
        )
        taken += [[] for _ in range(lane + 1 - len(taken))]
        taken[lane].append((low, high))
        least[bundle] = lane + 1
        found[n, k] = lane
    return found


def _set_x(
    boxes: dict[str, Box], lanes: dict[int, dict[tuple[int, int], int]], widths: tuple[float, float]
) -> dict[int, float]:
    """Set the left edges of all columns; return the left edge of every channel."""
    columns = sorted({b.column for b in boxes.values()})
    edges: dict[int, float] = {}
    x = 0.0
    for c in range(min(columns) - 1, max(columns) + 1):
        edges[c] = x
        count = max(lanes.get(c, {(0, 0): -1}).values()) + 1
        inside = min(columns) <= c < max(columns)
        x += 2 * SIDE + LANE * max(count - 1, 0) if count or inside else 0.0
        here = [b for b in boxes.values() if b.column == c + 1]
        width = max((widths[b.faces > 1] for b in here), default=0.0)
        for box in here:
            box.x, box.width = x, width
            for group in box.groups:
                for spot in group.spots:
                    spot.x = x + (width if group.face > 0 else 0.0)
        x += width
    return edges
