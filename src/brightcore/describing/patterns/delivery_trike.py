"""The pattern *Delivery trike*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FRONT_FAMILY,
    REED_PORT,
    add_cable,
    drive,
    front_plug,
    halls_without_speed,
    wires,
)


def delivery_trike() -> Bike:
    """A delivery trike: front hub, one front cable that splits three ways, reed speed sensor, front
    lamp."""
    b = Builder()
    b.add("pack", "pack", "Pack", capacity_ah=20.0, parallel_count=6, internal_ohm=0.075)
    b.lead("main_lead", "Main lead", ("pack_end", "controller_end"), 4.0, 0.8)
    b.join("pack.main", "main_lead.pack_end")
    names = ("vp", "key", "gnd", "rx", "tx", "v5", "th", "br")
    front = front_plug("Front harness", *names)
    drop = ("display", "throttle", "brake_left", "brake_right", "halls")
    extra = (halls_without_speed(), front, REED_PORT)
    b.controller("controller", "Controller", drop, extra, battery_limit_a=18.0)
    b.join("main_lead.controller_end", "controller.battery")
    ends = (
        wires("trunk", "Front trunk", *names, family=FRONT_FAMILY),
        wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        wires("to_throttle", "Throttle branch", "v5", "gnd", "th"),
        wires("to_brake", "Brake branch", "br", "gnd"),
    )
    add_cable(b, "harness", "Three-way front harness", ends, 0.25, 1.9)
    b.join("controller.front", "harness.trunk")
    b.hang("harness.to_display", "display", "display", "Display")
    b.hang("harness.to_throttle", "throttle", "throttle", "Thumb throttle")
    b.hang("harness.to_brake", "lever", "brake_lever", "Parking brake lever")
    b.add("motor", "hub_motor", "Front hub motor", rated_w=350.0, phase_ohm=0.2, speed_sensor=False)
    drive(b)
    b.hang("controller.speed", "speed", "reed_sensor", "Speed sensor")
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    b.hang("controller.lamp", "lamp", "lamp", "Front lamp")
    info = BikeInfo(
        "Delivery trike", "Three wheels, box behind, front hub motor", 57.0, 406.0, 60.0, 220.0
    )
    return b.bike(replace(info, driven_wheel="front"), "longtail")
