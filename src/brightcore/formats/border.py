"""The border that every file crosses before anything else looks at it: text, numbers, size, depth.

What it refuses could not be shown, stored or compared rightly: lone surrogates, control characters,
numbers that no database column or drawing holds, and nesting that nobody writes.
"""

import math
import unicodedata
from collections.abc import Iterator

from brightcore.errors import FormatError, Problem
from brightcore.formats.plain import Json

MOST_DEPTH = 24
MOST_VALUES = 300_000
MOST_NUMBER = 1e12
PLAIN_CONTROLS = "\n\t\r"
MOST_TOLD = 40
"""Problems that are told of one file."""


def check_border(document: Json) -> None:
    """Raise FormatError listing what no file may hold, each with its place."""
    problems = []
    for count, (path, depth, value) in enumerate(_values(document)):
        if count > MOST_VALUES:
            raise FormatError((Problem("$", f"the file holds more than {MOST_VALUES} values"),))
        if depth > MOST_DEPTH:
            raise FormatError((Problem(path, f"nested deeper than {MOST_DEPTH} levels"),))
        wrong = _wrong(value)
        if wrong:
            problems.append(Problem(path, wrong))
            if len(problems) >= MOST_TOLD:
                break
    if problems:
        raise FormatError(tuple(problems))


def _values(document: Json) -> Iterator[tuple[str, int, Json]]:
    """Yield (path, depth, value) of every value and key, without recursion."""
    waiting = [("$", 0, document)]
    while waiting:
        path, depth, value = waiting.pop()
        yield path, depth, value
        if isinstance(value, dict):
            for key, inner in value.items():
                wrong = _wrong(key)
                name = "?" if wrong else key
                yield f"{path}.{name}", depth + 1, key
                waiting.append((f"{path}.{name}", depth + 1, inner))
        elif isinstance(value, list):
            waiting += [(f"{path}[{i}]", depth + 1, inner) for i, inner in enumerate(value)]


def _wrong(value: Json) -> str:
    """Return what is wrong with one value, "" where nothing is."""
    if isinstance(value, str):
        return wrong_text(value)
    if isinstance(value, bool) or not isinstance(value, int | float):
        return ""
    if not math.isfinite(value) or abs(value) > MOST_NUMBER:
        return f"a number must lie within ±{MOST_NUMBER:.0e}"
    return ""


def wrong_text(text: str) -> str:
    """Return what keeps a text from being shown and stored, "" where nothing does.

    >>> wrong_text("4k7\\n"), wrong_text("a\\x00b")
    ('', 'holds the control character U+0000')
    """
    if text.isascii() and text.isprintable():
        return ""
    for character in text:
        kind = unicodedata.category(character)
        if kind == "Cs":
            return f"holds half a character, U+{ord(character):04X}"
        if kind == "Cc" and character not in PLAIN_CONTROLS:
            return f"holds the control character U+{ord(character):04X}"
    return ""
