"""Swap in a known-good part: is the fault gone?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.kinds import REGISTRY
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import (
    Bench,
    Test,
    Truth,
    TwoAnswers,
)

GONE_BY_CHANCE, GONE_BY_SWAP, GONE_WITHOUT_FAULT = 0.03, 0.97, 0.5
"""Chance that the trouble is gone: another fault, a fault of the part, no fault now (common
practice)."""

TRY_MIN = 1.0
"""Minutes to try it, on top of swapping (common practice)."""


class Swap(TwoAnswers):
    """Swap in a known-good part."""

    name, evidence, family = "swap", "swap", "Swap in a known-good part"
    answers = (("gone", "fault gone"), ("same", "fault unchanged"))
    said = "Known good"
    kicker = "Swap in a known-good"
    tool = "a known-good part"
    choices = (("gone", "Fault gone"), ("same", "Fault unchanged"))

    def candidates(self, bench: Bench) -> Iterator[Test]:
        owners = set()
        for item in bench.hypotheses.items:
            if item.mode is not None:
                owners.add(item.repair.owner)
        for part in bench.bike.parts:
            kind = REGISTRY[part.kind]
            if kind.has_spare and part.id in owners:
                yield Test(
                    f"swap {part.id}",
                    self.name,
                    f"Swap in a known-good {part.name.lower()}: is the fault gone?",
                    Condition(),
                    kind.swap_min + TRY_MIN,
                    ("pack_safe", *DEAD_GATES, "known_good", "wheel_up"),
                    subject=part.id,
                    steps=(*DEAD_STEPS, "Swap it", *POWER_STEPS["on"]),
                )

    def validate(self, table: Table, item: Evidence) -> None:
        table.circuit.bike.part(item.subject)
        super().validate(table, item)

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(fault gone) after swapping in a known-good part."""
        if hypothesis.repair.owner == subject and not hypothesis.repair.of_join:
            return GONE_BY_SWAP
        # Where nothing is wrong now, or it comes and goes, a trouble that is gone proves little.
        if hypothesis.mode is None or hypothesis.loose:
            return GONE_WITHOUT_FAULT
        return GONE_BY_CHANCE

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        mine = mode is not None and not mode.repair.of_join and mode.repair.owner == test.subject
        return self.read(test, "gone" if mine else "same")
