"""The pattern *Hub conversion*."""

from brightcore.bike.model import Bike, BikeInfo
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    bars,
    hub_drive,
)


def hub_conversion() -> Bike:
    """A pedal bike with a rear hub kit: pack, controller, display, throttle, two levers, pedal
    sensor, lamp."""
    b = Builder()
    b.add("pack", "pack", "Pack")
    b.lead("main_lead", "Main lead", ("pack_end", "controller_end"), 4.0, 0.8)
    b.controller("controller", "Controller")
    b.join("pack.main", "main_lead.pack_end")
    b.join("main_lead.controller_end", "controller.battery")
    hub_drive(b)
    bars(b)
    b.hang("controller.pedal", "cranks", "pedal_sensor", "Pedal sensor")
    b.hang("controller.lamp", "lamp", "lamp", "Front lamp")
    return b.bike(
        BikeInfo("Hub conversion", "Pedal bike with a rear hub kit", 47.0, 622.0, 24.0, 85.0)
    )
