"""Pieces that several patterns share: usual plugs, a handlebar, a hub drive, cables by their
ends."""

from dataclasses import replace
from typing import Any

from brightcore.bike.model import Port
from brightcore.describing.builder import Builder
from brightcore.kinds import REGISTRY
from brightcore.kinds.blocks import port

FIVE = ("supply:supply_5v:5 V", "ground:signal_ground:ground")
SPEED_PORT = port("speed", "Speed sensor", *FIVE, "signal:wheel_speed:wheel speed")
TORQUE_PORT = port(
    "torque", "Torque sensor", *FIVE, "torque:torque_signal:torque", "signal:pedal_signal:cadence"
)
GEAR_PORT = port("gear", "Gear sensor", *FIVE, "signal:brake_signal:brake signal")
KEY_PORT = port("key", "Key", "vp:battery_out:pack +", "key:key:key line", required=True)
REED_PORT = port(
    "speed", "Speed sensor", "signal:wheel_speed:wheel speed", "ground:signal_ground:ground"
)
MODE_PORT = port("mode", "Mode", "signal:mode_signal:mode signal", "ground:signal_ground:ground")
LAMP_WIRES = ("plus", "minus")


def bars(
    b: Builder,
    controller: str = "controller",
    throttle: bool = True,
    levers: str = "brake_lever",
    **display: Any,
) -> None:
    """Add display (with its figures), throttle and two cut-offs on their own plugs."""
    b.add("display", "display", "Display", **display)
    b.join(f"{controller}.display", "display.plug")
    if throttle:
        b.add("throttle", "throttle", "Thumb throttle")
        b.join(f"{controller}.throttle", "throttle.plug")
    for side in ("left", "right"):
        b.add(f"lever_{side}", levers, f"{side.capitalize()} brake lever")
        b.join(f"{controller}.brake_{side}", f"lever_{side}.plug")


def hub_drive(
    b: Builder,
    controller: str = "controller",
    motor: str = "motor",
    name: str = "Rear hub motor",
    **spec: Any,
) -> None:
    """Add a hub motor on a controller's phase and hall plugs."""
    b.add(motor, "hub_motor", name, **spec)
    b.join(f"{controller}.phases", f"{motor}.phases")
    b.join(f"{controller}.halls", f"{motor}.halls")


def with_lugs(kind: str, port_id: str, **spec: object) -> Port:
    """Return a usual plug of a kind as ring lugs."""
    usual = REGISTRY[kind].ports(REGISTRY[kind].spec_type(**spec))
    made = next(p for p in usual if p.id == port_id)
    return replace(made, family=f"lug-{len(made.pins)}", rewireable=True)


def halls_without_speed() -> Port:
    """Return a controller's hall plug for a motor without a speed sensor."""
    usual = REGISTRY["controller"].ports(REGISTRY["controller"].spec_type())
    halls = next(p for p in usual if p.id == "halls")
    return replace(halls, pins=tuple(p for p in halls.pins if p.role != "wheel_speed"))


def pack_for_two(b: Builder) -> None:
    """Add a pack that feeds two motors."""
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


FRONT = {
    "vp": "battery_out:pack +",
    "key": "key:key line",
    "gnd": "signal_ground:ground",
    "rx": "serial_tx:to display",
    "tx": "serial_rx:from display",
    "v5": "supply_5v:5 V",
    "th": "throttle_signal:throttle signal",
    "ps": "pedal_signal:pedal signal",
    "br": "brake_signal:brake signal",
}
"""Pins of a controller's front plug, where one cable goes to the bar: role and words by name."""

FRONT_FAMILY = "front-8"


def front_pins(*names: str) -> tuple[str, ...]:
    """Return pins of a front plug as ports are described."""
    return tuple(f"{name}:{FRONT[name]}" for name in names)


def front_plug(label: str, *names: str) -> Port:
    """Return the front plug of a controller; nothing runs without it."""
    return port("front", label, *front_pins(*names), family=FRONT_FAMILY, required=True)


def drive(b: Builder, controller: str = "controller", motor: str = "motor") -> None:
    """Join phases and halls of a motor to its controller."""
    b.join(f"{controller}.phases", f"{motor}.phases")
    b.join(f"{controller}.halls", f"{motor}.halls")


def add_cable(
    b: Builder, part_id: str, name: str, ends: tuple[Port, ...], area: float, length: float
) -> None:
    """Add a cable with the ends given: area in mm², length in m."""
    b.add(part_id, "cable", name, ends, area_mm2=area, length_m=length)


def wires(port_id: str, label: str, *names: str, family: str = "signal") -> Port:
    """Return an end of a cable whose pins are plain wires."""
    return port(port_id, label, *(f"{name}:wire" for name in names), family=family)
