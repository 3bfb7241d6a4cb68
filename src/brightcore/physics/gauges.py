"""Wire sizes: AWG (source astm-b258), the standard metric areas, and cores laid in a hole."""

import math
from collections.abc import Iterable

from brightcore.errors import ReadingError
from brightcore.physics.copper import THICK_MM2

STANDARD_MM2 = (0.14, 0.25, 0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0)
"""Areas that flexible wire is sold in."""

GAUGE_LEAST_RATIO = 0.97
"""A gauge may be this much below an area and still stand for it."""

STRANDED_RATIO = 1.15
WALL_MM = (0.4, 0.6)
"""Diameter of strands over a solid wire, and the insulation of a thin and of a thick core (common
practice)."""

FILL_RATIO = 0.7
"""Share of a round hole that laid cores fill (common practice)."""


def awg_area_mm2(gauge: int) -> float:
    """Return the area of a solid AWG conductor in mm² (source astm-b258); gauge -3 (written 4/0) to
    40.

    >>> round(awg_area_mm2(18), 3)
    0.823
    """
    if not -3 <= gauge <= 40:
        raise ReadingError(f"{gauge} AWG is outside 4/0 to 40")
    diameter_mm = 0.127 * 92 ** ((36 - gauge) / 39)
    return float(math.pi / 4 * diameter_mm**2)


def nearest_awg(area_mm2: float) -> int:
    """Return the thinnest gauge from 0 to 30 that has at least the area (source astm-b258), 0 above
    0 AWG.

    >>> nearest_awg(2.5)
    13
    """
    if area_mm2 > awg_area_mm2(0):
        return 0
    return max(g for g in range(31) if awg_area_mm2(g) >= area_mm2 * GAUGE_LEAST_RATIO)


def core_mm(area_mm2: float) -> float:
    """Return the diameter over the insulation of one flexible core, in mm (common practice).

    >>> round(core_mm(2.5), 2)
    3.25
    """
    wall = WALL_MM[area_mm2 >= THICK_MM2]
    return STRANDED_RATIO * math.sqrt(4 * area_mm2 / math.pi) + 2 * wall


def stripped_mm(areas_mm2: Iterable[float]) -> float:
    """Return the bore that cores without a jacket need, in mm, laid to fill 70 % of it (common
    practice).

    >>> round(stripped_mm([2.0] * 3 + [0.2] * 5), 1)
    7.3
    """
    return math.sqrt(sum(core_mm(area) ** 2 for area in areas_mm2) / FILL_RATIO)
