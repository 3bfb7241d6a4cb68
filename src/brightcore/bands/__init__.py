"""Bands of readings: usual, off, danger, impossible, by what a point is. Every station asks
here."""

from brightcore.bands.model import DANGER, IMPOSSIBLE, OFF, USUAL, Bands
from brightcore.bands.points import (
    BRAKE,
    CELL,
    HEAT,
    OUTPUT,
    PACK,
    RAIL,
    SIGNAL,
    bands_at,
    bands_of,
)

__all__ = [
    "BRAKE",
    "CELL",
    "DANGER",
    "HEAT",
    "IMPOSSIBLE",
    "OFF",
    "OUTPUT",
    "PACK",
    "RAIL",
    "SIGNAL",
    "USUAL",
    "Bands",
    "bands_at",
    "bands_of",
]
