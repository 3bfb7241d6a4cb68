"""Ask: is anything else on this line that is not described?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import Condition
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers

THERE, THERE_HARMLESS = 0.95, 0.08
"""How often something undescribed is found: where it is the trouble, and where it is not (common
practice)."""

ASK_MIN = 0.7
"""Minutes to follow one line and look (common practice)."""


class Ask(TwoAnswers):
    """Follow one line and look for what nobody has described."""

    name, evidence, family, kicker = "ask", "ask", "Not described?", "Look along this line"
    answers = (("yes", "something more is on it"), ("no", "nothing more"))
    said = "Followed the line of"
    choices = (("yes", "Yes, something more"), ("no", "No, nothing more"))

    def candidates(self, bench: Bench) -> Iterator[Test]:
        found = {}
        for h in bench.hypotheses.items:
            if h.repair.describes:
                found[h.repair.id] = h
        for repair_id, hypothesis in found.items():
            assert hypothesis.mode is not None
            yield Test(
                f"ask {repair_id}",
                self.name,
                f"{hypothesis.mode.question} Follow it from the controller to its ends.",
                Condition("out"),
                ASK_MIN,
                subject=repair_id,
                steps=("Look only: nothing is unplugged",),
            )

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(something more is found) on the line of a repair `describe:…`."""
        if hypothesis.repair.id == subject:
            return THERE
        return THERE_HARMLESS

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        chance = truth.undescribed(which, test.subject)
        return self.read(test, "yes" if truth.rng.random() < chance else "no")
