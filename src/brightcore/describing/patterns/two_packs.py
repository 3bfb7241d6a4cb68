"""The pattern *Two packs*."""

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    bars,
    hub_drive,
)


def two_packs() -> Bike:
    """A hub conversion with two packs through a combining module, and a tracker on the display
    cable."""
    b = Builder()
    for side, amp_hours in (("front", 14.0), ("rear", 10.0)):
        b.add(f"pack_{side}", "pack", f"{side.capitalize()} pack", capacity_ah=amp_hours)
    b.add("combiner", "combiner", "Combining module")
    b.join("pack_front.main", "combiner.pack_a", Wire(4.0, 0.6))
    b.join("pack_rear.main", "combiner.pack_b", Wire(4.0, 0.9))
    b.controller("controller", "Controller", battery_limit_a=22.0)
    b.join("combiner.out", "controller.battery", Wire(4.0, 0.8))
    hub_drive(b, phase_ohm=0.14)
    bars(b)
    b.joins = [j for j in b.joins if {j.a_part, j.b_part} != {"controller", "display"}]
    b.add("tracker", "tracker", "Tracker module")
    b.join("controller.display", "tracker.controller_side")
    b.join("tracker.display_side", "display.plug")
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    b.hang("controller.lamp", "lamp", "lamp", "Front lamp")
    return b.bike(
        BikeInfo("Two packs", "Tandem or longtail with two packs", 50.0, 622.0, 38.0, 160.0),
        "longtail",
    )
