"""Roles of what the rider moves: throttle, brake cut-offs, torque sensor, shifting, lights,
timers."""

from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.lamp import LampSpec
from brightcore.kinds.levers import CutOffSpec, LeverSpec
from brightcore.kinds.select import controllers
from brightcore.kinds.sensors import TorqueSpec
from brightcore.kinds.throttle import ThrottleSpec
from brightcore.programming.case import Case, Role, Want, stays

ABOVE_REST_V, BELOW_FULL_V = 0.15, 0.1
"""The controller starts this much above rest, and gives all this much before full (common
practice)."""

CUT_OFF_KINDS = ((0.0, "none"), (1.0, "switch, closes"), (2.0, "switch, opens"), (3.0, "magnetic"))
SHIFT_PAUSE_MS, FILTER_MS, OFF_MIN = 250.0, 80.0, 10.0


def throttle_start(case: Case) -> Want | None:
    """Volts from which it drives."""
    for part in case.bike.having(ThrottleSpec)[:1]:
        rest = part.spec.rest_ratio * part.spec.supply_v
        found = case.measured(part.id, "rest_ratio")
        origin = f"measured {found.on}" if found else "described"
        return Want(
            round(rest + ABOVE_REST_V, 2), f"{rest:.2f} V at rest, {origin}, and {ABOVE_REST_V:g} V"
        )
    return None


def throttle_end(case: Case) -> Want | None:
    """Volts at which it gives all."""
    for part in case.bike.having(ThrottleSpec)[:1]:
        full = part.spec.full_ratio * part.spec.supply_v
        found = case.measured(part.id, "full_ratio")
        origin = f"measured {found.on}" if found else "described"
        return Want(
            round(full - BELOW_FULL_V, 2), f"{full:.2f} V pulled, {origin}, less {BELOW_FULL_V:g} V"
        )
    return None


def throttle_mode(case: Case) -> Want | None:
    """What the grip asks for."""
    if case.bike.having(ThrottleSpec):
        return Want(1.0, "Torque: as hard as the grip is turned, at any speed")
    return None


def throttle_limit(case: Case) -> Want | None:
    """Share of the speed limit that the throttle alone may reach."""
    if case.aim.throttle == "none":
        return Want(0.0, "No throttle where it is ridden; local law decides")
    if case.aim.throttle == "walk" and case.aim.limit_kmh:
        return Want(
            round(600 / case.aim.limit_kmh),
            "To walking pace only where it is ridden; local law decides",
        )
    return Want(100.0, "All of the limit")


def cut_off_kind(case: Case) -> Want | None:
    """What the levers are."""
    for part in case.bike.parts:
        if isinstance(part.spec, CutOffSpec):
            return Want(3.0, f"{part.name} is magnetic: it pulls its wire to ground")
        if isinstance(part.spec, LeverSpec):
            return Want(2.0 if part.spec.normally_closed else 1.0, f"{part.name} has a switch")
    return Want(0.0, "No cut-off is fitted: required unless waived with a reason")


def cut_off_level(case: Case) -> Want | None:
    """Volts below which it cuts."""
    for controller in controllers(case.bike)[:1]:
        return Want(
            controller.spec.brake_below_v,
            "Well between pulled (under 0.5 V) and released (over 3.3 V)",
        )
    return None


def torque_zero(case: Case) -> Want | None:
    """Volts with feet off."""
    for part in case.bike.having(TorqueSpec)[:1]:
        found = case.measured(part.id, "zero_v")
        if found:
            value = found.value
        else:
            value = part.spec.rest_ratio * part.spec.supply_v
        return Want(
            round(value, 2), f"Measured {found.on}" if found else "As described; measure it in Set"
        )
    return None


def torque_slope(case: Case) -> Want | None:
    """Newton metres a volt."""
    for part in case.bike.having(TorqueSpec)[:1]:
        found = case.measured(part.id, "torque_nm_per_v")
        return Want(
            part.spec.torque_nm_per_v,
            f"Measured {found.on}" if found else "As described; measure it in Set",
        )
    return None


def torque_filter(case: Case) -> Want | None:
    """How long torque is smoothed."""
    if case.bike.having(TorqueSpec):
        return Want(FILTER_MS, "Smooth, and still quick")
    return None


def shift_pause(case: Case) -> Want | None:
    """How long power pauses while shifting."""
    if case.bike.of_kind("gear_sensor"):
        return Want(SHIFT_PAUSE_MS, "A gear-shift sensor is fitted")
    return Want(0.0, "No gear-shift sensor is fitted")


def light_volts(case: Case) -> Want | None:
    """Volts of the light output."""
    for lamp in case.bike.having(LampSpec)[:1]:
        return Want(lamp.spec.rated_v, f"{lamp.name} is made for {lamp.spec.rated_v:g} V")
    spec = case.part.spec
    if isinstance(spec, ControllerSpec):
        return Want(spec.accessory_v, "As its output is described")
    return None


def off_after(case: Case) -> Want | None:
    """Minutes until it switches itself off."""
    return Want(OFF_MIN, "A forgotten bike does not empty its pack")


ROLES = (
    Role("throttle_start_v", "Throttle starts at", "V", throttle_start, digits=2),
    Role("throttle_end_v", "Throttle full at", "V", throttle_end, digits=2),
    Role(
        "throttle_mode", "Throttle asks for", "", throttle_mode, ((0.0, "speed"), (1.0, "torque"))
    ),
    Role("throttle_limit", "Throttle reaches", "%", throttle_limit),
    Role("cut_off_kind", "Brake cut-off", "", cut_off_kind, CUT_OFF_KINDS),
    Role("cut_off_level_v", "Cut-off below", "V", cut_off_level, digits=2),
    Role("torque_zero_v", "Torque zero", "V", torque_zero, digits=2),
    Role("torque_nm_per_v", "Torque slope", "N·m/V", torque_slope, digits=1),
    Role("torque_filter_ms", "Torque smoothing", "ms", torque_filter),
    Role("shift_pause_ms", "Pause while shifting", "ms", shift_pause),
    Role("light_v", "Light output", "V", light_volts, digits=1),
    Role("off_after_min", "Switches off after", "min", off_after),
    Role("lock_code", "Lock code", "", stays),
    Role("backlight", "Backlight", "", stays),
)
