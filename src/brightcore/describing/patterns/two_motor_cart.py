"""The pattern *Two motor cart*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Port
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FIVE,
    hub_drive,
    pack_for_two,
)
from brightcore.kinds.blocks import port


def two_motor_cart() -> Bike:
    """A cart with two hub motors and two controllers on one pack; one twist throttle drives
    both."""
    b = Builder()
    pack_for_two(b)
    b.lead("splitter", "Battery splitter", ("pack_end", "left_end", "right_end"), 6.0, 0.6)
    b.join("pack.main", "splitter.pack_end")
    shared = ("supply", "ground", "signal")
    ends = (
        port("grip", "Throttle branch", "supply:wire", "ground:wire", "signal:wire"),
        port("left", "Left controller branch", *(f"{p}:wire" for p in shared)),
        port("right", "Right controller branch", "ground:wire", "signal:wire"),
    )
    for side in ("left", "right"):
        if side == "left":
            drop = ("brake_left", "brake_right", "pedal", "lamp", "display")
        else:
            drop = ("brake_right", "pedal", "lamp", "display", "throttle")
        key = port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True)
        lone = port(
            "throttle",
            "Throttle",
            "ground:signal_ground:ground",
            "signal:throttle_signal:throttle signal",
        )
        brake = port("brake", "Cut-offs", *FIVE, "signal:brake_signal:brake signal")
        if side == "left":
            extra: tuple[Port, ...] = (key, brake)
        else:
            extra = (key, lone, replace(brake, pins=brake.pins[1:]))
        b.controller(
            f"controller_{side}",
            f"{side.capitalize()} controller",
            tuple(set(drop) | {"brake_left", "brake_right"}),
            extra,
            battery_limit_a=20.0,
        )
        b.join(f"splitter.{side}_end", f"controller_{side}.battery")
        hub_drive(b, f"controller_{side}", f"motor_{side}", f"{side.capitalize()} motor")
        b.lead(
            f"cap_{side}",
            f"{side.capitalize()} bridging cap",
            ("plug",),
            0.3,
            0.05,
            ("vp", "key"),
            (("plug.vp", "plug.key"),),
        )
        b.join(f"controller_{side}.key", f"cap_{side}.plug")
    _brake_splitter(b)
    b.add("split", "cable", "Throttle splitter", ends, length_m=1.2)
    b.hang("split.grip", "throttle", "throttle", "Twist throttle")
    b.join("split.left", "controller_left.throttle")
    b.join("split.right", "controller_right.throttle")
    return b.bike(
        BikeInfo(
            "Two-motor cart",
            "Walk-behind barrow, one motor a side",
            50.0,
            406.0,
            45.0,
            150.0,
            driven_wheel="both",
            pedals="no",
        ),
        "cart",
    )


def _brake_splitter(b: Builder) -> None:
    """Bring both cut-offs to both controllers: signals and grounds tied, 5 V of the left one
    only."""
    three = tuple(f"{p}:wire" for p in ("supply", "ground", "signal"))
    ends = (
        port("left", "Left controller brake branch", *three),
        port("right", "Right controller brake branch", *three[1:]),
        *(
            port(f"cut_{side}", f"{side.capitalize()} cut-off branch", *three)
            for side in ("left", "right")
        ),
    )
    b.add("brake_split", "cable", "Brake splitter", ends, length_m=1.2)
    for side in ("left", "right"):
        b.join(f"controller_{side}.brake", f"brake_split.{side}")
        b.hang(
            f"brake_split.cut_{side}",
            f"cut_off_{side}",
            "magnetic_cut_off",
            f"{side.capitalize()} cut-off",
        )
