"""The wiring sheet as SVG: one A4 page, every wire told apart by its mark as well as by its colour."""

from collections.abc import Sequence
from xml.sax.saxutils import escape, quoteattr

from brightcore.bike.model import Bike
from brightcore.describing.edit import join_words, port_words
from brightcore.drawing.plug_cards import CHARACTER, CODES, FONT, INK, MARKS, PAPER, fit
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

HUES = {
    "red": "#b3261c", "black": INK, "blue": "#1d4fa3", "green": "#1f6f3a", "yellow": "#8f6a00", "white": "#6b6b6b", "orange": "#b35300", "brown": "#6b4226",
    "grey": "#5c5c5c", "violet": "#63389a", "purple": "#63389a", "pink": "#a83f7c",
}  # fmt: skip
"""Colours of wires as drawn: dark enough for white paper."""


def sheet_svg(
    bike: Bike, heading: str, notes: Sequence[str] = (), live: bool = False, page: bool = True
) -> str:
    """Return the wiring of a bike as one standalone SVG page; the same bike gives the same drawing.

    `notes` stand at the foot. `live`: plugs and pins can be focused and carry what they are, for a page that edits.
    `page`: as high as its page of A4, otherwise as high as what is drawn.
    """
    sheet = layout_sheet(bike)
    width, height = sheet.page
    top = HEAD if not live else HEAD * 0.3
    if live or not page:
        height = top + sheet.height * sheet.scale + MARGIN + (0 if live else FOOT)
    left = (width - sheet.width * sheet.scale) / 2
    role = 'role="img"' if not live else 'role="group"'
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:.0f} {height:.0f}" {role} aria-label={quoteattr(heading)} '
        f'font-family={quoteattr(FONT)} fill="{INK}"><rect width="{width:.0f}" height="{height:.0f}" fill="{PAPER}"/>'
    ]
    if not live:
        out.append(_text(MARGIN, 30, fit(heading, width - 2 * MARGIN, 17), 17, bold=True))
    out.append(f'<g transform="translate({left:.2f} {top:.2f}) scale({sheet.scale:.4f})">')
    out += [_line(line) for line in sheet.lines]
    for box in sheet.boxes:
        out += _box(bike, box, live)
    out.append("</g>")
    if not live:
        out += _foot(sheet, notes, height)
    return "".join([*out, "</svg>"])


def _line(line: Line) -> str:
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in line.points)
    colour = line.colour.lower()
    dash = f' stroke-dasharray="{MARKS[colour]}"' if MARKS.get(colour) else ""
    width = 2.4 if line.thick else 1.2
    words = f"<title>{line.count} wires</title>" if line.count > 1 else ""
    shape = f'<polyline data-wire="{line.join}" points="{points}" fill="none" stroke="{HUES.get(colour, INK)}" stroke-width="{width}"{dash}>{words}</polyline>'
    if line.count < 2:
        return shape
    (x, y), (end, _) = line.points[0], line.points[1]
    x += 4 if end > x else -4
    return shape + f'<path d="M{x - 2:.1f} {y + 3:.1f} l4 -6" stroke="{INK}" stroke-width="0.8"/>'


def _box(bike: Bike, box: Box, live: bool) -> list[str]:
    part = bike.part(box.part)
    out = [
        f'<g><title>{escape(part.name)}</title><rect x="{box.x:.1f}" y="{box.y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}" rx="3" fill="{PAPER}" '
        f'stroke="{INK}" stroke-width="1.2"/>'
    ]
    bare = len(part.ports) == 1
    room = box.width - 8 - (22 if bare else 0)
    title = _text(box.x + 4, box.y + ROW * 0.82, fit(box.title, room, HEAD_SIZE), HEAD_SIZE, bold=True)
    for group in box.groups:
        out += _group(bike, box, group, live, bare)
    return [*out, f'<g pointer-events="none">{title}</g>', "</g>"]


def _group(bike: Bike, box: Box, group: Group, live: bool, bare: bool) -> list[str]:
    part_id, _, port_id = group.port.partition(".")
    part = bike.part(part_id)
    half = box.width / 2 if box.faces > 1 else box.width
    x = box.x if group.face < 0 else box.x + box.width - half
    y = box.y + group.dy
    rows = _rows(box, -group.face)
    out = []
    if live:
        join = bike.join(group.join) if group.join else None
        words = f"{port_words(part, part.port(port_id))}, {'joined: ' + join_words(bike, join) if join else 'free'}"
        out.append(
            f'<g class="wire-plug{"" if join else " free"}" tabindex="0" role="button" data-port="{group.port}" data-join="{group.join}" aria-label={quoteattr(words)}>'
            f'<rect class="reach" x="{x + 1:.1f}" y="{y + 1:.1f}" width="{half - 2:.1f}" height="{group.height - 1:.1f}" rx="2" fill="{PAPER}" fill-opacity="0"/>'
        )
    if group.heading:
        size = 7.5 if bare else PIN_SIZE
        at = box.x + box.width - 4 if bare or group.face > 0 else x + 4
        anchor = "end" if bare or group.face > 0 else "start"
        room = _room(box, rows, group.dy, half) if not bare else 24
        out.append(
            _text(
                at,
                y + ROW * 0.8,
                fit(_short(group.heading, part.name, room, size), room, size),
                size,
                anchor,
                bold=not bare,
            )
        )
    for spot in group.spots:
        out += _spot(spot, half, _room(box, rows, spot.dy - ROW / 2, half), live)
    if live:
        out.append("</g>")
    return out


def _short(heading: str, name: str, room: float, size: float) -> str:
    """Return a plug's heading without the first word of its part's name, where it is too long with it."""
    number, _, label = heading.partition(" ")
    first, _, rest = label.partition(" ")
    cut = fit(heading, room, size) != heading and rest and name.lower().startswith(first.lower())
    return f"{number} {rest[0].upper()}{rest[1:]}" if cut else heading


def _words(spot: Spot) -> str:
    code = CODES.get(spot.colour.lower(), spot.colour)
    return f"{spot.number} {code} {spot.words}".replace("  ", " ") if spot.number else ""


def _rows(box: Box, face: int) -> list[tuple[float, float]]:
    """Return (height in the box, width) of every line of print on a side."""
    groups = [g for g in box.groups if g.face == face] if box.faces > 1 else []
    rows = [(g.dy, len(g.heading) * PIN_SIZE * CHARACTER) for g in groups if g.heading]
    return rows + [(s.dy - ROW / 2, len(_words(s)) * PIN_SIZE * CHARACTER) for g in groups for s in g.spots]


def _room(box: Box, rows: list[tuple[float, float]], dy: float, half: float) -> float:
    """Return how wide a line may be: half the box, more where the other side is short at that height."""
    beside = [width for y, width in rows if abs(y - dy) < ROW]
    return max(half - 10, box.width - 16 - max(beside, default=0.0)) if box.faces > 1 else half - 10


def _spot(spot: Spot, half: float, room: float, live: bool) -> list[str]:
    words = _words(spot)
    at, anchor = (spot.x + 5, "start") if spot.face < 0 else (spot.x - 5, "end")
    text = _text(at, spot.y + 3, fit(words, room, PIN_SIZE), PIN_SIZE, anchor)
    dot = f'<circle cx="{spot.x:.1f}" cy="{spot.y:.1f}" r="1.6"/>'
    if not live or not spot.number:
        return [dot, text]
    left = spot.x if spot.face < 0 else spot.x - half
    reach = f'<rect class="reach" x="{left + 1:.1f}" y="{spot.y - ROW / 2:.1f}" width="{half - 2:.1f}" height="{ROW:.1f}" fill="{PAPER}" fill-opacity="0"/>'
    return [f'<g class="wire-pin" data-pin="{spot.id}">{reach}{dot}{text}</g>']


def _foot(sheet: Sheet, notes: Sequence[str], height: float) -> list[str]:
    """Return the key of colours and marks that the drawing uses, and the notes."""
    used = sorted({line.colour.lower() for line in sheet.lines} & HUES.keys())
    width, _ = sheet.page
    y = height - 44.0
    out, x = [], MARGIN
    for colour in used:
        dash = f' stroke-dasharray="{MARKS[colour]}"' if MARKS.get(colour) else ""
        out.append(
            f'<line x1="{x:.1f}" y1="{y - 3:.1f}" x2="{x + 26:.1f}" y2="{y - 3:.1f}" stroke="{HUES[colour]}" stroke-width="1.6"{dash}/>'
        )
        out.append(_text(x + 30, y, f"{CODES[colour]} {colour}", 9))
        x += (width - 2 * MARGIN) / len(used) if len(used) > 8 else 84
    what = (
        "One line a plug; pin by pin on the cards. " if sheet.bundled else "Thick: current. Thin: signals. "
    )
    out.append(
        _text(
            MARGIN,
            y + 14,
            fit(
                f"{what}The number before a plug is that of its card and of the joint list.",
                width - 2 * MARGIN,
                9,
            ),
            9,
        )
    )
    if notes:
        out.append(
            _text(MARGIN, y + 27, fit("Still open: " + ", ".join(notes), width - 2 * MARGIN, 9), 9, bold=True)
        )
    return out


def _text(x: float, y: float, words: str, size: float, anchor: str = "start", bold: bool = False) -> str:
    weight = ' font-weight="700"' if bold else ""
    end = f' text-anchor="{anchor}"' if anchor != "start" else ""
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size:g}"{weight}{end}>{escape(words)}</text>'
        if words
        else ""
    )
