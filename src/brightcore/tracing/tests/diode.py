"""Diode test of a controller's power stage: the six body diodes, phases unplugged, pack out."""

from collections.abc import Iterator

from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import DEFAULT_METER, Multimeter, meter_of
from brightcore.circuit.metered import Feeding
from brightcore.kinds.motor import PHASES
from brightcore.kinds.select import controllers
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.numbers import typed_number
from brightcore.tracing.tests.volts import Volts, clipped, noisy
from brightcore.units import format_quantity

READ_MIN = 1.0
"""Minutes of one reading (common practice)."""

BLOCKS_V = 0.1
"""A bin this close to the meter's limit is shown as blocking."""


class Diode(Volts):
    """Volts that a diode range shows."""

    name, evidence, family, verb = "diode", "diode", "Diode test", "Diode test"
    hint, free = "0.52, OL", "Diode test"
    free_power = ("out",)

    def gates(self, condition: Condition, bike: Bike) -> tuple[str, ...]:
        return DEAD_GATES

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for part in controllers(bench.bike):
            pins = {}
            for q in part.ports:
                for pin in q.pins:
                    pins[pin.role] = f"{part.id}.{q.id}.{pin.name}"
            if not {*PHASES, "battery_plus", "battery_minus"} <= set(pins):
                continue
            port = pins[PHASES[0]].split(".")[1]
            joins = [join.id for join in bench.bike.joins_of(part.id, port)]
            apart = Condition("out", (), tuple(joins[:1]))
            for phase in PHASES:
                yield self.make(bench, apart, pins[phase], pins["battery_plus"], READ_MIN)
                yield self.make(bench, apart, pins["battery_minus"], pins[phase], READ_MIN)

    def feeding(self, meter: Multimeter) -> Feeding:
        return meter.diode.feeding

    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        return [table.read_diode(condition, red, black, meter)]

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        return (min(typed_number(item, "V"), meter_of(item.meter).diode.over_v),)

    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        return clipped(found.mean, meter.diode.over_v), found.sigma

    def scale_width(self, meter: Multimeter) -> float:
        return meter.diode.over_v + 0.5

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        if centres[0] > DEFAULT_METER.diode.over_v - BLOCKS_V:
            return Outcome("OL, blocks", self.read(test, "OL"))
        text = format_quantity(centres[0], "V")
        return Outcome(f"about {text}", self.read(test, text))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        found = truth.table.read_diode(test.condition, test.red, test.black)
        volts = noisy(truth, found, which)
        if volts > DEFAULT_METER.diode.over_v:
            return "OL"
        return f"{volts:.3f}"
