"""The pattern *Folding*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FIVE,
    bars,
)
from brightcore.kinds.blocks import port


def folding() -> Bike:
    """A folding bike with a small front hub, wires that pass the fold, magnetic cut-offs."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=10,
        parallel_count=3,
        capacity_ah=10.0,
        bms_continuous_a=20.0,
        bms_peak_a=40.0,
        fuse_a=25.0,
    )
    rows = []
    for side in ("left", "right"):
        rows.append(
            port(
                f"brake_{side}",
                f"{side.capitalize()} cut-off",
                *FIVE,
                "signal:brake_signal:brake signal",
            )
        )
    cut_offs = tuple(rows)
    b.controller(
        "controller",
        "Controller",
        ("brake_left", "brake_right", "lamp", "throttle"),
        cut_offs,
        rated_v=36.0,
        max_v=50.0,
        battery_limit_a=14.0,
        phase_limit_a=30.0,
        low_cutoff_v=31.0,
    )
    b.join("pack.main", "controller.battery", Wire(2.5, 0.6))
    motor = (
        ("phases", ("u", "v", "w"), 2.0),
        ("halls", ("supply", "ground", "a", "b", "c", "temperature", "speed"), 0.2),
    )
    _hub = b.add(
        "motor", "hub_motor", "Front hub motor", rated_w=250.0, rpm_per_v=10.5, phase_ohm=0.25
    )
    for plug, pins, area in motor:
        b.lead(f"fold_{plug}", f"Fold cable, {plug}", ("frame", "fork"), area, 1.7, pins)
        b.join(f"controller.{plug}", f"fold_{plug}.frame")
        b.join(f"fold_{plug}.fork", f"{_hub.id}.{plug}")
    bars(b, throttle=False, levers="magnetic_cut_off")
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    return b.bike(
        BikeInfo(
            "Folding bike",
            "Small wheels, cables through the fold",
            47.0,
            406.0,
            18.0,
            80.0,
            driven_wheel="front",
        ),
        "folding",
    )
