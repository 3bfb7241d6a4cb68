"""Layout of the whole wiring on one A4 page: parts in columns around the controllers, wires at
right angles in lanes between them.

Deterministic: the same bike gives the same drawing. Columns, boxes and routes have a file each.
"""

from collections.abc import Iterator

from brightcore.bike.model import Bike, Join
from brightcore.bike.roles import thick_roles
from brightcore.drawing.sheet_boxes import draft, place_all
from brightcore.drawing.sheet_columns import columns_of
from brightcore.drawing.sheet_model import (
    GOOD_PT,
    LEAST_PT,
    NARROW,
    WIDTHS,
    Box,
    Line,
    Sheet,
    Spot,
)
from brightcore.drawing.sheet_routes import route

THICK = frozenset(thick_roles())
"""Roles of the wires that are drawn thick."""


def layout_sheet(bike: Bike) -> Sheet:
    """Return the drawing of a bike, wire by wire; plug by plug where that would be too small to
    read."""
    for bundled in (False, True):
        boxes, spots, lines = _arrange(bike, bundled)
        # Routed once at the widest: if even that is too small to read wire by wire, the narrower
        # ones need not be tried.
        if not bundled and route(boxes, spots, lines, bundled, WIDTHS[-1]).least_pt < LEAST_PT:
            continue
        for widths in (*WIDTHS, *NARROW[: int(bundled)]):
            made = route(boxes, spots, lines, bundled, widths)
            if made.least_pt >= GOOD_PT:
                return made
        if made.least_pt >= LEAST_PT:
            break
    return made


def _arrange(bike: Bike, bundled: bool) -> tuple[dict[str, Box], dict[str, Spot], list[Line]]:
    """Return the boxes by part with their columns and heights set, all spots by id, and the wires
    still without their ways."""
    columns = columns_of(bike)
    at = {}
    for n, join in enumerate(bike.joins, 1):
        for side in join.sides():
            at[side] = (n, join)
    boxes = {}
    for part in bike.parts:
        boxes[part.id] = draft(bike, part, columns, at, bundled)
    spots = {}
    for box in boxes.values():
        for spot in box.spots():
            spots[spot.id] = spot
    pairs = []
    for join in bike.joins:
        for ends in _ends(join, bundled):
            pairs.append((join, ends))
    mates: dict[str, str] = {}
    for _, (a, b) in pairs:
        mates[a], mates[b] = b, a
    place_all(boxes, spots, mates)
    return boxes, spots, [_line(bike, join, ends, spots, bundled) for join, ends in pairs]


def _ends(join: Join, bundled: bool) -> Iterator[tuple[str, str]]:
    one, two = (".".join(side) for side in join.sides())
    if bundled:
        yield one, two
    else:
        for a, b in join.pairs:
            yield f"{one}.{a}", f"{two}.{b}"


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
