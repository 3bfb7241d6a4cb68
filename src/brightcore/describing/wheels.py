"""Tyre sizes as people write them: `47-559`, `26 x 1.75`, `26 x 1 3/8`, `700x38C`, `650b`,
`12"`."""

import re

from brightcore.errors import ReadingError
from brightcore.physics.wheels import INCH_SEATS_MM
from brightcore.units import plain_text

_ISO = re.compile(r"^(\d{2,3}(?:\.\d)?)\s*[-x/]\s*(\d{3})$", re.IGNORECASE)
_NUMBER = r"\d{1,2}(?:[ -]\d/[1-9]\d?|[.,]\d+)?"
_MARK = r"(?:inches|inch|in|\"|″)?"
_INCH = re.compile(
    rf"^(?P<size>{_NUMBER})\s*{_MARK}\s*(?:x\s*(?P<width>{_NUMBER})\s*{_MARK}\s*(?:x\s*{_NUMBER}\s*{_MARK})?)?$",
    re.IGNORECASE,
)
_FRENCH = re.compile(
    r"^(?P<size>\d{3})\s*(?:x\s*(?P<width>\d{2,3})\s*)?(?P<letter>[a-d])?$", re.IGNORECASE
)

USUAL_WIDTH_MM = 47.0
INCH_MM = 25.4

FRACTION_SEATS_MM = {
    12.5: 203.0,
    16.0: 349.0,
    18.0: 400.0,
    20.0: 451.0,
    24.0: 540.0,
    26.0: 590.0,
    27.0: 630.0,
}
"""Bead seats of inch sizes whose width is a fraction: 26 x 1 3/8 is 590, 26 x 1.375 is 559 (ISO
5775-1 and tables of the trade [std, mem])."""

FRACTION_28_MM = {1.5: 635.0}
FRENCH_SEATS_MM = {
    (700, "c"): 622.0, (700, ""): 622.0, (700, "b"): 635.0, (700, "d"): 587.0,
    (650, "a"): 590.0, (650, "b"): 584.0, (650, "c"): 571.0,
    (600, "a"): 541.0, (550, "a"): 490.0, (500, "a"): 440.0, (450, "a"): 390.0, (400, "a"): 340.0,
}  # fmt: skip
"""Bead seats of sizes by outer diameter in mm and letter (tables of the trade [mem])."""

WHOLE_SEATS_MM = {12.0: 203.0, 28.0: 622.0}
"""Inch sizes that mean one bead seat whatever their width."""


def parse_tyre(text: str) -> tuple[float, float]:
    """Return (width, bead seat) in mm of a tyre size as it is printed or spoken.

    A size without a width takes 47 mm. Raises ReadingError with what was typed.

    >>> [parse_tyre(t) for t in ("47-559", "26 x 1 3/8", "700x38C", "650b", '12"')]
    [(47.0, 559.0), (34.9, 590.0), (38.0, 622.0), (47.0, 584.0), (47.0, 203.0)]
    """
    raw = plain_text(text)
    plain = re.sub(r"\s+", " ", raw.replace("×", "x"))
    found = _iso(plain) or _french(plain) or _inch(plain)
    if found is None:
        raise ReadingError(
            f"{raw!r} is not a tyre size; type 47-559 (on the side wall), 26 in or 700x38C"
        )
    width, seat = found
    if not (18 <= width <= 130 and 200 <= seat <= 700):
        raise ReadingError(f"{raw!r}: width 18–130 mm and bead seat 200–700 mm are possible")
    return round(width, 1), seat


def _iso(plain: str) -> tuple[float, float] | None:
    match = _ISO.match(plain)
    if match:
        return (float(match.group(1)), float(match.group(2)))
    return None


def _french(plain: str) -> tuple[float, float] | None:
    match = _FRENCH.match(plain)
    if match is None:
        return None
    seat = FRENCH_SEATS_MM.get((int(match["size"]), (match["letter"] or "").lower()))
    if seat:
        return (float(match["width"] or USUAL_WIDTH_MM), seat)
    return None


def _value(text: str) -> tuple[float, bool]:
    """Return a number in inches, and whether it was written as a fraction."""
    match = re.match(r"^(\d+)[ -](\d)/([1-9]\d?)$", text)
    if match:
        return int(match[1]) + int(match[2]) / int(match[3]), True
    return float(text.replace(",", ".")), False


def _inch(plain: str) -> tuple[float, float] | None:
    match = _INCH.match(plain)
    if match is None:
        return None
    size, _ = _value(match["size"])
    width, fraction = (
        _value(match["width"]) if match["width"] else (USUAL_WIDTH_MM / INCH_MM, False)
    )
    if fraction and size == 28.0:
        seat = FRACTION_28_MM.get(width, 622.0)
    elif fraction:
        seat = FRACTION_SEATS_MM.get(size, 0.0)
    else:
        seat = (
            WHOLE_SEATS_MM.get(size) or INCH_SEATS_MM.get(size) or FRACTION_SEATS_MM.get(size, 0.0)
        )
    if seat:
        return (width * INCH_MM, seat)
    return None
