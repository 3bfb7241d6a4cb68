"""What is known of a controller."""

from dataclasses import dataclass

from brightcore.bike.model import Spec
from brightcore.kinds.base import spec_value, torque_value

REGEN = (("", "not known"), ("on", "on"), ("off", "off"))
"""Whether a controller is set to brake into the pack."""

LOAD = "load"
"""The element of a controller that stands for what its bridge draws."""


@dataclass(frozen=True, slots=True)
class ControllerSpec(Spec):
    """Ratings, thresholds and what the controller insists on."""

    rated_v: float = spec_value(48.0, 12.0, 120.0, "nominal volts")
    max_v: float = spec_value(60.0, 12.0, 150.0, "highest supply it stands")
    battery_limit_a: float = spec_value(20.0, 1.0, 300.0, "battery-side current limit")
    phase_limit_a: float = spec_value(45.0, 1.0, 800.0, "phase-side current limit")
    low_cutoff_v: float = spec_value(41.0, 5.0, 120.0, "low-voltage cut-off under load")
    key_on_v: float = spec_value(15.0, 3.0, 100.0, "key line volts from which it wakes")
    supply_limit_a: float = spec_value(0.15, 0.02, 2.0, "current limit of the 5 V supply")
    throttle_start_v: float = spec_value(
        1.15, 0.0, 5.5, "throttle volts from which it drives", usual=(0.8, 1.6)
    )
    throttle_full_v: float = spec_value(
        3.6, 0.0, 5.5, "throttle volts for full drive", usual=(2.5, 4.4)
    )
    throttle_error_v: float = spec_value(4.6, 2.0, 5.5, "throttle volts it refuses")
    brake_below_v: float = spec_value(
        1.3, 0.05, 5.0, "a brake input below this cuts the motor", usual=(0.5, 3.0)
    )
    hall_below_v: float = spec_value(1.6, 0.3, 3.0, "a hall input below this is low")
    accessory_v: float = spec_value(12.0, 3.0, 90.0, "volts of the lamp output")
    accessory_a: float = spec_value(1.0, 0.1, 10.0, "current limit of the lamp output")
    sensorless: bool = spec_value(False, doc="runs without halls")
    regen: str = spec_value(
        "",
        doc="whether it brakes into the pack",
        choices=REGEN,
        later=True,
        label="regenerative braking",
    )
    needs_serial: bool = spec_value(False, doc="needs a display data link")
    lug_nm: float = torque_value("lug screws of pack and phases")
    cover_nm: float = torque_value("screws of its cover")
