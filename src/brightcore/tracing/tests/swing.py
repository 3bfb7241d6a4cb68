"""Volts that swing while something is turned: lowest to highest."""

import math
from collections.abc import Iterator

import numpy as np

from brightcore.bike.roles import role_of
from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import Multimeter
from brightcore.errors import ReadingError
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.volts import READ_MIN, Volts, moving, noisy, read_points
from brightcore.units import parse_quantity

TURN_MIN = 0.4
"""Minutes to turn what makes it swing, on top of reading (common practice)."""

LEAST_SWING_V = -0.2
"""A high bin below its low one by more than this cannot be."""


def swing_values(text: str) -> tuple[float, float]:
    """Return (low, high) volts of `0.1 to 4.9`, or of one number that stays; raises
    ReadingError."""
    plain = text.replace("…", " to ").replace("–", " to ")
    pieces = [piece for piece in plain.split(" to ") if piece.strip()]
    if len(pieces) not in (1, 2):
        raise ReadingError(f"{text!r}: type the lowest and highest volts, such as 0.1 to 4.9")
    values = [parse_quantity(piece, "V") for piece in pieces]
    if any(math.isinf(value) for value in values):
        raise ReadingError(f"{text!r} is not a range of volts")
    return min(values), max(values)


class Swing(Volts):
    """Lowest and highest volts of a signal of pulses."""

    name, evidence, family = "swing", "swing", "Volts while turning"
    hint, free = "0.1 to 4.9", "Volts, lowest to highest"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for join in bench.bike.joins:
            for red, black, roles in read_points(bench, join):
                for condition in self._turned(bench, roles):
                    yield self.make(bench, condition, red, black, READ_MIN + TURN_MIN, join)

    def _turned(self, bench: Bench, roles: set[str]) -> Iterator[Condition]:
        """Yield the state in which everything that moves a net's signal is turned half way."""
        movers = {role_of(name).moved_by for name in roles if moving({name})}
        turned = Condition()
        for mover in sorted(movers):
            for name in bench.controls(mover):
                values = bench.circuit.controls[name][1].values
                # Half a turn away from rest: a sensor that switches at all stands there the other
                # way.
                turned = turned.having(name, values[len(values) // 2])
        if turned != Condition():
            yield turned

    def states(self, table: Table, test: Test) -> tuple[Condition, ...]:
        return self.ends(table, test.condition)

    def ends(self, table: Table, condition: Condition) -> tuple[Condition, Condition]:
        """Return the two states between which a swing is read: at rest and as named."""
        controls = table.circuit.controls
        rows = []
        for item in condition.settings:
            if controls[item[0]][1].id not in ("rotor", "turn"):
                rows.append(item)
        rest = tuple(rows)
        return Condition(condition.power, rest, condition.unplugged), condition

    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        one, two = (
            table.read_volts(state, red, black, meter) for state in self.ends(table, condition)
        )
        # Which end is low hangs on the fault, row by row: a swing has no order that the technician
        # could get wrong.
        first_low = one.mean <= two.mean
        uncertain = one.uncertain | two.uncertain

        def pick(low: bool) -> Prediction:
            use_one = first_low == low
            return Prediction(
                np.where(use_one, one.mean, two.mean),
                np.where(use_one, one.sigma, two.sigma),
                np.where(use_one, one.floating, two.floating),
                uncertain,
            )

        return [pick(True), pick(False)]

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        return swing_values(item.value)

    def _combined(
        self, binned: list[tuple[list[float], Floats]]
    ) -> Iterator[tuple[tuple[float, ...], Floats]]:
        (lows, low_mass), (highs, high_mass) = binned
        for i, low in enumerate(lows):
            for j, high in enumerate(highs):
                if high - low >= LEAST_SWING_V:
                    yield (low, max(low, high)), low_mass[i] * high_mass[j]

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        low, high = (f"{value:.1f}" for value in centres)
        if low == high:
            return Outcome(f"stays near {low} V", self.read(test, low))
        return Outcome(f"swings {low} ↔ {high} V", self.read(test, f"{low} to {high}"))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        states = self.ends(truth.table, test.condition)
        found = []
        for state in states:
            found.append(truth.table.read_volts(state, test.red, test.black))
        values = [noisy(truth, item, which) for item in found]
        return f"{min(values):.2f} to {max(values):.2f}"
