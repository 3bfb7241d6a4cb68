"""Half a bike: its drive on a donor's motor, or a donor's drive on its motor. Is the fault gone?"""

from collections.abc import Iterator

from brightcore.bike.model import Bike
from brightcore.circuit.conditions import DEAD_STEPS, POWER_STEPS, Condition
from brightcore.kinds import REGISTRY
from brightcore.kinds.motor import PHASES
from brightcore.kinds.select import motors
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.table import Table
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.tests.base import Bench, Test, Truth, TwoAnswers
from brightcore.tracing.tests.swap import GONE_BY_CHANCE, GONE_BY_SWAP, GONE_WITHOUT_FAULT

HALVES = {"motor": "the motor of the donor", "drive": "pack, controller and controls of the donor"}
"""What a donor lends."""

HALF_MIN = 12.0
"""Minutes to lay two bikes side by side, connect phases and halls and try (common practice)."""

GONE_BY_PLUG = 0.5
"""Chance that a fault in the plugs between the halves is gone: they were apart (common
practice)."""

MOST_NAMED = 110
"""Letters of a subject at most."""


def motor_half(bike: Bike, motor: str) -> tuple[frozenset[str], frozenset[str]]:
    """Return (parts and joins on the motor's side, joins between the halves), () where the bike
    cannot be parted there: the pack can be reached without passing a controller."""
    own, split, queue = {motor}, set(), [motor]
    while queue:
        here = queue.pop()
        for join in bike.joins_of(here):
            other = join.b_part if join.a_part == here else join.a_part
            if REGISTRY[bike.part(other).kind].commutates:
                split.add(join.id)
                continue
            # The pack hangs on this side without a controller between: halving there would put two
            # packs on one wire.
            if REGISTRY[bike.part(other).kind].grounds:
                return frozenset(), frozenset()
            own.add(join.id)
            if other not in own:
                own.add(other)
                queue.append(other)
    return frozenset(own), frozenset(split)


class Half(TwoAnswers):
    """Borrow half a bike."""

    name, evidence, family = "half", "half", "Half of a donor"
    kicker = "Borrow half a bike"
    tool = "a donor bike"
    answers = (("gone", "fault gone"), ("same", "fault unchanged"))
    choices = (("gone", "Fault gone"), ("same", "Fault unchanged"))
    said = "With half a donor:"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        for motor in motors(bench.bike):
            if not bench.nets.mates(motor.id, *PHASES):
                continue
            own, split = motor_half(bench.bike, motor.id)
            for half, words in HALVES.items():
                subject = f"{half}:{'+'.join(sorted(own))}|{'+'.join(sorted(split))}"
                if own and len(subject) <= MOST_NAMED:
                    yield Test(
                        f"half {subject}",
                        self.name,
                        f"Connect {words} at the phases and halls of the {motor.name.lower()}: is "
                        "the fault gone?",
                        Condition(),
                        HALF_MIN,
                        ("pack_safe", *DEAD_GATES, "donor", "wheel_up"),
                        subject=subject,
                        steps=(
                            *DEAD_STEPS,
                            "Both bikes: packs out",
                            "Connect them",
                            *POWER_STEPS["on"],
                        ),
                    )

    def title(self, bench: Bench, item: Evidence) -> str:
        half, _, _ = _read(item.subject)
        return f"{self.said} {HALVES.get(half, half)}"

    def needs(self, test: Test) -> str:
        return test.subject.partition(":")[0]

    def validate(self, table: Table, item: Evidence) -> None:
        super().validate(table, item)
        bike = table.circuit.bike
        joins = {join.id for join in bike.joins}
        _, own, split = _read(item.subject)
        for name in (own | split) - joins:
            bike.part(name)

    def chance(self, hypothesis: Hypothesis, subject: str) -> float:
        """Return P(fault gone) once one half is a donor's."""
        half, own, split = _read(subject)
        if hypothesis.mode is None or hypothesis.loose:
            return GONE_WITHOUT_FAULT
        owner = hypothesis.repair.owner
        if owner in split:
            return GONE_BY_PLUG
        if (owner in own) == (half == "motor"):
            return GONE_BY_SWAP
        return GONE_BY_CHANCE

    def answer(self, truth: Truth, test: Test, which: int) -> tuple[Evidence, ...]:
        mode = truth.mode(which)
        half, own, split = _read(test.subject)
        lent = mode is not None and (mode.repair.owner in own) == (half == "motor")
        reseated = mode is not None and mode.repair.owner in split
        gone = truth.rng.random() < GONE_BY_PLUG if reseated else lent
        return self.read(test, "gone" if gone else "same")


def _read(subject: str) -> tuple[str, frozenset[str], frozenset[str]]:
    """Return (half that is lent, what is on the motor's side, plugs between)."""
    half, _, rest = subject.partition(":")
    own, _, split = rest.partition("|")
    return half, frozenset(own.split("+")) - {""}, frozenset(split.split("+")) - {""}
