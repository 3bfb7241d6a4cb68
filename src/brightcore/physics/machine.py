"""The equivalent DC machine of a brushless motor (source hanselman)."""

import math


def torque_per_a(rpm_per_v: float) -> float:
    """Return Kt in N·m/A from Kv in rpm/V (identity).

    >>> round(torque_per_a(8.6), 2)
    1.11
    """
    return 60.0 / (2 * math.pi * rpm_per_v)


def hub_free_kmh(rpm_per_v: float, volts: float, circumference_m: float) -> float:
    """Return the no-load road speed in km/h of a wheel-speed hub (identity).

    >>> round(hub_free_kmh(8.6, 48.0, 2.095))
    52
    """
    return rpm_per_v * volts * circumference_m * 60 / 1000


def effective_pole_pairs(magnet_count: int, ratio: float = 1.0) -> float:
    """Return electrical turns per measured turn: pole pairs × reduction (identity).

    >>> effective_pole_pairs(16, 9.0)
    72.0
    """
    return magnet_count / 2 * ratio
