"""Swap in a known-good part: is the trouble gone?"""

from collections.abc import Iterator

import numpy as np

from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.kinds import REGISTRY
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import (
    Bench,
    Floats,
    Test,
    Truth,
    TwoAnswers,
)

GONE_BY_CHANCE, GONE_BY_SWAP, GONE_WITHOUT_FAULT = 0.03, 0.97, 0.5
"""Chance that the trouble is gone: another fault, a fault of the part, no fault now (common practice)."""

TRY_MIN = 1.0
"""Minutes to try it, on top of swapping (common practice)."""


class Swap(TwoAnswers):
    """Swap in a known-good part."""

    name, evidence, family = "swap", "swap", "Lend a known good part"
    answers = (("gone", "trouble gone"), ("same", "trouble the same"))
    said = "Known good"
    kicker = "Swap with known good"
    choices = (("gone", "Trouble gone"), ("same", "Trouble the same"))

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
                    ("pack_safe", *DEAD_GATES, "known_good", "wheel_up"),
                    subject=part.id,
                    steps=(*DEAD_STEPS, "Swap it", *POWER_STEPS["on"]),
                )

    def validate(self, table: Table, item: Evidence) -> None:
        table.circuit.bike.part(item.subject)
        super().validate(table, item)

    def chances(self, hypotheses: HypothesisSet, subject: str) -> Floats:
        """Return P(trouble gone), P(trouble the same) [2, H-1] after swapping in a known-good part."""
        gone = np.full(hypotheses.rows, GONE_BY_CHANCE)
        for i, hypothesis in enumerate(hypotheses.items[: hypotheses.rows]):
            if hypothesis.mode is None:
                gone[i] = GONE_WITHOUT_FAULT
            elif hypothesis.repair.owner == subject and not hypothesis.repair.of_join:
                gone[i] = GONE_BY_SWAP
        return np.stack([gone, 1.0 - gone])

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        mine = mode is not None and not mode.repair.of_join and mode.repair.owner == test.subject
        return self.read(test, "gone" if mine else "same")
