"""Ohms between two points, pack out and capacitors discharged."""

import math
from collections.abc import Iterator

import numpy as np

from brightcore.bike.model import Bike, Join
from brightcore.circuit.conditions import Condition
from brightcore.circuit.contacts import join_title
from brightcore.circuit.instruments import DEFAULT_METER, Multimeter, meter_of
from brightcore.circuit.metered import Feeding
from brightcore.kinds.cable import conductors
from brightcore.kinds.levers import BrakeLever
from brightcore.kinds.select import cables
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.numbers import NumberKind, typed_number
from brightcore.units import format_quantity

ACROSS_MIN, APART_MIN, CABLE_MIN, LOOSE_MIN = 0.7, 0.3, 2.0, 1.5
"""Minutes to read across a contact, more with the plug apart, along a cable, into a loose lever
(common practice)."""

SCALE_DECADES = 8.2
"""Width of the scale of ohms, in decades."""

FLOATING_DECADES, METER_DECADES = 0.15, 0.02
"""Spread of an over-limit reading, and of any, in decades (common practice)."""

OVER_SHARE = 0.7
"""A bin above this share of the meter's limit is shown as over limit."""

NOISE_RATIO, NOISE_OHM = 0.01, 0.1
"""Noise of a true reading: share, and offset of leads and contact (common practice)."""


def decades(ohm: float | Floats, meter: Multimeter) -> Floats:
    """Return log10 of ohms with the meter's lead resistance added, over-limit clipped."""
    return np.asarray(np.log10(np.minimum(ohm, meter.ohms.over_ohm) + meter.ohms.lead_ohm))


class Ohms(NumberKind):
    """Ohms across contacts, along conductors, between pins of an open plug."""

    name, evidence, family, verb = "ohms", "ohms", "Ohms, pack out", "Ohms"
    kicker, unit, hint = "Measure next", "Ω", "0.3, 4k7, OL"
    free, free_power = "Ohms", ("out",)

    def gates(self, condition: Condition, bike: Bike) -> tuple[str, ...]:
        return DEAD_GATES

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for join in bench.bike.joins:
            yield from self._across(bench, join)
            yield from self._between_neighbours(bench, join)
        yield from self._along_cables(bench)
        yield from self._into_levers(bench)

    def _across(self, bench: Bench, join: Join) -> Iterator[Test]:
        for a, b in join.pairs:
            red, black = f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}"
            title = (
                f"Ohms across the {bench.nets.title(red)} contact of the "
                f"{join_title(bench.bike, join)}, side to side"
            )
            yield self.make(bench, Condition("out"), red, black, ACROSS_MIN, join).retitled(title)

    def _between_neighbours(self, bench: Bench, join: Join) -> Iterator[Test]:
        """Yield ohms between neighbouring pins of either half, the plug apart."""
        minutes = ACROSS_MIN + APART_MIN
        apart = Condition("out").without(join.id)
        names = []
        for pin in bench.bike.part(join.a_part).port(join.a_port).pins:
            names.append(pin.name)
        mates = dict(join.pairs)
        for (part_id, port_id), first_side in zip(join.sides(), (True, False), strict=True):
            for one, two in zip(names, names[1:], strict=False):
                if one in mates and two in mates:
                    if first_side:
                        ends = (one, two)
                    else:
                        ends = (mates[one], mates[two])
                    red, black = (f"{part_id}.{port_id}.{name}" for name in ends)
                    yield self.make(bench, apart, red, black, minutes, join)

    def _along_cables(self, bench: Bench) -> Iterator[Test]:
        for part in cables(bench.bike):
            for one, two in conductors(part):
                red, black = f"{part.id}.{one}", f"{part.id}.{two}"
                what = f"{bench.nets.title(red)} conductor of the {part.name.lower()}"
                title = f"Ohms along the {what}, end to end ({bench.where(black)})"
                yield self.make(bench, Condition("out"), red, black, CABLE_MIN).retitled(title)

    def _into_levers(self, bench: Bench) -> Iterator[Test]:
        """Yield ohms into a lever's plug while it is pulled, unplugged."""
        for name in bench.controls("lever"):
            part_id, control = bench.circuit.controls[name]
            part = bench.bike.part(part_id)
            if part.kind != BrakeLever.name:
                continue
            for join in bench.bike.joins_of(part_id):
                port = part.ports[0]
                red, black = (f"{part_id}.{port.id}.{pin.name}" for pin in port.pins[:2])
                pulled = Condition("out", ((name, control.values[-1]),), (join.id,))
                yield self.make(bench, pulled, red, black, LOOSE_MIN)

    def feeding(self, meter: Multimeter) -> Feeding:
        return meter.ohms.feeding

    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        return [table.read_ohms(condition, red, black, meter)]

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        more_lead = meter_of(item.meter).ohms.lead_ohm - DEFAULT_METER.ohms.lead_ohm
        return (float(decades(max(typed_number(item, "Ω") - more_lead, 0.0), DEFAULT_METER)),)

    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        size = np.minimum(found.mean, meter.ohms.over_ohm) + DEFAULT_METER.ohms.lead_ohm
        spread = np.sqrt((found.sigma / size / math.log(10)) ** 2 + METER_DECADES**2)
        return decades(found.mean, DEFAULT_METER), np.where(
            found.floating, FLOATING_DECADES, spread
        )

    def scale_width(self, meter: Multimeter) -> float:
        return SCALE_DECADES

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        ohm = 10 ** centres[0] - DEFAULT_METER.ohms.lead_ohm
        if ohm > OVER_SHARE * DEFAULT_METER.ohms.over_ohm:
            return Outcome("OL, open", self.read(test, "OL"))
        text = format_quantity(max(ohm, 0.0), "Ω")
        return Outcome(f"about {text}", self.read(test, text))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        ohm = float(truth.table.read_ohms(test.condition, test.red, test.black).mean[which])
        if not np.isfinite(ohm):
            return "OL"
        rng = truth.rng
        noise = NOISE_OHM * abs(rng.standard_normal())
        reading = max(ohm * (1 + NOISE_RATIO * rng.standard_normal()) + noise, 0)
        if reading < 100:
            return f"{reading:.2f}"
        return f"{reading:.0f}"
