"""Patterns: whole bikes to start from. A pattern places parts, ports and joins; the technician changes what
differs.

A pattern is one function and one line in `PATTERNS`. All values are usual ones of the trade
(common practice); nothing here is of any maker.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.vehicles import (
    controller_in_hub,
    delivery_trike,
    light_motorcycle,
    mid_outside,
    opened_hub,
    soft_packs,
    three_wheeler,
)
from brightcore.errors import UnknownNameError
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port

FIVE = ("supply:supply_5v:5 V", "ground:signal_ground:ground")
SPEED_PORT = port("speed", "Speed sensor", *FIVE, "signal:wheel_speed:wheel speed")
TORQUE_PORT = port(
    "torque", "Torque sensor", *FIVE, "torque:torque_signal:torque", "signal:pedal_signal:cadence"
)
GEAR_PORT = port("gear", "Gear sensor", *FIVE, "signal:brake_signal:brake signal")


def _bars(
    b: Builder, controller: str = "controller", throttle: bool = True, levers: str = "brake_lever"
) -> None:
    """Add display, throttle and two cut-offs on their own plugs."""
    b.add("display", "display", "Display")
    b.join(f"{controller}.display", "display.plug")
    if throttle:
        b.add("throttle", "throttle", "Thumb throttle")
        b.join(f"{controller}.throttle", "throttle.plug")
    for side in ("left", "right"):
        b.add(f"lever_{side}", levers, f"{side.capitalize()} brake lever")
        b.join(f"{controller}.brake_{side}", f"lever_{side}.plug")


def _hub_drive(
    b: Builder,
    controller: str = "controller",
    motor: str = "motor",
    name: str = "Rear hub motor",
    **spec: Any,
) -> None:
    b.add(motor, "hub_motor", name, **spec)
    b.join(f"{controller}.phases", f"{motor}.phases")
    b.join(f"{controller}.halls", f"{motor}.halls")


def hub_conversion() -> Bike:
    """A pedal bike with a rear hub kit: pack, controller, display, throttle, two levers, pedal sensor,
    lamp."""
    b = Builder()
    b.add("pack", "pack", "Pack")
    b.lead("main_lead", "Main lead", ("pack_end", "controller_end"), 4.0, 0.8)
    b.controller("controller", "Controller")
    b.join("pack.main", "main_lead.pack_end")
    b.join("main_lead.controller_end", "controller.battery")
    _hub_drive(b)
    _bars(b)
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp")
    b.join("controller.lamp", "lamp.plug")
    return b.bike(BikeInfo("Hub conversion", "Pedal bike with a rear hub kit", 47.0, 622.0, 24.0, 85.0))


def mid_conversion() -> Bike:
    """A pedal bike with a mid-drive kit: motor at the cranks, speed sensor, gear-shift sensor, thumb
    throttle."""
    b = Builder()
    b.add("pack", "pack", "Pack", fuse_a=30.0)
    halls = REGISTRY["controller"].ports(REGISTRY["controller"].spec_type())[2]
    halls = replace(halls, pins=tuple(p for p in halls.pins if p.role != "wheel_speed"))
    b.controller(
        "controller",
        "Controller in the motor",
        ("pedal", "halls", "lamp"),
        (halls, TORQUE_PORT, SPEED_PORT, GEAR_PORT),
        battery_limit_a=22.0,
        phase_limit_a=55.0,
    )
    b.join("pack.main", "controller.battery", Wire(2.5, 0.9))
    b.add("motor", "mid_motor", "Mid motor")
    b.join("controller.phases", "motor.phases")
    b.join("controller.halls", "motor.halls")
    _bars(b)
    for part_id, kind, name, plug in (
        ("torque", "torque_sensor", "Torque sensor", "torque"),
        ("speed", "speed_sensor", "Speed sensor", "speed"),
        ("gear", "gear_sensor", "Gear-shift sensor", "gear"),
    ):
        b.add(part_id, kind, name)
        b.join(f"controller.{plug}", f"{part_id}.plug")
    return b.bike(
        BikeInfo("Mid-drive conversion", "Pedal bike with a mid-drive kit", 50.0, 584.0, 22.0, 85.0)
    )


def factory_hub() -> Bike:
    """A factory hub bike: one front cable splits to display and levers; pedal sensor, lamp, no throttle."""
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
        "front", "Front", *(f"{n}:{role}:{label}" for n, role, label in five), family="front-8", required=True
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
            port(f"to_{end}", f"{end.replace('_', ' ').capitalize()} branch", *(f"{n}:wire" for n in names))
            for end, names in pins.items()
        ),
    )
    b.add("harness", "cable", "Front harness", ends, length_m=1.4)
    b.join("controller.front", "harness.trunk")
    b.join("pack.main", "controller.battery", Wire(2.5, 0.7))
    _hub_drive(b, rated_w=250.0, rpm_per_v=7.2, phase_ohm=0.22)
    b.add("display", "display", "Display", lit_from_v=15.0)
    b.join("harness.to_display", "display.plug")
    for side, pin in (("left", "bl"), ("right", "br")):
        b.add(f"lever_{side}", "brake_lever", f"{side.capitalize()} brake lever")
        b.mate("harness", f"to_brake_{side}", f"lever_{side}", "plug", ((pin, "signal"), ("gnd", "ground")))
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp", rated_v=6.0)
    b.join("controller.lamp", "lamp.plug")
    return b.bike(BikeInfo("Factory hub bike", "City bike with one front cable", 47.0, 622.0, 25.0, 80.0))


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
    cut_offs = tuple(
        port(f"brake_{side}", f"{side.capitalize()} cut-off", *FIVE, "signal:brake_signal:brake signal")
        for side in ("left", "right")
    )
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
    _hub = b.add("motor", "hub_motor", "Front hub motor", rated_w=250.0, rpm_per_v=10.5, phase_ohm=0.25)
    for plug, pins, area in motor:
        b.lead(f"fold_{plug}", f"Fold cable, {plug}", ("frame", "fork"), area, 1.7, pins)
        b.join(f"controller.{plug}", f"fold_{plug}.frame")
        b.join(f"fold_{plug}.fork", f"{_hub.id}.{plug}")
    _bars(b, throttle=False, levers="magnetic_cut_off")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
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


def two_motor_cart() -> Bike:
    """A cart with two hub motors and two controllers on one pack; one twist throttle drives both."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        bms_continuous_a=50.0,
        bms_peak_a=100.0,
        fuse_a=50.0,
        parallel_count=6,
        capacity_ah=21.0,
        internal_ohm=0.075,
    )
    b.lead("splitter", "Battery splitter", ("pack_end", "left_end", "right_end"), 6.0, 0.6)
    b.join("pack.main", "splitter.pack_end")
    shared = ("supply", "ground", "signal")
    ends = (
        port("grip", "Throttle branch", "supply:wire", "ground:wire", "signal:wire"),
        port("left", "Left controller branch", *(f"{p}:wire" for p in shared)),
        port("right", "Right controller branch", "ground:wire", "signal:wire"),
    )
    for side in ("left", "right"):
        drop = (
            ("brake_left", "brake_right", "pedal", "lamp", "display")
            if side == "left"
            else ("brake_right", "pedal", "lamp", "display", "throttle")
        )
        key = port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True)
        lone = port(
            "throttle", "Throttle", "ground:signal_ground:ground", "signal:throttle_signal:throttle signal"
        )
        brake = port("brake", "Cut-offs", *FIVE, "signal:brake_signal:brake signal")
        extra = (key, brake) if side == "left" else (key, lone, replace(brake, pins=brake.pins[1:]))
        b.controller(
            f"controller_{side}",
            f"{side.capitalize()} controller",
            tuple(set(drop) | {"brake_left", "brake_right"}),
            extra,
            battery_limit_a=20.0,
        )
        b.join(f"splitter.{side}_end", f"controller_{side}.battery")
        _hub_drive(b, f"controller_{side}", f"motor_{side}", f"{side.capitalize()} motor")
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
    b.add("throttle", "throttle", "Twist throttle")
    b.join("split.grip", "throttle.plug")
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
    """Bring both cut-offs to both controllers: signals and grounds tied, 5 V of the left one only."""
    three = tuple(f"{p}:wire" for p in ("supply", "ground", "signal"))
    ends = (
        port("left", "Left controller brake branch", *three),
        port("right", "Right controller brake branch", *three[1:]),
        *(port(f"cut_{side}", f"{side.capitalize()} cut-off branch", *three) for side in ("left", "right")),
    )
    b.add("brake_split", "cable", "Brake splitter", ends, length_m=1.2)
    for side in ("left", "right"):
        b.join(f"controller_{side}.brake", f"brake_split.{side}")
        b.add(f"cut_off_{side}", "magnetic_cut_off", f"{side.capitalize()} cut-off")
        b.join(f"brake_split.cut_{side}", f"cut_off_{side}.plug")


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
    _hub_drive(
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
        port("controller_end", "Controller throttle branch", "supply:wire", "ground:wire", "signal:wire"),
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
    b.add("throttle", "throttle", "Keyed twist throttle", keyed=True)
    b.join("adapter.throttle_end", "throttle.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("controller.brake_left", "lever.plug")
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


def two_packs() -> Bike:
    """A hub conversion with two packs through a combining module, and a tracker on the display cable."""
    b = Builder()
    for side, amp_hours in (("front", 14.0), ("rear", 10.0)):
        b.add(f"pack_{side}", "pack", f"{side.capitalize()} pack", capacity_ah=amp_hours)
    b.add("combiner", "combiner", "Combining module")
    b.join("pack_front.main", "combiner.pack_a", Wire(4.0, 0.6))
    b.join("pack_rear.main", "combiner.pack_b", Wire(4.0, 0.9))
    b.controller("controller", "Controller", battery_limit_a=22.0)
    b.join("combiner.out", "controller.battery", Wire(4.0, 0.8))
    _hub_drive(b, phase_ohm=0.14)
    _bars(b)
    b.joins = [j for j in b.joins if {j.a_part, j.b_part} != {"controller", "display"}]
    b.add("tracker", "tracker", "Tracker module")
    b.join("controller.display", "tracker.controller_side")
    b.join("tracker.display_side", "display.plug")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp")
    b.join("controller.lamp", "lamp.plug")
    return b.bike(
        BikeInfo("Two packs", "Tandem or longtail with two packs", 50.0, 622.0, 38.0, 160.0), "longtail"
    )


PATTERNS: dict[str, tuple[str, Callable[[], Bike]]] = {
    "hub-conversion": ("Hub conversion", hub_conversion),
    "mid-conversion": ("Mid-drive conversion", mid_conversion),
    "factory-hub": ("Factory hub bike", factory_hub),
    "folding": ("Folding bike", folding),
    "two-motor-cart": ("Two-motor cart", two_motor_cart),
    "hand-cycle": ("Hand-cycle clip-on", hand_cycle),
    "two-packs": ("Two packs", two_packs),
    "light-motorcycle": ("Light motorcycle", light_motorcycle),
    "delivery-trike": ("Delivery trike", delivery_trike),
    "soft-packs": ("Soft packs in series", soft_packs),
    "controller-in-hub": ("Controller in the hub", controller_in_hub),
    "opened-hub": ("Opened hub", opened_hub),
    "mid-outside": ("Mid drive on an outside controller", mid_outside),
    "three-wheeler": ("Three-wheeler, two motors", three_wheeler),
}


def make_pattern(pattern_id: str, label: str) -> Bike:
    """Return a new bike of a pattern with its own label; raises UnknownNameError."""
    if pattern_id not in PATTERNS:
        raise UnknownNameError("pattern", pattern_id, tuple(PATTERNS))
    made = PATTERNS[pattern_id][1]()
    return replace(made, info=replace(made.info, label=label))
