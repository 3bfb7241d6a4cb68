"""Try another order: let Set try the orders of phases and halls; does one of them run?"""

from collections.abc import Iterator

from brightcore.circuit.conditions import Condition
from brightcore.kinds.motor import HALLS, PHASES
from brightcore.kinds.select import motors
from brightcore.procedure.gates import probe_gates
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers

RUNS_BY_ORDER, RUNS_BY_CHANCE, RUNS_ANYWAY = 0.97, 0.02, 0.5
"""How often another order runs smoothly: where the order is the trouble, where something else is,
where nothing is wrong now or it comes and goes (common practice)."""

ORDERS_MIN = 6.0
"""Minutes to try the orders one after the other, wheel up (common practice; see Set)."""


class OtherOrder(TwoAnswers):
    """Try the other orders of a motor's halls and phases."""

    name, evidence, family = "order", "order", "Other orders of halls and phases"
    kicker = "Try another order"
    tool = ""
    touches = True
    first = True
    answers = (("runs", "another order runs"), ("none", "no order runs"))
    choices = (("runs", "Another order runs smoothly"), ("none", "No order runs"))
    said = "Other orders tried at"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for motor in motors(bench.bike):
            if not self._orders(bench, motor.id):
                continue
            running = Condition()
            yield Test(
                f"order {motor.id}",
                self.name,
                f"Set, “Phases and halls by trial”, {motor.name.lower()}: does another order "
                "run smoothly?",
                running,
                ORDERS_MIN,
                (*probe_gates(running, bench.bike), "wheel_up"),
                subject=motor.id,
                steps=("Pack out before every change", "Wheel up, a touch of throttle"),
            )

    @staticmethod
    def _orders(bench: Bench, motor: str) -> bool:
        return any(_reorders(item, motor, bench) for item in bench.hypotheses.items)

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(another order runs)."""
        if hypothesis.mode is None or hypothesis.loose:
            return RUNS_ANYWAY
        if hypothesis.repair.id.startswith("order:"):
            return RUNS_BY_ORDER
        return RUNS_BY_CHANCE

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        runs = mode is not None and mode.repair.id.startswith("order:")
        return self.read(test, "runs" if runs else "none")


def _reorders(item: Hypothesis, motor: str, bench: Bench) -> bool:
    if item.mode is None or not item.repair.id.startswith("order:"):
        return False
    pin = item.mode.family.removesuffix("/order")
    join = bench.bike.join(pin)
    mates = bench.nets.mates(motor, *PHASES, *HALLS)
    return bool({join.a_part, join.b_part} & (mates | {motor}))
