"""Circuit elements: piecewise-linear branches.

Sign convention, stated once: an element's current flows from `a` through the element to
`b`, and in each region it is

    I = g1·(Va − Vb) + g2·(Vc − Vd) + j          (A, with g in S, V in V)

The region is the first whose `upto` exceeds the controlling voltage: Va − Vb, or Vc − Vd
for elements with `by_control`. Every element is one of these, so the solver, the SPICE
export and the fault overrides need to know only this form.

Tolerances are relative standard deviations: `tol_g` of g1 and g2, `tol_j` of j.
"""

import math
from dataclasses import dataclass

OFF_S = 1e-9
"""Conductance of what is open, in siemens (1 GΩ)."""

INF = math.inf


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


@dataclass(frozen=True, slots=True)
class Override:
    """New regions (and tolerance) of one element under a condition or fault."""

    element: str
    regions: Regions
    tol_g: float | None = None
    tol_j: float | None = None


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
    return (Region(from_v, OFF_S), Region(to_v, slope, 0.0, -slope * from_v), Region(INF, OFF_S, 0.0, ampere))


def diode(forward_v: float, ohm: float) -> Regions:
    """Return a diode: off below `forward_v`, then a slope resistance."""
    return (Region(forward_v, OFF_S), Region(INF, 1.0 / ohm, 0.0, -forward_v / ohm))


def limiter(ohm: float, ampere: float) -> Regions:
    """Return a path that blocks backwards, has `ohm` forwards and gives at most `ampere`."""
    return (Region(0.0, OFF_S), Region(ampere * ohm, 1.0 / ohm), Region(INF, OFF_S, 0.0, ampere))


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


def ratio_source(ratio: float, ohm: float) -> Regions:
    """Return an output of `ratio` times Vcd behind `ohm`."""
    return (Region(INF, 1.0 / ohm, -ratio / ohm),)


def switched(ohm: float, from_v: float) -> Regions:
    """Return a switch closed (`ohm`) while Vcd is above `from_v`; for `by_control`."""
    return (Region(from_v, OFF_S), Region(INF, 1.0 / ohm))
