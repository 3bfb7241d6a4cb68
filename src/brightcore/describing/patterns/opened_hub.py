"""The pattern *Opened hub*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    bars,
)


def opened_hub() -> Bike:
    """A factory hub whose own controller was taken out: phases and halls led out to one outside."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=10,
        capacity_ah=13.0,
        bms_continuous_a=25.0,
        fuse_a=30.0,
    )
    b.controller(
        "controller", "Outside controller", ("lamp",), rated_v=36.0, max_v=50.0, low_cutoff_v=31.0,
        battery_limit_a=15.0, phase_limit_a=35.0,
    )  # fmt: skip
    b.join("pack.main", "controller.battery", Wire(2.5, 0.9))
    b.add(
        "motor",
        "hub_motor",
        "Opened hub motor",
        rated_w=350.0,
        phase_ohm=0.18,
        axle_bore_mm=14.0,
        cable_jacket_mm=8.0,
    )
    b.join("controller.phases", "motor.phases", Wire(1.5, 0.9))
    b.join("controller.halls", "motor.halls")
    bars(b, lit_from_v=12.0, max_v=45.0)
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    return b.bike(
        BikeInfo("Opened hub", "Factory hub, outside controller", 47.0, 622.0, 23.0, 85.0)
    )
