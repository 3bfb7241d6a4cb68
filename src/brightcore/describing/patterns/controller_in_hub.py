"""The pattern *Controller in hub*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FRONT_FAMILY,
    add_cable,
    drive,
    front_plug,
    wires,
)
from brightcore.kinds import REGISTRY

INSIDE_MIN = 30.0
"""Minutes to reach a plug inside a hub: wheel out, cover off, and back (common practice)."""


def controller_in_hub() -> Bike:
    """A wheel with its controller inside the hub: pack leads and one front cable come out of the
    axle."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=10,
        capacity_ah=10.5,
        bms_continuous_a=20.0,
        bms_peak_a=40.0,
        fuse_a=20.0,
    )
    spec = {"rated_v": 36.0, "max_v": 50.0, "low_cutoff_v": 31.0}
    limits = {"battery_limit_a": 15.0, "phase_limit_a": 33.0}
    kind = REGISTRY["controller"]
    usual = {p.id: p for p in kind.ports(kind.spec_type(**spec, **limits))}
    names = ("vp", "key", "gnd", "rx", "tx", "v5", "ps", "br")
    front = front_plug("Front cable", *names)
    rows = []
    for name in ("phases", "halls"):
        rows.append(replace(usual[name], access_min=INSIDE_MIN))
    inside = tuple(rows)
    b.add(
        "controller",
        "controller",
        "Controller in the hub",
        (usual["battery"], *inside, front),
        **spec,
        **limits,
    )
    b.join("pack.main", "controller.battery", Wire(2.5, 1.1))
    b.add("motor", "hub_motor", "Hub motor", rated_w=250.0, phase_ohm=0.24, rpm_per_v=7.5)
    drive(b)
    ends = (
        wires("trunk", "Front trunk", *names, family=FRONT_FAMILY),
        wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        wires("to_cranks", "Pedal sensor branch", "v5", "gnd", "ps"),
        wires("to_brake", "Brake branch", "br", "gnd"),
    )
    add_cable(b, "harness", "Front cable", ends, 0.25, 2.2)
    b.join("controller.front", "harness.trunk")
    b.hang("harness.to_display", "display", "display", "Display", lit_from_v=12.0, max_v=45.0)
    b.hang("harness.to_cranks", "cranks", "pedal_sensor", "Pedal sensor")
    b.hang("harness.to_brake", "lever", "brake_lever", "Brake lever")
    made = b.bike(
        BikeInfo(
            "Controller in the hub", "Wheel with its controller inside", 47.0, 622.0, 20.0, 85.0
        )
    )
    return replace(made, frame=replace(made.frame, places=(("controller", "rear_axle"),)))
