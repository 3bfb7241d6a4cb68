"""Copper conductors: resistance, and the current they carry.

Resistance: sources iec-60028 and iec-60228. Current for an area, ambient and bundle: common practice.
"""

import math

from brightcore.errors import require

COPPER_OHM_M = 1.7241e-8
COPPER_PER_K = 0.00393
"""Resistivity of annealed copper at 20 °C and its temperature coefficient (source iec-60028)."""

STRAND_RATIO = 1.13
"""Stranding and tolerance of class 5 flexible copper over solid, 11–16 % (source iec-60228)."""

REFERENCE_C = 20.0
"""Temperature to which resistances are told."""

A_PER_MM2 = 12.0
"""Current of a wire alone in air for long, per mm² (common practice)."""

RISE_AT_LIMIT_K = 40.0
"""Temperature rise at that current (common practice)."""

INSULATION_C = 90.0
"""Highest temperature of usual insulation (common practice)."""

USUAL_C = 25.0
"""Ambient for which currents are told."""

BUNDLE_RATIOS = ((1, 1.0), (3, 0.8), (math.inf, 0.7))
"""(loaded wires up to, share of the current that is left): wires in a bundle warm each other (common
practice)."""

SHORT_RUN_RATIO = 1.5
"""Full phase current lasts about a minute: a wire carries this much more than for long (common practice)."""

THICK_MM2 = 1.0
"""Area from which a wire counts as one for current rather than for signals (common practice)."""


def warmed_ratio(temperature_c: float) -> float:
    """Return resistance at a temperature over that at 20 °C (source iec-60028), −100 to 250 °C.

    >>> round(warmed_ratio(120.0), 3)
    1.393
    """
    require("temperature_c", temperature_c, -100.0, 250.0, "°C")
    return 1 + COPPER_PER_K * (temperature_c - REFERENCE_C)


def wire_ohm(length_m: float, area_mm2: float, temperature_c: float = REFERENCE_C) -> float:
    """Return the resistance in ohm of one flexible copper wire, 0 to 100 m and 0.05 to 500 mm².

    >>> round(wire_ohm(1000.0, 4.0), 2)
    4.87
    """
    require("length_m", length_m, 0.0, 100_000.0, "m")
    require("area_mm2", area_mm2, 0.05, 500.0, "mm²")
    return COPPER_OHM_M * STRAND_RATIO * warmed_ratio(temperature_c) * length_m / (area_mm2 * 1e-6)


def lead_ohm(length_m: float, area_mm2: float, temperature_c: float = REFERENCE_C) -> float:
    """Return the resistance in ohm of both wires of a lead, 0 to 100 m long.

    >>> round(30 * lead_ohm(1.0, 2.5), 2)
    0.47
    """
    require("length_m", length_m, 0.0, 100.0, "m")
    return 2 * wire_ohm(length_m, area_mm2, temperature_c)


def bundle_ratio(loaded_count: int) -> float:
    """Return the share of its current that a wire keeps in a bundle of 1 to 60 loaded wires.

    >>> [bundle_ratio(n) for n in (1, 2, 3, 4)]
    [1.0, 0.8, 0.8, 0.7]
    """
    require("bundle_count", loaded_count, 1, 60)
    return next(ratio for most, ratio in BUNDLE_RATIOS if loaded_count <= most)


def ampacity_a(area_mm2: float, ambient_c: float = USUAL_C, bundle_count: int = 1) -> float:
    """Return the current in A that a flexible wire carries for long, 0.05 to 100 mm², −30 to 80 °C.

    12 A/mm² at 25 °C alone, more for thin wires, which shed heat better for their area. Ambient: square root
    of the headroom to 90 °C insulation. Bundle: see `bundle_ratio`. All common practice.

    >>> round(ampacity_a(4.0), 1)
    48.5
    """
    require("area_mm2", area_mm2, 0.05, 100.0, "mm²")
    require("ambient_c", ambient_c, -30.0, 80.0, "°C")
    thin = 1.0 + 0.6 * math.exp(-area_mm2)
    warm = math.sqrt((INSULATION_C - ambient_c) / (INSULATION_C - USUAL_C))
    return A_PER_MM2 * area_mm2 * thin * warm * bundle_ratio(bundle_count)


def temperature_rise_k(
    current_a: float, area_mm2: float, ambient_c: float = USUAL_C, bundle_count: int = 1
) -> float:
    """Return the rise over ambient in K: 40 K at the ampacity, with the square of the current (common
    practice).

    >>> temperature_rise_k(ampacity_a(2.5), 2.5)
    40.0
    """
    return RISE_AT_LIMIT_K * (current_a / ampacity_a(area_mm2, ambient_c, bundle_count)) ** 2
