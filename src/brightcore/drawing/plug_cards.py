"""A card for every join: both faces pin by pin, with numbers, colours and line marks that survive a black and white print."""

from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

from brightcore.bike.model import Bike, Join, Pin, Port
from brightcore.describing.edit import port_words

WIDTH, MARGIN, COLUMNS, GAP = 794.0, 24.0, 2, 14.0
"""A4 at 96 per inch; cards stand in columns."""

PAGE_HEIGHT = 1090.0
"""Height of a page of cards: A4 less the margins it is printed with."""

CARD = (WIDTH - 2 * MARGIN - (COLUMNS - 1) * GAP) / COLUMNS
HEAD, ROW, FOOT, TOP = 40.0, 17.0, 8.0, 68.0
FACE = 12.5
"""Room for a pin on the picture of a face."""
FONT = "Atkinson Hyperlegible Next Variable, Atkinson Hyperlegible Next, sans-serif"
INK, PAPER = "#101a2b", "#ffffff"
CHARACTER = 0.58
"""Width of a character over the size of the font, on the wide side (measured on the shipped font)."""

MARKS = {
    "red": "", "black": "", "blue": "7 4", "green": "2 3", "yellow": "10 3 2 3", "white": "2 4", "orange": "12 3", "brown": "5 2 1 2",
    "grey": "3 2", "violet": "8 2 2 2 2 2", "purple": "8 2 2 2 2 2", "pink": "1 3",
}  # fmt: skip
STRONG = ("red", "black")
CODES = {
    "red": "RD", "black": "BK", "blue": "BU", "green": "GN", "yellow": "YE", "white": "WH", "orange": "OG", "brown": "BN", "grey": "GY", "violet": "VT",
    "purple": "VT", "pink": "PK",
}  # fmt: skip
"""Letter codes of colours after IEC 60757 (from memory)."""


@dataclass(frozen=True, slots=True)
class CardBox:
    """Where the card of a join stands: left, top, width, height in units of the drawing."""

    join: str
    x: float
    y: float
    width: float
    height: float


def card_boxes(bike: Bike) -> tuple[tuple[CardBox, ...], float]:
    """Return where every card stands on one long sheet, in the order of the joins, and the height of the drawing."""
    return _columns(bike, bike.joins)


def _columns(bike: Bike, joins: Sequence[Join]) -> tuple[tuple[CardBox, ...], float]:
    bottoms = [TOP] * COLUMNS
    boxes = []
    for join in joins:
        column = min(range(COLUMNS), key=lambda c: bottoms[c])
        height = (
            HEAD
            + _face_height(bike, join)
            + ROW * (max(1, len(_rows(bike, join))) + bool(_wire(join)))
            + FOOT
        )
        boxes.append(CardBox(join.id, MARGIN + column * (CARD + GAP), bottoms[column], CARD, height))
        bottoms[column] += height + GAP
    return tuple(boxes), max(bottoms) + MARGIN - GAP


def face(port: Port) -> tuple[tuple[int, ...], ...]:
    """Return the pins of a plug by number, row by row, as its mating face shows them; sockets are the mirror image of the pins they take.

    Rows nobody has looked at are taken as one for up to five pins, else two.
    """
    count = len(port.pins)
    rows = min(port.rows or (1 if count <= 5 else 2), count)
    wide = -(-count // rows)
    lines = tuple(
        tuple(range(1 + r * wide, min(count, (r + 1) * wide) + 1)) for r in range(rows) if r * wide < count
    )
    return tuple(line[::-1] for line in lines) if port.gender == "sockets" else lines


def face_words(port: Port) -> str:
    """Return what is known of a plug's face: gender and key."""
    return (
        ", ".join([port.gender, *([f"key {port.key}"] if port.key else [])])
        if port.gender
        else f"key {port.key}"
        if port.key
        else "face not looked at"
    )


def _face_height(bike: Bike, join: Join) -> float:
    return FACE * max(len(face(bike.part(p).port(q))) for p, q in join.sides()) + 5.0


def _face(port: Port, x: float, y: float, room: float) -> list[str]:
    """Return the mating face: filled rings for pins, open ones for sockets, its number in each; what is known of it beside."""
    lines = face(port)
    pitch = min(FACE, (room - 62) / max(len(line) for line in lines))
    fill, ink = (INK, PAPER) if port.gender == "pins" else (PAPER, INK)
    out = []
    for r, line in enumerate(lines):
        for c, number in enumerate(line):
            cx, cy = x + pitch * (c + 0.5), y + FACE * (r + 0.5)
            radius = min(5.4, pitch * 0.46)
            out.append(
                f'<circle cx="{cx:.1f}" cy="{cy:.1f}" r="{radius:.1f}" fill="{fill}" stroke="{INK}" stroke-width="0.8"/>'
            )
            out.append(
                f'<text x="{cx:.1f}" y="{cy + radius * 0.44:.1f}" font-size="{radius * 1.25:.1f}" text-anchor="middle" fill="{ink}">{number}</text>'
            )
    wide = pitch * max(len(line) for line in lines)
    return [*out, _text(x + wide + 6, y + FACE * 0.5 + 3, fit(face_words(port), room - wide - 8, 8.5), 8.5)]


def _rows(bike: Bike, join: Join) -> list[tuple[int, Pin, int, Pin | None]]:
    """Return (number, pin, number of its mate, its mate) for every pin of the first plug; then what is left of the other."""
    p, q = (bike.part(part).port(port) for part, port in join.sides())
    mates = dict(join.pairs)
    number = {pin.name: n for n, pin in enumerate(q.pins, 1)}
    rows: list[tuple[int, Pin, int, Pin | None]] = []
    for n, pin in enumerate(p.pins, 1):
        mate = mates.get(pin.name)
        rows.append((n, pin, number.get(mate or "", 0), q.pin(mate) if mate else None))
    left = [pin for pin in q.pins if pin.name not in mates.values()]
    return rows + [(0, pin, number[pin.name], None) for pin in left]


def _wire(join: Join) -> str:
    """Return the wire of a join in words, "" where the plugs mate directly."""
    return " × ".join(f"{v:g} {u}" for v, u in ((join.wire.area_mm2, "mm²"), (join.wire.length_m, "m")) if v)


def fit(text: str, width: float, size: float) -> str:
    """Return the text, cut with … where it is wider than `width` at the font size."""
    room = int(width / (size * CHARACTER))
    return text if len(text) <= room else text[: max(room - 1, 1)] + "…"


def plug_cards_svg(bike: Bike, heading: str) -> str:
    """Return all cards as one standalone SVG document; the same bike gives the same drawing."""
    return _drawn(bike, heading, *card_boxes(bike))


def plug_card_pages(bike: Bike, heading: str) -> tuple[str, ...]:
    """Return the cards as SVG documents of at most one A4 page each, in the order of the joins."""
    pages: list[list[Join]] = [[]]
    for join in bike.joins:
        if pages[-1] and _columns(bike, [*pages[-1], join])[1] > PAGE_HEIGHT:
            pages.append([])
        pages[-1].append(join)
    return tuple(_drawn(bike, heading, *_columns(bike, joins)) for joins in pages if joins)


def _drawn(bike: Bike, heading: str, boxes: tuple[CardBox, ...], height: float) -> str:
    numbers = {j.id: n for n, j in enumerate(bike.joins, 1)}
    used = {
        pin.colour.lower() for part in bike.parts for port in part.ports for pin in port.pins
    } & CODES.keys()
    key = ", ".join(f"{CODES[c]} {c}" for c in sorted(used)) + "." if used else ""
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {height:.0f}" role="img" aria-label={quoteattr(heading)} '
        f'font-family={quoteattr(FONT)} fill="{INK}"><rect width="{WIDTH:.0f}" height="{height:.0f}" fill="{PAPER}"/>',
        _text(MARGIN, 34, fit(heading, WIDTH - 2 * MARGIN, 18), 18, bold=True),
        _text(MARGIN, 47, key, 9),
        _text(
            MARGIN,
            59,
            "Faces as seen when looking into the plug: filled rings are pins, open ones sockets.",
            9,
        ),
    ]
    for box in boxes:
        out += _card(bike, bike.join(box.join), box, numbers[box.join])
    return "".join([*out, "</svg>"])


def _card(bike: Bike, join: Join, box: CardBox, number: int) -> list[str]:
    half = box.width / 2
    ends = [(bike.part(p), bike.part(p).port(q)) for p, q in join.sides()]
    titles = [port_words(part, port) for part, port in ends]
    lefts = (box.x + 8, box.x + half + 6)
    out = [
        f'<g><title>{escape(" with ".join(titles))}</title><rect x="{box.x:.1f}" y="{box.y:.1f}" width="{box.width:.1f}" height="{box.height:.1f}" '
        f'rx="5" fill="none" stroke="{INK}" stroke-width="1.4"/>',
        f'<line x1="{box.x:.1f}" y1="{box.y + HEAD - 3:.1f}" x2="{box.x + box.width:.1f}" y2="{box.y + HEAD - 3:.1f}" stroke="{INK}" stroke-width="0.6"/>',
    ]
    for left, (part, port) in zip(lefts, ends, strict=True):
        name = f"{number} {part.name}" if left == lefts[0] else part.name
        out.append(_text(left, box.y + 17, fit(name, half - 14, 11.5), 11.5, bold=True))
        out.append(_text(left, box.y + 31, fit(port.label or port.id, half - 14, 10), 10))
        out += _face(port, left, box.y + HEAD, half - 14)
    if _wire(join):
        out.append(_text(box.x + 8, box.y + box.height - 9, f"wire between them: {_wire(join)}", 10))
    for k, (n, pin, m, mate) in enumerate(_rows(bike, join)):
        y = box.y + HEAD + _face_height(bike, join) + ROW * k + ROW / 2
        if n:
            out += _pin(box.x + 14, y, n, pin, half - 18)
            if mate:
                out += _pin(box.x + half + 12, y, m, mate, half - 18)
            else:
                out.append(_text(box.x + half + 6, y + 3.5, "— no mate", 10))
        else:
            out += [
                _text(box.x + 8, y + 3.5, "no mate —", 10),
                *_pin(box.x + half + 12, y, m, pin, half - 18),
            ]
    return [*out, "</g>"]


def _pin(x: float, y: float, number: int, pin: Pin, width: float) -> list[str]:
    """Return one pin: its number in a ring, the mark of its colour, its words."""
    colour = pin.colour.lower()
    dash = f' stroke-dasharray="{MARKS[colour]}"' if MARKS.get(colour) else ""
    ink = "#c2281d" if colour == "red" else INK
    mark = (
        f'<line x1="{x + 11:.1f}" y1="{y:.1f}" x2="{x + 33:.1f}" y2="{y:.1f}" stroke="{ink}" stroke-width="{3.4 if colour in STRONG else 2.2}"{dash}/>'
        if colour
        else ""
    )
    words = f"{CODES.get(colour, pin.colour)} {pin.words}".strip()
    start = x + (37 if colour else 12)
    return [
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="7" fill="none" stroke="{INK}" stroke-width="1.1"/>',
        f'<text x="{x:.1f}" y="{y + 3.2:.1f}" font-size="9" text-anchor="middle">{number}</text>',
        mark,
        _text(start, y + 3.5, fit(words, width - (start - x), 10), 10),
    ]


def _text(x: float, y: float, words: str, size: float, bold: bool = False) -> str:
    weight = ' font-weight="700"' if bold else ""
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size:g}"{weight}>{escape(words)}</text>' if words else ""
    )
