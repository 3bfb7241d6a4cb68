"""Pack arithmetic: open-circuit volts, sag, two packs, capacity from a log, charging.

Chemistries as in `physics.cells`. Validity: resting cells, about 25 °C.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from brightcore.errors import RangeError, require
from brightcore.kinds.pack import PackSpec
from brightcore.physics.cells import CHARGE_RATIOS, charge_from_v, open_circuit_v

EQUALISING_STEPS = 4001
"""Steps of charge in which two packs are brought together."""

BULK_RATIO, TAPER_RATIO = 0.85, 2.0
"""Charge up to which the current is constant, and how much longer the rest takes for its share
(common practice)."""


def ah_from_volts(pack: PackSpec, before_v: float, after_v: float) -> float:
    """Return amp-hours used between two rested pack voltages, from the open-circuit curve.

    Raises RangeError where the volts do not fall or lie outside what the cells can rest at.
    """
    curve = pack.cells.charge_v
    low, high = pack.series_count * curve[0], pack.series_count * curve[-1]
    for field, value in (("before_v", before_v), ("after_v", after_v)):
        require(field, value, low, high, "V (rested)")
    if after_v >= before_v:
        raise RangeError("after_v", after_v, "it must be lower than the volts before the ride")
    cells = []
    for v in (before_v, after_v):
        cells.append(charge_from_v(v / pack.series_count, pack.chemistry))
    return pack.capacity_ah * (cells[0] - cells[1])


def internal_ohm(light_v: float, light_a: float, heavy_v: float, heavy_a: float) -> float:
    """Return pack resistance in ohm from two readings (identity: ΔV/ΔI).

    Raises RangeError where the heavy current is not above the light one or the volts rise.
    """
    if heavy_a - light_a < 0.5:
        raise RangeError("heavy_a", heavy_a, "it must be at least 0.5 A above the light current")
    if heavy_v >= light_v:
        raise RangeError(
            "heavy_v", heavy_v, "volts under the heavy load must be lower than under the light one"
        )
    return (light_v - heavy_v) / (heavy_a - light_a)


def charge_hours(capacity_ah: float, charger_a: float, from_ratio: float = 0.0) -> float:
    """Return hours to full: constant current to 85 %, then a taper at about half of it (common
    practice)."""
    require("capacity_ah", capacity_ah, 0.1, 1000.0, "Ah")
    require("charger_a", charger_a, 0.1, 100.0, "A")
    require("from_ratio", from_ratio, 0.0, 1.0)
    bulk = max(BULK_RATIO - from_ratio, 0.0)
    taper = 1.0 - max(from_ratio, BULK_RATIO)
    return capacity_ah / charger_a * (bulk + TAPER_RATIO * taper)


@dataclass(frozen=True, slots=True)
class Discharge:
    """What a discharge log says."""

    capacity_ah: float
    energy_wh: float
    hours: float
    lowest_v: float
    label_ratio: float


def discharge_capacity(
    seconds: Sequence[float], volts: Sequence[float], amps: Sequence[float], label_ah: float
) -> Discharge:
    """Return capacity and energy from a discharge log by the trapezoid rule. Discharge current
    counts positive.

    Raises RangeError where times do not rise, values are missing or the log holds no discharge.
    """
    if not len(seconds) == len(volts) == len(amps) or len(seconds) < 2:
        raise RangeError(
            "rows", len(seconds), "a log needs two or more rows of time, volts and amps"
        )
    t, v, a = (np.asarray(x, dtype=float) for x in (seconds, volts, amps))
    if not (np.isfinite(t).all() and np.isfinite(v).all() and np.isfinite(a).all()):
        raise RangeError("rows", math.nan, "every row needs numbers")
    if (np.diff(t) <= 0).any():
        raise RangeError(
            "time_s", float(t[1:][np.diff(t) <= 0][0]), "times must rise from row to row"
        )
    capacity = float(np.trapezoid(a, t) / 3600)
    if capacity <= 0:
        raise RangeError(
            "capacity_ah",
            capacity,
            "the log holds no discharge (current out of the pack counts positive)",
        )
    require("label_ah", label_ah, 0.1, 1000.0, "Ah")
    return Discharge(
        capacity,
        float(np.trapezoid(a * v, t) / 3600),
        float((t[-1] - t[0]) / 3600),
        float(v.min()),
        capacity / label_ah,
    )


@dataclass(frozen=True, slots=True)
class Equalising:
    """What happens when two packs of different volts are joined directly."""

    difference_v: float
    current_a: float
    moved_ah: float
    heat_wh: float


def equalise(one: PackSpec, two: PackSpec, extra_ohm: float = 0.01) -> Equalising:
    """Return the first current, the charge that moves and the heat when two packs are joined in
    parallel.

    First current ΔV/(R1 + R2 + leads); charge moves until both curves meet; heat is the area
    between them (identity: ∫ΔV dQ, all in the resistances).
    """
    high, low = sorted((one, two), key=PackSpec.resting_v, reverse=True)
    difference = high.resting_v() - low.resting_v()
    full, empty = (charge_from_v(pack.cell_v, pack.chemistry) for pack in (high, low))
    most_ah = min(full * high.capacity_ah, (1.0 - empty) * low.capacity_ah)
    moved = np.linspace(0.0, most_ah, EQUALISING_STEPS)
    falls = high.series_count * _curve(high, full - moved / high.capacity_ah)
    rises = low.series_count * _curve(low, empty + moved / low.capacity_ah)
    apart = np.maximum(falls - rises, 0.0)
    apart[0] = difference
    met = np.flatnonzero(apart <= 0)
    last = int(met[0]) if len(met) else len(moved) - 1
    ohm = one.internal_ohm + two.internal_ohm + extra_ohm
    return Equalising(
        difference,
        difference / ohm,
        float(moved[last]),
        float(np.trapezoid(apart[: last + 1], moved[: last + 1])),
    )


def _curve(pack: PackSpec, charges: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the resting volts of a cell at charges 0–1."""
    return np.interp(charges, CHARGE_RATIOS, pack.cells.charge_v)


def label_v(pack: PackSpec) -> float:
    """Return the volts printed on such a pack (24, 36, 48, 52, 60, 72), or its nominal volts
    (common practice)."""
    return dict(pack.cells.labels_v).get(pack.series_count, pack.nominal_v())


def charge_at_v(string: Sequence[PackSpec], volts: float) -> float:
    """Return the charge 0–1 at which packs in series rest at some volts, clipped to the ends of
    their curves.

    All have the same charge.
    """

    def over(charge: float) -> float:
        rest = (pack.series_count * open_circuit_v(charge, pack.chemistry) for pack in string)
        return sum(rest) - volts

    if over(0.0) >= 0:
        return 0.0
    if over(1.0) <= 0:
        return 1.0
    return float(brentq(over, 0.0, 1.0, xtol=1e-4))


def window(pack: PackSpec) -> tuple[float, float, float, float]:
    """Return (full, nominal, empty in use, BMS trip) volts of the pack."""
    return pack.full_v(), pack.nominal_v(), pack.empty_v(), pack.trip_v()
