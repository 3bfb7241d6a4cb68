"""Wiggle: move a plug or a cable while something is watched; does it come or go?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.circuit.contacts import join_title, pair_class
from brightcore.physics.copper import THICK_MM2
from brightcore.procedure.gates import DEAD_GATES, probe_gates
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers, access_min

MOVES_LOOSE, MOVES_BAD, MOVES_BY_CHANCE = 0.8, 0.25, 0.03
"""How often something changes while a place is moved: a fault there that comes and goes, one there
that stays, anything else (common practice)."""

WIGGLE_MIN = 1.0
"""Minutes to move one place and watch, beyond reaching it (common practice)."""


class Wiggle(TwoAnswers):
    """Move one plug or cable and watch."""

    name, evidence, family, kicker = "wiggle", "wiggle", "Wiggle and watch", "Wiggle next"
    touches = True
    tool = "a handheld meter for power plugs"
    answers = (("moves", "it comes or goes"), ("same", "nothing changes"))
    said = "Moved"
    choices = (("moves", "It comes or goes"), ("same", "Nothing changes"))

    def candidates(self, bench: Bench) -> Iterator[Test]:
        owners = {h.repair.owner for h in bench.hypotheses.items if h.loose}
        running = Condition()
        gates, steps = probe_gates(running, bench.bike), POWER_STEPS["on"]
        for join in bench.bike.joins:
            if join.id in owners:
                plug = join_title(bench.bike, join)
                minutes = WIGGLE_MIN + access_min(bench.bike, join)
                if any(pair_class(bench.bike, join, pair) == "power" for pair in join.pairs):
                    title = (
                        f"Pack out: read ohms across the {plug} while you bend it: does "
                        "the reading jump?"
                    )
                    yield self._make(
                        join.id, title, Condition("out"), minutes, DEAD_GATES, DEAD_STEPS
                    )
                    continue
                title = (
                    f"Bend and press the {plug}, switched on, hand clear of the wheel: "
                    "does anything change?"
                )
                yield self._make(join.id, title, running, minutes, gates, steps)
        for part in bench.bike.parts:
            if part.id in owners and any(
                h.loose and h.repair.of_cable and h.repair.owner == part.id
                for h in bench.hypotheses.items
            ):
                name = part.name.lower()
                if getattr(part.spec, "area_mm2", 0.0) >= THICK_MM2:
                    title = (
                        f"Pack out: read ohms along the {name} while you bend it: does "
                        "the reading jump?"
                    )
                    yield self._make(
                        part.id, title, Condition("out"), WIGGLE_MIN, DEAD_GATES, DEAD_STEPS
                    )
                    continue
                title = (
                    f"Bend the {name} along its length, switched on, hand clear of the "
                    "wheel: any change?"
                )
                yield self._make(part.id, title, running, WIGGLE_MIN, gates, steps)

    def _make(
        self,
        subject: str,
        title: str,
        condition: Condition,
        minutes: float,
        gates: tuple[str, ...],
        steps: tuple[str, ...],
    ) -> Test:
        return Test(
            f"wiggle {subject}",
            self.name,
            title,
            condition,
            minutes,
            gates,
            subject=subject,
            steps=steps,
        )

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(something comes or goes) while a place is moved."""
        mode = hypothesis.mode
        if mode is None or hypothesis.repair.owner != subject or not mode.loose:
            return MOVES_BY_CHANCE
        if hypothesis.loose:
            return MOVES_LOOSE
        return MOVES_BAD

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        chance = truth.moves(which, test.subject)
        return self.read(test, "moves" if truth.rng.random() < chance else "same")
