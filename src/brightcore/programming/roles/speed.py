"""Roles of speed: wheel, magnets, units, limit, walk."""

from brightcore.bike.measured import ROLLED, circumference_mm, measured_value
from brightcore.bike.model import Bike
from brightcore.kinds.select import motors
from brightcore.kinds.sensors import ReedSpec, SpeedSpec
from brightcore.programming.case import Case, Role, Want

WALK_KMH = 6.0
"""Walking pace, at which walk assist ends (EN 15194, from memory)."""


def wheel_reason(bike: Bike) -> tuple[float, str]:
    """Return (circumference in mm, its reason)."""
    width, seat = bike.info.tyre_width_mm, bike.info.bead_seat_mm
    rolled = measured_value(bike, "", ROLLED)
    if rolled:
        return float(round(circumference_mm(bike))), f"Measured {rolled.on}: {rolled.words}"
    return float(round(circumference_mm(bike))), (
        f"Tyre {width:.0f}-{seat:.0f}: π × ({seat:.0f} + 2 × {width:.0f}) mm, unloaded; "
        "measure the roll-out for the last percent"
    )


def wheel(case: Case) -> Want | None:
    """Wheel circumference for whatever counts the speed."""
    value, reason = wheel_reason(case.bike)
    return Want(value, reason, "iso-5775")


def magnets(case: Case) -> Want | None:
    """Pulses in a turn of the wheel, from the sensor that gives them."""
    for part in case.bike.parts:
        if isinstance(part.spec, SpeedSpec | ReedSpec):
            count = part.spec.magnet_count
            return Want(
                count, f"{part.name}: {count} magnet{'s' if count > 1 else ''} on the spokes"
            )
    for motor in motors(case.bike):
        if motor.spec.speed_sensor:
            return Want(
                motor.spec.speed_magnets,
                f"{motor.name} gives {motor.spec.speed_magnets} pulses a turn",
            )
    return None


def units(case: Case) -> Want | None:
    """Kilometres or miles, as the shop works."""
    return Want(1.0 if case.aim.miles else 0.0, "As this shop works; the rider may want the other")


def limit(case: Case) -> Want | None:
    """Speed at which help ends."""
    if case.aim.limit_kmh <= 0:
        return None
    return Want(case.aim.limit_kmh, case.aim.limit_why)


def walk(case: Case) -> Want | None:
    """Walk assist, on."""
    return Want(1.0, f"Up to {WALK_KMH:g} km/h, while its button is held")


def walk_speed(case: Case) -> Want | None:
    """Where walk assist ends."""
    return Want(WALK_KMH, "Walking pace")


ON_OFF = ((0.0, "off"), (1.0, "on"))

ROLES = (
    Role("wheel_circumference_mm", "Wheel circumference", "mm", wheel),
    Role("speed_magnets", "Speed magnets", "", magnets),
    Role("units", "Units", "", units, ((0.0, "km"), (1.0, "mi"))),
    Role("speed_limit_kmh", "Speed limit", "km/h", limit),
    Role("walk_assist", "Walk assist", "", walk, ON_OFF),
    Role("walk_speed_kmh", "Walk speed", "km/h", walk_speed),
)
