"""Pack arithmetic: open-circuit volts, sag, two packs, capacity from a log, charging.

Chemistries as in `kinds.pack`. Validity: resting cells, about 25 °C.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from brightcore.errors import RangeError, require
from brightcore.kinds.pack import CHEMISTRIES, PackSpec

_SOC = (0.0, 0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
OPEN_CIRCUIT_V = {
    "nickel": (2.5, 3.109, 3.296, 3.485, 3.581, 3.667, 3.751, 3.841, 3.948, 4.042, 4.097, 4.2),
    "lfp": (2.5, 2.95, 3.1, 3.2, 3.24, 3.27, 3.285, 3.295, 3.305, 3.325, 3.335, 3.45),
    "pouch": (3.0, 3.45, 3.6, 3.68, 3.72, 3.76, 3.81, 3.87, 3.94, 4.02, 4.1, 4.2),
}
"""Cell volts at the states of charge `_SOC`: nickel from source chen-2020, the others common practice."""

GROUP_C_RATE = {"nickel": 2.2, "lfp": 3.0, "pouch": 8.0}
"""Continuous current of a parallel group over its capacity, 1/h (common practice for packs of unknown cells)."""

COPPER_OHM_M = 1.7241e-8
COPPER_PER_K = 0.00393
"""Resistivity of annealed copper at 20 °C and its temperature coefficient (source iec-60028)."""


def open_circuit_v(charge_ratio: float, chemistry: str = "nickel") -> float:
    """Return resting volts of one cell at a state of charge 0–1 (source chen-2020 for nickel).

    Raises RangeError outside 0–1 or for an unknown chemistry.
    """
    require("charge_ratio", charge_ratio, 0.0, 1.0)
    if chemistry not in OPEN_CIRCUIT_V:
        raise RangeError("chemistry", math.nan, f"known are {', '.join(OPEN_CIRCUIT_V)}")
    return float(np.interp(charge_ratio, _SOC, OPEN_CIRCUIT_V[chemistry]))


def charge_from_v(cell_v: float, chemistry: str = "nickel") -> float:
    """Return the state of charge 0–1 of a resting cell, clipped to the ends of the curve."""
    return float(np.interp(cell_v, OPEN_CIRCUIT_V[chemistry], _SOC))


def ah_from_volts(pack: PackSpec, before_v: float, after_v: float) -> float:
    """Return amp-hours used between two rested pack voltages, from the open-circuit curve.

    Raises RangeError where the volts do not fall or lie outside what the cells can rest at.
    """
    low, high = (pack.series_count * curve for curve in (OPEN_CIRCUIT_V[pack.chemistry][0], OPEN_CIRCUIT_V[pack.chemistry][-1]))
    for field, value in (("before_v", before_v), ("after_v", after_v)):
        require(field, value, low, high, "V (rested)")
    if after_v >= before_v:
        raise RangeError("after_v", after_v, "it must be lower than the volts before the ride")
    cells = [charge_from_v(v / pack.series_count, pack.chemistry) for v in (before_v, after_v)]
    return pack.capacity_ah * (cells[0] - cells[1])


def internal_ohm(light_v: float, light_a: float, heavy_v: float, heavy_a: float) -> float:
    """Return pack resistance in ohm from two readings (identity: ΔV/ΔI).

    Raises RangeError where the heavy current is not above the light one or the volts rise.
    """
    if heavy_a - light_a < 0.5:
        raise RangeError("heavy_a", heavy_a, "it must be at least 0.5 A above the light current")
    if heavy_v >= light_v:
        raise RangeError("heavy_v", heavy_v, "volts under the heavy load must be lower than under the light one")
    return (light_v - heavy_v) / (heavy_a - light_a)


def lead_ohm(length_m: float, area_mm2: float, temperature_c: float = 20.0, strand_ratio: float = 1.13) -> float:
    """Return the resistance in ohm of both wires of a lead of flexible copper (sources iec-60028, iec-60228).

    `strand_ratio` is stranding and tolerance of class 5 over solid copper, 11–16 %.
    """
    require("length_m", length_m, 0.0, 100.0, "m")
    require("area_mm2", area_mm2, 0.05, 500.0, "mm²")
    hot = 1 + COPPER_PER_K * (temperature_c - 20.0)
    return 2 * COPPER_OHM_M * strand_ratio * hot * length_m / (area_mm2 * 1e-6)


def charge_hours(capacity_ah: float, charger_a: float, from_ratio: float = 0.0) -> float:
    """Return hours to full: constant current to 85 %, then a taper at about half of it (common practice)."""
    require("capacity_ah", capacity_ah, 0.1, 1000.0, "Ah")
    require("charger_a", charger_a, 0.1, 100.0, "A")
    require("from_ratio", from_ratio, 0.0, 1.0)
    bulk, taper = max(0.85 - from_ratio, 0.0), 1.0 - max(from_ratio, 0.85)
    return capacity_ah / charger_a * (bulk + 2.0 * taper)


@dataclass(frozen=True, slots=True)
class Discharge:
    """What a discharge log says."""

    capacity_ah: float
    energy_wh: float
    hours: float
    lowest_v: float
    label_ratio: float


def discharge_capacity(seconds: Sequence[float], volts: Sequence[float], amps: Sequence[float], label_ah: float) -> Discharge:
    """Return capacity and energy from a discharge log by the trapezoid rule. Discharge current counts positive.

    Raises RangeError where times do not rise, values are missing or the log holds no discharge.
    """
    if not len(seconds) == len(volts) == len(amps) or len(seconds) < 2:
        raise RangeError("rows", len(seconds), "a log needs two or more rows of time, volts and amps")
    t, v, a = (np.asarray(x, dtype=float) for x in (seconds, volts, amps))
    if not (np.isfinite(t).all() and np.isfinite(v).all() and np.isfinite(a).all()):
        raise RangeError("rows", math.nan, "every row needs numbers")
    if (np.diff(t) <= 0).any():
        raise RangeError("time_s", float(t[1:][np.diff(t) <= 0][0]), "times must rise from row to row")
    capacity = float(np.trapezoid(a, t) / 3600)
    if capacity <= 0:
        raise RangeError("capacity_ah", capacity, "the log holds no discharge (current out of the pack counts positive)")
    require("label_ah", label_ah, 0.1, 1000.0, "Ah")
    return Discharge(capacity, float(np.trapezoid(a * v, t) / 3600), float((t[-1] - t[0]) / 3600), float(v.min()), capacity / label_ah)


@dataclass(frozen=True, slots=True)
class Equalising:
    """What happens when two packs of different volts are joined directly."""

    difference_v: float
    current_a: float
    moved_ah: float
    heat_wh: float


def equalise(one: PackSpec, two: PackSpec, extra_ohm: float = 0.01) -> Equalising:
    """Return the first current, the charge that moves and the heat when two packs are joined in parallel.

    First current ΔV/(R1 + R2 + leads); charge from the slope of both open-circuit curves around their present
    state; heat ΔV·Q/2 (identity for linear slopes).
    """
    difference = one.series_count * one.cell_v - two.series_count * two.cell_v
    slopes = [_volts_per_ah(pack) for pack in (one, two)]
    moved = abs(difference) / sum(slopes)
    return Equalising(
        abs(difference), abs(difference) / (one.internal_ohm + two.internal_ohm + extra_ohm), moved, abs(difference) * moved / 2
    )


def _volts_per_ah(pack: PackSpec) -> float:
    here = charge_from_v(pack.cell_v, pack.chemistry)
    low, high = max(here - 0.1, 0.0), min(here + 0.1, 1.0)
    rise = open_circuit_v(high, pack.chemistry) - open_circuit_v(low, pack.chemistry)
    return pack.series_count * rise / ((high - low) * pack.capacity_ah)


def energy_wh(pack: PackSpec) -> float:
    """Return label capacity times nominal volts."""
    return pack.capacity_ah * label_v(pack)


def label_v(pack: PackSpec) -> float:
    """Return the volts printed on such a pack (24, 36, 48, 52, 60, 72), or its nominal volts (common practice)."""
    labels = (
        {7: 24.0, 10: 36.0, 13: 48.0, 14: 52.0, 16: 60.0, 17: 60.0, 20: 72.0}
        if pack.chemistry == "nickel"
        else {12: 36.0, 15: 48.0, 16: 48.0}
    )
    return labels.get(pack.series_count, pack.nominal_v())


def window(pack: PackSpec) -> tuple[float, float, float, float]:
    """Return (full, nominal, empty in use, BMS trip) volts of the pack."""
    full, nominal, empty, trip = CHEMISTRIES[pack.chemistry]
    n = pack.series_count
    return n * full, n * nominal, n * empty, n * trip
