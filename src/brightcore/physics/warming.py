"""How a motor warms, and what its winding stands: the one home of both.

One thermal mass behind one resistance to the air, estimated from the printed watts.

Nothing better is known of most motors. Printed watts are taken as what it stands for ever, 75 K
over the air. Mass and surface both grow with the watts, the mass faster, so a large motor takes
longer to warm (common practice; measure with a thermometer). Validity: 50 to 10,000 W, closed hubs
and mid drives in moving air.
"""

import math
from dataclasses import dataclass

from brightcore.errors import require
from brightcore.physics.copper import warmed_ratio
from brightcore.physics.heating import SHORT_RUN_S

RISE_K = 75.0
"""What printed watts warm a winding by in the long run (common practice)."""

SMALL_W, SMALL_J_PER_K, SMALL_LOSS_W = 250.0, 1200.0, 50.0
"""A small hub: printed watts, heat capacity (3 kg at 400 J/kg·K), and what it loses at those watts
(common practice)."""

MASS_EXPONENT, SURFACE_EXPONENT = 0.7, 0.6
"""How heat capacity and heat given away grow with the watts (common practice)."""


COPPER_W = 324.0
"""Loss that copper alone stands for a minute, before the iron beside it takes its share: 18 A by
the root of its ohms, about 300 W (common practice)."""

COPPER_J_PER_K = COPPER_W * SHORT_RUN_S / RISE_K
"""What the copper of a winding holds by that rule."""


@dataclass(frozen=True, slots=True)
class Warming:
    """Heat capacity in J/K and resistance to the air in K/W of one motor."""

    j_per_k: float
    k_per_w: float

    @property
    def seconds(self) -> float:
        """Time constant in s."""
        return self.j_per_k * self.k_per_w

    def loss_w(self, seconds: float = math.inf) -> float:
        """Return the loss in W that warms it by RISE_K in a time, from cold; for ever by
        default."""
        return RISE_K / (self.k_per_w * (1.0 - math.exp(-seconds / self.seconds)))

    def minutes(self, loss_w: float) -> float:
        """Return after how many minutes a loss in W has warmed it by RISE_K; infinite where it
        never does."""
        if loss_w > 0:
            share = RISE_K / (self.k_per_w * loss_w)
        else:
            share = math.inf
        if share < 1:
            return -math.log1p(-share) * self.seconds / 60
        return math.inf


def warming_of(rated_w: float) -> Warming:
    """Return how a motor of printed watts warms.

    >>> small, large = warming_of(250.0), warming_of(1000.0)
    >>> round(small.k_per_w, 2), round(small.seconds / 60), large.seconds > small.seconds
    (1.5, 30, True)
    """
    require("rated_w", rated_w, 50.0, 10_000.0, "W")
    size = rated_w / SMALL_W
    return Warming(
        SMALL_J_PER_K * size**MASS_EXPONENT, RISE_K / (SMALL_LOSS_W * size**SURFACE_EXPONENT)
    )


def winding_a(loss_w: float, phase_ohm: float, rise_k: float = RISE_K) -> float:
    """Return the phase current in A whose copper loss in a warm winding is `loss_w`.

    The equivalent DC machine: the current flows through the resistance between two phases.
    """
    return math.sqrt(loss_w / (phase_ohm * warmed_ratio(20.0 + rise_k)))


def winding_long_a(rated_w: float, phase_ohm: float) -> float:
    """Return the phase current in A that a winding stands for long, by its motor's printed watts.

    >>> round(winding_long_a(500.0, 0.12))
    22
    """
    return winding_a(warming_of(rated_w).loss_w(), phase_ohm)


def winding_minute_a(rated_w: float, phase_ohm: float) -> float:
    """Return the phase current in A that a winding stands for a minute.

    The lower of two estimates: the whole motor as one mass, and its copper alone. The first lets a
    motor of many watts take far more than its thin copper carries; never below what it stands for
    long.

    >>> round(winding_minute_a(500.0, 0.12)), round(winding_minute_a(5000.0, 0.12))
    (52, 52)
    """
    whole = winding_a(warming_of(rated_w).loss_w(SHORT_RUN_S), phase_ohm)
    copper = math.sqrt(COPPER_W / phase_ohm)
    return max(min(whole, copper), winding_long_a(rated_w, phase_ohm))


def stalled_seconds(phase_a: float, phase_ohm: float, from_c: float, to_c: float) -> float:
    """Return how long a winding that does not turn takes from one temperature to another, in s.

    All of the current goes through the copper of two phases and none of the heat away: a motor that
    stands has no air moved in it. Infinite without current.
    """
    require("to_c", to_c, from_c, 250.0, "°C")
    middle = warmed_ratio((from_c + to_c) / 2)
    loss = phase_a**2 * phase_ohm * middle
    if loss > 0:
        return COPPER_J_PER_K * (to_c - from_c) / loss
    return math.inf
