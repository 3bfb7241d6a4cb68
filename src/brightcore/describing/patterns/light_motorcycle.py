"""The pattern *Light motorcycle*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    KEY_PORT,
    LAMP_WIRES,
    MODE_PORT,
    add_cable,
    wires,
    with_lugs,
)
from brightcore.kinds import REGISTRY


def light_motorcycle() -> Bike:
    """A light motorcycle: key, stand switch, lug terminals, 12 V lights, horn and brake light."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=20,
        parallel_count=10,
        capacity_ah=40.0,
        bms_continuous_a=100.0,
        bms_peak_a=200.0,
        fuse_a=80.0,
        fuse_v=150.0,
        internal_ohm=0.07,
    )
    ends = (
        wires("pack_end", "Main lead pack end", "plus", "minus", family="power-2"),
        wires("lugs", "Main lead lugs", "plus", "minus", family="lug-2"),
    )
    add_cable(b, "main_lead", "Main lead", ends, 16.0, 0.6)
    b.controller(
        "controller",
        "Controller",
        ("battery", "phases", "pedal", "display"),
        (
            with_lugs("controller", "battery"),
            with_lugs("controller", "phases"),
            KEY_PORT,
            MODE_PORT,
        ),
        rated_v=72.0,
        max_v=100.0,
        battery_limit_a=50.0,
        phase_limit_a=150.0,
        low_cutoff_v=61.0,
        accessory_a=4.0,
    )
    b.join("pack.main", "main_lead.pack_end")
    b.join("main_lead.lugs", "controller.battery")
    b.hang("controller.key", "key", "key_switch", "Key", max_v=100.0)
    motor = {"rated_w": 3000.0, "gear_ratio": 1.0, "rpm_per_v": 9.0, "phase_ohm": 0.035}
    motor |= {"magnet_count": 46, "phase_limit_a": 180.0}
    usual = REGISTRY["hub_motor"].ports(REGISTRY["hub_motor"].spec_type(**motor))
    b.add(
        "motor",
        "hub_motor",
        "Hub motor",
        (with_lugs("hub_motor", "phases", **motor), *usual[1:]),
        **motor,
    )
    b.join("controller.phases", "motor.phases", Wire(16.0, 0.9))
    b.join("controller.halls", "motor.halls")
    b.hang("controller.throttle", "throttle", "throttle", "Twist throttle")
    b.hang("controller.brake_left", "lever", "brake_lever", "Brake lever")
    _stand_and_lights(b)
    b.hang("controller.mode", "mode", "mode_switch", "Mode switch")
    info = BikeInfo(
        "Light motorcycle", "Light motorcycle with key and stand switch", 90.0, 432.0, 75.0, 95.0
    )
    return b.bike(replace(info, pedals="no"), "suspension")


def _stand_and_lights(b: Builder) -> None:
    """Add the stand switch on the second brake input, and lamp, horn and rear lamp on the lamp
    output."""
    brake = ("signal", "ground")
    ends = (
        wires("supply", "Lights supply", *LAMP_WIRES),
        wires("brake", "Right brake branch", *brake),
        wires("stand", "Stand branch", *brake),
        wires("front", "Front lamp branch", *LAMP_WIRES),
        wires("horn", "Horn branch", *LAMP_WIRES),
        wires("rear", "Rear lamp branch", "plus", "minus", "signal"),
    )
    pairs = (
        *(
            (f"supply.{wire}", f"{end}.{wire}")
            for end in ("front", "horn", "rear")
            for wire in LAMP_WIRES
        ),
        *((f"brake.{wire}", f"stand.{wire}") for wire in brake),
        ("brake.signal", "rear.signal"),
    )
    b.add("lights", "cable", "Lights harness", ends, area_mm2=0.75, length_m=1.6, conductors=pairs)
    b.join("controller.lamp", "lights.supply")
    b.join("controller.brake_right", "lights.brake")
    b.hang("lights.stand", "stand", "stand_switch", "Stand switch")
    b.hang("lights.front", "lamp", "lamp", "Headlamp", power_w=15.0)
    b.hang("lights.horn", "horn", "horn", "Horn")
    b.add("rear_lamp", "brake_lamp", "Rear lamp")
    pairs_in = (("plus", "plus"), ("minus", "minus"), ("signal", "brake"))
    b.mate("lights", "rear", "rear_lamp", "plug", pairs_in)
