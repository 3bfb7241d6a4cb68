"""The pattern *Factory hub*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    hub_drive,
)
from brightcore.kinds.blocks import port


def factory_hub() -> Bike:
    """A factory hub bike: one front cable splits to display and levers; pedal sensor, lamp, no
    throttle."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=10,
        capacity_ah=13.0,
        bms_continuous_a=20.0,
        bms_peak_a=40.0,
        fuse_a=30.0,
    )
    pins = {
        "display": ("vp", "key", "gnd", "rx", "tx"),
        "brake_left": ("bl", "gnd"),
        "brake_right": ("br", "gnd"),
    }
    five = (
        ("vp", "battery_out", "pack +"),
        ("key", "key", "key line"),
        ("gnd", "signal_ground", "ground"),
        ("rx", "serial_tx", "to display"),
        ("tx", "serial_rx", "from display"),
        ("bl", "brake_signal", "left brake"),
        ("br", "brake_signal", "right brake"),
    )
    front = port(
        "front",
        "Front",
        *(f"{n}:{role}:{label}" for n, role, label in five),
        family="front-8",
        required=True,
    )
    b.controller(
        "controller",
        "Controller",
        ("throttle", "brake_left", "brake_right", "display"),
        (front,),
        rated_v=36.0,
        max_v=50.0,
        battery_limit_a=15.0,
        phase_limit_a=35.0,
        low_cutoff_v=31.0,
        accessory_v=6.0,
    )
    ends = (
        port("trunk", "Front harness", *(f"{n}:wire" for n, _, _ in five), family="front-8"),
        *(
            port(
                f"to_{end}",
                f"{end.replace('_', ' ').capitalize()} branch",
                *(f"{n}:wire" for n in names),
            )
            for end, names in pins.items()
        ),
    )
    b.add("harness", "cable", "Front harness", ends, length_m=1.4)
    b.join("controller.front", "harness.trunk")
    b.join("pack.main", "controller.battery", Wire(2.5, 0.7))
    hub_drive(b, rated_w=250.0, rpm_per_v=7.2, phase_ohm=0.22)
    b.hang("harness.to_display", "display", "display", "Display", lit_from_v=15.0)
    for side, pin in (("left", "bl"), ("right", "br")):
        b.add(f"lever_{side}", "brake_lever", f"{side.capitalize()} brake lever")
        b.mate(
            "harness",
            f"to_brake_{side}",
            f"lever_{side}",
            "plug",
            ((pin, "signal"), ("gnd", "ground")),
        )
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    b.hang("controller.lamp", "lamp", "lamp", "Front lamp", rated_v=6.0)
    return b.bike(
        BikeInfo("Factory hub bike", "City bike with one front cable", 47.0, 622.0, 25.0, 80.0)
    )
