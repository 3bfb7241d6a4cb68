"""The pattern *Three wheeler*."""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FRONT_FAMILY,
    add_cable,
    drive,
    front_pins,
    pack_for_two,
    wires,
)
from brightcore.kinds.blocks import port


def three_wheeler() -> Bike:
    """A three-wheeler with two motors; the display takes throttle and lever and hands them on."""
    b = Builder()
    pack_for_two(b)
    b.lead("splitter", "Battery splitter", ("pack_end", "left_end", "right_end"), 6.0, 0.8)
    b.join("pack.main", "splitter.pack_end")
    trunk = (
        "vp:display_plus:pack +",
        "key:display_key:key line",
        "gnd:sensor_ground:ground",
        "rx:display_rx:receive",
        "tx:display_tx:transmit",
        "v5:wire:5 V",
        "th:wire:throttle signal",
        "br:wire:brake signal",
    )
    ports = (
        port("plug", "Display", *trunk, family=FRONT_FAMILY),
        port("throttle", "Throttle", "supply:wire:5 V", "ground:wire:ground", "signal:wire:signal"),
        port("lever", "Brake lever", "signal:wire:signal", "ground:wire:ground"),
    )
    handed = (
        ("plug.v5", "throttle.supply"),
        ("plug.gnd", "throttle.ground"),
        ("plug.th", "throttle.signal"),
        ("plug.gnd", "lever.ground"),
        ("plug.br", "lever.signal"),
    )
    b.add("display", "display", "Display with throttle plug", ports, conductors=handed)
    b.add("throttle", "throttle", "Twist throttle")
    b.mate(
        "display",
        "throttle",
        "throttle",
        "plug",
        (("supply", "supply"), ("ground", "ground"), ("signal", "signal")),
    )
    b.add("lever", "brake_lever", "Brake lever")
    b.mate("display", "lever", "lever", "plug", (("signal", "signal"), ("ground", "ground")))
    _two_drives(b)
    info = BikeInfo(
        "Three-wheeler", "Two driven rear wheels, cranks in front", 57.0, 406.0, 48.0, 120.0
    )
    return b.bike(replace(info, driven_wheel="both", pedals="yes"), "longtail")


def _two_drives(b: Builder) -> None:
    """Add both controllers with their motors, and the harness that brings the display to both."""
    names = ("vp", "key", "gnd", "rx", "tx", "v5", "th", "br")
    short = ("key", "gnd", "th", "br")
    ends = (
        wires("front", "Display branch", *names, family=FRONT_FAMILY),
        wires("left", "Left controller branch", *names, family=FRONT_FAMILY),
        wires("right", "Right controller branch", *short),
    )
    add_cable(b, "harness", "Front harness", ends, 0.25, 1.8)
    drop = ("display", "throttle", "brake_left", "brake_right", "pedal", "lamp")
    sides = (("left", names, FRONT_FAMILY), ("right", short, "signal"))
    for side, pins, family in sides:
        front = port("front", "Front harness", *front_pins(*pins), family=family, required=True)
        b.controller(f"controller_{side}", f"{side.capitalize()} controller", drop, (front,))
        b.join(f"splitter.{side}_end", f"controller_{side}.battery")
        b.add(f"motor_{side}", "hub_motor", f"{side.capitalize()} motor")
        drive(b, f"controller_{side}", f"motor_{side}")
        b.join(f"harness.{side}", f"controller_{side}.front")
    straight = tuple((name, name) for name in names)
    b.mate("display", "plug", "harness", "front", straight)
