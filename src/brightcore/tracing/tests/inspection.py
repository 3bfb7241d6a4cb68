"""A close look at one place: is there damage, or a wrong setting?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import Condition, describe
from brightcore.circuit.contacts import join_title
from brightcore.circuit.faults import FaultMode
from brightcore.kinds import REGISTRY
from brightcore.kinds.pack_faults import FUSE_SEEN
from brightcore.procedure.gates import DEAD_GATES
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import (
    Bench,
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


_POWER = {(): "off", ("pack_safe",): "on"}
"""How the bike stands for a look with such cautions; without the pack for all others."""


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
        minutes, plug, reach = LOOK_MIN, "", 0.0
        joins = []
        for join in bench.bike.joins:
            if join.id == mode.repair.owner:
                joins.append(join)
        title = f"Look closely. {mode.title}: is that so?"
        if joins:
            words = join_title(bench.bike, joins[0])
            title = f"Unplug and look closely at the pins of the {words}: bent, pushed back, green?"
            plug, reach = joins[0].id, access_min(bench.bike, joins[0])
            gates, minutes = DEAD_GATES, LOOK_MIN + reach
        elif mode.seen_by_eye >= FUSE_SEEN:
            title = (
                "Only a fuse reached from outside, never by opening a pack: take it out, look at "
                f"it, read its ohms. {mode.title}: is that so?"
            )
            gates = ("pack_out",)
        elif mode.repair.of_setting:
            title, minutes = f"Look at the settings. {mode.title}: is that so?", SETTING_MIN
            gates = ("pack_safe",)
        elif REGISTRY[bench.bike.part(mode.repair.owner).kind].grounds:
            gates = ("pack_out",)
        state = Condition(_POWER.get(gates, "out"))
        steps = describe(bench.circuit, state)
        subject = mode.repair.id
        return Test(
            f"inspect {subject}",
            self.name,
            title,
            state,
            minutes,
            gates,
            subject=subject,
            steps=steps,
            plug=plug,
            reach_min=reach,
        )

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(looks good) at the place of a repair."""
        own = hypothesis.repair.id == subject and hypothesis.mode is not None
        if own and hypothesis.mode is not None:
            seen = hypothesis.mode.seen_by_eye
        else:
            seen = 0.0
        return 1.0 - max(seen, FALSE_ALARM)

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        own = mode is not None and mode.repair.id == test.subject
        if own and mode is not None:
            chance = mode.seen_by_eye
        else:
            chance = TRUE_FALSE_ALARM
        return self.read(test, "damaged" if truth.rng.random() < chance else "good")
