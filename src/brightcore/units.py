"""Quantities as people type and read them; inside the core all values are plain floats.

Pint reads the units (loaded on first use, it takes a moment to start).
"""

import math
import re
from functools import cache
from typing import Any

from brightcore.errors import ReadingError

UNITS = {
    "V": "volt",
    "Ω": "ohm",
    "A": "ampere",
    "m": "metre",
    "mm2": "mm**2",
    "mm": "mm",
    "km/h": "km/hour",
}
OVER_LIMIT = frozenset({"ol", "o.l", "0l", "1.", "open", "inf", "∞", "over"})
_INFIX = re.compile(r"^(\d+)([kKmMrR])(\d+)$")
_NUMBER = re.compile(r"^([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)(.*)$")
_FRACTION = re.compile(r"^(?:(\d+)[ -]\s*)?(\d+)/(\d+)(?!\d)(.*)$")
_GROUPED = re.compile(r"^([-+]?\d{1,3}(?: \d{3})+)(?!\d)")
_THOUSANDS = re.compile(r"^[-+]?[1-9]\d{0,2}(?:,\d{3})+(?![\d.,])")
_ENGLISH = re.compile(r"^[-+]?[1-9]\d{0,2}(?:,\d{3})+\.\d+")
_GERMAN = re.compile(r"^[-+]?[1-9]\d{0,2}(?:\.\d{3})+,\d+")

SIGNS = {"\u2212": "-", "\u2012": "-", "\u2013": "-", "\u00a0": " ", "\u2009": " ", "\u202f": " "}
"""True minus, dashes and narrow spaces, as keyboards and documents give them."""

SPOKEN = {
    "amps": "A",
    "amp": "A",
    "amperes": "A",
    "volts": "V",
    "volt": "V",
    "watts": "W",
    "watt": "W",
    "ohms": "ohm",
    "ohm": "ohm",
    "ω": "ohm",
    "r": "ohm",
    "kω": "kohm",
    "kohms": "kohm",
    "kohm": "kohm",
    "k": "kohm",
    "mohms": "mohm",
    "kmh": "km/hour",
    "kph": "km/hour",
    "km/h": "km/hour",
    "mi": "mile",
    "miles": "mile",
    "mile": "mile",
    "in": "inch",
    "inches": "inch",
    "inch": "inch",
    "″": "inch",
    '"': "inch",
    "''": "inch",
    "ft": "foot",
    "feet": "foot",
    "'": "foot",
    "′": "foot",
    "lbs": "pound",
    "lb": "pound",
    "kgs": "kg",
    "hours": "hour",
    "hrs": "hour",
    "h": "hour",
    "mins": "minute",
    "min": "minute",
    "secs": "second",
    "°c": "degC",
    "c": "degC",
    "°f": "degF",
    "f": "degF",
    "nm": "newton * metre",
    "n·m": "newton * metre",
    "mm²": "mm**2",
    "mm2": "mm**2",
    "mm^2": "mm**2",
    "sqmm": "mm**2",
    "qmm": "mm**2",
    "ah": "ampere_hour",
    "mah": "milliampere_hour",
    "wh": "watt_hour",
    "kwh": "kilowatt_hour",
    "percent": "percent",
    "%": "percent",
    "pct": "percent",
}
"""Units as people say and print them, in small letters; everything else is for Pint to read."""

INCH_M = 0.0254
"""International inch, exact."""


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


def plain_text(text: str) -> str:
    """Return what was typed with plain signs and spaces.

    >>> plain_text(" \u22120.3 V ")
    '-0.3 V'
    """
    for sign, plain in SIGNS.items():
        text = text.replace(sign, plain)
    return text.strip()


def split_number(text: str) -> tuple[float, str] | None:
    """Return (number, what follows it) of a typed quantity, None where it begins with no number.

    A comma or a point may part the decimals; fractions are read. Raises ReadingError where a comma
    may part thousands as well as decimals: that is asked, not guessed.

    >>> [split_number(text) for text in ("0,3 Ohm", "3/4 in", "1 3/8 in", "1,234.5 m")]
    [(0.3, 'Ohm'), (0.75, 'in'), (1.375, 'in'), (1234.5, 'm')]
    """
    raw = plain_text(text)
    fraction = _FRACTION.match(raw)
    if fraction and int(fraction.group(3)):
        whole, part, of, rest = fraction.groups()
        return int(whole or 0) + int(part) / int(of), rest.strip()
    grouped = _GROUPED.match(raw)
    if grouped:
        raw = grouped.group(1).replace(" ", "") + raw[grouped.end() :]
    elif _ENGLISH.match(raw):
        raw = raw.replace(",", "")
    elif _GERMAN.match(raw):
        raw = raw.replace(".", "").replace(",", ".")
    elif _THOUSANDS.match(raw):
        digits = _THOUSANDS.match(raw)[0]  # type: ignore[index]
        whole, decimal = digits.replace(",", ""), digits.replace(",", ".", 1)
        raise ReadingError(f"{digits} may be {whole} or {decimal}: type the one you mean")
    else:
        raw = re.sub(r"^([-+]?\d*),(\d)", r"\1.\2", raw)
    match = _NUMBER.match(raw)
    if match:
        return (float(match.group(1)), match.group(2).strip())
    return None


def _unit(words: str) -> str:
    """Return a typed unit as Pint reads it. Capitals tell milli from mega."""
    plain = (
        words.replace("\u2126", "Ω")
        .replace("\u00b5", "u")
        .replace("\u03bc", "u")
        .strip()
        .rstrip(".")
    )
    if plain in ("M", "MΩ", "MOhm", "Mohm", "Mohms", "megohm"):
        return "megaohm"
    if plain in ("mΩ", "mOhm", "mohm", "mohms"):
        return "milliohm"
    return SPOKEN.get(plain.lower().replace(" ", ""), plain.replace("Ω", "ohm"))


def _converted(value: float, words: str, unit: str) -> float:
    """Return a value in another unit, to six digits; raises whatever Pint raises."""
    found = _registry().Quantity(value, _unit(words)).to(unit or "dimensionless").magnitude
    if words:
        return float(f"{found:.6g}")
    return value


def parse_quantity(text: str, unit: str) -> float:
    """Return `text` ("4.9", "210 mV", "4k7", "OL") as a float in `unit` (a key of `UNITS`).

    A bare number is in `unit`; an over-limit mark is infinity.
    Raises ReadingError with what was typed.
    """
    raw = plain_text(text)
    if raw.lower() in OVER_LIMIT:
        return math.inf
    infix = _INFIX.match(raw)
    if infix and unit == "Ω":
        whole, letter, part = infix.groups()
        scale = {"k": 1e3, "m": 1e6, "r": 1.0}[letter.lower()]
        return float(f"{whole}.{part}") * scale
    found = split_number(raw)
    if found is None:
        raise ReadingError(f"{raw!r} is not a number; type for example 4.9, 210 mV or OL")
    value, rest = found
    if not rest:
        return value
    try:
        return _converted(value, rest, UNITS[unit])
    except Exception as error:
        raise ReadingError(f"{raw!r} is not a value in {unit}") from error


def parse_in(text: str, unit: str) -> float:
    """Return `text` ("12.5 Ah", "20 mph", "26 in") as a float in a pint unit; a bare number is in
    that unit.

    Raises ReadingError with what was typed; infinite and undefined values are refused.
    """
    raw = plain_text(text)
    found = split_number(raw)
    if found is None:
        raise ReadingError(f"{raw!r} is not a number")
    value, rest = found
    if rest:
        try:
            value = _converted(value, rest, unit)
        except Exception as error:
            raise ReadingError(f"{raw!r} is not a value in {unit or 'plain numbers'}") from error
    if not math.isfinite(value):
        raise ReadingError(f"{raw!r} is not a finite number")
    return value


def format_quantity(value: float, unit: str) -> str:
    """Return `value` with sensible digits and a prefix where it helps: `0.21 V`, `4.7 kΩ`, `3
    mΩ`."""
    if math.isnan(value):
        return "unknown"
    if math.isinf(value):
        return "OL"
    size = abs(value)
    if unit == "Ω" and 0 < size < 0.0995:
        return f"{value * 1e3:.2g} mΩ"
    if unit == "Ω":
        for limit, scale, prefix in ((1e6, 1e6, "M"), (1e3, 1e3, "k"), (0.0, 1.0, "")):
            if size >= limit * 0.9995:
                return f"{_digits(value / scale)} {prefix}Ω"
    if unit in ("V", "A") and 0 < size < 0.0995:
        return f"{round(value * 1e3, 1) + 0.0:g} m{unit}"
    return f"{_digits(value)} {unit}"


def length_words(metres: float) -> str:
    """Return a length to cut in both measures, metres to the centimetre and inches up to the next
    whole one: `1.20 m, 48 in`."""
    return f"{metres:.2f} m, {math.ceil(metres / INCH_M - 0.02)} in"


def _digits(value: float) -> str:
    size = abs(value)
    if size >= 100:
        places = 0
    elif size >= 10:
        places = 1
    else:
        places = 2
    text = f"{value:.{places}f}"
    if float(text) == 0:
        return text.lstrip("-")
    return text
