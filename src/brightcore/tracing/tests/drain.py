"""Amps that a bike draws while it is switched off: a meter in line at the pack.

Only there the circuit carries them whole: nothing is supplied that the model does not draw through
the pack.
"""

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import ClassVar

import numpy as np

from brightcore.bike.model import Bike
from brightcore.circuit.conditions import DEAD_STEPS, Condition, parse_condition
from brightcore.circuit.instruments import Multimeter
from brightcore.errors import ReadingError
from brightcore.kinds.select import packs
from brightcore.procedure.gates import probe_gates
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.current import Current, battery_contacts, contact_between
from brightcore.tracing.tests.numbers import typed_number
from brightcore.units import format_quantity

IN_LINE_MIN = 3.0
"""Minutes to part the plug and to clip the meter in (common practice)."""

LEAST_A, SCALE_DECADES = 1e-4, 6.0
"""Amps that a meter shows as nothing, and the width of the scale in decades above them."""

SPREAD_DECADES = 0.3
"""Spread of what bikes draw while they are off, and what the resistor in line takes from it, in
decades (common practice)."""

STEPS = (
    *DEAD_STEPS,
    "Part the plug; join minus by an insulated lead",
    "In plus: 1 kΩ 10 W and the meter on amps, in series",
    "Pack in, left switched off",
)
"""No plug is parted with the pack in: the meter is in line before the pack is."""

NOISE_RATIO = 0.02
"""Noise of a true reading (common practice)."""


def decades(ampere: float | Floats) -> Floats:
    """Return log10 of amps, what is too little to be shown added."""
    return np.asarray(np.log10(np.abs(ampere) + LEAST_A))


class Drain(Current):
    """Amps through the pack's plug while everything is off."""

    name, evidence, family, verb = "drain", "drain", "Amps in line, switched off", "Amps in line"
    kicker, unit, hint, free = "Measure next", "A", "0.4 mA", ""
    tool = "a handheld meter on amps"
    seeks: ClassVar[tuple[str, ...]] = ("drains",)

    def gates(self, condition: Condition, bike: Bike) -> tuple[str, ...]:
        return (*probe_gates(condition, bike), "in_line")

    def candidates(self, bench: Bench) -> Iterator[Test]:
        own = {part.id for part in packs(bench.bike)}
        for join in bench.bike.joins:
            if not own & {join.a_part, join.b_part}:
                continue
            for red, black in battery_contacts(bench, join):
                words = (
                    f"Amps in line with {bench.nets.title(red)}, switched off, at the "
                    f"{bench.where(red)}"
                )
                made = self.make(bench, Condition("off"), red, black, IN_LINE_MIN, join)
                yield replace(made.retitled(words), steps=STEPS)

    def validate(self, table: Table, item: Evidence) -> None:
        super(Current, self).validate(table, item)
        if contact_between(table, item.red, item.black) is None:
            raise ReadingError("amps are read in a lead: name the two sides of one contact")
        if parse_condition(table.circuit, item.condition) != Condition("off"):
            raise ReadingError("amps in line are foretold only while the bike is switched off")

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        return (float(decades(typed_number(item, "A"))),)

    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        return decades(found.mean), np.full_like(found.mean, SPREAD_DECADES)

    def scale_width(self, meter: Multimeter) -> float:
        return SCALE_DECADES

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        ampere = max(10 ** centres[0] - LEAST_A, 0.0)
        text = format_quantity(float(f"{ampere:.2g}"), "A")
        return Outcome("nothing" if ampere < LEAST_A else f"about {text}", self.read(test, text))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        found = self.predict(truth.table, test.condition, test.red, test.black, Multimeter("", ""))[
            0
        ]
        ampere = float(found.mean[which]) * (1 + NOISE_RATIO * truth.rng.standard_normal())
        return f"{1e3 * ampere:.{max(0, 2 - math.ceil(math.log10(1e3 * ampere + 1e-3)))}f} mA"
