"""Patterns of bikes: with hub kits and mid drives, from the factory, folding, rebuilt.

All values are usual ones of the trade (common practice); nothing here is of any maker.
"""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FIVE,
    GEAR_PORT,
    KEY_PORT,
    REED_PORT,
    SPEED_PORT,
    TORQUE_PORT,
    add_cable,
    bars,
    halls_without_speed,
    hub_drive,
    wires,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port

INSIDE_MIN = 30.0
"""Minutes to reach a plug inside a hub: wheel out, cover off, and back (common practice)."""


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
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp")
    b.join("controller.lamp", "lamp.plug")
    return b.bike(
        BikeInfo("Hub conversion", "Pedal bike with a rear hub kit", 47.0, 622.0, 24.0, 85.0)
    )


def mid_conversion() -> Bike:
    """A pedal bike with a mid-drive kit: motor at the cranks, speed sensor, gear-shift sensor,
    thumb throttle."""
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
    bars(b)
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
    """A factory hub bike: one front cable splits to display and levers; pedal sensor, lamp, no
    throttle."""
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
        "front",
        "Front",
        *(f"{n}:{role}:{label}" for n, role, label in five),
        family="front-8",
        required=True,
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
            port(
                f"to_{end}",
                f"{end.replace('_', ' ').capitalize()} branch",
                *(f"{n}:wire" for n in names),
            )
            for end, names in pins.items()
        ),
    )
    b.add("harness", "cable", "Front harness", ends, length_m=1.4)
    b.join("controller.front", "harness.trunk")
    b.join("pack.main", "controller.battery", Wire(2.5, 0.7))
    hub_drive(b, rated_w=250.0, rpm_per_v=7.2, phase_ohm=0.22)
    b.add("display", "display", "Display", lit_from_v=15.0)
    b.join("harness.to_display", "display.plug")
    for side, pin in (("left", "bl"), ("right", "br")):
        b.add(f"lever_{side}", "brake_lever", f"{side.capitalize()} brake lever")
        b.mate(
            "harness",
            f"to_brake_{side}",
            f"lever_{side}",
            "plug",
            ((pin, "signal"), ("gnd", "ground")),
        )
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp", rated_v=6.0)
    b.join("controller.lamp", "lamp.plug")
    return b.bike(
        BikeInfo("Factory hub bike", "City bike with one front cable", 47.0, 622.0, 25.0, 80.0)
    )


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
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp")
    b.join("controller.lamp", "lamp.plug")
    return b.bike(
        BikeInfo("Two packs", "Tandem or longtail with two packs", 50.0, 622.0, 38.0, 160.0),
        "longtail",
    )


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
        b.add(f"alarm_{side}", "cell_alarm", f"{side.capitalize()} low-cell alarm")
        b.join(f"pack_{side}.balance", f"alarm_{side}.plug")
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
    b.add("key", "key_switch", "On-off switch")
    b.join("controller.key", "key.plug")
    b.add("motor", "hub_motor", "Front hub motor")
    b.join("controller.phases", "motor.phases")
    b.join("controller.halls", "motor.halls")
    b.add("throttle", "throttle", "Thumb throttle")
    b.join("controller.throttle", "throttle.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("controller.brake_left", "lever.plug")
    info = BikeInfo(
        "Soft packs in series", "Front hub, soft packs in a bag", 40.0, 622.0, 20.0, 85.0
    )
    return b.bike(replace(info, driven_wheel="front", pedals="yes"))


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
    front = port(
        "front",
        "Front cable",
        "vp:battery_out:pack +",
        "key:key:key line",
        "gnd:signal_ground:ground",
        "rx:serial_tx:to display",
        "tx:serial_rx:from display",
        "v5:supply_5v:5 V",
        "ps:pedal_signal:pedal signal",
        "br:brake_signal:brake signal",
        family="front-8",
        required=True,
    )
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
    b.join("controller.phases", "motor.phases")
    b.join("controller.halls", "motor.halls")
    ends = (
        wires(
            "trunk",
            "Front trunk",
            "vp",
            "key",
            "gnd",
            "rx",
            "tx",
            "v5",
            "ps",
            "br",
            family="front-8",
        ),
        wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        wires("to_cranks", "Pedal sensor branch", "v5", "gnd", "ps"),
        wires("to_brake", "Brake branch", "br", "gnd"),
    )
    add_cable(b, "harness", "Front cable", ends, 0.25, 2.2)
    b.join("controller.front", "harness.trunk")
    b.add("display", "display", "Display", lit_from_v=12.0, max_v=45.0)
    b.join("harness.to_display", "display.plug")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("harness.to_cranks", "cranks.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("harness.to_brake", "lever.plug")
    made = b.bike(
        BikeInfo(
            "Controller in the hub", "Wheel with its controller inside", 47.0, 622.0, 20.0, 85.0
        )
    )
    return replace(made, frame=replace(made.frame, places=(("controller", "rear_axle"),)))


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
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    return b.bike(
        BikeInfo("Opened hub", "Factory hub, outside controller", 47.0, 622.0, 23.0, 85.0)
    )


def mid_outside() -> Bike:
    """A mid drive on an outside controller, with a torque sensor and a two-wire speed sensor."""
    b = Builder()
    b.add("pack", "pack", "Pack", capacity_ah=17.5, parallel_count=5, internal_ohm=0.09)
    b.controller(
        "controller",
        "Outside controller",
        ("pedal", "halls", "lamp", "throttle"),
        (halls_without_speed(), TORQUE_PORT, REED_PORT, GEAR_PORT),
        phase_limit_a=50.0,
    )
    b.join("pack.main", "controller.battery", Wire(4.0, 0.7))
    b.add("motor", "mid_motor", "Mid motor")
    b.join("controller.phases", "motor.phases", Wire(2.5, 0.5))
    b.join("controller.halls", "motor.halls")
    bars(b, throttle=False)
    b.add("torque", "torque_sensor", "Torque sensor")
    b.join("controller.torque", "torque.plug")
    b.add("speed", "reed_sensor", "Speed sensor")
    b.join("controller.speed", "speed.plug")
    b.add("gear", "gear_sensor", "Gear-shift sensor")
    b.join("controller.gear", "gear.plug")
    info = BikeInfo(
        "Mid drive, outside controller",
        "Factory mid motor on an outside controller",
        50.0,
        584.0,
        23.0,
    )
    return b.bike(info)
