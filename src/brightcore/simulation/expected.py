"""What a meter shows at every pin of a healthy bike: off, at rest, moved by hand, turning.

Volts stand against the minus of the lowest pack, with the packs as they were found and every plug
joined as described.
"""

from dataclasses import dataclass

import numpy as np

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.strings import strings
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition
from brightcore.simulation.table import Row, Table

TOLD_V = 0.1
"""Less than this is no difference that is told."""


@dataclass(frozen=True, slots=True)
class Expected:
    """Volts of a pin. `moved_v` where a grip or lever changes it, `turning_v` (low, high) where
    turning does; None where neither does. `floats`: nothing holds it, a meter shows what it
    likes."""

    off_v: float
    rest_v: float
    moved_v: float | None
    turning_v: tuple[float, float] | None
    floats: bool

    @property
    def words(self) -> str:
        """The volts in one short line: `0 / 0.85 / 4.0`, `0 / 4.9 ~ 0–4.9`, `49`."""
        if self.floats:
            return "floats"
        told = [volts_words(self.off_v), volts_words(self.rest_v)]
        if self.moved_v is not None:
            told.append(volts_words(self.moved_v))
        elif abs(self.off_v - self.rest_v) < TOLD_V:
            told = told[1:]
        if self.turning_v is None:
            turning = ""
        else:
            turning = f" ~ {'–'.join(map(volts_words, self.turning_v))}"
        return " / ".join(told) + turning


def volts_words(volt: float) -> str:
    """Return volts in the digits a meter is read to: `0`, `0.85`, `4.9`, `49.4`."""
    if abs(volt) < TOLD_V / 2:
        return "0"
    if abs(volt) < 1:
        return f"{volt:.2f}"
    return f"{volt:.1f}"


def expected_volts(bike: Bike) -> dict[str, Expected]:
    """Return what a meter shows at every pin, by `part.port.pin`; nothing where there is no
    pack."""
    case = analysis_of(bike)
    return case.remember("expected", lambda: _found(case))


def _found(case: Analysis) -> dict[str, Expected]:
    lowest = next((string[-1] for string in strings(case.bike)), None)
    if lowest is None:
        return {}
    ground = next(place.id for place in case.places_of(lowest) if place.pin.role == "pack_minus")
    table = Table(case.circuit, [Row()])
    off, rest = Condition("off"), Condition()
    moved, turning = _moves(case, rest, "hand"), _moves(case, rest, "turns")
    solved = table.solve_all([off, rest, *moved, *turning])
    names = list(case.places)
    table.prepare_probes(rest, [(name, ground) for name in names])
    nodes = np.array([table.system.node(name) for name in names])
    zero = table.system.node(ground)

    def volts(conditions: list[Condition]) -> np.ndarray:
        found = []
        for c in conditions:
            found.append(solved[c].volts[nodes, 0] - solved[c].volts[zero, 0])
        if found:
            return np.stack(found)
        return np.empty((0, len(names)))

    by_off, by_rest = volts([off])[0], volts([rest])[0]
    by_hand, by_turn = volts(moved), volts(turning)
    rows: dict[str, Expected] = {}
    for k, name in enumerate(names):
        rows[name] = Expected(
            float(by_off[k]),
            float(by_rest[k]),
            _farthest(by_hand[:, k], by_rest[k]),
            _span(by_turn[:, k], by_rest[k]),
            bool(table.read_volts(rest, name, ground).floating[0]),
        )
    return rows


def _moves(case: Analysis, rest: Condition, how: str) -> list[Condition]:
    """Return a state for every value that what moves so can be brought to."""
    found: list[Condition] = []
    for name, (_, control) in case.circuit.controls.items():
        if control.moves == how:
            for value in control.values[1:]:
                found.append(rest.having(name, value))
    return found


def _farthest(values: np.ndarray, rest: float) -> float | None:
    if not len(values):
        return None
    found = float(values[np.argmax(np.abs(values - rest))])
    if abs(found - rest) >= TOLD_V:
        return found
    return None


def _span(values: np.ndarray, rest: float) -> tuple[float, float] | None:
    both = np.append(values, rest)
    low, high = float(both.min()), float(both.max())
    if high - low >= TOLD_V:
        return (low, high)
    return None
