"""The pattern *Hand cycle*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    hub_drive,
)
from brightcore.kinds.blocks import port


def hand_cycle() -> Bike:
    """A clip-on hand-cycle drive: direct-drive front hub, keyed throttle, no display."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=10,
        capacity_ah=12.0,
        bms_continuous_a=25.0,
        bms_peak_a=50.0,
        fuse_a=30.0,
    )
    b.controller(
        "controller",
        "Controller",
        ("display", "pedal", "lamp", "brake_right"),
        (port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True),),
        rated_v=36.0,
        max_v=50.0,
        battery_limit_a=18.0,
        phase_limit_a=40.0,
        low_cutoff_v=31.0,
    )
    b.join("pack.main", "controller.battery", Wire(2.5, 0.5))
    hub_drive(
        b,
        name="Front hub motor",
        gear_ratio=1.0,
        magnet_count=46,
        rpm_per_v=9.0,
        phase_ohm=0.2,
        rated_w=350.0,
    )
    ends = (
        port(
            "throttle_end",
            "Throttle adapter",
            "supply:wire",
            "ground:wire",
            "signal:wire",
            "key_in:wire",
            "key_out:wire",
        ),
        port(
            "controller_end",
            "Controller throttle branch",
            "supply:wire",
            "ground:wire",
            "signal:wire",
        ),
        port("key_end", "Key branch", "vp:wire", "key:wire"),
    )
    wires = (
        ("controller_end.supply", "throttle_end.supply"),
        ("controller_end.ground", "throttle_end.ground"),
        ("controller_end.signal", "throttle_end.signal"),
        ("key_end.vp", "throttle_end.key_in"),
        ("key_end.key", "throttle_end.key_out"),
    )
    b.add("adapter", "cable", "Throttle and key adapter", ends, length_m=0.7, conductors=wires)
    b.join("controller.throttle", "adapter.controller_end")
    b.join("controller.key", "adapter.key_end")
    b.hang("adapter.throttle_end", "throttle", "throttle", "Keyed twist throttle", keyed=True)
    b.hang("controller.brake_left", "lever", "brake_lever", "Brake lever")
    return b.bike(
        BikeInfo(
            "Hand-cycle clip-on",
            "Clip-on drive for a wheelchair",
            50.0,
            406.0,
            16.0,
            95.0,
            driven_wheel="front",
            pedals="hand",
        ),
        "clip-on",
    )
