"""Try another order: let Set try the orders of phases and halls; does one of them run?"""

from collections.abc import Iterator

from brightcore.bike.model import Join, Part
from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.circuit.nets import Nets
from brightcore.kinds.motor import HALLS, PHASES
from brightcore.kinds.select import motors
from brightcore.procedure.gates import DEAD_GATES, is_high
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers
from brightcore.tracing.tests.half import MOST_NAMED

RUNS_BY_ORDER, RUNS_BY_CHANCE, RUNS_ANYWAY = 0.97, 0.02, 0.5
"""How often another order runs smoothly: where the order is the trouble, where something else is,
where nothing is wrong now or it comes and goes (common practice)."""

ORDERS_MIN = 6.0
"""Minutes to try the orders one after the other, wheel up (common practice; see Set)."""


class OtherOrder(TwoAnswers):
    """Try the other orders of a motor's halls and phases.

    `subject` is the motor and the joins that carry them: what is exchanged at another plug, or for
    another motor, no order here cures.
    """

    name, evidence, family = "order", "order", "Other orders of halls and phases"
    kicker = "Try another order"
    touches = True
    answers = (("runs", "another order runs"), ("none", "no order runs"))
    choices = (("runs", "Another order runs smoothly"), ("none", "No order runs"))
    said = "Other orders tried at"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        # The wires that are exchanged carry the pack's volts a minute later.
        high = ("high_volts",) if is_high(bench.bike) else ()
        owners = {h.repair.owner for h in bench.hypotheses.items if _is_order(h)}
        for motor in motors(bench.bike):
            joins = [join.id for join in bench.bike.joins if _leads_to(bench.nets, join, motor)]
            subject = f"{motor.id}:{'+'.join(joins)}"
            if not owners & set(joins) or len(subject) > MOST_NAMED:
                continue
            yield Test(
                f"order {subject}",
                self.name,
                f"Set, “Phases and halls by trial”, {motor.name.lower()}: does another order "
                "run smoothly?",
                Condition(),
                ORDERS_MIN,
                (*high, "pack_safe", *DEAD_GATES, "wheel_up"),
                subject=subject,
                steps=(
                    *DEAD_STEPS,
                    "Exchange one pair, as Set says",
                    *POWER_STEPS["on"],
                    "A touch of throttle: let go at once if it growls or jerks",
                ),
            )

    def title(self, bench: Bench, item: Evidence) -> str:
        motor = item.subject.partition(":")[0]
        return f"{self.said} {next((p.name for p in bench.bike.parts if p.id == motor), motor)}"

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(another order runs)."""
        if hypothesis.mode is None or hypothesis.loose:
            return RUNS_ANYWAY
        if _is_order(hypothesis) and hypothesis.repair.owner in _joins(subject):
            return RUNS_BY_ORDER
        return RUNS_BY_CHANCE

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        here = mode is not None and mode.repair.owner in _joins(test.subject)
        runs = here and mode is not None and mode.repair.id.startswith("order:")
        return self.read(test, "runs" if runs else "none")


def _joins(subject: str) -> frozenset[str]:
    return frozenset(subject.partition(":")[2].split("+"))


def _is_order(hypothesis: Hypothesis) -> bool:
    return hypothesis.mode is not None and hypothesis.repair.id.startswith("order:")


def _leads_to(nets: Nets, join: Join, motor: Part) -> bool:
    """Return whether a join carries a phase or a hall of a motor."""
    own = set()
    for port in motor.ports:
        for pin in port.pins:
            if pin.role in (*PHASES, *HALLS):
                own.add(nets.find(f"{motor.id}.{port.id}.{pin.name}"))
    return any(nets.find(f"{join.a_part}.{join.a_port}.{first}") in own for first, _ in join.pairs)
