"""Mid-drive motor: like a hub motor, behind a reduction to the chain ring."""

from dataclasses import dataclass

from brightcore.bike.model import Part
from brightcore.kinds.base import spec_value, torque_value
from brightcore.kinds.motor import Motor, MotorSpec

USUAL_SPROCKETS = (11, 13, 15, 18, 21, 24, 28, 32)


@dataclass(frozen=True, slots=True)
class MidMotorSpec(MotorSpec):
    """What is known of a mid-drive motor. Turns per volt and ratio are of the motor and its
    reduction."""

    phase_ohm: float = spec_value(
        0.12, 0.0005, 50.0, "resistance between two phases", usual=(0.02, 1.0)
    )
    rpm_per_v: float = spec_value(75.0, 1.0, 2000.0, "no-load turns of the motor itself per volt")
    magnet_count: int = spec_value(16, 2, 200, "magnets on the rotor", awaits="Program")
    gear_ratio: float = spec_value(21.9, 1.0, 100.0, "reduction from motor to chain ring")
    rated_w: float = spec_value(750.0, 50.0, 10000.0, "power printed on it")
    speed_sensor: bool = spec_value(False, doc="gives wheel-speed pulses itself")
    speed_magnets: int = spec_value(
        1, 1, 64, "speed pulses per wheel turn, where it gives them", awaits="Program"
    )
    chain_ring_teeth: int = spec_value(42, 8, 80, "teeth of the chain ring")
    sprocket_teeth: tuple[int, ...] = spec_value(
        USUAL_SPROCKETS, doc="teeth of the rear sprockets, smallest first"
    )
    lock_ring_nm: float = torque_value("lock ring")
    crank_bolt_nm: float = torque_value("crank bolts")


class MidMotor(Motor[MidMotorSpec]):
    """Brushless motor at the cranks; drives through the chain."""

    name, title, spec_type = "mid_motor", "Mid-drive motor", MidMotorSpec
    fails_as = "motor"
    sits, pedalled = "bracket", True
    not_modelled = (*Motor.not_modelled, "chain, sprockets and derailleur")

    def turning_words(self, part: Part[MidMotorSpec]) -> str:
        return "Motor turned slowly by hand, at the chain ring or inner gear"
