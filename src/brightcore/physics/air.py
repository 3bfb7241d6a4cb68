"""Air and weight (source iso-2533)."""

from brightcore.errors import require

GRAVITY = 9.80665
"""Standard gravity in m/s²."""

SEA_LEVEL_K = 288.15
LAPSE_K_PER_M = 0.0065
SEA_LEVEL_PA = 101_325.0
GAS_CONSTANT = 287.05287
"""The standard atmosphere: temperature and pressure at sea level, lapse, specific gas constant of
air."""


def air_density(altitude_m: float = 0.0, temperature_c: float | None = None) -> float:
    """Return kg/m³ of the standard atmosphere, −500 to 11,000 m, or at another temperature.

    >>> round(air_density(), 3)
    1.225
    """
    require("altitude_m", altitude_m, -500.0, 11000.0, "m")
    standard_k = SEA_LEVEL_K - LAPSE_K_PER_M * altitude_m
    pressure_pa = SEA_LEVEL_PA * (standard_k / SEA_LEVEL_K) ** 5.25588
    if temperature_c is None:
        kelvin = standard_k
    else:
        kelvin = temperature_c + 273.15
    return float(pressure_pa / (GAS_CONSTANT * kelvin))
