"""What every test shares that asks the senses, or time, for a sign that no meter shows."""

from collections.abc import Iterator
from typing import ClassVar

from brightcore.circuit.conditions import Condition, describe
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers


class Sign(TwoAnswers):
    """Is there a sign at one part? The first answer says there is.

    `sign` names it in the fault modes, `by_chance` is how often it is found where the fault is
    another (common practice), `minutes` how long the test takes at the bench, `words` its title,
    `steps` how the bike stands where that says more than its state.
    """

    sign: ClassVar[str]
    by_chance: ClassVar[float]
    minutes: ClassVar[float]
    condition: ClassVar[Condition]
    gates_of: ClassVar[tuple[str, ...]]
    words: ClassVar[str]
    steps: ClassVar[tuple[str, ...]] = ()
    clean_ratio = 5.0
    """A yes or no of the senses, or of a count, never speaks as clearly as a reading far off."""

    def candidates(self, bench: Bench) -> Iterator[Test]:
        signed = set()
        for h in bench.hypotheses.items:
            if h.mode and h.mode.sign(self.sign):
                signed.add(h.repair.owner)
        for part in bench.bike.parts:
            if part.id in signed:
                yield Test(
                    f"{self.name} {part.id}",
                    self.name,
                    self.words.format(part=part.name.lower()),
                    self.condition,
                    self.minutes,
                    self.gates_of,
                    subject=part.id,
                    steps=self.steps or describe(bench.circuit, self.condition),
                )

    def validate(self, table: Table, item: Evidence) -> None:
        table.circuit.bike.part(item.subject)
        super().validate(table, item)

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(the sign is there) at one part."""
        own = hypothesis.mode is not None and hypothesis.repair.owner == subject
        return max(
            hypothesis.mode.sign(self.sign) if own and hypothesis.mode else 0.0, self.by_chance
        )

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        own = mode is not None and mode.repair.owner == test.subject
        chance = max(mode.sign(self.sign) if own and mode is not None else 0.0, self.by_chance / 2)
        there, gone = (value for value, _ in self.answers)
        return self.read(test, there if truth.rng.random() < chance else gone)
