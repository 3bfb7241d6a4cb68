"""How much a run looks at, and how long it waits: the one setting of both.

Long tables of like cases are sampled: every run takes a part of each, always the same one, so that
a failure can be repeated. `./bright test all` takes every row. Waiting is by condition; patience
only bounds it, and is generous enough for a machine many times slower than a developer's.
"""

import os
from collections.abc import Iterable
from itertools import islice
from typing import TypeVar

Row = TypeVar("Row")

ALL = os.environ.get("BRIGHT_TESTS") == "all"
"""Whether every row of every table is asked for."""

PATIENCE_S = float(os.environ.get("BRIGHT_PATIENCE_S", "240"))
"""How long a condition is waited for, in s, before it counts as never coming."""


def sampled(rows: Iterable[Row], each: int) -> list[Row]:
    """Return every `each`-th row beginning with the first; all where all are asked for."""
    return list(islice(rows, 0, None, 1 if ALL else each))
