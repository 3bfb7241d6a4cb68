"""What was tried and what is known of the bike's past: no tests to do, evidence all the same."""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from brightcore.bike.model import Bike
from brightcore.circuit.contacts import join_title
from brightcore.circuit.undescribed import LINES, line_of
from brightcore.simulation.table import Table
from brightcore.tracing.context import EVERY, TOLD, leaning_weights
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import Bench, Floats, OutcomeTable, Test, TestKind, Truth, one_of

STILL_THERE = 0.06
"""How likely the trouble stays after the repair of its own fault: done badly, or bought broken
(common practice). After that of another it stays for certain."""


class Known(TestKind):
    """Something known, with no test that could give it."""

    kicker: ClassVar[str] = "Known"
    entry: ClassVar[str] = "none"
    by_rows = False

    def candidates(self, bench: Bench) -> Iterator[Test]:
        return iter(())

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        return None

    def anything(self, item: Evidence) -> float:
        return 1.0

    def test_id(self, item: Evidence) -> str:
        return f"{self.name} {item.value} {item.subject}".strip()

    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        return ()

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        return ()


class Tried(Known):
    """A repair that was done, and whose proof failed. `subject` is the repair."""

    name = evidence = "tried"
    family = "Repairs tried"

    def validate(self, table: Table, item: Evidence) -> None:
        one_of(item.value, ("failed",))

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        own = []
        for h in hypotheses.items[: hypotheses.modelled]:
            own.append(h.repair.id == item.subject)
        return np.where(own, STILL_THERE, 1.0)

    def title(self, bench: Bench, item: Evidence) -> str:
        known = {}
        for repair in bench.hypotheses.repairs:
            known[repair.id] = repair.action
        return f"Repair done: {known.get(item.subject, item.subject)}"

    def value_words(self, item: Evidence) -> str:
        return "proof failed"


class Past(Known):
    """What Arrive found out of the bike's past, or saw at a plug. `value` is the leaning, `subject`
    the place."""

    name = evidence = "past"
    family = "Found at arrival"

    def validate(self, table: Table, item: Evidence) -> None:
        one_of(item.value, EVERY, "circumstance")

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        return leaning_weights(table.circuit, hypotheses, item.value, item.subject)

    def title(self, bench: Bench, item: Evidence) -> str:
        words = EVERY[item.value].words
        if item.subject:
            return f"{words}, at the {place_title(bench.bike, item.subject)}"
        return words

    def value_words(self, item: Evidence) -> str:
        if item.value in TOLD:
            return "told"
        return "found at arrival"


def place_title(bike: Bike, place: str) -> str:
    """Return words for a join or part by its id, or for what a repair (`family:owner…`) is about;
    the id itself where the bike no longer has it."""
    family, _, rest = place.partition(":")
    if family == "describe":
        controller, role = line_of(place)
        words = next((line.words for line in LINES if line.role == role), role.replace("_", " "))
        return f"{words}, {place_title(bike, controller)}"
    owner = rest.split(":")[0] if rest else place
    joins = [join for join in bike.joins if join.id == owner]
    if joins:
        return join_title(bike, joins[0])
    parts = [part.name for part in bike.parts if part.id == owner]
    return parts[0] if parts else place
