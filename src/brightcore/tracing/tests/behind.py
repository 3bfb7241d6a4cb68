"""What a donor has behind one plug, lent to this bike: is the fault gone?

The plug itself is parted and closed again by it, so a fault in the plug may be gone either way.
"""

from collections.abc import Iterator

import numpy as np

from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.circuit.contacts import join_title
from brightcore.errors import UnknownNameError
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Table
from brightcore.tracing.behind import Behind, all_behind, behind_join, words_behind
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis, HypothesisSet
from brightcore.tracing.tests.base import (
    Bench,
    Floats,
    OutcomeTable,
    Test,
    Truth,
    TwoAnswers,
)
from brightcore.tracing.tests.half import GONE_BY_PLUG
from brightcore.tracing.tests.swap import GONE_BY_CHANCE, GONE_BY_SWAP, GONE_WITHOUT_FAULT

BEHIND_MIN = 6.0
"""Minutes to stand two bikes front to front, join one plug and try, beside reaching the plug
(common practice)."""


class WhatIsBehind(TwoAnswers):
    """Borrow what a donor has behind a plug."""

    name, evidence, family = "behind", "behind", "What a donor has behind a plug"
    kicker = "Borrow what hangs behind a plug"
    tool = "a donor bike"
    answers = (("gone", "fault gone"), ("same", "fault unchanged"))
    choices = (("gone", "Fault gone"), ("same", "Fault unchanged"))
    said = "With what a donor has behind a plug:"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for behind in all_behind(bench.bike):
            plug = join_title(bench.bike, bench.bike.join(behind.join)).lower()
            lent = words_behind(bench.bike, behind)
            port = behind.port(bench.bike)
            yield Test(
                f"{self.name} {behind.join}",
                self.name,
                f"Connect the donor's {lent} at the {plug}: is the fault gone?",
                Condition(),
                BEHIND_MIN + port.access_min,
                ("pack_safe", *DEAD_GATES, "donor", "wheel_up"),
                subject=behind.join,
                steps=(
                    *DEAD_STEPS,
                    "Both bikes: packs out; the donor's stays out",
                    "Part that plug on both bikes, join the donor's",
                    *POWER_STEPS["on"],
                ),
                plug=behind.join,
                reach_min=port.access_min,
            )

    def title(self, bench: Bench, item: Evidence) -> str:
        behind = behind_join(bench.bike, item.subject)
        if behind is None:
            return f"{self.said} {item.subject}"
        return f"With the donor's {words_behind(bench.bike, behind)}"

    def needs(self, test: Test) -> str:
        return test.id

    def validate(self, table: Table, item: Evidence) -> None:
        super().validate(table, item)
        bike = table.circuit.bike
        if behind_join(bike, item.subject) is None:
            known = tuple(behind.join for behind in all_behind(bike))
            raise UnknownNameError("plug with something behind it", item.subject, known)

    def likelihood(self, table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
        chances = self._chances_on(table, hypotheses, item.subject)
        values = [value for value, _ in self.answers]
        return np.asarray(chances[values.index(item.value)])

    def outcomes(self, table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
        chances = self._chances_on(table, hypotheses, test.subject)
        return self.table_of(hypotheses, test, chances)

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Where it is not known what is behind the plug, either answer is as likely."""
        return GONE_BY_PLUG

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        behind = behind_join(truth.table.circuit.bike, test.subject)
        gone = False
        if mode is not None and behind is not None:
            gone = mode.repair.owner in behind.owners
            if mode.repair.owner == behind.join:
                gone = bool(truth.rng.random() < GONE_BY_PLUG)
        return self.read(test, "gone" if gone else "same")

    def _chances_on(self, table: Table, hypotheses: HypothesisSet, join: str) -> Floats:
        """Return P(answer | hypothesis) [2, H-1] on a bike, in the order of `answers`."""
        behind = behind_join(table.circuit.bike, join)
        modelled = hypotheses.items[: hypotheses.modelled]
        first = np.array([_gone(item, behind) for item in modelled])
        return np.stack([first, 1.0 - first])


def _gone(hypothesis: Hypothesis, behind: Behind | None) -> float:
    """Return P(fault gone) once a donor's parts hang behind the plug."""
    if behind is None:
        return GONE_BY_PLUG
    if hypothesis.mode is None or hypothesis.loose:
        return GONE_WITHOUT_FAULT
    owner = hypothesis.repair.owner
    if owner == behind.join:
        return GONE_BY_PLUG
    if owner in behind.owners:
        return GONE_BY_SWAP
    return GONE_BY_CHANCE
