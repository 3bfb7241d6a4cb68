"""More patterns: light motorcycle, trikes, soft packs, an opened hub, a mid drive on an outside controller.

As in `patterns`: all values are usual ones of the trade (common practice), nothing is of any maker.
"""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Port, Wire
from brightcore.describing.builder import Builder
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port

FIVE = ("supply:supply_5v:5 V", "ground:signal_ground:ground")
KEY_PORT = port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True)
TORQUE_PORT = port(
    "torque", "Torque sensor", *FIVE, "torque:torque_signal:torque", "signal:pedal_signal:cadence"
)
GEAR_PORT = port("gear", "Gear sensor", *FIVE, "signal:brake_signal:brake signal")
REED_PORT = port("speed", "Speed sensor", "signal:wheel_speed:wheel speed", "ground:signal_ground:ground")
LAMP_WIRES = ("plus", "minus")


def _with_lugs(kind: str, port_id: str, **spec: object) -> Port:
    """Return a usual plug of a kind as ring lugs."""
    usual = REGISTRY[kind].ports(REGISTRY[kind].spec_type(**spec))
    made = next(p for p in usual if p.id == port_id)
    return replace(made, family=f"lug-{len(made.pins)}", rewireable=True)


def _halls_without_speed() -> Port:
    """Return a controller's hall plug for a motor without a speed sensor."""
    usual = REGISTRY["controller"].ports(REGISTRY["controller"].spec_type())
    halls = next(p for p in usual if p.id == "halls")
    return replace(halls, pins=tuple(p for p in halls.pins if p.role != "wheel_speed"))


def _cable(b: Builder, part_id: str, name: str, ends: tuple[Port, ...], area: float, length: float) -> None:
    b.add(part_id, "cable", name, ends, area_mm2=area, length_m=length)


def _wires(port_id: str, label: str, *names: str, family: str = "signal") -> Port:
    return port(port_id, label, *(f"{name}:wire" for name in names), family=family)


def light_motorcycle() -> Bike:
    """A light motorcycle: key, stand switch, lug terminals, 12 V lights, horn and brake light."""
    b = Builder()
    b.add(
        "pack",
        "pack",
        "Pack",
        series_count=20,
        parallel_count=10,
        capacity_ah=40.0,
        bms_continuous_a=100.0,
        bms_peak_a=200.0,
        fuse_a=80.0,
        fuse_v=150.0,
        internal_ohm=0.07,
    )
    ends = (
        _wires("pack_end", "Main lead pack end", "plus", "minus", family="power-2"),
        _wires("lugs", "Main lead lugs", "plus", "minus", family="lug-2"),
    )
    _cable(b, "main_lead", "Main lead", ends, 16.0, 0.6)
    b.controller(
        "controller",
        "Controller",
        ("battery", "phases", "pedal", "display"),
        (_with_lugs("controller", "battery"), _with_lugs("controller", "phases"), KEY_PORT),
        rated_v=72.0,
        max_v=100.0,
        battery_limit_a=50.0,
        phase_limit_a=150.0,
        low_cutoff_v=61.0,
        accessory_a=4.0,
    )
    b.join("pack.main", "main_lead.pack_end")
    b.join("main_lead.lugs", "controller.battery")
    b.add("key", "key_switch", "Key", max_v=100.0)
    b.join("controller.key", "key.plug")
    motor = {"rated_w": 3000.0, "gear_ratio": 1.0, "rpm_per_v": 9.0, "phase_ohm": 0.035}
    motor |= {"magnet_count": 46, "phase_limit_a": 180.0}
    usual = REGISTRY["hub_motor"].ports(REGISTRY["hub_motor"].spec_type(**motor))
    b.add(
        "motor", "hub_motor", "Hub motor", (_with_lugs("hub_motor", "phases", **motor), *usual[1:]), **motor
    )
    b.join("controller.phases", "motor.phases", Wire(16.0, 0.9))
    b.join("controller.halls", "motor.halls")
    b.add("throttle", "throttle", "Twist throttle")
    b.join("controller.throttle", "throttle.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("controller.brake_left", "lever.plug")
    _stand_and_lights(b)
    info = BikeInfo("Light motorcycle", "Light motorcycle with key and stand switch", 90.0, 432.0, 75.0, 95.0)
    return b.bike(replace(info, pedals="no"), "suspension")


def _stand_and_lights(b: Builder) -> None:
    """Add the stand switch on the second brake input, and lamp, horn and rear lamp on the lamp output."""
    brake = ("signal", "ground")
    ends = (
        _wires("supply", "Lights supply", *LAMP_WIRES),
        _wires("brake", "Right brake branch", *brake),
        _wires("stand", "Stand branch", *brake),
        _wires("front", "Front lamp branch", *LAMP_WIRES),
        _wires("horn", "Horn branch", *LAMP_WIRES),
        _wires("rear", "Rear lamp branch", "plus", "minus", "signal"),
    )
    pairs = (
        *((f"supply.{wire}", f"{end}.{wire}") for end in ("front", "horn", "rear") for wire in LAMP_WIRES),
        *((f"brake.{wire}", f"stand.{wire}") for wire in brake),
        ("brake.signal", "rear.signal"),
    )
    b.add("lights", "cable", "Lights harness", ends, area_mm2=0.75, length_m=1.6, conductors=pairs)
    b.join("controller.lamp", "lights.supply")
    b.join("controller.brake_right", "lights.brake")
    b.add("stand", "stand_switch", "Stand switch")
    b.join("lights.stand", "stand.plug")
    b.add("lamp", "lamp", "Headlamp", power_w=15.0)
    b.join("lights.front", "lamp.plug")
    b.add("horn", "horn", "Horn")
    b.join("lights.horn", "horn.plug")
    b.add("rear_lamp", "brake_lamp", "Rear lamp")
    pairs_in = (("plus", "plus"), ("minus", "minus"), ("signal", "brake"))
    b.mate("lights", "rear", "rear_lamp", "plug", pairs_in)


def delivery_trike() -> Bike:
    """A delivery trike: front hub, one front cable that splits three ways, reed speed sensor, front lamp."""
    b = Builder()
    b.add("pack", "pack", "Pack", capacity_ah=20.0, parallel_count=6, internal_ohm=0.075)
    b.lead("main_lead", "Main lead", ("pack_end", "controller_end"), 4.0, 0.8)
    b.join("pack.main", "main_lead.pack_end")
    front = port(
        "front",
        "Front harness",
        "vp:battery_out:pack +",
        "key:key:key line",
        "gnd:signal_ground:ground",
        "rx:serial_tx:to display",
        "tx:serial_rx:from display",
        "v5:supply_5v:5 V",
        "th:throttle_signal:throttle signal",
        "br:brake_signal:brake signal",
        family="front-8",
        required=True,
    )
    drop = ("display", "throttle", "brake_left", "brake_right", "halls")
    extra = (_halls_without_speed(), front, REED_PORT)
    b.controller("controller", "Controller", drop, extra, battery_limit_a=18.0)
    b.join("main_lead.controller_end", "controller.battery")
    ends = (
        _wires("trunk", "Front trunk", "vp", "key", "gnd", "rx", "tx", "v5", "th", "br", family="front-8"),
        _wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        _wires("to_throttle", "Throttle branch", "v5", "gnd", "th"),
        _wires("to_brake", "Brake branch", "br", "gnd"),
    )
    _cable(b, "harness", "Three-way front harness", ends, 0.25, 1.9)
    b.join("controller.front", "harness.trunk")
    b.add("display", "display", "Display")
    b.join("harness.to_display", "display.plug")
    b.add("throttle", "throttle", "Thumb throttle")
    b.join("harness.to_throttle", "throttle.plug")
    b.add("lever", "brake_lever", "Parking brake lever")
    b.join("harness.to_brake", "lever.plug")
    b.add("motor", "hub_motor", "Front hub motor", rated_w=350.0, phase_ohm=0.2, speed_sensor=False)
    b.join("controller.phases", "motor.phases")
    b.join("controller.halls", "motor.halls")
    b.add("speed", "reed_sensor", "Speed sensor")
    b.join("controller.speed", "speed.plug")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    b.add("lamp", "lamp", "Front lamp")
    b.join("controller.lamp", "lamp.plug")
    info = BikeInfo("Delivery trike", "Three wheels, box behind, front hub motor", 57.0, 406.0, 60.0, 220.0)
    return b.bike(replace(info, driven_wheel="front"), "longtail")


def soft_packs() -> Bike:
    """A front hub on two soft pouch packs in series, an alarm on each, a fuse in the lead, no display."""
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
    ends = tuple(
        _wires(end, f"Series lead {end}", *two, family="power-2") for end in ("upper", "lower", "out")
    )
    pairs = (("upper.plus", "out.plus"), ("upper.minus", "lower.plus"), ("lower.minus", "out.minus"))
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
    info = BikeInfo("Soft packs in series", "Front hub, soft packs in a bag", 40.0, 622.0, 20.0, 85.0)
    return b.bike(replace(info, driven_wheel="front", pedals="yes"))


def opened_hub() -> Bike:
    """A factory hub whose own controller was taken out: phases and halls led out to one outside."""
    b = Builder()
    b.add("pack", "pack", "Pack", series_count=10, capacity_ah=13.0, bms_continuous_a=25.0, fuse_a=30.0)
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
    b.add("display", "display", "Display", lit_from_v=12.0, max_v=45.0)
    b.join("controller.display", "display.plug")
    b.add("throttle", "throttle", "Thumb throttle")
    b.join("controller.throttle", "throttle.plug")
    for side in ("left", "right"):
        b.add(f"lever_{side}", "brake_lever", f"{side.capitalize()} brake lever")
        b.join(f"controller.brake_{side}", f"lever_{side}.plug")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("controller.pedal", "cranks.plug")
    return b.bike(BikeInfo("Opened hub", "Factory hub, outside controller", 47.0, 622.0, 23.0, 85.0))


def mid_outside() -> Bike:
    """A mid drive on an outside controller, with a torque sensor and a two-wire speed sensor."""
    b = Builder()
    b.add("pack", "pack", "Pack", capacity_ah=17.5, parallel_count=5, internal_ohm=0.09)
    b.controller(
        "controller",
        "Outside controller",
        ("pedal", "halls", "lamp", "throttle"),
        (_halls_without_speed(), TORQUE_PORT, REED_PORT, GEAR_PORT),
        phase_limit_a=50.0,
    )
    b.join("pack.main", "controller.battery", Wire(4.0, 0.7))
    b.add("motor", "mid_motor", "Mid motor")
    b.join("controller.phases", "motor.phases", Wire(2.5, 0.5))
    b.join("controller.halls", "motor.halls")
    b.add("display", "display", "Display")
    b.join("controller.display", "display.plug")
    for side in ("left", "right"):
        b.add(f"lever_{side}", "brake_lever", f"{side.capitalize()} brake lever")
        b.join(f"controller.brake_{side}", f"lever_{side}.plug")
    b.add("torque", "torque_sensor", "Torque sensor")
    b.join("controller.torque", "torque.plug")
    b.add("speed", "reed_sensor", "Speed sensor")
    b.join("controller.speed", "speed.plug")
    b.add("gear", "gear_sensor", "Gear-shift sensor")
    b.join("controller.gear", "gear.plug")
    info = BikeInfo(
        "Mid drive, outside controller", "Factory mid motor on an outside controller", 50.0, 584.0, 23.0
    )
    return b.bike(info)


def three_wheeler() -> Bike:
    """A three-wheeler with two motors; the display takes throttle and lever and hands them on."""
    b = Builder()
    b.add(
        "pack", "pack", "Pack", bms_continuous_a=50.0, bms_peak_a=100.0, fuse_a=50.0, parallel_count=6,
        capacity_ah=21.0, internal_ohm=0.075,
    )  # fmt: skip
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
        port("plug", "Display", *trunk, family="front-8"),
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
        "display", "throttle", "throttle", "plug",
        (("supply", "supply"), ("ground", "ground"), ("signal", "signal")),
    )  # fmt: skip
    b.add("lever", "brake_lever", "Brake lever")
    b.mate("display", "lever", "lever", "plug", (("signal", "signal"), ("ground", "ground")))
    _two_drives(b)
    info = BikeInfo("Three-wheeler", "Two driven rear wheels, cranks in front", 57.0, 406.0, 48.0, 120.0)
    return b.bike(replace(info, driven_wheel="both", pedals="yes"), "longtail")


def _two_drives(b: Builder) -> None:
    """Add both controllers with their motors, and the harness that brings the display to both."""
    left = (
        "vp:battery_out:pack +",
        "key:key:key line",
        "gnd:signal_ground:ground",
        "rx:serial_tx:to display",
        "tx:serial_rx:from display",
        "v5:supply_5v:5 V",
        "th:throttle_signal:throttle signal",
        "br:brake_signal:brake signal",
    )
    right = (left[1], left[2], left[6], left[7])
    names = tuple(pin.partition(":")[0] for pin in left)
    short = tuple(pin.partition(":")[0] for pin in right)
    ends = (
        _wires("front", "Display branch", *names, family="front-8"),
        _wires("left", "Left controller branch", *names, family="front-8"),
        _wires("right", "Right controller branch", *short),
    )
    _cable(b, "harness", "Front harness", ends, 0.25, 1.8)
    drop = ("display", "throttle", "brake_left", "brake_right", "pedal", "lamp")
    for side, pins, family in (("left", left, "front-8"), ("right", right, "signal")):
        front = port("front", "Front harness", *pins, family=family, required=True)
        b.controller(f"controller_{side}", f"{side.capitalize()} controller", drop, (front,))
        b.join(f"splitter.{side}_end", f"controller_{side}.battery")
        b.add(f"motor_{side}", "hub_motor", f"{side.capitalize()} motor")
        b.join(f"controller_{side}.phases", f"motor_{side}.phases")
        b.join(f"controller_{side}.halls", f"motor_{side}.halls")
        b.join(f"harness.{side}", f"controller_{side}.front")
    straight = tuple((name, name) for name in names)
    b.mate("display", "plug", "harness", "front", straight)


INSIDE_MIN = 30.0
"""Minutes to reach a plug inside a hub: wheel out, cover off, and back (common practice)."""


def controller_in_hub() -> Bike:
    """A wheel with its controller inside the hub: pack leads and one front cable come out of the axle."""
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
    inside = tuple(replace(usual[name], access_min=INSIDE_MIN) for name in ("phases", "halls"))
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
        _wires("trunk", "Front trunk", "vp", "key", "gnd", "rx", "tx", "v5", "ps", "br", family="front-8"),
        _wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        _wires("to_cranks", "Pedal sensor branch", "v5", "gnd", "ps"),
        _wires("to_brake", "Brake branch", "br", "gnd"),
    )
    _cable(b, "harness", "Front cable", ends, 0.25, 2.2)
    b.join("controller.front", "harness.trunk")
    b.add("display", "display", "Display", lit_from_v=12.0, max_v=45.0)
    b.join("harness.to_display", "display.plug")
    b.add("cranks", "pedal_sensor", "Pedal sensor")
    b.join("harness.to_cranks", "cranks.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("harness.to_brake", "lever.plug")
    made = b.bike(
        BikeInfo("Controller in the hub", "Wheel with its controller inside", 47.0, 622.0, 20.0, 85.0)
    )
    return replace(made, frame=replace(made.frame, places=(("controller", "rear_axle"),)))
