"""Whether things go into a room: rectangles into a triangle, boxes into a box, cables through a
hole.

Every answer of "fits" comes with a way to put them; "does not fit" means that none was found among
ways that lie along the sides, which is how parts are mounted.
"""

import math
from collections.abc import Iterator, Sequence
from itertools import permutations

Point = tuple[float, float]
Triangle = tuple[Point, Point, Point]
Box = tuple[float, float, float]

FILL = 0.64
"""Share of a hole that three and more cables fill (circles in a circle, 0.65 for three; from
memory)."""


def triangle_of(a: float, b: float, c: float) -> Triangle:
    """Return a triangle of three sides, `a` on the x axis. Raises ValueError where they do not
    close."""
    if min(a, b, c) <= 0 or 2 * max(a, b, c) >= a + b + c:
        raise ValueError("three sides that do not close")
    x = (a * a + c * c - b * b) / (2 * a)
    return (0.0, 0.0), (a, 0.0), (x, math.sqrt(max(c * c - x * x, 0.0)))


def in_triangle(room: Triangle, things: Sequence[tuple[float, float]]) -> tuple[str, ...] | None:
    """Return how rectangles (length, height) lie in a triangle, or None: `a side 1`, `lengthwise
    side 2`.

    Each lies on a side of the room or of what is left of it; sides are numbered from 1 in the
    room's order.
    """
    return _in_triangles([room], sorted_largest(things), things)


def sorted_largest(things: Sequence[tuple[float, float]]) -> list[int]:
    """Return the order in which things are placed: the largest first."""
    return sorted(range(len(things)), key=lambda i: -things[i][0] * things[i][1])


def _in_triangles(
    regions: list[Triangle], order: list[int], things: Sequence[tuple[float, float]]
) -> tuple[str, ...] | None:
    if not order:
        return ("",) * len(things)
    first, *rest = order
    length, height = things[first]
    for k, region in enumerate(regions):
        others = regions[:k] + regions[k + 1 :]
        for how, left in _placed(region, length, height):
            found = _in_triangles([*others, *left], rest, things)
            if found is not None:
                rows = []
                for i, words in enumerate(found):
                    rows.append(how if i == first else words)
                return tuple(rows)
    return None


def _placed(region: Triangle, length: float, height: float) -> Iterator[tuple[str, list[Triangle]]]:
    """Yield (how it lies, what is left) for every way a rectangle lies on a side of a triangle."""
    for side in range(3):
        p, q, r = region[side], region[(side + 1) % 3], region[(side + 2) % 3]
        base = math.dist(p, q)
        x, top = _seen_from(p, q, r)
        for along, up, how in ((length, height, "lengthwise"), (height, length, "upright")):
            if up >= top:
                continue
            low = max(0.0, x * up / top)
            high = min(base, base + (x - base) * up / top)
            if high - low < along:
                continue
            yield f"{how} {side + 1}", _left(p, q, r, (low, along, up), (base, x, top))


def _seen_from(p: Point, q: Point, r: Point) -> Point:
    """Return where the third corner stands, along the side from p to q and above it."""
    base = math.dist(p, q)
    along = ((q[0] - p[0]) / base, (q[1] - p[1]) / base)
    x = (r[0] - p[0]) * along[0] + (r[1] - p[1]) * along[1]
    return x, abs((r[0] - p[0]) * along[1] - (r[1] - p[1]) * along[0])


def _left(
    p: Point, q: Point, r: Point, rect: tuple[float, float, float], seen: tuple[float, float, float]
) -> list[Triangle]:
    """Return triangles that are surely free once a rectangle lies at the near end of a side."""
    (low, along, up), (base, x, top) = rect, seen
    ux, uy = (q[0] - p[0]) / base, (q[1] - p[1]) / base
    if (r[0] - p[0]) * -uy + (r[1] - p[1]) * ux >= 0:
        turn = 1.0
    else:
        turn = -1.0

    def at(along_m: float, above: float) -> Point:
        return p[0] + along_m * ux - turn * above * uy, p[1] + along_m * uy + turn * above * ux

    end = low + along
    near, far = x * up / top, base + (x - base) * up / top
    return [
        (at(near, up), at(far, up), r),
        (at(end, 0.0), q, at(max(far, end), up)),
        *([(p, at(low, 0.0), at(low, up))] if low > 0 else []),
    ]


def in_box(room: Box, things: Sequence[Box]) -> tuple[Box, ...] | None:
    """Return how boxes stand in a box (their length, width, height along the room's), or None."""
    order = sorted(range(len(things)), key=lambda i: -math.prod(things[i]))
    return _in_boxes([room], order, things)


def _in_boxes(free: list[Box], order: list[int], things: Sequence[Box]) -> tuple[Box, ...] | None:
    if not order:
        return tuple(things)
    first, *rest = order
    for k, room in enumerate(free):
        others = free[:k] + free[k + 1 :]
        for turned in dict.fromkeys(permutations(things[first])):
            if any(have < need for have, need in zip(room, turned, strict=True)):
                continue
            for left in _splits(room, (turned[0], turned[1], turned[2])):
                found = _in_boxes([*others, *left], rest, things)
                if found is not None:
                    box = (turned[0], turned[1], turned[2])
                    rows = []
                    for i, other in enumerate(found):
                        rows.append(box if i == first else other)
                    return tuple(rows)
    return None


def _splits(room: Box, thing: Box) -> Iterator[list[Box]]:
    """Yield the free boxes beside a box in a corner, cut in every order of the three directions."""
    for order in permutations(range(3)):
        left: list[Box] = []
        size = list(room)
        for axis in order:
            piece = list(size)
            piece[axis] = room[axis] - thing[axis]
            if piece[axis] > 0:
                left.append((piece[0], piece[1], piece[2]))
            size[axis] = thing[axis]
        yield left


def bundle_mm(cables: Sequence[float]) -> float:
    """Return the hole in mm that a bundle of cables of some diameters needs; a little on the safe
    side.

    >>> bundle_mm([8.0]), bundle_mm([8.0, 5.0])
    (8.0, 13.0)
    """
    if len(cables) < 3:
        return sum(cables)
    together = math.sqrt(sum(d * d for d in cables) / FILL)
    two = sum(sorted(cables)[-2:])
    return max(together, two)
