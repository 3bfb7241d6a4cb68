"""Patterns of other vehicles: carts, clip-on drives, trikes, a light motorcycle.

All values are usual ones of the trade (common practice); nothing here is of any maker.
"""

from dataclasses import replace

from brightcore.bike.model import Bike, BikeInfo, Port, Wire
from brightcore.describing.builder import Builder
from brightcore.describing.pieces import (
    FIVE,
    KEY_PORT,
    LAMP_WIRES,
    MODE_PORT,
    REED_PORT,
    add_cable,
    halls_without_speed,
    hub_drive,
    wires,
    with_lugs,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port


def two_motor_cart() -> Bike:
    """A cart with two hub motors and two controllers on one pack; one twist throttle drives
    both."""
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
        if side == "left":
            drop = ("brake_left", "brake_right", "pedal", "lamp", "display")
        else:
            drop = ("brake_right", "pedal", "lamp", "display", "throttle")
        key = port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True)
        lone = port(
            "throttle",
            "Throttle",
            "ground:signal_ground:ground",
            "signal:throttle_signal:throttle signal",
        )
        brake = port("brake", "Cut-offs", *FIVE, "signal:brake_signal:brake signal")
        if side == "left":
            extra: tuple[Port, ...] = (key, brake)
        else:
            extra = (key, lone, replace(brake, pins=brake.pins[1:]))
        b.controller(
            f"controller_{side}",
            f"{side.capitalize()} controller",
            tuple(set(drop) | {"brake_left", "brake_right"}),
            extra,
            battery_limit_a=20.0,
        )
        b.join(f"splitter.{side}_end", f"controller_{side}.battery")
        hub_drive(b, f"controller_{side}", f"motor_{side}", f"{side.capitalize()} motor")
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
    """Bring both cut-offs to both controllers: signals and grounds tied, 5 V of the left one
    only."""
    three = tuple(f"{p}:wire" for p in ("supply", "ground", "signal"))
    ends = (
        port("left", "Left controller brake branch", *three),
        port("right", "Right controller brake branch", *three[1:]),
        *(
            port(f"cut_{side}", f"{side.capitalize()} cut-off branch", *three)
            for side in ("left", "right")
        ),
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
    hub_drive(
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
        port(
            "controller_end",
            "Controller throttle branch",
            "supply:wire",
            "ground:wire",
            "signal:wire",
        ),
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
        wires("pack_end", "Main lead pack end", "plus", "minus", family="power-2"),
        wires("lugs", "Main lead lugs", "plus", "minus", family="lug-2"),
    )
    add_cable(b, "main_lead", "Main lead", ends, 16.0, 0.6)
    b.controller(
        "controller",
        "Controller",
        ("battery", "phases", "pedal", "display"),
        (
            with_lugs("controller", "battery"),
            with_lugs("controller", "phases"),
            KEY_PORT,
            MODE_PORT,
        ),
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
        "motor",
        "hub_motor",
        "Hub motor",
        (with_lugs("hub_motor", "phases", **motor), *usual[1:]),
        **motor,
    )
    b.join("controller.phases", "motor.phases", Wire(16.0, 0.9))
    b.join("controller.halls", "motor.halls")
    b.add("throttle", "throttle", "Twist throttle")
    b.join("controller.throttle", "throttle.plug")
    b.add("lever", "brake_lever", "Brake lever")
    b.join("controller.brake_left", "lever.plug")
    _stand_and_lights(b)
    b.add("mode", "mode_switch", "Mode switch")
    b.join("controller.mode", "mode.plug")
    info = BikeInfo(
        "Light motorcycle", "Light motorcycle with key and stand switch", 90.0, 432.0, 75.0, 95.0
    )
    return b.bike(replace(info, pedals="no"), "suspension")


def _stand_and_lights(b: Builder) -> None:
    """Add the stand switch on the second brake input, and lamp, horn and rear lamp on the lamp
    output."""
    brake = ("signal", "ground")
    ends = (
        wires("supply", "Lights supply", *LAMP_WIRES),
        wires("brake", "Right brake branch", *brake),
        wires("stand", "Stand branch", *brake),
        wires("front", "Front lamp branch", *LAMP_WIRES),
        wires("horn", "Horn branch", *LAMP_WIRES),
        wires("rear", "Rear lamp branch", "plus", "minus", "signal"),
    )
    pairs = (
        *(
            (f"supply.{wire}", f"{end}.{wire}")
            for end in ("front", "horn", "rear")
            for wire in LAMP_WIRES
        ),
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
    """A delivery trike: front hub, one front cable that splits three ways, reed speed sensor, front
    lamp."""
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
    extra = (halls_without_speed(), front, REED_PORT)
    b.controller("controller", "Controller", drop, extra, battery_limit_a=18.0)
    b.join("main_lead.controller_end", "controller.battery")
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
            "th",
            "br",
            family="front-8",
        ),
        wires("to_display", "Display branch", "vp", "key", "gnd", "rx", "tx"),
        wires("to_throttle", "Throttle branch", "v5", "gnd", "th"),
        wires("to_brake", "Brake branch", "br", "gnd"),
    )
    add_cable(b, "harness", "Three-way front harness", ends, 0.25, 1.9)
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
    info = BikeInfo(
        "Delivery trike", "Three wheels, box behind, front hub motor", 57.0, 406.0, 60.0, 220.0
    )
    return b.bike(replace(info, driven_wheel="front"), "longtail")


def three_wheeler() -> Bike:
    """A three-wheeler with two motors; the display takes throttle and lever and hands them on."""
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
        wires("front", "Display branch", *names, family="front-8"),
        wires("left", "Left controller branch", *names, family="front-8"),
        wires("right", "Right controller branch", *short),
    )
    add_cable(b, "harness", "Front harness", ends, 0.25, 1.8)
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
