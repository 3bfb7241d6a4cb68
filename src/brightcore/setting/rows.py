"""Rows of numbers as people type, copy and paste them; and a row that was read from one end."""

import re
from itertools import pairwise

from brightcore.errors import ReadingError
from brightcore.units import parse_in

LEAST_TOTALS = 3
"""From so many values on a rising row is taken for running totals."""

_PART = re.compile(r"[;\s|]+")
_UNIT_ALONE = re.compile(r"^[^\d+.,-]+$")
_COMMAS_PART = re.compile(r"^[-+]?\d+\.\d+(?:,[-+]?\d+\.\d+)+,?$")
_ONE_DECIMAL_COMMA = re.compile(r"^[-+]?\d+,\d+[^\d,]*$")


def numbers_of(text: str, unit: str) -> tuple[float, ...]:
    """Return a row of numbers, parted by spaces, lines, semicolons or commas; commas may be
    decimal.

    Raises ReadingError where a comma may part values as well as decimals: that is asked, not
    guessed.

    >>> numbers_of("3,81; 3,80 3.79", "V"), numbers_of("3.81, 3.80, 3790 mV", "V")
    ((3.81, 3.8, 3.79), (3.81, 3.8, 3.79))
    """
    words: list[str] = []
    for word in filter(None, _PART.split(text)):
        if _UNIT_ALONE.match(word) and words:
            words[-1] = f"{words[-1]} {word}"
            continue
        words += _parted(word)
    return tuple(parse_in(word, unit) for word in words)


def _parted(word: str) -> list[str]:
    """Return the numbers in a word without spaces: one, unless commas part several."""
    word = word.rstrip(",")
    if "," not in word or _ONE_DECIMAL_COMMA.match(word):
        if word:
            return [word]
        return []
    if _COMMAS_PART.match(word):
        return word.split(",")
    raise ReadingError(
        f"{word!r}: put a space or a semicolon between the values, so that commas are decimal"
    )


def differences(row: tuple[float, ...], low: float, high: float) -> tuple[float, ...]:
    """Return the steps of a row that was read from one end, empty where it was not.

    It was where it only rises, ends above what one value can be, and every step can be one.

    >>> differences((3.8, 7.6, 11.5), -2.0, 6.0)
    (3.8, 3.8, 3.9)
    """
    if len(row) < LEAST_TOTALS or row[-1] <= high or not low <= row[0] <= high:
        return ()
    steps = [round(b - a, 4) for a, b in pairwise(row)]
    if (
        any(not low <= step <= high for step in steps)
        or sum(step > 0 for step in steps) < len(steps) - 1
    ):
        return ()
    return (row[0], *steps)
