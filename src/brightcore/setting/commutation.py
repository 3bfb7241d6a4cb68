"""Six-step commutation with wires in any order: what a motor does in each of the 36 ways.

Halls 120° apart never give 000 or 111, halls 60° apart never 010 or 101 (Hanselman, "Brushless
Permanent Magnet Motor Design", ch. 8; Krishnan, "Permanent Magnet Synchronous and Brushless DC
Motor Drives").
"""

import math
from dataclasses import dataclass
from functools import cache
from itertools import permutations

Order = tuple[int, int, int]
ORDERS: tuple[Order, ...] = tuple((a, b, c) for a, b, c in permutations(range(3)))
SECTORS = 6
SPACINGS = (120, 60)

BEHAVIOURS = ("smooth", "backward", "weak", "weak-backward", "locked")
"""Forward and full, backward and full, the same with about half the torque, and stalled or
twitching."""

FULL, HALF = 0.8, 0.2


@dataclass(frozen=True, slots=True)
class Way:
    """One way to connect: controller phase i to motor phase `phases[i]`, its hall input i to
    `halls[i]`."""

    phases: Order
    halls: Order


WAYS = tuple(Way(p, h) for p in ORDERS for h in ORDERS)


def hall_code(sector: int, spacing: int) -> tuple[int, int, int]:
    """Return the halls A, B, C in a sector of 60 electrical degrees.

    >>> [hall_code(n, 120) for n in range(2)], hall_code(2, 60)
    ([(1, 0, 1), (1, 0, 0)], (1, 1, 1))
    """
    angle = 60.0 * sector + 30.0
    bits = (int((angle - n * spacing) % 360 < 180) for n in range(3))
    a, b, c = bits
    return a, b, c


def codes(spacing: int) -> tuple[tuple[int, int, int], ...]:
    """Return the six codes of one electrical turn, forwards."""
    return tuple(hall_code(sector, spacing) for sector in range(SECTORS))


PHASE_AXES = (0.0, 120.0, 240.0)


def _field(sector: int, phases: Order) -> float:
    """Return the angle in degrees of the stator field that a controller makes through its wires."""
    # A field 90° ahead of the rotor pulls best; six steps keep it within 30° of that.
    wanted = 60.0 * sector + 90.0
    currents = [_step(wanted, axis) for axis in PHASE_AXES]
    x = sum(i * math.cos(math.radians(PHASE_AXES[phases[n]])) for n, i in enumerate(currents))
    y = sum(i * math.sin(math.radians(PHASE_AXES[phases[n]])) for n, i in enumerate(currents))
    return math.degrees(math.atan2(y, x))


def _step(wanted: float, axis: float) -> float:
    """Return +1, −1 or 0: which phases a six-step controller drives for a field near an angle."""
    off = math.cos(math.radians(wanted - axis))
    if off > 0.6:
        return 1.0
    if off < -0.6:
        return -1.0
    return 0.0


Stuck = tuple[int, int]
"""A hall that never changes: which of the motor's (0 to 2), and the level it stands at."""

STUCK: tuple[Stuck, ...] = tuple((hall, level) for hall in range(3) for level in (0, 1))


def torques(way: Way, spacing: int, stuck: Stuck | None = None) -> tuple[float, ...]:
    """Return the torque in each sector as a share of the best; 0 where the code makes no sense."""
    table = {code: sector for sector, code in enumerate(codes(spacing))}
    found = []
    for sector in range(SECTORS):
        code = list(hall_code(sector, spacing))
        if stuck is not None:
            code[stuck[0]] = stuck[1]
        seen = (code[way.halls[0]], code[way.halls[1]], code[way.halls[2]])
        # A code that cannot be (all high, all low at 120°) makes a controller give nothing in that
        # sector.
        believed = table.get(seen)
        if believed is None:
            found.append(0.0)
            continue
        rotor = 60.0 * sector
        found.append(round(math.sin(math.radians(_field(believed, way.phases) - rotor)), 6))
    return tuple(found)


@cache
def behaviour(way: Way, spacing: int = 120, stuck: Stuck | None = None) -> str:
    """Return what a motor does that is right in the way U-V-W, A-B-C, connected in another way."""
    found = torques(way, spacing, stuck)
    if min(found) >= FULL:
        return "smooth"
    if max(found) <= -FULL:
        return "backward"
    if min(found) >= HALF:
        return "weak"
    if max(found) <= -HALF:
        return "weak-backward"
    return "locked"


def against(way: Way, right: Way) -> Way:
    """Return a way as seen from the one that is right: what is swapped against it."""
    # All that matters is the difference of the two: a motor that is right in some other way
    # behaves, tried, as the plain one does in the way relative to it.
    inverse_p, inverse_h = _inverse(right.phases), _inverse(right.halls)
    p = (inverse_p[way.phases[0]], inverse_p[way.phases[1]], inverse_p[way.phases[2]])
    h = (inverse_h[way.halls[0]], inverse_h[way.halls[1]], inverse_h[way.halls[2]])
    return Way(p, h)


def _inverse(order: Order) -> Order:
    found = [0, 0, 0]
    for n, value in enumerate(order):
        found[value] = n
    return found[0], found[1], found[2]
