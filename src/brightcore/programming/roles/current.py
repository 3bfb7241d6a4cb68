"""Roles of current and heat: limits, ramp, regeneration, temperature."""

from brightcore.analysis.bike import analysis_of
from brightcore.analysis.loads import drawing_on
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.select import combiners, controllers, motors, packs
from brightcore.physics.fuses import fuse_long_a
from brightcore.physics.heat_limits import ROLL_BACK_C, STOP_C
from brightcore.physics.warming import winding_minute_a
from brightcore.programming.case import Case, Role, Want
from brightcore.programming.own import own_motor


def battery_limit(case: Case) -> Want | None:
    """No more than controller, BMS and 80 % of the fuse allow."""
    part = case.part
    if not isinstance(part.spec, ControllerSpec):
        return None
    whole = analysis_of(case.bike)
    limits = [("the controller's rating", part.spec.battery_limit_a)]
    for pack in packs(case.bike):
        drawing = drawing_on(whole, pack)
        if part.id not in {other.id for other in drawing}:
            continue
        if len(drawing) > 1:
            share = f", shared by {len(drawing)} controllers"
        else:
            share = ""
        bms, fuse = pack.spec.bms_continuous_a, fuse_long_a(pack.spec.fuse_a)
        limits.append((f"the BMS of the {pack.name}{share}", bms / len(drawing)))
        if fuse:
            limits.append((f"80 % of the fuse of the {pack.name}{share}", fuse / len(drawing)))
    who, value = min(limits, key=lambda item: item[1])
    others = ", ".join(f"{name} {amp:g} A" for name, amp in limits)
    return Want(value, f"{who[0].upper()}{who[1:]} is the lowest of: {others}")


def phase_limit(case: Case) -> Want | None:
    """No more than controller, motor's maker and winding stand."""
    part = case.part
    if not isinstance(part.spec, ControllerSpec):
        return None
    limits = [("the controller's rating", part.spec.phase_limit_a)]
    motor = own_motor(case)
    if motor is not None:
        if motor.spec.phase_limit_a:
            limits.append((f"what the maker of the {motor.name} allows", motor.spec.phase_limit_a))
        else:
            stands = winding_minute_a(motor.spec.rated_w, motor.spec.phase_ohm)
            limits.append((f"the winding of the {motor.name} for a minute, about", round(stands)))
    who, value = min(limits, key=lambda item: item[1])
    others = ", ".join(f"{name} {amp:g} A" for name, amp in limits)
    return Want(value, f"{who[0].upper()}{who[1:]} is the lowest of: {others}")


def ramp(case: Case) -> Want | None:
    """How softly it takes hold, 1 soft to 5 hard."""
    loaded = case.bike.info.load_mass_kg >= 120
    return Want(
        2.0 if loaded else 3.0,
        "Soft: heavily loaded, gears and axle last" if loaded else "Middling",
    )


def regen(case: Case) -> Want | None:
    """Braking into the pack: only where it can and may."""
    if combiners(case.bike):
        return Want(0.0, "Off: the combining module lets no charge go back")
    geared = [motor.name for motor in motors(case.bike) if motor.spec.geared()]
    if geared:
        return Want(0.0, f"Off: the {geared[0]} has a one-way clutch")
    return Want(
        0.0,
        (
            "Off to begin with: never on a full pack or below 0 °C; raise it once brakes and "
            "pack are proven"
        ),
    )


def roll_back(case: Case) -> Want | None:
    """Where power is taken back."""
    return Want(ROLL_BACK_C, "Magnets, glue and gears last; 90 to 100 °C is usual")


def stop(case: Case) -> Want | None:
    """Where it stops."""
    return Want(STOP_C, "Above it winding and magnets are harmed; 120 to 130 °C is usual")


def beta(case: Case) -> Want | None:
    """β of the motor's thermistor."""
    for motor in motors(case.bike):
        found = case.measured(motor.id, "beta_k")
        if found:
            return Want(found.value, f"Measured {found.on}: {found.words}")
    if motors(case.bike):
        return Want(3950.0, "Usual 10 kΩ thermistor; measure two points in Set")
    return None


def speed_modes(case: Case) -> Want | None:
    """Share of the current that a mode of the three-way switch allows."""
    return Want(100.0, "The highest mode gives all; the others are the rider's choice")


def two_alike(case: Case) -> Want | None:
    """Whether this controller answers to the display, where two share one."""
    own = [c.id for c in controllers(case.bike)]
    if case.part.id not in own:
        return None
    return Want(float(own.index(case.part.id) == 0), "The first controller answers to the display")


REGEN = ((0.0, "off"), (1.0, "weak"), (2.0, "middling"), (3.0, "strong"))

ROLES = (
    Role("current_limit_a", "Battery current limit", "A", battery_limit),
    Role("phase_limit_a", "Phase current limit", "A", phase_limit),
    Role("ramp", "Slow start", "", ramp),
    Role("regen", "Regenerative braking", "", regen, REGEN),
    Role("roll_back_c", "Power taken back from", "°C", roll_back),
    Role("stop_c", "Stops at", "°C", stop),
    Role("ntc_beta_k", "Thermistor β", "K", beta),
    Role("mode_share", "Highest speed mode", "%", speed_modes),
    Role("answers_display", "Answers to the display", "", two_alike, ((0.0, "no"), (1.0, "yes"))),
)
