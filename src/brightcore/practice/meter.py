"""What the meter shows: the circuit with the meter in it, over-limit, a floating reading that
flickers."""

import numpy as np

from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import DEFAULT_METER
from brightcore.practice.chance import normal
from brightcore.practice.hidden import HiddenBike
from brightcore.practice.state import State
from brightcore.simulation.table import Prediction
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence

OVER = "OL"


def prediction(
    hidden: HiddenBike, mode: str, condition: Condition, red: str, black: str
) -> Prediction:
    """Return what a meter has at two pins of the hidden bike, as that bike stands."""
    reads = {
        "volts": hidden.table.read_volts,
        "ohms": hidden.table.read_ohms,
        "diode": hidden.table.read_diode,
    }
    return reads[mode](condition, red, black, DEFAULT_METER)


def read(hidden: HiddenBike, engine: Engine, state: State) -> tuple[str, tuple[Evidence, ...]]:
    """Return (what the meter shows, the same as evidence; none where it only flickers)."""
    condition = state.condition
    found = prediction(hidden, state.mode, condition, state.red, state.black)
    words = (hidden.case.seed, str(state.act), state.red, state.black)
    accuracy = _accuracy(found, state.mode)
    value = float(found.mean[0]) + accuracy * normal(*words)
    if state.mode == "volts":
        if found.floating[0]:
            low, high = sorted((value * 0.4, value * 1.3))
            return f"flickers, {low:.2f} to {high:.2f} V", ()
        shown = f"{value:.3f} V" if abs(value) < 2 else f"{value:.2f} V"
        return shown, (_evidence("volts", f"{value:.3f}", condition, state),)
    if not np.isfinite(found.mean[0]) or found.floating[0]:
        return OVER, (_evidence(state.mode, OVER, condition, state),)
    value = max(value, 0.0)
    if state.mode == "diode":
        return f"{value:.3f} V", (_evidence("diode", f"{value:.3f}", condition, state),)
    return ohm_words(value), (_evidence("ohms", f"{value:.4g}", condition, state),)


def ohm_words(ohm: float) -> str:
    """Return ohms as a meter shows them.

    >>> ohm_words(0.34), ohm_words(96532.0), ohm_words(2.2e6)
    ('0.3 Ω', '96.5 kΩ', '2.20 MΩ')
    """
    if ohm >= 1e6:
        return f"{ohm / 1e6:.2f} MΩ"
    if ohm >= 1e3:
        return f"{ohm / 1e3:.1f} kΩ"
    return f"{ohm:.1f} Ω"


def _accuracy(found: Prediction, mode: str) -> float:
    """Return the spread that the meter itself adds: that of the parts is in the bike already."""
    meter = DEFAULT_METER
    value = float(found.mean[0])
    if not np.isfinite(value):
        return 0.0
    if mode == "ohms":
        return float(np.hypot(meter.ohms.ratio * value, meter.ohms.offset_ohm)) / 2
    return float(np.hypot(meter.volts.ratio * value, meter.volts.offset_v)) / 2


def _evidence(kind: str, value: str, condition: Condition, state: State) -> Evidence:
    return Evidence(kind, value, condition=condition.id, red=state.red, black=state.black)
