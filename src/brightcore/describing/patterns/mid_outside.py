"""The pattern *Mid outside*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    GEAR_PORT,
    REED_PORT,
    TORQUE_PORT,
    bars,
    halls_without_speed,
)


def mid_outside() -> Bike:
    """A mid drive on an outside controller, with a torque sensor and a two-wire speed sensor."""
    b = Builder()
    b.add("pack", "pack", "Pack", capacity_ah=17.5, parallel_count=5, internal_ohm=0.09)
    b.controller(
        "controller",
        "Outside controller",
        ("pedal", "halls", "lamp", "throttle"),
        (halls_without_speed(), TORQUE_PORT, REED_PORT, GEAR_PORT),
        phase_limit_a=50.0,
    )
    b.join("pack.main", "controller.battery", Wire(4.0, 0.7))
    b.add("motor", "mid_motor", "Mid motor")
    b.join("controller.phases", "motor.phases", Wire(2.5, 0.5))
    b.join("controller.halls", "motor.halls")
    bars(b, throttle=False)
    b.hang("controller.torque", "torque", "torque_sensor", "Torque sensor")
    b.hang("controller.speed", "speed", "reed_sensor", "Speed sensor")
    b.hang("controller.gear", "gear", "gear_sensor", "Gear-shift sensor")
    info = BikeInfo(
        "Mid drive, outside controller",
        "Factory mid motor on an outside controller",
        50.0,
        584.0,
        23.0,
    )
    return b.bike(info)
