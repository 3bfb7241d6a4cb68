"""The pattern *Mid conversion*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    GEAR_PORT,
    SPEED_PORT,
    TORQUE_PORT,
    bars,
    drive,
)
from brightcore.kinds import REGISTRY


def mid_conversion() -> Bike:
    """A pedal bike with a mid-drive kit: motor at the cranks, speed sensor, gear-shift sensor,
    thumb throttle."""
    b = Builder()
    b.add("pack", "pack", "Pack", fuse_a=30.0)
    halls = REGISTRY["controller"].ports(REGISTRY["controller"].spec_type())[2]
    halls = replace(halls, pins=tuple(p for p in halls.pins if p.role != "wheel_speed"))
    b.controller(
        "controller",
        "Controller in the motor",
        ("pedal", "halls", "lamp"),
        (halls, TORQUE_PORT, SPEED_PORT, GEAR_PORT),
        battery_limit_a=22.0,
        phase_limit_a=55.0,
    )
    b.join("pack.main", "controller.battery", Wire(2.5, 0.9))
    b.add("motor", "mid_motor", "Mid motor")
    drive(b)
    bars(b)
    for part_id, kind, name, plug in (
        ("torque", "torque_sensor", "Torque sensor", "torque"),
        ("speed", "speed_sensor", "Speed sensor", "speed"),
        ("gear", "gear_sensor", "Gear-shift sensor", "gear"),
    ):
        b.add(part_id, kind, name)
        b.join(f"controller.{plug}", f"{part_id}.plug")
    return b.bike(
        BikeInfo("Mid-drive conversion", "Pedal bike with a mid-drive kit", 50.0, 584.0, 22.0, 85.0)
    )
