"""Proposed connections on the wiring drawing: a dashed link between two free plugs and a badge to
press.

Free plugs, proposed ones and connected ones differ in shape, not in colour alone: a dashed frame, a
frame with a diamond at its side, a plain plug with wires.
"""

from collections.abc import Sequence

from brightcore.drawing.element import Markup, element, label, rect
from brightcore.drawing.sheet_model import PIN_SIZE, Box, Group, Sheet

BADGE = (66.0, 29.0)
"""Width and height of a badge: at the standard zoom a finger's breadth."""

REACH, SPREAD = 46.0, 32.0
"""How far a link runs out of its plugs, and how far badges are kept apart."""

DIAMOND = 5.0

Proposed = tuple[str, str, str]
"""Two ports (`part.port`) and the connection in words."""

Point = tuple[float, float]


def proposed_links(
    sheet: Sheet, proposals: Sequence[Proposed]
) -> tuple[list[Markup], list[Markup]]:
    """Return the links, to lie under the boxes, and what lies over them, of proposals whose plugs
    are on a sheet; the badges are numbered in their order."""
    at = {}
    for box in sheet.boxes:
        for group in box.groups:
            at[group.port] = _anchor(box, group)
    links: list[Markup] = []
    over: list[Markup] = []
    taken: list[Point] = []
    for number, (one, two, words) in enumerate(proposals, 1):
        if one not in at or two not in at:
            continue
        (a, face_a), (b, face_b) = at[one], at[two]
        links.append(_link(a, face_a, b, face_b))
        over += [_diamond(a), _diamond(b)]
        place = _free_place(_middle(a, face_a, b, face_b), taken, sheet)
        taken.append(place)
        over.append(_badge(place, number, f"{one}|{two}", words))
    return links, over


def _anchor(box: Box, group: Group) -> tuple[Point, int]:
    x = box.x if group.face < 0 else box.x + box.width
    return (x, box.y + group.dy + group.height / 2), group.face


def _controls(a: Point, face_a: int, b: Point, face_b: int) -> tuple[Point, Point]:
    return (a[0] + REACH * face_a, a[1]), (b[0] + REACH * face_b, b[1])


def _link(a: Point, face_a: int, b: Point, face_b: int) -> Markup:
    c, d = _controls(a, face_a, b, face_b)
    path = (
        f"M{a[0]:.1f} {a[1]:.1f} C{c[0]:.1f} {c[1]:.1f} {d[0]:.1f} {d[1]:.1f} {b[0]:.1f} {b[1]:.1f}"
    )
    return element("path", d=path, class_="wire-proposed", fill="none")


def _diamond(at: Point) -> Markup:
    x, y = at
    d = DIAMOND
    path = f"M{x - d:.1f} {y:.1f} L{x:.1f} {y - d:.1f} L{x + d:.1f} {y:.1f} L{x:.1f} {y + d:.1f} Z"
    return element("path", d=path, class_="wire-diamond")


def _middle(a: Point, face_a: int, b: Point, face_b: int) -> Point:
    """Return the middle of a link."""
    c, d = _controls(a, face_a, b, face_b)
    x, y = ((p + 3 * q + 3 * r + s) / 8 for p, q, r, s in zip(a, c, d, b, strict=True))
    return x, y


def _free_place(wanted: Point, taken: Sequence[Point], sheet: Sheet) -> Point:
    """Return the nearest place to the wanted one, up or down, that no other badge covers."""
    x = min(max(wanted[0], BADGE[0] / 2), sheet.width - BADGE[0] / 2)
    for step in range(len(taken) + 1):
        for way in (1, -1):
            y = wanted[1] + way * step * SPREAD
            near = any(abs(x - p) < BADGE[0] and abs(y - q) < SPREAD for p, q in taken)
            if not near and BADGE[1] / 2 <= y <= sheet.height - BADGE[1] / 2:
                return x, y
    return x, wanted[1]


def _badge(at: Point, number: int, pair: str, words: str) -> Markup:
    width, height = BADGE
    x, y = at
    return element(
        "g",
        rect(x - width / 2, y - height / 2, width, height, rx=4),
        label((x, y + PIN_SIZE * 0.35), f"{number} Connect", PIN_SIZE * 1.1, "middle", bold=True),
        class_="wire-badge",
        tabindex="0",
        role="button",
        data_proposal=pair,
        aria_label=f"Connect {words}",
    )
