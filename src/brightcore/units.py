"""Quantities as people type and read them; inside the core all values are plain floats.

Pint reads the units (loaded on first use, it takes a moment to start).
"""

import math
import re
from functools import cache
from typing import Any

from brightcore.errors import ReadingError

UNITS = {"V": "volt", "Ω": "ohm", "A": "ampere", "m": "metre", "mm2": "mm**2", "mm": "mm", "km/h": "km/hour"}
OVER_LIMIT = frozenset({"ol", "o.l", "0l", "1.", "open", "inf", "∞", "over"})
_INFIX = re.compile(r"^(\d+)([kKmMrR])(\d+)$")
_NUMBER = re.compile(r"^\s*([-+]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][-+]?\d+)?)\s*(.*)$")
_PREFIXED = {"k": "kilo", "m": "milli", "M": "mega", "": "", "u": "micro", "µ": "micro"}
INCH_M = 0.0254
"""International inch, exact."""


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


def parse_quantity(text: str, unit: str) -> float:
    """Return `text` ("4.9", "210 mV", "4k7", "OL") as a float in `unit` (a key of `UNITS`).

    A bare number is in `unit`; an over-limit mark is infinity.
    Raises ReadingError with what was typed.
    """
    raw = text.strip()
    if raw.lower() in OVER_LIMIT:
        return math.inf
    infix = _INFIX.match(raw)
    if infix and unit == "Ω":
        whole, letter, part = infix.groups()
        scale = {"k": 1e3, "m": 1e6, "r": 1.0}[letter.lower()]
        return float(f"{whole}.{part}") * scale
    match = _NUMBER.match(raw)
    if not match:
        raise ReadingError(f"{raw!r} is not a number; type for example 4.9, 210 mV or OL")
    value, rest = float(match.group(1).replace(",", ".")), match.group(2).strip()
    if not rest:
        return value
    if rest in ("k", "M") and unit == "Ω":
        return value * (1e3 if rest == "k" else 1e6)
    rest = rest.replace("Ω", "ohm").replace("Ω", "ohm").replace("µ", "u")
    try:
        return float(_registry().Quantity(value, rest).to(UNITS[unit]).magnitude)
    except Exception as error:
        raise ReadingError(f"{raw!r} is not a value in {unit}") from error


def parse_in(text: str, unit: str) -> float:
    """Return `text` ("12.5 Ah", "20 mph", "26 in") as a float in a pint unit; a bare number is in that unit.

    Raises ReadingError with what was typed; infinite and undefined values are refused.
    """
    match = _NUMBER.match(text.strip())
    if not match:
        raise ReadingError(f"{text.strip()!r} is not a number")
    value, rest = float(match.group(1).replace(",", ".")), match.group(2).strip()
    if rest:
        rest = (
            rest.replace("Ω", "ohm")
            .replace("µ", "u")
            .replace("²", "**2")
            .replace("mm2", "mm**2")
            .replace("·", "*")
            .replace("°C", "degC")
        )
        rest = {
            "Ah": "ampere_hour",
            "Wh": "watt_hour",
            "mAh": "milliampere_hour",
            "kWh": "kilowatt_hour",
        }.get(rest, rest)
        try:
            value = float(f"{_registry().Quantity(value, rest).to(unit or 'dimensionless').magnitude:.12g}")
        except Exception as error:
            raise ReadingError(f"{text.strip()!r} is not a value in {unit or 'plain numbers'}") from error
    if not math.isfinite(value):
        raise ReadingError(f"{text.strip()!r} is not a finite number")
    return value


def format_quantity(value: float, unit: str) -> str:
    """Return `value` with sensible digits and a prefix where it helps: `0.21 V`, `4.7 kΩ`."""
    if math.isnan(value):
        return "unknown"
    if math.isinf(value):
        return "OL"
    size = abs(value)
    if unit == "Ω":
        for limit, scale, prefix in ((1e6, 1e6, "M"), (1e3, 1e3, "k"), (0.0, 1.0, "")):
            if size >= limit * 0.9995:
                return f"{_digits(value / scale)} {prefix}Ω"
    if unit == "V" and 0 < size < 0.0995:
        return f"{value * 1e3:.0f} mV"
    return f"{_digits(value)} {unit}"


def length_words(metres: float) -> str:
    """Return a length to cut in both measures, metres to the centimetre and inches up to the next whole one:
    `1.20 m, 48 in`."""
    return f"{metres:.2f} m, {math.ceil(metres / INCH_M - 0.02)} in"


def _digits(value: float) -> str:
    size = abs(value)
    places = 0 if size >= 100 else 1 if size >= 10 else 2
    text = f"{value:.{places}f}"
    return text.lstrip("-") if float(text) == 0 else text
