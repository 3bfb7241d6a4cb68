"""How warm a wire gets, and the current that it carries: one model for all that asks.

A wire in still air is a horizontal cylinder. What it makes as heat goes away by free convection
(Churchill and Chu, Int. J. Heat Mass Transfer 18, 1975 [mem]) and by radiation; for a stated time
it also warms itself up. The current that it carries is the one that warms it by 40 K, or to the
limit of its insulation where that is less. The area comes in with an exponent of about 0.6: ten
times the copper carries four times the current. Checked against DIN VDE 0298-4 in the tests.
"""

import math
from functools import lru_cache

from brightcore.errors import require
from brightcore.physics.air import GRAVITY
from brightcore.physics.copper import THICK_MM2, wire_ohm

RISE_AT_LIMIT_K = 40.0
"""Rise of a wire that carries all it may, as tables of currents take it (source vde-0298)."""

INSULATION_C = 90.0
"""Highest temperature of usual insulation (common practice)."""

USUAL_C = 25.0
"""Ambient for which currents are told."""

BUNDLE_RATIOS = ((1, 1.0), (3, 0.8), (math.inf, 0.7))
"""(loaded wires up to, share of the current that is left): wires in a bundle warm each other
(common practice)."""

SHORT_RUN_S = 60.0
"""How long full phase current lasts (common practice)."""

FOR_LONG_S = math.inf

STRAND_FILL = 0.75
"""Share of a strand's circle that is copper (common practice)."""

WALL_MM = (0.4, 0.8)
"""Insulation of a thin and of a thick wire (common practice)."""

EMISSIVITY = 0.9
STEFAN_W_M2K4 = 5.670e-8
PRANDTL = 0.71
AIR_K = 293.0
AIR_M2_S, AIR_W_MK = 1.5e-5, 0.0257
"""Viscosity and conductivity of air at 20 °C, and how they grow with the absolute temperature
[mem]."""

AIR_POWERS = (1.75, 0.85)
KELVIN = 273.15
COPPER_J_M3K, PLASTIC_J_M3K = 3.45e6, 1.5e6
"""Heat that a cubic metre takes for 1 K [mem]."""

MOST_RISE_K = 600.0
STEPS = 40


def bundle_ratio(loaded_count: int) -> float:
    """Return the share of its current that a wire keeps in a bundle of 1 to 60 loaded wires.

    >>> [bundle_ratio(n) for n in (1, 2, 3, 4)]
    [1.0, 0.8, 0.8, 0.7]
    """
    require("bundle_count", loaded_count, 1, 60)
    return next(ratio for most, ratio in BUNDLE_RATIOS if loaded_count <= most)


def _diameters_m(area_mm2: float) -> tuple[float, float]:
    """Return the diameters of strand and insulation, in m."""
    strand = math.sqrt(4 * area_mm2 / math.pi / STRAND_FILL)
    return strand * 1e-3, (strand + 2 * WALL_MM[area_mm2 >= THICK_MM2]) * 1e-3


def film_w_m2k(diameter_m: float, rise_k: float, ambient_c: float) -> float:
    """Return what a horizontal cylinder in still air gives off, in W per m² and K."""
    film = KELVIN + ambient_c + rise_k / 2
    viscosity = AIR_M2_S * (film / AIR_K) ** AIR_POWERS[0]
    conductivity = AIR_W_MK * (film / AIR_K) ** AIR_POWERS[1]
    rayleigh = GRAVITY * rise_k * diameter_m**3 * PRANDTL / (film * viscosity**2)
    share = (1 + (0.559 / PRANDTL) ** (9 / 16)) ** (8 / 27)
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / share) ** 2
    cold, warm = KELVIN + ambient_c, KELVIN + ambient_c + rise_k
    radiated = EMISSIVITY * STEFAN_W_M2K4 * (warm**4 - cold**4) / rise_k
    return float(nusselt * conductivity / diameter_m + radiated)


def _shed_w_mk(area_mm2: float, rise_k: float, ambient_c: float) -> float:
    """Return what a metre of wire gives off, in W per K."""
    outer = _diameters_m(area_mm2)[1]
    return film_w_m2k(outer, rise_k, ambient_c) * math.pi * outer


def time_constant_s(
    area_mm2: float, rise_k: float = RISE_AT_LIMIT_K, ambient_c: float = USUAL_C
) -> float:
    """Return how long a wire takes for 63 % of its rise, in s.

    >>> round(time_constant_s(2.5), -1), round(time_constant_s(10.0), -1)
    (80.0, 170.0)
    """
    strand, outer = _diameters_m(area_mm2)
    plastic = math.pi / 4 * (outer**2 - strand**2)
    held = COPPER_J_M3K * area_mm2 * 1e-6 + PLASTIC_J_M3K * plastic
    return held / _shed_w_mk(area_mm2, rise_k, ambient_c)


def _reached(area_mm2: float, rise_k: float, ambient_c: float, seconds: float) -> float:
    """Return the share of its final rise that a wire has after some time."""
    if math.isinf(seconds):
        return 1.0
    return 1.0 - math.exp(-seconds / time_constant_s(area_mm2, rise_k, ambient_c))


@lru_cache(maxsize=4096)
def current_for_rise_a(
    area_mm2: float, rise_k: float, ambient_c: float = USUAL_C, seconds: float = FOR_LONG_S
) -> float:
    """Return the current in A that warms a wire alone in still air by so much, for long or within a
    time.

    Area 0.05 to 100 mm², rise above 0 to 600 K, ambient −30 to 90 °C.

    >>> round(current_for_rise_a(10.0, 40.0, 30.0))
    75
    """
    require("area_mm2", area_mm2, 0.05, 100.0, "mm²")
    require("ambient_c", ambient_c, -30.0, 90.0, "°C")
    ohm_m = wire_ohm(1.0, area_mm2, min(ambient_c + rise_k, 250.0))
    shed = _shed_w_mk(area_mm2, rise_k, ambient_c) * rise_k
    return math.sqrt(shed / (ohm_m * _reached(area_mm2, rise_k, ambient_c, seconds)))


def allowed_rise_k(ambient_c: float = USUAL_C, insulation_c: float = INSULATION_C) -> float:
    """Return by how much a wire may get warmer: 40 K, less where its insulation stands less.

    >>> allowed_rise_k(25.0), allowed_rise_k(60.0), allowed_rise_k(60.0, 70.0)
    (40.0, 30.0, 10.0)
    """
    return max(min(RISE_AT_LIMIT_K, insulation_c - ambient_c), 0.1)


def ampacity_a(
    area_mm2: float,
    ambient_c: float = USUAL_C,
    bundle_count: int = 1,
    seconds: float = FOR_LONG_S,
    insulation_c: float = INSULATION_C,
) -> float:
    """Return the current in A that a flexible wire carries, for long or for a time in s.

    Area 0.05 to 100 mm², ambient −30 to 80 °C.

    >>> [round(ampacity_a(area)) for area in (1.0, 4.0, 10.0)]
    [19, 42, 75]
    """
    require("ambient_c", ambient_c, -30.0, 80.0, "°C")
    rise = allowed_rise_k(ambient_c, insulation_c)
    return current_for_rise_a(area_mm2, rise, ambient_c, seconds) * bundle_ratio(bundle_count)


def temperature_rise_k(
    current_a: float, area_mm2: float, ambient_c: float = USUAL_C, bundle_count: int = 1
) -> float:
    """Return the rise over ambient in K that a current makes for long; 600 K stands for more.

    >>> round(temperature_rise_k(ampacity_a(2.5), 2.5), 1)
    40.0
    """
    alone = current_a / bundle_ratio(bundle_count)
    low, high = 0.0, MOST_RISE_K
    if alone >= current_for_rise_a(area_mm2, high, ambient_c):
        return high
    for _ in range(STEPS):
        middle = (low + high) / 2
        if current_for_rise_a(area_mm2, max(middle, 1e-6), ambient_c) < alone:
            low = middle
        else:
            high = middle
    return (low + high) / 2
