"""Cells by chemistry: windows, open-circuit volts, current. Validity: resting cells, about 25
°C."""

import math
from dataclasses import dataclass

import numpy as np

from brightcore.errors import RangeError, require


@dataclass(frozen=True, slots=True)
class Chemistry:
    """One kind of cell: volts when full, nominal, empty in use, and where the board trips or the
    alarm sounds.

    `charge_v`: resting volts at the states of charge `CHARGE_RATIOS`; `group_c_rate`: continuous
    current of a parallel group over its capacity, 1/h (common practice for packs of unknown cells);
    `cutoff_v`: low- voltage cut-off under load; `dead_v`: resting volts under which a cell is never
    charged; `labels_v`: volts printed on packs, by cells in series.
    """

    title: str
    full_v: float
    nominal_v: float
    empty_v: float
    trip_v: float
    dead_v: float
    cutoff_v: float
    group_c_rate: float
    charge_v: tuple[float, ...]
    labels_v: tuple[tuple[int, float], ...] = ()

    @property
    def mean_v(self) -> float:
        """Volts a cell rests at on average from full to empty: its energy over its charge."""
        return float(np.trapezoid(self.charge_v, CHARGE_RATIOS))


CHARGE_RATIOS = (0.0, 0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
CHEMISTRIES = {
    "nickel": Chemistry(
        "nickel-rich lithium", 4.2, 3.65, 3.0, 2.7, 2.5, 3.1, 2.2,
        (2.5, 3.109, 3.296, 3.485, 3.581, 3.667, 3.751, 3.841, 3.948, 4.042, 4.097, 4.2),
        ((7, 24.0), (10, 36.0), (13, 48.0), (14, 52.0), (16, 60.0), (17, 60.0), (20, 72.0)),
    ),
    "lfp": Chemistry(
        "LFP", 3.65, 3.2, 2.8, 2.5, 2.0, 2.85, 3.0,
        (2.5, 2.95, 3.1, 3.2, 3.24, 3.27, 3.285, 3.295, 3.305, 3.325, 3.335, 3.45),
        ((12, 36.0), (15, 48.0), (16, 48.0)),
    ),
    "pouch": Chemistry(
        "soft pouch", 4.2, 3.7, 3.4, 3.15, 3.0, 3.3, 8.0,
        (3.0, 3.45, 3.6, 3.68, 3.72, 3.76, 3.81, 3.87, 3.94, 4.02, 4.1, 4.2),
        ((12, 36.0), (15, 48.0), (16, 48.0)),
    ),
}  # fmt: skip
"""Chemistries by name: windows are common practice; charge curves of nickel from source chen-2020,
others common practice."""


def least_words() -> str:
    """Return the volts under which a cell is never charged, of every chemistry, in words.

    >>> least_words()
    'nickel-rich lithium 2.5 V, LFP 2 V, soft pouch 3 V a cell'
    """
    return ", ".join(f"{c.title} {c.dead_v:g} V" for c in CHEMISTRIES.values()) + " a cell"


def chemistry(name: str) -> Chemistry:
    """Return a chemistry by name. Raises RangeError for an unknown one."""
    if name not in CHEMISTRIES:
        raise RangeError("chemistry", math.nan, f"known are {', '.join(CHEMISTRIES)}")
    return CHEMISTRIES[name]


def open_circuit_v(charge_ratio: float, name: str = "nickel") -> float:
    """Return resting volts of one cell at a state of charge 0–1 (source chen-2020 for nickel).

    Raises RangeError outside 0–1 or for an unknown chemistry.

    >>> open_circuit_v(0.5)
    3.751
    """
    require("charge_ratio", charge_ratio, 0.0, 1.0)
    return float(np.interp(charge_ratio, CHARGE_RATIOS, chemistry(name).charge_v))


def charge_from_v(cell_v: float, name: str = "nickel") -> float:
    """Return the state of charge 0–1 of a resting cell, clipped to the ends of the curve.

    >>> charge_from_v(3.751)
    0.5
    """
    return float(np.interp(cell_v, chemistry(name).charge_v, CHARGE_RATIOS))
