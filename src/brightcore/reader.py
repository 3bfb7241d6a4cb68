"""Quantities in words as one reader wants them: metric, imperial or both, with a point or a comma.

Everything inside the core, in files and in keys is metric with a point. What is said in words is
put into a reader's own units at the very end, so that no stored text depends on who looked at it.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass

UNIT_SYSTEMS = ("metric", "imperial", "both")
DECIMAL_MARKS = (".", ",")

LEAST_INCH_MM = 10.0
"""Plugs, magnets and gaps below this stay in millimetres: the trade says them so everywhere (common
practice)."""


@dataclass(frozen=True, slots=True)
class Reader:
    """How somebody reads quantities: one of `UNIT_SYSTEMS`, and one of `DECIMAL_MARKS`."""

    units: str = "metric"
    decimal: str = "."

    @property
    def is_plain(self) -> bool:
        """Whether words stay as they are."""
        return self.units == "metric" and self.decimal == "."


def _fahrenheit(celsius: float) -> float:
    return celsius * 9 / 5 + 32


def _times(factor: float) -> Callable[[float], float]:
    return lambda value: value * factor


IMPERIAL: dict[str, tuple[str, Callable[[float], float]]] = {
    "km/h": ("mph", _times(1 / 1.609344)),
    "km": ("mi", _times(1 / 1.609344)),
    "Wh/km": ("Wh/mi", _times(1.609344)),
    "m": ("ft", _times(1 / 0.3048)),
    "cm": ("in", _times(1 / 2.54)),
    "mm": ("in", _times(1 / 25.4)),
    "kg": ("lb", _times(1 / 0.45359237)),
    "°C": ("°F", _fahrenheit),
    "Nm": ("lbf·ft", _times(1 / 1.3558179483314004)),
}
"""What a unit is read as. Factors: NIST SP 811, appendix B (mile, foot, inch and pound are
exact)."""

_NUMBER = r"(?<![\w.,/])(−|-)?(\d+(?:\.\d+)?)"
_UNITS = "|".join(sorted(map(re.escape, IMPERIAL), key=len, reverse=True))
_QUANTITY = re.compile(
    rf"{_NUMBER}(?:(\s?[–-]\s?|\sto\s)(−|-)?(\d+(?:\.\d+)?))?([\s\u00a0])({_UNITS})(?![\w/²³·])"
)
_CUT = re.compile(r"(\d+\.\d\d) m, (\d+) in\b")
_DECIMAL = re.compile(
    r"(?<![\w.])(\d+)\.(\d+)(?=[\s\u00a0]?(?:[numkM]?[VAWΩFH]\b|[mk]?Ω|[mk]?Ah\b|Wh|%|s\b|min\b|h\b|°|mm|cm|km|kg"
    r"|m\b|in\b|ft\b|mi\b|mph|lb|Nm|to\b|–))"
)


def in_words_of(reader: Reader, text: str) -> str:
    """Return a text with its quantities as a reader wants them; nothing else in it changes.

    A bare number is left alone: it may be a name, a date or a code.

    >>> in_words_of(Reader("imperial"), "ends at 25 km/h, 1.20 m, 48 in")
    'ends at 15.5 mph, 48 in'
    >>> in_words_of(Reader("both", ","), "hub 0.5 °C warmer")
    'hub 0,5 °C (32,9 °F) warmer'
    """
    if reader.units != "metric":
        cuts: list[str] = []

        def hold(match: re.Match[str]) -> str:
            cuts.append(match[0] if reader.units == "both" else f"{match[2]} in")
            return f"\x00{len(cuts) - 1}\x00"

        text = _CUT.sub(hold, text)
        text = _QUANTITY.sub(lambda match: _converted(match, reader.units), text)
        text = re.sub("\x00(\\d+)\x00", lambda match: cuts[int(match[1])], text)
    if reader.decimal != ".":
        text = _DECIMAL.sub(rf"\1{reader.decimal}\2", text)
    return text


def _converted(match: re.Match[str], units: str) -> str:
    minus, low, between, high_minus, high, space, unit = match.groups()
    name, change = IMPERIAL[unit]
    if unit == "mm" and float(high or low) < LEAST_INCH_MM:
        return match[0]
    value = _value(minus, low, change, unit)
    if high is not None:
        value += f"{between}{_value(high_minus, high, change, unit)}"
    own = f"{value}{space}{name}"
    if units == "imperial":
        return own
    return f"{match[0]} ({own})"


def _value(minus: str | None, digits: str, change: Callable[[float], float], unit: str) -> str:
    """Return a number in the other unit, about as exact as it was said."""
    value = change(-float(digits) if minus else float(digits))
    places = len(digits.partition(".")[2])
    if unit in ("km/h", "km", "kg", "Nm", "m", "cm") and abs(value) < 100:
        places = max(places, 1)
    if unit == "mm":
        places = max(places, 2 if abs(value) < 10 else 1)
    if unit == "m":
        places = min(places, 1)
    words = f"{value:.{places}f}"
    if "." in words:
        return words.rstrip("0").rstrip(".")
    return words
