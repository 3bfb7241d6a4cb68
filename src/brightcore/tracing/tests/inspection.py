"""A close look at one place: is there damage, or a wrong setting?"""

from collections.abc import Iterator

import numpy as np

from brightcore.circuit.conditions import Condition, describe
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.netlist import join_title
from brightcore.kinds import REGISTRY
from brightcore.procedure.gates import DEAD_GATES
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.tests.base import (
    Bench,
    Floats,
    Test,
    Truth,
    TwoAnswers,
    access_min,
)

FALSE_ALARM = 0.04
"""Chance that something looks damaged and is not the fault (common practice)."""

TRUE_FALSE_ALARM = 0.02
"""The same for the simulated technician."""

LEAST_SEEN = 0.3
"""A fault that is seen less often than this is not worth a look."""

LOOK_MIN, SETTING_MIN = 1.5, 0.3
"""Minutes of a close look, and of a look at the settings (common practice)."""


class Inspection(TwoAnswers):
    """Look closely."""

    name, evidence, family, kicker = "inspect", "inspect", "Look closely", "Look next"
    answers = (("good", "looks good"), ("damaged", "damage or wrong setting seen"))
    said = "Looked closely at"
    choices = (("good", "Looks good"), ("damaged", "Yes: damage or wrong setting seen"))

    def candidates(self, bench: Bench) -> Iterator[Test]:
        best: dict[str, FaultMode] = {}
        for item in bench.hypotheses.items:
            if item.mode is not None:
                lead = best.get(item.repair.id, item.mode)
                best[item.repair.id] = max(lead, item.mode, key=lambda mode: mode.seen_by_eye)
        for mode in best.values():
            if mode.seen_by_eye >= LEAST_SEEN:
                yield self._make(bench, mode)

    def _make(self, bench: Bench, mode: FaultMode) -> Test:
        """Return the look at the place of a fault's repair."""
        gates: tuple[str, ...] = ()
        minutes = LOOK_MIN
        joins = [join for join in bench.bike.joins if join.id == mode.repair.owner]
        title = f"Look closely. {mode.title}: is that so?"
        if joins:
            plug = join_title(bench.bike, joins[0])
            title = f"Unplug and look closely at the pins of the {plug}: bent, pushed back, green?"
            gates, minutes = DEAD_GATES, LOOK_MIN + access_min(bench.bike, joins[0])
        elif mode.repair.id.startswith("setting:"):
            title, minutes = f"Look at the settings. {mode.title}: is that so?", SETTING_MIN
        elif REGISTRY[bench.bike.part(mode.repair.owner).kind].grounds:
            gates = ("pack_out",)
        state = Condition("out" if gates else "on")
        steps = describe(bench.circuit, state)
        subject = mode.repair.id
        return Test(
            f"inspect {subject}", self.name, title, state, minutes, gates, subject=subject, steps=steps
        )

    def chances(self, hypotheses: HypothesisSet, subject: str) -> Floats:
        """Return P(looks good), P(damage seen) [2, H-1] for a close look at a repair's place."""
        damaged = np.full(hypotheses.rows, FALSE_ALARM)
        for i, hypothesis in enumerate(hypotheses.items[: hypotheses.rows]):
            if hypothesis.repair.id == subject and hypothesis.mode is not None:
                damaged[i] = max(hypothesis.mode.seen_by_eye, FALSE_ALARM)
        return np.stack([1.0 - damaged, damaged])

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        own = mode is not None and mode.repair.id == test.subject
        chance = mode.seen_by_eye if own and mode is not None else TRUE_FALSE_ALARM
        return self.read(test, "damaged" if truth.rng.random() < chance else "good")
