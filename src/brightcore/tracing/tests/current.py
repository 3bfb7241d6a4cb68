"""Amps in a battery lead while pulling hard, by a clamp around it.

Only there does the circuit carry them whole: what supplies and sensors take is not drawn through
the pack.
"""

from collections.abc import Iterator

from brightcore.bike.model import Join
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.contacts import contact_id, pair_class
from brightcore.circuit.instruments import CLAMP, Multimeter
from brightcore.errors import ReadingError
from brightcore.simulation.table import Prediction, Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests.base import Bench, Floats, Outcome, Test, Truth
from brightcore.tracing.tests.numbers import typed_number
from brightcore.tracing.tests.volts import ROAD_MIN, Volts, hard_pulls, rides
from brightcore.units import format_quantity

CLAMP_MIN = 1.0
"""Minutes to put the clamp on and set it to zero (common practice)."""

NOISE_RATIO = 0.02
"""Spread of what a technician reads off a clamp on a ride (common practice)."""


class Current(Volts):
    """Amps through one contact of the battery lead."""

    name, evidence, family, verb = "current", "current", "Amps by clamp", "Amps"
    kicker, unit, hint, free = "Measure next", "A", "14.2", ""
    tool = "a DC clamp meter"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for join in bench.bike.joins:
            for red, black in battery_contacts(bench, join):
                minutes = CLAMP_MIN + ROAD_MIN
                for condition in hard_pulls(bench):
                    words = (
                        f"Amps in the {bench.nets.title(red)} lead by a clamp, at the "
                        f"{bench.where(red)}"
                    )
                    yield self.make(bench, condition, red, black, minutes, join).retitled(words)

    def validate(self, table: Table, item: Evidence) -> None:
        super().validate(table, item)
        if contact_between(table, item.red, item.black) is None:
            raise ReadingError("amps are read in a lead: name the two sides of one contact")
        if not rides(parse_condition(table.circuit, item.condition)):
            raise ReadingError("amps are foretold only while pulling hard")

    def states(self, table: Table, test: Test) -> tuple[Condition, ...]:
        return ()

    def predict(
        self, table: Table, condition: Condition, red: str, black: str, meter: Multimeter
    ) -> list[Prediction]:
        element = contact_between(table, red, black)
        assert element is not None
        return [table.read_current(condition, element, CLAMP)]

    def numbers(self, item: Evidence) -> tuple[float, ...]:
        return (abs(typed_number(item, "A")),)

    def scaled(self, found: Prediction, meter: Multimeter) -> tuple[Floats, Floats]:
        return found.mean, found.sigma

    def scale_width(self, meter: Multimeter) -> float:
        return CLAMP.top_a

    def outcome(self, test: Test, centres: tuple[float, ...]) -> Outcome:
        text = format_quantity(round(centres[0], 1), "A")
        return Outcome(f"about {text}", self.read(test, text))

    def shown(self, truth: Truth, test: Test, which: int) -> str:
        element = contact_between(truth.table, test.red, test.black)
        assert element is not None
        ampere = float(truth.table.read_current(test.condition, element, CLAMP).mean[which])
        return f"{ampere * (1 + NOISE_RATIO * truth.rng.standard_normal()):.1f}"


def battery_contacts(bench: Bench, join: Join) -> Iterator[tuple[str, str]]:
    """Yield the two sides of every contact that battery + runs through."""
    for pair in join.pairs:
        red, black = (
            f"{join.a_part}.{join.a_port}.{pair[0]}",
            f"{join.b_part}.{join.b_port}.{pair[1]}",
        )
        power = pair_class(bench.bike, join, pair) == "power"
        if power and "battery_plus" in bench.nets.roles_of(red):
            yield red, black


def contact_between(table: Table, red: str, black: str) -> str | None:
    """Return the element between the two sides of one contact, None where they are not that."""
    for join in table.circuit.bike.joins:
        for pair in join.pairs:
            a, b = (
                f"{join.a_part}.{join.a_port}.{pair[0]}",
                f"{join.b_part}.{join.b_port}.{pair[1]}",
            )
            if (red, black) == (a, b):
                return contact_id(join, pair)
    return None
