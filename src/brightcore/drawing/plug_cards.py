"""A card for every join: both faces pin by pin, with numbers, colours and line marks that survive a
black and white print."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join, Pin, Port
from brightcore.describing.join_words import port_words
from brightcore.drawing.element import Markup, circle, dash, element, label, line, on_ground, rect
from brightcore.drawing.inks import INK, MARK_RED, PAPER
from brightcore.simulation.expected import Expected, expected_volts

WIDTH, MARGIN, COLUMNS, GAP = 794.0, 24.0, 2, 14.0
"""A4 at 96 per inch; cards stand in columns."""

PAGE_HEIGHT = 1090.0
"""Height of a page of cards: A4 less the margins it is printed with."""

CARD = (WIDTH - 2 * MARGIN - (COLUMNS - 1) * GAP) / COLUMNS
HEAD, ROW, FOOT, TOP = 40.0, 17.0, 8.0, 68.0
VOLTS = 78.0
"""Room for the volts of a pin, right of both faces."""

FACE = 12.5
"""Room for a pin on the picture of a face."""
CHARACTER = 0.58
"""Width of a character over the size of the font, on the wide side (measured on the shipped
font)."""

MARKS = {
    "red": "",
    "black": "",
    "blue": "7 4",
    "green": "2 3",
    "yellow": "10 3 2 3",
    "white": "2 4",
    "orange": "12 3",
    "brown": "5 2 1 2",
    "grey": "3 2",
    "violet": "8 2 2 2 2 2",
    "purple": "8 2 2 2 2 2",
    "pink": "1 3",
}
STRONG = ("red", "black")
CODES = {
    "red": "RD",
    "black": "BK",
    "blue": "BU",
    "green": "GN",
    "yellow": "YE",
    "white": "WH",
    "orange": "OG",
    "brown": "BN",
    "grey": "GY",
    "violet": "VT",
    "purple": "VT",
    "pink": "PK",
}
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
    """Return where every card stands on one long sheet, in the order of the joins, and the height
    of the drawing."""
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
        boxes.append(
            CardBox(join.id, MARGIN + column * (CARD + GAP), bottoms[column], CARD, height)
        )
        bottoms[column] += height + GAP
    return tuple(boxes), max(bottoms) + MARGIN - GAP


def face(port: Port) -> tuple[tuple[int, ...], ...]:
    """Return the pins of a plug by number, row by row, as its mating face shows them; sockets are
    the mirror image of the pins they take.

    Rows nobody has looked at are taken as one for up to five pins, else two.
    """
    count = len(port.pins)
    rows = min(port.rows or (1 if count <= 5 else 2), count)
    wide = -(-count // rows)
    kept = []
    for r in range(rows):
        if r * wide < count:
            kept.append(tuple(range(1 + r * wide, min(count, (r + 1) * wide) + 1)))
    lines = tuple(kept)
    if port.gender == "sockets":
        return tuple(line[::-1] for line in lines)
    return lines


def face_words(port: Port) -> str:
    """Return what is known of a plug's face: gender and key."""
    if port.gender:
        return ", ".join([port.gender, *([f"key {port.key}"] if port.key else [])])
    if port.key:
        return f"key {port.key}"
    return "face not checked"


def _face_height(bike: Bike, join: Join) -> float:
    return FACE * max(len(face(bike.part(p).port(q))) for p, q in join.sides()) + 5.0


def _face(port: Port, x: float, y: float, room: float) -> list[Markup]:
    """Return the mating face: filled rings for pins, open ones for sockets, its number in each.

    What is known of it stands beside.
    """
    rows = face(port)
    longest = max(len(row) for row in rows)
    pitch = min(FACE, (room - 62) / longest)
    radius = min(5.4, pitch * 0.46)
    fill, ink = (INK, PAPER) if port.gender == "pins" else (PAPER, INK)
    out = []
    for r, row in enumerate(rows):
        for c, number in enumerate(row):
            at = (x + pitch * (c + 0.5), y + FACE * (r + 0.5))
            below = (at[0], at[1] + radius * 0.44)
            out.append(circle(at, radius, fill=fill, stroke=INK, stroke_width=0.8))
            out.append(label(below, str(number), radius * 1.25, "middle", fill=ink))
    wide = pitch * longest
    words = fit(face_words(port), room - wide - 8, 8.5)
    return [*out, label((x + wide + 6, y + FACE * 0.5 + 3), words, 8.5)]


def _rows(bike: Bike, join: Join) -> list[tuple[int, Pin, int, Pin | None]]:
    """Return (number, pin, number of its mate, its mate) for every pin of the first plug; then what
    is left of the other."""
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
    return " × ".join(
        f"{v:g} {u}" for v, u in ((join.wire.area_mm2, "mm²"), (join.wire.length_m, "m")) if v
    )


def fit(text: str, width: float, size: float) -> str:
    """Return the text, cut with … where it is wider than `width` at the font size."""
    room = int(width / (size * CHARACTER))
    if len(text) <= room:
        return text
    return text[: max(room - 1, 1)] + "…"


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
    found = []
    for joins in pages:
        if joins:
            found.append(_drawn(bike, heading, *_columns(bike, joins)))
    return tuple(found)


def _drawn(bike: Bike, heading: str, boxes: tuple[CardBox, ...], height: float) -> str:
    numbers = {j.id: n for n, j in enumerate(bike.joins, 1)}
    used = {pin.colour.lower() for part in bike.parts for pin in part.pins} & CODES.keys()
    if used:
        key = ", ".join(f"{CODES[c]} {c}" for c in sorted(used)) + "."
    else:
        key = ""
    looked = (
        "Faces as seen when looking into the plug: filled rings are pins, open ones sockets. "
        "Volts to pack −: off / on at rest / full or pulled ~ while turning."
    )
    return on_ground(
        WIDTH,
        height,
        PAPER,
        label((MARGIN, 34), fit(heading, WIDTH - 2 * MARGIN, 18), 18, bold=True),
        label((MARGIN, 47), key, 9),
        label((MARGIN, 59), looked, 9),
        *(_card(bike, bike.join(box.join), box, numbers[box.join]) for box in boxes),
        role="img",
        aria_label=heading,
        fill=INK,
    )


def _card(bike: Bike, join: Join, box: CardBox, number: int) -> Markup:
    half = (box.width - VOLTS) / 2
    expected = expected_volts(bike)
    ends = [(bike.part(p), bike.part(p).port(q)) for p, q in join.sides()]
    titles = [port_words(part, port) for part, port in ends]
    lefts = (box.x + 8, box.x + half + 6)
    rule = box.y + HEAD - 3
    out = [
        element("title", " with ".join(titles)),
        rect(box.x, box.y, box.width, box.height, rx=5, fill="none", stroke=INK, stroke_width=1.4),
        line((box.x, rule), (box.x + box.width, rule), stroke=INK, stroke_width=0.6),
    ]
    for left, (part, port) in zip(lefts, ends, strict=True):
        if left == lefts[0]:
            name = f"{number} {part.name}"
        else:
            name = part.name
        out.append(label((left, box.y + 17), fit(name, half - 14, 11.5), 11.5, bold=True))
        out.append(label((left, box.y + 31), fit(port.label or port.id, half - 14, 10), 10))
        out += _face(port, left, box.y + HEAD, half - 14)
    if _wire(join):
        out.append(
            label((box.x + 8, box.y + box.height - 9), f"wire between them: {_wire(join)}", 10)
        )
    top = box.y + HEAD + _face_height(bike, join)
    for k, row in enumerate(_rows(bike, join)):
        y = top + ROW * k + ROW / 2
        out += _mates(box, half, y, row)
        out.append(_volts(box, y, expected.get(_pin_name(join, row))))
    return element("g", *out)


def _pin_name(join: Join, row: tuple[int, Pin, int, Pin | None]) -> str:
    """Return the name of the pin that a line of a card is about."""
    side = join.sides()[0] if row[0] else join.sides()[1]
    return ".".join((*side, row[1].name))


def _volts(box: CardBox, y: float, expected: Expected | None) -> Markup:
    """Return what a meter shows at the pin of one line."""
    words = expected.words if expected else ""
    return label((box.x + box.width - 6, y + 3.5), fit(words, VOLTS + 14, 8.5), 8.5, "end")


def _mates(
    box: CardBox, half: float, y: float, row: tuple[int, Pin, int, Pin | None]
) -> list[Markup]:
    """Return one line of a card: a pin and its mate, or what has none."""
    n, pin, m, mate = row
    left, right = box.x + 14, box.x + half + 12
    room = half - 18
    if not n:
        return [label((box.x + 8, y + 3.5), "no mate —", 10), *_pin(right, y, m, pin, room)]
    first = _pin(left, y, n, pin, room)
    if mate is None:
        return [*first, label((box.x + half + 6, y + 3.5), "— no mate", 10)]
    return [*first, *_pin(right, y, m, mate, room)]


def _pin(x: float, y: float, number: int, pin: Pin, width: float) -> list[Markup]:
    """Return one pin: its number in a ring, the mark of its colour, its words."""
    colour = pin.colour.lower()
    words = f"{CODES.get(colour, pin.colour)} {pin.words}".strip()
    start = x + (37 if colour else 12)
    out = [
        circle((x, y), 7, fill="none", stroke=INK, stroke_width=1.1),
        label((x, y + 3.2), str(number), 9, "middle"),
        label((start, y + 3.5), fit(words, width - (start - x), 10), 10),
    ]
    if colour:
        out.append(
            line(
                (x + 11, y),
                (x + 33, y),
                stroke=MARK_RED if colour == "red" else INK,
                stroke_width=3.4 if colour in STRONG else 2.2,
                stroke_dasharray=dash(MARKS.get(colour, "")),
            )
        )
    return out
