"""Circuit elements: piecewise-linear branches.

Sign convention, stated once: an element's current flows from `a` through the element to `b`, and in
each region it is

I = g1·(Va − Vb) + g2·(Vc − Vd) + j          (A, with g in S, V in V)

The region is the first whose `upto` exceeds the controlling voltage: Va − Vb, or Vc − Vd for
elements with `by_control`. Every element is one of these, so the solver, the SPICE export and the
fault overrides need to know only this form.

Tolerances are relative standard deviations: `tol_g` of g1 and g2 together, `tol_j` of j and of g2
by itself, `tol_dead` of the element's current while the pack is out and a meter alone feeds the
circuit.

No element has a kink at 0 V: an ohmmeter stands there.
"""

import math
from dataclasses import dataclass

OFF_S = 1e-9
"""Conductance of what is open, in siemens (1 GΩ)."""

INF = math.inf

KNEE_V = 0.4
"""Volts that a supply's output stage needs before it lets current through (common practice)."""

DEAD_SPREAD = 0.8
"""Spread of what a semiconductor, a regulator's inside or a capacitor passes in a dead circuit
(common practice)."""


@dataclass(frozen=True, slots=True)
class Region:
    """One linear piece of an element, valid below `upto` volts."""

    upto: float
    g1: float
    g2: float = 0.0
    j: float = 0.0


Regions = tuple[Region, ...]


@dataclass(frozen=True, slots=True)
class Element:
    """A branch between nodes `a` and `b`, controlled by `c` and `d` where it has g2."""

    id: str
    a: str
    b: str
    regions: Regions
    c: str = ""
    d: str = ""
    by_control: bool = False
    tol_g: float = 0.0
    tol_j: float = 0.0
    fuse_a: float = INF
    tol_dead: float | None = None

    @property
    def dead_spread(self) -> float:
        """Spread of its current in a dead circuit: wide where it is no plain resistance."""
        if self.tol_dead is None:
            return spread_when_dead(self.regions, self.tol_g)
        return self.tol_dead


@dataclass(frozen=True, slots=True)
class Override:
    """New regions (and tolerance) of one element under a condition or fault."""

    element: str
    regions: Regions
    tol_g: float | None = None
    tol_j: float | None = None


def spread_when_dead(regions: Regions, tol_g: float) -> float:
    """Return the spread of an element's current in a dead circuit: that of a plain resistance is
    its own."""
    plain = len(regions) == 1 and regions[0].g2 == 0
    if plain:
        return tol_g
    # Diodes, sources and switches have one datasheet alive and another dead: what an ohmmeter's
    # volt sees of a regulator differs from make to make by far more than its output does.
    return max(tol_g, DEAD_SPREAD)


def resistor(ohm: float) -> Regions:
    """Return the regions of a resistance in ohm."""
    return (Region(INF, 1.0 / ohm),)


OPEN: Regions = (Region(INF, OFF_S),)


def source(volt: float, ohm: float) -> Regions:
    """Return a voltage source `a` = + with series resistance."""
    return (Region(INF, 1.0 / ohm, 0.0, -volt / ohm),)


def current_sink(ampere: float, from_v: float, to_v: float) -> Regions:
    """Return a load drawing `ampere` above `to_v`, nothing below `from_v`, a ramp between."""
    slope = ampere / (to_v - from_v)
    return (
        Region(from_v, OFF_S),
        Region(to_v, slope, 0.0, -slope * from_v),
        Region(INF, OFF_S, 0.0, ampere),
    )


def diode(forward_v: float, ohm: float) -> Regions:
    """Return a diode: off below `forward_v`, then a slope resistance."""
    return (Region(forward_v, OFF_S), Region(INF, 1.0 / ohm, 0.0, -forward_v / ohm))


def limiter(ohm: float, ampere: float) -> Regions:
    """Return a path that blocks below `KNEE_V` and backwards, then has `ohm` and gives at most
    `ampere`.

    What feeds it stands `KNEE_V` higher than what it gives.
    """
    return (
        # The knee stands away from 0 V, where an ohmmeter sits: a kink there would make the reading
        # jump with the last digit of its volts.
        Region(KNEE_V, OFF_S),
        Region(KNEE_V + ampere * ohm, 1.0 / ohm, 0.0, -KNEE_V / ohm),
        Region(INF, OFF_S, 0.0, ampere),
    )


def ramp_source(volt: float, ohm: float, from_v: float, to_v: float) -> Regions:
    """Return a source switched by Vcd: 0 V below `from_v`, `volt` above `to_v`, a ramp between.

    For an element with `by_control`.
    """
    g, slope = 1.0 / ohm, volt / (to_v - from_v)
    return (
        Region(from_v, g),
        Region(to_v, g, -slope * g, slope * from_v * g),
        Region(INF, g, 0.0, -volt * g),
    )


AWAKE_V, ASLEEP_OHM = 2.5, 20e3
"""Supply from which a sensor's output stage works, and what it is below (common practice)."""


def ratio_source(ratio: float, ohm: float) -> Regions:
    """Return an output of `ratio` times Vcd behind `ohm`, only `ASLEEP_OHM` while Vcd is too low to
    work.

    For an element with `by_control`.
    """
    return (Region(AWAKE_V, 1.0 / ASLEEP_OHM), Region(INF, 1.0 / ohm, -ratio / ohm))


def switched(ohm: float, from_v: float) -> Regions:
    """Return a switch closed (`ohm`) while Vcd is above `from_v`; for `by_control`."""
    return (Region(from_v, OFF_S), Region(INF, 1.0 / ohm))
