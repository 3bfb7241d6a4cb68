"""What breaks in a motor, as rows. How common each is: common practice."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, cast

from brightcore.bike.model import Part
from brightcore.circuit.faults import FaultMode
from brightcore.kinds.fault_rows import (
    FaultRow,
    RepairRow,
    becomes,
    modes_of,
    opens,
)

if TYPE_CHECKING:
    from brightcore.kinds.motor import MotorSpec

TOUCH_OHM = 1.0
"""A phase that touches a hall wire inside the cable."""

TURN_OHM, STUCK_OHM, HALL_SHORT_OHM, NTC_SHORT_OHM = 0.04, 60.0, 8.0, 20.0
"""Shorted turns, a hall output welded to ground, a shorted hall supply, a shorted thermistor."""

NEW = RepairRow(
    "Open and repair, or replace, the {part}",
    90,
    "Heat from slow climbing, or water through the axle: find which",
    3,
)
GEAR = RepairRow(
    "Replace gears or clutch of the {part}",
    60,
    "Heat or a hard start stripped them: lower the phase current",
    2,
    "gear",
)
SENSORS = RepairRow(
    "Replace the hall sensors of the {part}, or run sensorless",
    75,
    "Heat, water, or pack volts on a hall pin",
    1,
    "halls",
)
CHAFED = RepairRow(
    "Repair the cable of the {part} where it leaves the axle, then read the controller's halls",
    45,
    "A spun or loose axle cut it: nuts, washers and torque arm",
    1,
    "axle",
)
THERMISTOR = RepairRow(
    "Replace the thermistor of the {part}, or fit a plain 10 kΩ for the test",
    60,
    "Glue joint broken or lead chafed",
    1,
    "thermistor",
)


def _touches(phase: str, hall: str) -> FaultRow:
    words = f"phase {phase[-1].upper()} touches hall {hall[-1].upper()} inside the cable"
    return FaultRow(
        f"phases.{phase[-1]}",
        f"touches-{hall}",
        words,
        0.25,
        CHAFED,
        becomes(f"{phase}_touch", TOUCH_OHM),
        ("chafed",),
        seen_by_eye=0.4,
        loose=0.3,
    )


def _winding_open(phase: str) -> FaultRow:
    words = f"phase {phase[-1].upper()} winding open"
    return FaultRow(f"phases.{phase[-1]}", "open", words, 0.5, NEW, opens(f"{phase}_winding"))


def _of_hall(hall: str) -> tuple[FaultRow, ...]:
    letter = hall[-1]
    place, words = f"halls.{letter}", f"hall sensor {letter.upper()}"
    return (
        FaultRow(place, "dead", f"{words} never goes low", 1.5, SENSORS, opens(f"{hall}_out")),
        FaultRow(
            place,
            "stuck",
            f"{words} stuck on ground",
            1.0,
            SENSORS,
            becomes(f"{hall}_out", STUCK_OHM),
        ),
    )


def _rows(phases: tuple[str, ...], halls: tuple[str, ...]) -> Iterator[FaultRow]:
    yield FaultRow(
        "inside.winding",
        "shorted",
        "shorted turns",
        1.0,
        NEW,
        becomes("turn_short", TURN_OHM),
        ("drags",),
        signs=(("smelt", 0.5), ("heard", 0.2)),
    )
    yield FaultRow(
        "inside.magnets",
        "weak",
        "magnets weakened by heat",
        0.3,
        NEW,
        traits=("weak_field",),
        signs=(("smelt", 0.3), ("hot", 0.6), ("fast", 0.9)),
    )
    for phase, hall in zip(phases, halls, strict=True):
        yield _touches(phase, hall)
    yield FaultRow(
        "inside.winding",
        "to-axle",
        "a phase touches the axle",
        0.25,
        CHAFED,
        seen_by_eye=0.3,
        signs=(("axle", 0.95),),
    )
    for phase in phases:
        yield _winding_open(phase)
    for hall in halls:
        yield from _of_hall(hall)
    yield FaultRow(
        "halls.supply",
        "short",
        "shorts the 5 V supply",
        0.5,
        SENSORS,
        becomes("hall_load", HALL_SHORT_OHM),
    )
    yield FaultRow(
        "halls.supply",
        "open-inside",
        "hall supply or ground broken inside",
        0.8,
        SENSORS,
        opens("hall_load", *(f"{hall}_out" for hall in halls)),
        loose=0.3,
    )
    yield from GEARS
    yield from THERMISTORS
    yield SPEED


def _spec(part: Part) -> "MotorSpec":
    return cast("MotorSpec", part.spec)


def _is_geared(part: Part) -> bool:
    return _spec(part).geared()


def _has_thermistor(part: Part) -> bool:
    return part.has_role("ntc") and bool(_spec(part).thermistor)


def _has_speed_sensor(part: Part) -> bool:
    return part.has_role("wheel_speed") and bool(_spec(part).speed_sensor)


GEARS = (
    FaultRow(
        "inside.gear",
        "seized",
        "clutch seized, turns the motor along",
        0.5,
        GEAR,
        traits=("drags",),
        signs=(("heard", 0.4),),
        where=_is_geared,
    ),
    FaultRow(
        "inside.gear",
        "worn",
        "gears or bearings worn, noisy",
        1.0,
        GEAR,
        signs=(("heard", 0.9),),
        where=_is_geared,
    ),
    FaultRow(
        "inside.gear",
        "stripped",
        "gear or clutch slips",
        2.0,
        GEAR,
        traits=("stripped",),
        signs=(("heard", 0.8),),
        where=_is_geared,
    ),
)
THERMISTORS = (
    FaultRow(
        "halls.temperature",
        "open",
        "thermistor open",
        1.0,
        THERMISTOR,
        opens("thermistor"),
        where=_has_thermistor,
    ),
    FaultRow(
        "halls.temperature",
        "short",
        "thermistor shorted",
        0.5,
        THERMISTOR,
        becomes("thermistor", NTC_SHORT_OHM),
        where=_has_thermistor,
    ),
)
SPEED = FaultRow(
    "halls.speed",
    "dead",
    "no wheel-speed pulses",
    1.0,
    SENSORS,
    opens("speed_out"),
    where=_has_speed_sensor,
)


def motor_faults(
    part: Part, phases: tuple[str, ...], halls: tuple[str, ...]
) -> tuple[FaultMode, ...]:
    """Return every fault that a motor can have."""
    return modes_of(part, _rows(phases, halls))
