"""Chance that is the same for the same words, on every machine and from version to version.

Everything is drawn from hashes of names, never from the order of a list: a fault or an element that
is added to the model leaves what the others draw as it was.
"""

import hashlib
from collections.abc import Iterable
from math import log
from statistics import NormalDist

import numpy as np

STEPS = 2**53
_NORMAL = NormalDist()


def _number(words: tuple[str, ...]) -> int:
    digest = hashlib.sha256("\x1f".join(words).encode()).digest()
    return int.from_bytes(digest[:8], "big")


def uniform(*words: str) -> float:
    """Return a number between 0 and 1, both left out.

    >>> round(uniform("seed", "fault"), 6) == round(uniform("seed", "fault"), 6)
    True
    """
    return (_number(words) % STEPS + 0.5) / STEPS


def normal(*words: str) -> float:
    """Return a number of the standard normal distribution."""
    return _NORMAL.inv_cdf(uniform(*words))


def in_turn(weighted: Iterable[tuple[str, float]], *words: str) -> list[str]:
    """Return names in a random order in which a name comes first as often as its weight has a
    share.

    Each name runs an exponential race of its own (Efraimidis and Spirakis 2006, from memory).
    """
    raced = []
    for name, weight in weighted:
        if weight > 0:
            raced.append((-log(uniform(*words, name)) / weight, name))
    return [name for _, name in sorted(raced)]


def generator(*words: str) -> np.random.Generator:
    """Return a generator for what draws many numbers at once."""
    return np.random.default_rng(_number(words))
