"""Pictures of the instruments of Set: a scale with its target and what was read, or a curve with
levels."""

from brightcore.drawing.charts import nice_ticks
from brightcore.drawing.element import Markup, circle, drawing, element, label, line, points, rect
from brightcore.drawing.inks import INK, PAPER
from brightcore.setting.contract import Band, Curve, Picture

WIDTH = 760.0
BAND_HEIGHT, CURVE_HEIGHT = 150.0, 300.0
LEFT, RIGHT = 60.0, 24.0
TARGET, GOOD, BAD, GRID, LEVEL = "#ffe2a6", "#17202e", "#c8281e", "#cfc6b0", "#8a5a00"
SIZE = 15
LANES = 3
"""Words of marks stand in so many rows, so that those close together do not cover each other."""


def picture_svg(picture: Picture) -> str:
    """Return one picture as a standalone drawing with its title as its name."""
    if isinstance(picture, Band):
        return _band(picture)
    return _curve(picture)


def _band(band: Band) -> str:
    y, height = 78.0, 26.0
    span = band.high - band.low or 1.0

    def x(value: float) -> float:
        share = min(max((value - band.low) / span, 0.0), 1.0)
        return LEFT + share * (WIDTH - LEFT - RIGHT)

    pieces = [rect(LEFT, y, WIDTH - LEFT - RIGHT, height, fill=PAPER, stroke=INK, stroke_width=1.5)]
    if band.target is not None:
        low, high = x(band.target[0]), x(band.target[1])
        pieces.append(
            rect(low, y, max(high - low, 2.0), height, fill=TARGET, stroke=INK, stroke_width=1)
        )
    for value in _ticks(band.low, band.high):
        pieces.append(line((x(value), y + height), (x(value), y + height + 6), stroke=INK))
        pieces.append(label((x(value), y + height + 24), f"{value:g}", SIZE, "middle"))
    pieces.append(label((LEFT - 8, y + height + 24), band.unit, SIZE, "end"))
    for n, mark in enumerate(sorted(band.marks, key=lambda mark: mark.at)):
        pieces += _mark(x(mark.at), y, height, mark.words, mark.good, n % LANES)
    return _drawn(band.title, BAND_HEIGHT, pieces)


def _mark(x: float, y: float, height: float, words: str, good: bool, lane: int) -> list[Markup]:
    """Return one reading: a needle with its words; a bad one is broken, with a cross, not in colour
    alone."""
    colour = GOOD if good else BAD
    top = y - 10 - 20 * lane
    needle = line(
        (x, top),
        (x, y + height),
        stroke=colour,
        stroke_width=3,
        stroke_dasharray=None if good else "5 3",
    )
    text = words if good else f"× {words}"
    return [needle, label((x, top - 4), text, SIZE, "middle", bold=True, fill=colour)]


def _curve(curve: Curve) -> str:
    top, bottom = 24.0, CURVE_HEIGHT - 44.0
    xs = [p for p, _ in curve.points]
    ys = [q for _, q in curve.points] + [level for level, _ in curve.levels]
    low_x, high_x = min(xs), max(xs) or 1.0
    low_y, high_y = min(0.0, *ys), max(ys) * 1.08

    def at(p: float, q: float) -> tuple[float, float]:
        across = (p - low_x) / ((high_x - low_x) or 1.0)
        up = (q - low_y) / ((high_y - low_y) or 1.0)
        return LEFT + across * (WIDTH - LEFT - RIGHT - 70), bottom - up * (bottom - top)

    pieces = []
    for value in _ticks(low_y, high_y):
        _, y = at(low_x, value)
        pieces.append(line((LEFT, y), (WIDTH - RIGHT - 70, y), stroke=GRID))
        pieces.append(label((LEFT - 8, y + 5), f"{value:g}", SIZE, "end"))
    for value in _ticks(low_x, high_x):
        x, _ = at(value, low_y)
        pieces.append(label((x, bottom + 20), f"{value:g}", SIZE, "middle"))
    for level, words in curve.levels:
        a, b = at(low_x, level), at(high_x, level)
        pieces.append(line(a, b, stroke=LEVEL, stroke_width=1.5, stroke_dasharray="8 5"))
        pieces.append(label((b[0] + 6, b[1] + 5), words, SIZE))
    path = [at(p, q) for p, q in curve.points]
    pieces.append(element("polyline", points=points(path), fill="none", stroke=INK, stroke_width=3))
    pieces += [circle(spot, 5, fill=INK) for spot in path]
    pieces.append(label((LEFT - 8, 16), curve.unit, SIZE, "end"))
    pieces.append(label((LEFT, 16), curve.title, SIZE, bold=True))
    pieces.append(label((WIDTH / 2, CURVE_HEIGHT - 6), curve.across, SIZE, "middle"))
    return _drawn(curve.title, CURVE_HEIGHT, pieces)


def _ticks(low: float, high: float) -> list[float]:
    """Return round values within a scale."""
    return [value for value in nice_ticks(low, high) if low <= value <= high]


def _drawn(title: str, height: float, pieces: list[Markup]) -> str:
    return drawing(WIDTH, height, *pieces, role="img", aria_label=title, fill=INK)
