"""Feel: which plug is hot after a hard pull?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import DEAD_STEPS, Condition
from brightcore.circuit.contacts import join_title
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers, access_min

HOT_BY_CHANCE = 0.04
"""How often a sound plug is called hot (common practice)."""

FEEL_MIN = 4.5
"""Minutes to ride uphill, stop and feel (common practice)."""


class Feel(TwoAnswers):
    """Feel one power plug by hand after a hard pull."""

    name, evidence, family, kicker = "feel", "feel", "Feel for heat", "Feel next"
    answers = (("hot", "hot, or browned"), ("cool", "no warmer than the wire"))
    said = "Felt"
    choices = (("hot", "Hot, or browned"), ("cool", "No warmer than the wire"))

    def candidates(self, bench: Bench) -> Iterator[Test]:
        owners = set()
        for h in bench.hypotheses.items:
            if h.mode is not None and h.mode.hot:
                owners.add(h.repair.owner)
        for join in bench.bike.joins:
            if join.id in owners:
                plug = join_title(bench.bike, join)
                yield Test(
                    f"feel {join.id}",
                    self.name,
                    (
                        f"Pull hard uphill for a minute, stop, then feel the {plug} with the back "
                        "of the hand"
                    ),
                    Condition(),
                    FEEL_MIN + access_min(bench.bike, join),
                    ("pack_safe", "road", "hot"),
                    subject=join.id,
                    steps=("Ride slowly, off the road", *DEAD_STEPS),
                )

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(hot) at one plug."""
        own = hypothesis.mode is not None and hypothesis.repair.owner == subject
        return (
            hypothesis.mode.hot if own and hypothesis.mode is not None else 0.0
        ) or HOT_BY_CHANCE

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        own = mode is not None and mode.repair.owner == test.subject
        if own and mode is not None and mode.hot:
            chance = mode.hot
        else:
            chance = HOT_BY_CHANCE / 2
        return self.read(test, "hot" if truth.rng.random() < chance else "cool")
