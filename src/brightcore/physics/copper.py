"""Copper conductors: their resistance (sources iec-60028 and iec-60228)."""

from brightcore.errors import require

COPPER_OHM_M = 1.7241e-8
COPPER_PER_K = 0.00393
"""Resistivity of annealed copper at 20 °C and its temperature coefficient (source iec-60028)."""

STRAND_RATIO = 1.13
"""Stranding and tolerance of class 5 flexible copper over solid, 11–16 % (source iec-60228)."""

REFERENCE_C = 20.0
"""Temperature to which resistances are told."""

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
