"""Overspeed: a motor whose magnets are weak turns faster than it should with nothing to pull."""

from collections.abc import Iterator

from brightcore.bike.measured import circumference_mm
from brightcore.circuit.conditions import Condition
from brightcore.kinds.select import hub_motors, packs
from brightcore.physics.machine import hub_free_kmh
from brightcore.procedure.gates import volts_gates
from brightcore.tracing.tests.base import Bench, Test
from brightcore.tracing.tests.signs import Sign

FASTER = 1.15
"""Times the reckoned speed from which it is called faster (common practice)."""


class Overspeed(Sign):
    """Let the wheel run free at full throttle and read the speed."""

    name, evidence, family, kicker = (
        "overspeed",
        "overspeed",
        "Speed with the wheel free",
        "Run it free",
    )
    answers = (("fast", "clearly faster than reckoned"), ("usual", "as reckoned, or slower"))
    choices = (("fast", "Clearly faster"), ("usual", "As reckoned, or slower"))
    said = "Ran free"
    sign, by_chance, minutes = "fast", 0.03, 1.5
    condition = Condition()
    gates_of = volts_gates(Condition())
    words = "Let the {part} run free, wheel up, full throttle, no speed limit: how fast?"

    def candidates(self, bench: Bench) -> Iterator[Test]:
        volt = max((pack.spec.resting_v() for pack in packs(bench.bike)), default=0.0)
        circumference_m = circumference_mm(bench.bike) / 1000
        named = {motor.id: motor for motor in hub_motors(bench.bike)}
        for test in super().candidates(bench):
            motor = named.get(test.subject)
            if motor is not None and bench.controls("grip"):
                rpm = FASTER * motor.spec.rpm_per_v * volt
                kmh = FASTER * hub_free_kmh(motor.spec.rpm_per_v, volt, circumference_m)
                yield test.retitled(
                    f"Let the {motor.name.lower()} run free, wheel up, full throttle, no speed "
                    f"limit: faster than {kmh:.0f} km/h, or {rpm:.0f} turns a minute?"
                )
