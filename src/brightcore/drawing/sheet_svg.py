"""The wiring sheet as SVG: one A4 page, every wire told apart by its mark as well as by its
colour."""

from collections.abc import Sequence

from brightcore.bike.model import Bike
from brightcore.describing.join_words import join_words, port_words
from brightcore.drawing.element import (
    Markup,
    circle,
    dash,
    element,
    label,
    line,
    on_ground,
    points,
    rect,
)
from brightcore.drawing.inks import HUES, INK, PAPER
from brightcore.drawing.plug_cards import CHARACTER, CODES, MARKS, fit
from brightcore.drawing.proposed import Proposed, proposed_links
from brightcore.drawing.sheet import layout_sheet
from brightcore.drawing.sheet_model import (
    FOOT,
    HEAD,
    HEAD_SIZE,
    MARGIN,
    PIN_SIZE,
    ROW,
    Box,
    Group,
    Line,
    Sheet,
    Spot,
)

READ_PX = 13.0
"""Height of the smallest print on a screen at the standard zoom, in pixels."""


def sheet_svg(
    bike: Bike,
    heading: str,
    notes: Sequence[str] = (),
    live: bool = False,
    page: bool = True,
    proposals: Sequence[Proposed] = (),
) -> str:
    """Return the wiring of a bike as one standalone SVG page; the same bike gives the same drawing.

    `notes` stand at the foot. `live`: plugs and pins can be focused and carry what they are, for a
    page that edits; it has its size at the standard zoom, and `proposals` stand on it. `page`: as
    high as its page of A4, otherwise as high as what is drawn.
    """
    sheet = layout_sheet(bike)
    width, height = sheet.page
    top = HEAD if not live else HEAD * 0.3
    if live or not page:
        height = top + sheet.height * sheet.scale + MARGIN + (0 if live else FOOT)
    left = (width - sheet.width * sheet.scale) / 2
    moved = f"translate({left:.2f} {top:.2f}) scale({sheet.scale:.4f})"
    links, over = proposed_links(sheet, proposals)
    drawn = element(
        "g",
        *(_wire(wire) for wire in sheet.lines),
        *links,
        *(_box(bike, box, live) for box in sheet.boxes),
        *over,
        transform=moved,
    )
    title = label((MARGIN, 30), fit(heading, width - 2 * MARGIN, 17), 17, bold=True)
    # On the page the heading and the notes stand beside the drawing, in text.
    around: tuple[list[Markup], list[Markup]] = ([], [])
    if not live:
        around = ([title], _foot(sheet, notes, height))
    zoom = READ_PX / (PIN_SIZE * sheet.scale)
    if live:
        size = {"width": round(width * zoom), "height": round(height * zoom)}
    else:
        size = {}
    role = "group" if live else "img"
    return on_ground(
        width,
        height,
        PAPER,
        *around[0],
        drawn,
        *around[1],
        role=role,
        aria_label=heading,
        fill=INK,
        **size,
    )


def _wire(wire: Line) -> Markup:
    """Return a wire, or several side by side as one line with a stroke across it."""
    colour = wire.colour.lower()
    if wire.count > 1:
        count = element("title", f"{wire.count} wires")
    else:
        count = Markup("")
    shape = element(
        "polyline",
        count,
        data_wire=wire.join,
        points=points(wire.points),
        fill="none",
        stroke=HUES.get(colour, INK),
        stroke_width=2.4 if wire.thick else 1.2,
        stroke_dasharray=dash(MARKS.get(colour, "")),
    )
    if wire.count < 2:
        return shape
    (x, y), (end, _) = wire.points[0], wire.points[1]
    x += 4 if end > x else -4
    across = element("path", d=f"M{x - 2:.1f} {y + 3:.1f} l4 -6", stroke=INK, stroke_width=0.8)
    return Markup(shape + across)


def _box(bike: Bike, box: Box, live: bool) -> Markup:
    part = bike.part(box.part)
    bare = len(part.ports) == 1
    room = box.width - 8 - (22 if bare else 0)
    title = label(
        (box.x + 4, box.y + ROW * 0.82), fit(box.title, room, HEAD_SIZE), HEAD_SIZE, bold=True
    )
    return element(
        "g",
        element("title", part.name),
        rect(box.x, box.y, box.width, box.height, rx=3, fill=PAPER, stroke=INK, stroke_width=1.2),
        *(_group(bike, box, group, live, bare) for group in box.groups),
        element("g", title, pointer_events="none"),
    )


def _group(bike: Bike, box: Box, group: Group, live: bool, bare: bool) -> Markup:
    half = box.width / 2 if box.faces > 1 else box.width
    x = box.x if group.face < 0 else box.x + box.width - half
    rows = _rows(box, -group.face)
    pieces = [_heading(bike, box, group, bare, x, half, rows)]
    for spot in group.spots:
        pieces.append(_spot(spot, half, _room(box, rows, spot.dy - ROW / 2, half), live))
    if not live:
        return Markup("".join(pieces))
    return _live_plug(
        bike, group, rect_at=(x + 1, box.y + group.dy + 1), width=half - 2, pieces=pieces
    )


def _heading(
    bike: Bike,
    box: Box,
    group: Group,
    bare: bool,
    x: float,
    half: float,
    rows: list[tuple[float, float]],
) -> Markup:
    """Return the heading of a plug; a part with one plug has it small beside its name."""
    if not group.heading:
        return Markup("")
    at_end = bare or group.face > 0
    size = PIN_SIZE
    room = 24.0 if bare else _room(box, rows, group.dy, half)
    words = _short(group.heading, bike.part(box.part).name, room, size)
    at = (box.x + box.width - 4 if at_end else x + 4, box.y + group.dy + ROW * 0.8)
    return label(at, fit(words, room, size), size, "end" if at_end else "start", bold=not bare)


def _live_plug(
    bike: Bike, group: Group, rect_at: tuple[float, float], width: float, pieces: list[Markup]
) -> Markup:
    """Return a plug that can be focused and says what it is."""
    part_id, _, port_id = group.port.partition(".")
    part = bike.part(part_id)
    if group.join:
        joined = f"connected: {join_words(bike, bike.join(group.join))}"
    else:
        joined = "free"
    reach = rect(
        *rect_at, width, group.height - 1, class_="reach", rx=2, fill=PAPER, fill_opacity="0"
    )
    return element(
        "g",
        reach,
        *pieces,
        class_="wire-plug" if group.join else "wire-plug free",
        tabindex="0",
        role="button",
        data_port=group.port,
        data_join=group.join,
        aria_label=f"{port_words(part, part.port(port_id))}, {joined}",
    )


def _short(heading: str, name: str, room: float, size: float) -> str:
    """Return a plug's heading without the first word of its part's name, where it is too long with
    it."""
    number, _, label = heading.partition(" ")
    first, _, rest = label.partition(" ")
    cut = fit(heading, room, size) != heading and rest and name.lower().startswith(first.lower())
    if cut:
        return f"{number} {rest[0].upper()}{rest[1:]}"
    return heading


def _words(spot: Spot) -> str:
    code = CODES.get(spot.colour.lower(), spot.colour)
    if spot.number:
        return f"{spot.number} {code} {spot.words}".replace("  ", " ")
    return ""


def _rows(box: Box, face: int) -> list[tuple[float, float]]:
    """Return (height in the box, width) of every line of print on a side."""
    if box.faces > 1:
        groups = [g for g in box.groups if g.face == face]
    else:
        groups = []
    rows = [(g.dy, len(g.heading) * PIN_SIZE * CHARACTER) for g in groups if g.heading]
    for g in groups:
        for s in g.spots:
            rows.append((s.dy - ROW / 2, len(_words(s)) * PIN_SIZE * CHARACTER))
    return rows


def _room(box: Box, rows: list[tuple[float, float]], dy: float, half: float) -> float:
    """Return how wide a line may be: half the box, more where the other side is short at that
    height."""
    beside = [width for y, width in rows if abs(y - dy) < ROW]
    if box.faces > 1:
        return max(half - 10, box.width - 16 - max(beside, default=0.0))
    return half - 10


def _spot(spot: Spot, half: float, room: float, live: bool) -> Markup:
    at, anchor = (spot.x + 5, "start") if spot.face < 0 else (spot.x - 5, "end")
    text = label((at, spot.y + 3), fit(_words(spot), room, PIN_SIZE), PIN_SIZE, anchor)
    dot = circle((spot.x, spot.y), 1.6)
    if not live or not spot.number:
        return Markup(dot + text)
    left = spot.x if spot.face < 0 else spot.x - half
    reach = rect(
        left + 1, spot.y - ROW / 2, half - 2, ROW, class_="reach", fill=PAPER, fill_opacity="0"
    )
    return element("g", reach, dot, text, class_="wire-pin", data_pin=spot.id)


def _foot(sheet: Sheet, notes: Sequence[str], height: float) -> list[Markup]:
    """Return the key of colours and marks that the drawing uses, and the notes."""
    used = sorted({wire.colour.lower() for wire in sheet.lines} & HUES.keys())
    width, _ = sheet.page
    room = width - 2 * MARGIN
    y = height - 44.0
    out, x = [], MARGIN
    for colour in used:
        stroke = {"stroke": HUES[colour], "stroke_dasharray": dash(MARKS[colour])}
        out.append(line((x, y - 3), (x + 26, y - 3), stroke_width=1.6, **stroke))
        out.append(label((x + 30, y), f"{CODES[colour]} {colour}", 9))
        x += room / len(used) if len(used) > 8 else 84
    if sheet.bundled:
        what = "One line a plug; pin by pin on the cards."
    else:
        what = "Thick: current. Thin: signals."
    numbers = "The number before a plug is that of its card and of the joint list."
    out.append(label((MARGIN, y + 14), fit(f"{what} {numbers}", room, 9), 9))
    if notes:
        still_open = fit("Still open: " + ", ".join(notes), room, 9)
        out.append(label((MARGIN, y + 27), still_open, 9, bold=True))
    return out
