"""Wheels (source iso-5775) and the gears before them (source willis)."""

import math

from brightcore.errors import require

CHAIN_PITCH_M = 0.0127
"""Pitch of a bicycle chain."""

INCH_SEATS_MM = {
    16.0: 305.0,
    18.0: 355.0,
    20.0: 406.0,
    24.0: 507.0,
    26.0: 559.0,
    27.5: 584.0,
    28.0: 622.0,
    29.0: 622.0,
}
"""Usual bead seat behind an inch size (source iso-5775; narrow 16 and 20 inch wheels have 349 and
451)."""


def wheel_circumference_mm(bead_seat_mm: float, tyre_width_mm: float) -> float:
    """Return π × (bead seat + 2 × width), both in mm (source iso-5775).

    Roll-out under a rider is 1–3 % shorter (common practice).

    >>> round(wheel_circumference_mm(622, 47))
    2249
    """
    return math.pi * (bead_seat_mm + 2 * tyre_width_mm)


def planetary_ratio(ring_teeth: int, sun_teeth: int) -> float:
    """Return the ratio of a planetary gear, ring fixed, sun in, carrier out (source willis).

    >>> planetary_ratio(64, 8)
    9.0
    """
    require("ring_teeth", ring_teeth, 3, 400)
    require("sun_teeth", sun_teeth, 3, ring_teeth)
    return 1 + ring_teeth / sun_teeth


def wheel_rpm(speed_kmh: float, circumference_m: float) -> float:
    """Return turns per minute of a wheel at a road speed (identity).

    >>> wheel_rpm(36.0, 2.0)
    300.0
    """
    return speed_kmh / 3.6 / circumference_m * 60
