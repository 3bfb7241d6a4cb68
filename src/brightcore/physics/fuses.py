"""Fuses (ISO 8820 practice, from memory)."""

FUSE_RATIO = 0.8
"""Share of a fuse's rating that may flow for long."""


def fuse_long_a(rating_a: float) -> float:
    """Return the current in A that a fuse carries for long.

    >>> fuse_long_a(40.0)
    32.0
    """
    return FUSE_RATIO * rating_a
