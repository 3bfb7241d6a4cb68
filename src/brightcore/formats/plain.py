"""What files hold before anyone has looked at it."""

import json
import math
from typing import Any

Json = Any
"""A parsed JSON value: whatever a file may hold, until its schema has passed it."""

JsonObject = dict[str, Json]
"""A parsed JSON object."""

MOST_DIGITS = 15
"""Longer whole numbers are none that any file of ours holds, and more than a float tells apart."""


def read_json(text: str | bytes) -> Json:
    """Return the JSON value of a text, every number of it one that can be reckoned with.

    Raises ValueError for what is no JSON, for NaN and Infinity, and for numbers too large to be
    any; RecursionError where it is nested too deep.
    """
    return json.loads(text, parse_constant=_refuse_constant, parse_int=_whole, parse_float=_finite)


def _refuse_constant(name: str) -> float:
    # Python reads NaN and Infinity, which no other reader of JSON does, and which no rule compares
    # as one would think.
    raise ValueError(f"{name} is not a number")


def _whole(text: str) -> int:
    if len(text) > MOST_DIGITS:
        raise ValueError(f"{text[:20]}… is too large a number")
    return int(text)


def _finite(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"{text[:20]} is too large a number")
    return value
