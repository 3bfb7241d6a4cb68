"""Wiring rules on signal levels, pull-ups, grounds, demand and keys. All are common practice, no published source."""

import math
from collections.abc import Callable, Iterator

from brightcore.bike.model import Bike, Part
from brightcore.findings import Finding, FindingType
from brightcore.wiring.rules_nets import DEMANDS, PACK_PLUS, Place, wires_of

CP = "common-practice"
SIGNAL_LEVEL = FindingType(
    "W041", "danger", "The {part} fed with {fed_v} gives up to {out_v} on {input}, which stands 5 V.",
    "Feed it through a step-down converter to 5 V, or divide its signal: {upper} from signal to input, {lower} from input to ground.", CP,
)  # fmt: skip
NO_PULL_UP = FindingType(
    "W042", "fault", "The {part} only pulls its wire to ground, and {input} has no pull-up: the wire floats.",
    "Bring it to its own input, or fit 1 to 10 kΩ from the wire to 5 V.", CP,
)  # fmt: skip
GROUND_ELSEWHERE = FindingType(
    "W043", "advice", "The {part} takes its ground from the {ground}, its signal goes to the {signal}.",
    "Take ground where the signal is read: motor current in a shared ground shifts the signal.", CP,
)  # fmt: skip
NO_THROTTLE_PLUG = FindingType(
    "W044", "fault", "The {part} has nowhere to go: no controller of this bike has a throttle plug.",
    "Another controller of {volts} and {amps} with the plug; or a display that takes a throttle and passes it on.", CP,
)  # fmt: skip
DEMANDS_TIED = FindingType(
    "W045", "fault", "{one} and {two} drive one wire: at rest each holds the other down.", "One of them only, or each to an input of its own.", CP,
)  # fmt: skip
CUT_OFFS_MIXED = FindingType(
    "W046", "fault", "{one} opens and {two} closes when braking, on one wire: it stays cut off, or never is.", "Two of one kind on a wire, or one input each.", CP,
)  # fmt: skip
DISPLAY_SHARED = FindingType(
    "W047", "fault", "{one} and {two} both send to the {display}.", "A display listens to one controller: leave the other's transmit wire off, insulated.", CP,
)  # fmt: skip
KEY_BRIDGED = FindingType(
    "W048", "advice", "The key line of the {controller} is bridged: it is on whenever the pack is.", "Only with a switch on the pack within reach; unplug it when the bike stands.", CP,
)  # fmt: skip
NO_GEAR_SENSOR = FindingType(
    "W049", "advice", "The {motor} drives {count} sprockets and nothing cuts it while shifting.",
    "One school fits a gear-shift sensor to every mid drive, the other eases off or stays in one gear. Fit one, or note why not.", CP,
)  # fmt: skip
TYPES = (
    SIGNAL_LEVEL, NO_PULL_UP, GROUND_ELSEWHERE, NO_THROTTLE_PLUG, DEMANDS_TIED, CUT_OFFS_MIXED, DISPLAY_SHARED, KEY_BRIDGED, NO_GEAR_SENSOR,
)  # fmt: skip

INPUT_V = 5.2
"""Highest volts a 5 V input is given."""

LOWER_KOHM = 10.0
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
"""Lower leg of a divider, and the preferred values its upper leg is taken from (IEC 60063)."""

ACTIVE = {"throttle_signal": "full_ratio", "torque_signal": "push_ratio"}
"""Outputs that drive their wire, and the share of the supply they give at most."""

PULLED = ("pedal_signal", "brake_signal", "wheel_speed", "hall_a", "hall_b", "hall_c")
"""Outputs that only pull to ground; a controller's input of the same role has the pull-up."""


def divider(volts: float) -> tuple[float, float]:
    """Return (upper, lower) resistors in ohm that bring volts to 5 V or just under; the upper of the E12 series.

    >>> divider(10.0)
    (10000.0, 10000.0)
    """
    wanted = LOWER_KOHM * (volts / 5.0 - 1.0)
    decade = 10.0 ** math.floor(math.log10(wanted)) if wanted > 0 else 1.0
    upper = next((e * decade for e in (*E12, 10.0) if e * decade >= wanted * 0.999), 10.0 * decade)
    return round(upper * 1000, 3), LOWER_KOHM * 1000


def _kohm(ohm: float) -> str:
    return f"{ohm / 1000:g} kΩ"


def feed_v(bike: Bike, wire: tuple[Place, ...]) -> float:
    """Return the highest volts that feed a wire, 0 where nothing does."""
    full = max((p.spec.full_v() for p in bike.of_kind("pack")), default=0.0)
    given = {"supply_5v": lambda p: 5.0, "convert_out": lambda p: p.spec.out_v, "accessory_plus": lambda p: p.spec.accessory_v}
    found = [given[pin.role](part) for part, _, pin in wire if pin.role in given]
    return max([*found, *([full] if any(pin.role in PACK_PLUS for _, _, pin in wire) else [])], default=0.0)


def _wires(bike: Bike, part: Part, role: str) -> Iterator[tuple[Place, ...]]:
    for wire in wires_of(bike):
        if any(p.id == part.id and pin.role == role for p, _, pin in wire):
            yield wire


def _inputs(wire: tuple[Place, ...]) -> list[Place]:
    return [place for place in wire if place[0].kind == "controller"]


def signal_level(bike: Bike) -> Iterator[Finding]:
    """W041: an output above what a 5 V input stands."""
    for part in bike.of_kind("throttle", "torque_sensor"):
        fed = max((feed_v(bike, wire) for wire in _wires(bike, part, "sensor_supply")), default=0.0)
        for role, share in ACTIVE.items():
            for wire in _wires(bike, part, role):
                inputs = _inputs(wire)
                out = fed * getattr(part.spec, share, 1.0)
                if inputs and out > INPUT_V:
                    upper, lower = divider(out)
                    owner, _, pin = inputs[0]
                    values = (("part", part.name), ("fed_v", f"{fed:g} V"), ("out_v", f"{out:.1f} V"), ("input", f"{owner.name}, {pin.words}"),
                              ("upper", _kohm(upper)), ("lower", _kohm(lower)))  # fmt: skip
                    yield Finding(SIGNAL_LEVEL, (part.id, owner.id), values)


def pull_ups(bike: Bike) -> Iterator[Finding]:
    """W042: an output that only pulls down, on an input without a pull-up."""
    for wire in wires_of(bike):
        inputs = _inputs(wire)
        if any(pin.role in PULLED for _, _, pin in inputs):
            continue
        for part, _, pin in wire:
            if part.kind != "controller" and pin.role in PULLED and inputs:
                owner, _, there = inputs[0]
                yield Finding(NO_PULL_UP, (part.id, owner.id), (("part", part.name), ("input", f"{owner.name}, {there.words}")))


def grounds(bike: Bike) -> Iterator[Finding]:
    """W043: ground from one controller, signal to another."""
    if len(bike.of_kind("controller")) < 2:
        return
    for part in bike.parts:
        if part.kind == "controller":
            continue
        roles = {pin.role for port in part.ports for pin in port.pins}
        ground = {c for wire in _wires(bike, part, "sensor_ground") for c, _, _ in _inputs(wire)} if "sensor_ground" in roles else set()
        signal = [
            c for role in (*sorted(DEMANDS), *PULLED) if role in roles for wire in _wires(bike, part, role) for c, _, _ in _inputs(wire)
        ]
        for c in dict.fromkeys(signal):
            if ground and c not in ground:
                other = min(g.name for g in ground)
                yield Finding(GROUND_ELSEWHERE, (part.id, c.id), (("part", part.name), ("ground", other), ("signal", c.name)))


def throttle_plug(bike: Bike) -> Iterator[Finding]:
    """W044: a throttle and no plug for it."""
    has = any(
        pin.role == "throttle_signal"
        for c in (*bike.of_kind("controller"), *bike.of_kind("display"))
        for port in c.ports
        for pin in port.pins
    )
    for part in () if has else bike.of_kind("throttle"):
        for c in bike.of_kind("controller")[:1]:
            yield Finding(
                NO_THROTTLE_PLUG,
                (part.id,),
                (("part", part.name), ("volts", f"{c.spec.rated_v:g} V"), ("amps", f"{c.spec.battery_limit_a:g} A")),
            )


def demands_tied(bike: Bike) -> Iterator[Finding]:
    """W045: two driven outputs on one wire."""
    for wire in wires_of(bike):
        parts = list(dict.fromkeys(p for p, _, pin in wire if pin.role in ACTIVE and p.kind != "controller"))
        if len(parts) > 1:
            yield Finding(DEMANDS_TIED, tuple(p.id for p in parts[:2]), (("one", parts[0].name), ("two", parts[1].name)))


def cut_offs_mixed(bike: Bike) -> Iterator[Finding]:
    """W046: normally closed and normally open on one wire."""
    for wire in wires_of(bike):
        levers = list(dict.fromkeys(p for p, _, pin in wire if pin.role == "brake_signal" and p.kind != "controller"))
        closed = [p for p in levers if getattr(p.spec, "normally_closed", False)]
        others = [p for p in levers if p not in closed]
        if closed and others:
            yield Finding(CUT_OFFS_MIXED, (closed[0].id, others[0].id), (("one", closed[0].name), ("two", others[0].name)))


def display_shared(bike: Bike) -> Iterator[Finding]:
    """W047: two controllers that send to one display."""
    for display in bike.of_kind("display"):
        senders = list(
            dict.fromkeys(
                p
                for role in ("display_rx", "display_tx")
                for wire in _wires(bike, display, role)
                for p, _, pin in wire
                if pin.role == "serial_tx"
            )
        )
        if len(senders) > 1:
            yield Finding(DISPLAY_SHARED, (display.id,), (("one", senders[0].name), ("two", senders[1].name), ("display", display.name)))


def key_bridged(bike: Bike) -> Iterator[Finding]:
    """W048: pack + and key line on one wire, nothing between."""
    for wire in wires_of(bike):
        keys = [p for p, _, pin in wire if pin.role == "key"]
        if keys and any(pin.role in PACK_PLUS for _, _, pin in wire):
            yield Finding(KEY_BRIDGED, (keys[0].id,), (("controller", keys[0].name),))


def gear_sensor(bike: Bike) -> Iterator[Finding]:
    """W049: a mid drive with gears and no gear-shift sensor."""
    joined = {p for join in bike.joins for p, _ in join.sides()}
    if any(part.id in joined for part in bike.of_kind("gear_sensor")):
        return
    for motor in bike.of_kind("mid_motor"):
        count = len(motor.spec.sprocket_teeth)
        if count > 1:
            yield Finding(NO_GEAR_SENSOR, (motor.id,), (("motor", motor.name), ("count", str(count))))


RULES: tuple[Callable[[Bike], Iterator[Finding]], ...] = (
    signal_level, pull_ups, grounds, throttle_plug, demands_tied, cut_offs_mixed, display_shared, key_bridged, gear_sensor,
)  # fmt: skip
