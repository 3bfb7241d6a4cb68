"""Tyre sizes as people write them."""

import re

from brightcore.errors import ReadingError
from brightcore.physics.wheels import INCH_SEATS_MM

_ISO = re.compile(r"^(\d{2,3}(?:\.\d)?)\s*[-–x×/]\s*(\d{3})$")
_INCH = re.compile(
    r"^(\d{2}(?:[.,]\d+)?)\s*(?:in|inch|\"|″)?\s*(?:[x×]\s*(\d(?:[.,]\d+)?)\s*(?:in|\"|″)?)?$", re.IGNORECASE
)


def parse_tyre(text: str) -> tuple[float, float]:
    """Return (width, bead seat) in mm of `47-559`, `26 in` or `26 x 1.75`.

    An inch size without a width takes 47 mm. Raises ReadingError with what was typed.
    """
    raw = text.strip()
    iso = _ISO.match(raw)
    if iso:
        width, seat = float(iso.group(1)), float(iso.group(2))
        if not (18 <= width <= 130 and 200 <= seat <= 700):
            raise ReadingError(f"{raw!r}: width 18–130 mm and bead seat 200–700 mm are possible")
        return width, seat
    inch = _INCH.match(raw)
    size = float(inch.group(1).replace(",", ".")) if inch else 0.0
    if inch is None or size not in INCH_SEATS_MM:
        raise ReadingError(f"{raw!r} is not a tyre size; type 47-559 (on the side wall), or 26 in")
    width = float(inch.group(2).replace(",", ".")) * 25.4 if inch.group(2) else 47.0
    return round(width, 1), INCH_SEATS_MM[size]
