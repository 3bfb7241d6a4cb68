"""Roles of the motor: pole pairs, halls, winding, rpm per volt."""

from brightcore.kinds.motor import HubMotorSpec
from brightcore.programming.case import Case, Role, Want
from brightcore.programming.own import own_motor

PAIR_TO_PHASE = 2.0
"""Between two phases in star lie two windings."""


def pole_pairs(case: Case) -> Want | None:
    """Electrical turns per measured turn: pairs times the reduction where speed is measured behind
    it."""
    motor = own_motor(case)
    if motor is None:
        return None
    counted = case.measured(motor.id, "effective_pole_pairs") or case.measured(
        motor.id, "pole_pairs"
    )
    if counted and counted.name == "effective_pole_pairs":
        return Want(counted.value, f"Counted {counted.on}: {counted.words}")
    pairs = counted.value if counted else motor.spec.magnet_count / 2
    value = pairs * motor.spec.gear_ratio
    if motor.spec.gear_ratio != 1:
        gear = f" × {motor.spec.gear_ratio:g} of the reduction"
    else:
        gear = ""
    return Want(
        round(value, 1), f"{motor.spec.magnet_count} magnets are {pairs:g} pairs{gear}", "willis"
    )


def hall_angle(case: Case) -> Want | None:
    """Degrees between the halls."""
    motor = own_motor(case)
    if motor is None:
        return None
    found = case.measured(motor.id, "spacing_deg")
    if found:
        return Want(found.value, f"Found {found.on}")
    return Want(120.0, "Usual; Halls by hand proves it")


def hall_map(case: Case) -> Want | None:
    """Which of the 36 ways the wires are crossed."""
    motor = own_motor(case)
    found = case.measured(motor.id, "crossing") if motor else None
    if found:
        return Want(found.value, f"Found {found.on}: {found.words}")
    return None


def resistance(case: Case) -> Want | None:
    """Resistance of one winding, milliohms."""
    motor = own_motor(case)
    if motor is None:
        return None
    found = case.measured(motor.id, "phase_ohm")
    origin = f"measured {found.on}" if found else "described"
    return Want(
        round(1000 * motor.spec.phase_ohm / PAIR_TO_PHASE, 1),
        f"Half of {1000 * motor.spec.phase_ohm:.0f} mΩ between two phases, {origin}",
    )


def inductance(case: Case) -> Want | None:
    """Inductance of one winding, microhenry."""
    motor = own_motor(case)
    found = case.measured(motor.id, "inductance_uh") if motor else None
    if found:
        return Want(round(found.value / PAIR_TO_PHASE), f"Half of what was measured {found.on}")
    return None


def rpm_per_volt(case: Case) -> Want | None:
    """No-load turns of the motor's measured shaft per volt."""
    motor = own_motor(case)
    if motor is None:
        return None
    found = case.measured(motor.id, "rpm_per_v")
    if found:
        origin = f"Measured {found.on}"
    else:
        origin = f"{motor.name} as described"
    if isinstance(motor.spec, HubMotorSpec) or not motor.spec.geared():
        return Want(motor.spec.rpm_per_v, origin)
    # Pole pairs count turns behind the reduction, so that rpm per volt must count the same shaft.
    value = round(motor.spec.rpm_per_v / motor.spec.gear_ratio, 2)
    words = (
        f"{motor.spec.rpm_per_v:g} of the motor itself over {motor.spec.gear_ratio:g} of "
        "the reduction"
    )
    return Want(value, f"{origin}: {words}, the shaft that the pole pairs count")


ROLES = (
    Role("pole_pairs", "Pole pairs, effective", "", pole_pairs, digits=1),
    Role(
        "hall_angle_deg", "Angle between halls", "°", hall_angle, ((60.0, "60°"), (120.0, "120°"))
    ),
    Role("hall_map", "Hall map", "", hall_map),
    Role("phase_mohm", "Winding resistance", "mΩ", resistance, digits=1),
    Role("phase_uh", "Winding inductance", "µH", inductance),
    Role("rpm_per_v", "No-load rpm/V", "rpm/V", rpm_per_volt, digits=2),
)
