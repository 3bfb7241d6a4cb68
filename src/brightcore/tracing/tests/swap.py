"""Swap in a known-good part: is the trouble gone?"""

from collections.abc import Iterator

import numpy as np

from brightcore.circuit.conditions import Condition
from brightcore.kinds import REGISTRY
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import (
    Bench,
    Floats,
    OutcomeTable,
    Test,
    TestKind,
    Truth,
    one_of,
    two_answers,
)

GONE_BY_CHANCE, GONE_BY_SWAP, GONE_WITHOUT_FAULT = 0.03, 0.97, 0.5
"""Chance that the trouble is gone: another fault, a fault of the part, no fault now (common practice)."""

TRY_MIN = 1.0
"""Minutes to try it, on top of swapping (common practice)."""


class Swap(TestKind):
    """Swap in a known-good part."""

    name, evidence, family, entry = "swap", "swap", "Lend a known good part", "choice"
    kicker = "Swap with known good"
    choices = (("gone", "Trouble gone"), ("same", "Trouble the same"))
    first = True

    def candidates(self, bench: Bench) -> Iterator[Test]:
        owners = {item.repair.owner for item in bench.hypotheses.items if item.mode is not None}
        for part in bench.bike.parts:
            kind = REGISTRY[part.kind]
            if kind.has_spare and part.id in owners:
                yield Test(
                    f"swap {part.id}",
                    self.name,
                    f"Lend a known good {part.name.lower()}: is the trouble gone?",
                    Condition(),
                    kind.swap_min + TRY_MIN,
                    ("pack_safe", "pack_out", "known_good", "wheel_up"),
                    subject=part.id,
                    steps=("Pack out while swapping", "Then switched on"),
                )

    def validate(self, table: Table, item: Evidence) -> None:
        table.circuit.bike.part(item.subject)
        one_of(item.value, ("gone", "same"))

    def _rows(self, hypotheses: HypothesisSet, part_id: str) -> Floats:
        """Return P(trouble gone), P(trouble the same) [2, H-1] after swapping in a known-good part."""
        gone = np.full(hypotheses.rows, GONE_BY_CHANCE)
        for i, hypothesis in enumerate(hypotheses.items[: hypotheses.rows]):
            if hypothesis.mode is None:
                gone[i] = GONE_WITHOUT_FAULT
            elif hypothesis.repair.owner == part_id and not hypothesis.repair.of_join:
                gone[i] = GONE_BY_SWAP
        return np.stack([gone, 1.0 - gone])

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        return np.asarray(self._rows(hypotheses, item.subject)[int(item.value == "same")])

    def anything(self, item: Evidence) -> float:
        return 0.5

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        answers = (("gone", "trouble gone"), ("same", "trouble the same"))
        return two_answers(hypotheses, test, self._rows(hypotheses, test.subject), answers)

    def test_id(self, item: Evidence) -> str:
        return f"swap {item.subject}"

    def title(self, bench: Bench, item: Evidence) -> str:
        return f"Known good {item.subject}"

    def value_words(self, item: Evidence) -> str:
        return {"gone": "trouble gone", "same": "the same"}[item.value]

    def read(self, test: Test, value: str) -> tuple[Evidence, ...]:
        return (Evidence("swap", value, subject=test.subject),)

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        mine = mode is not None and not mode.repair.of_join and mode.repair.owner == test.subject
        return self.read(test, "gone" if mine else "same")
