"""The pattern *Soft packs*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    KEY_PORT,
    drive,
    wires,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port


def soft_packs() -> Bike:
    """A front hub on two soft pouch packs in series, an alarm on each, a fuse in the lead, no
    display."""
    b = Builder()
    for side in ("upper", "lower"):
        main = REGISTRY["pack"].ports(REGISTRY["pack"].spec_type())
        balance = port("balance", "Balance lead", "cells:balance:balance lead", family="balance")
        b.add(
            f"pack_{side}",
            "pack",
            f"{side.capitalize()} soft pack",
            (*main, balance),
            series_count=6,
            parallel_count=1,
            chemistry="pouch",
            capacity_ah=16.0,
            bms_continuous_a=60.0,
            bms_peak_a=120.0,
            fuse_a=0.0,
            internal_ohm=0.018,
            cell_v=3.85,
        )
        b.hang(
            f"pack_{side}.balance",
            f"alarm_{side}",
            "cell_alarm",
            f"{side.capitalize()} low-cell alarm",
        )
    two = ("plus", "minus")
    rows = []
    for end in ("upper", "lower", "out"):
        rows.append(wires(end, f"Series lead {end}", *two, family="power-2"))
    ends = tuple(rows)
    pairs = (
        ("upper.plus", "out.plus"),
        ("upper.minus", "lower.plus"),
        ("lower.minus", "out.minus"),
    )
    b.add("series", "cable", "Series lead", ends, area_mm2=4.0, length_m=0.4, conductors=pairs)
    for side in ("upper", "lower"):
        b.join(f"pack_{side}.main", f"series.{side}")
    b.add("fuse", "fuse_holder", "Main fuse", fuse_a=30.0, fuse_v=80.0)
    b.join("series.out", "fuse.one")
    drop = ("display", "pedal", "lamp", "brake_right")
    b.controller("controller", "Controller", drop, (KEY_PORT,), low_cutoff_v=40.0)
    b.join("fuse.two", "controller.battery")
    b.hang("controller.key", "key", "key_switch", "On-off switch")
    b.add("motor", "hub_motor", "Front hub motor")
    drive(b)
    b.hang("controller.throttle", "throttle", "throttle", "Thumb throttle")
    b.hang("controller.brake_left", "lever", "brake_lever", "Brake lever")
    info = BikeInfo(
        "Soft packs in series", "Front hub, soft packs in a bag", 40.0, 622.0, 20.0, 85.0
    )
    return b.bike(replace(info, driven_wheel="front", pedals="yes"))
