"""Wiring rules on nets: what meets what through plugs and cables. All are common practice, no published source."""

from collections.abc import Callable, Iterator
from functools import lru_cache

from brightcore.bike.mating import PLAIN
from brightcore.bike.model import MOTOR_KINDS, Bike, Part, Pin, Port
from brightcore.circuit.nets import Nets
from brightcore.findings import Finding, FindingType
from brightcore.kinds import REGISTRY

CP = "common-practice"
PACK_ON_SIGNAL = FindingType(
    "W012", "danger", "Pack + ({source}) reaches {victim}, which stands 5 V.", "Part that wire before any power. Identify both pins with a meter first.", CP,
)  # fmt: skip
REVERSED = FindingType(
    "W013", "danger", "{plus} stands on a wire with {minus}: plus and minus are exchanged.", "Exchange the two wires before any power.", CP,
)  # fmt: skip
SUPPLIES_TIED = FindingType(
    "W014", "danger", "The 5 V supplies of {one} and {two} are tied together.",
    "Share ground and signal only; take the 5 V of one controller.", CP,
)  # fmt: skip
PARALLEL_PACKS = FindingType(
    "W015", "danger", "{one} and {two} stand in parallel with nothing between them.",
    "Fit a combining module: the fuller pack otherwise charges the other without a limit.", CP,
)  # fmt: skip
SIGNALS_TIED = FindingType(
    "W016", "fault", "{one} and {two} stand on one wire.", "Two outputs spoil each other: bring each to its own input.", CP,
)  # fmt: skip
SERIAL_CROSSED = FindingType(
    "W017", "fault", "{one} meets {two}: both send, or both listen.", "Exchange the two serial wires: transmit goes to receive.", CP,
)  # fmt: skip
NO_GROUND = FindingType(
    "W018", "fault", "The ground of the {part} reaches no ground.", "Bring it to the ground of the plug that takes its signal.", CP,
)  # fmt: skip
NO_SUPPLY = FindingType(
    "W019", "fault", "The supply of the {part} is fed by nothing.", "Bring it to the 5 V of the plug that takes its signal.", CP,
)  # fmt: skip
NO_INPUT = FindingType(
    "W020", "fault", "The signal of the {part} reaches no input.",
    "If the controller has no such plug: another controller of the same volts and amps, or a display with an input for it.", CP,
)  # fmt: skip
ONE_BRAKE = FindingType(
    "W021", "advice", "Only one brake cuts the {controller} off: {part}.", "Fit a cut-off on the other lever too, or note why not.", CP,
)  # fmt: skip
BRAKE_MISSES = FindingType(
    "W022", "fault", "The {part} does not cut the {controller} off, another controller it does.",
    "Bring both brakes to every controller: tie the signals and the grounds, never the supplies.", CP,
)  # fmt: skip
NOTHING_ASKS = FindingType(
    "W023", "fault", "Nothing asks the {controller} to turn its motor: neither throttle nor pedals reach it.", "Join a throttle, a pedal or a torque sensor.", CP,
)  # fmt: skip
KEY_OPEN = FindingType(
    "W024", "fault", "Nothing switches the key line of the {controller}.",
    "Join a display or a key switch; a bridging cap, where the maker allows it, keeps it always on.", CP,
)  # fmt: skip
FAMILIES = FindingType(
    "W025", "fault", "{one} is a {one_family} plug, {two} a {two_family} plug: they do not mate.", "Adapter, or re-terminate: thick wires first, heat-shrink on before the joint.", CP,
)  # fmt: skip
CROSSED = FindingType(
    "W026", "advice", "{motor}: {wire} goes to {other} of the controller.",
    "Right if it was found so and runs smoothly; otherwise set phases and halls by motor matching.", CP,
)  # fmt: skip
OUTPUT_OVERLOADED = FindingType(
    "W027", "fault", "The lamps on the {part} draw {draw_a}, it gives {give_a}.", "Fewer watts, or a converter of its own.", CP,
)  # fmt: skip
UNFUSED = FindingType(
    "W028", "fault", "The {part} hangs on the pack's own lead without a fuse of its own.",
    "A fuse for its wire, DC rated for the full pack, close to where it branches off.", CP,
)  # fmt: skip
TYPES = (
    PACK_ON_SIGNAL, REVERSED, SUPPLIES_TIED, PARALLEL_PACKS, SIGNALS_TIED, SERIAL_CROSSED, NO_GROUND, NO_SUPPLY, NO_INPUT, ONE_BRAKE, BRAKE_MISSES,
    NOTHING_ASKS, KEY_OPEN, FAMILIES, CROSSED, OUTPUT_OVERLOADED, UNFUSED,
)  # fmt: skip

PACK_PLUS = {"pack_plus", "battery_plus", "battery_out", "combine_out"}
DEMANDS = {"throttle_signal", "pedal_signal", "torque_signal"}
SIGNALS = (*sorted(DEMANDS), "brake_signal", "hall_a", "hall_b", "hall_c", "ntc", "wheel_speed")
LOW_VOLTS = {*SIGNALS, "supply_5v", "serial_tx", "serial_rx", "display_rx", "display_tx"}
WANTS_PLUS = {"battery_plus", "display_plus", "lamp_plus", "convert_in", "combine_a", "combine_b", "sensor_supply"}
GIVES_MINUS = {"pack_minus", "signal_ground", "battery_minus"}
WANTS_MINUS = {"battery_minus", "lamp_minus", "sensor_ground", "convert_minus", "combine_minus"}
GIVES_PLUS = {"pack_plus", "supply_5v", "accessory_plus", "battery_out", "convert_out"}
SUPPLIES = GIVES_PLUS | {"battery_plus", "combine_out"}
CUT_OFFS = ("brake_lever", "magnetic_cut_off", "gear_sensor", "stand_switch")
TURNING = ("phase_u", "phase_v", "phase_w", "hall_a", "hall_b", "hall_c")

Place = tuple[Part, Port, Pin]


@lru_cache(maxsize=8)
def wires_of(bike: Bike) -> tuple[tuple[Place, ...], ...]:
    """Return the pins of every net that has more than one, cables and plugs followed."""
    nets = Nets(bike, REGISTRY)
    groups: dict[str, list[Place]] = {}
    for name in nets.pins:
        groups.setdefault(nets.find(name), []).append(bike.pin(name))
    return tuple(tuple(g) for g in groups.values() if len(g) > 1)


def _words(place: Place) -> str:
    part, _, pin = place
    return f"{part.name}, {pin.words}"


def _pick(wire: tuple[Place, ...], roles: set[str]) -> Place | None:
    return next((p for p in wire if p[2].role in roles), None)


def _wire_of(bike: Bike, part: Part, role: str) -> Iterator[tuple[Place, ...]]:
    """Yield the nets on which a part's pins of a role stand, each once."""
    for wire in wires_of(bike):
        if any(p.id == part.id and pin.role == role for p, _, pin in wire):
            yield wire


def _meet(bike: Bike, kind: FindingType, first: set[str], second: set[str], names: tuple[str, str]) -> Iterator[Finding]:
    """Yield a finding for every wire on which a pin of the first and one of the second roles stand."""
    for wire in wires_of(bike):
        one, two = _pick(wire, first), _pick(wire, second)
        if one and two and one is not two:
            yield Finding(
                kind, tuple(f"{p.id}.{q.id}.{pin.name}" for p, q, pin in (one, two)), ((names[0], _words(one)), (names[1], _words(two)))
            )


def pack_on_signal(bike: Bike) -> Iterator[Finding]:
    """W012: pack volts on a 5 V pin."""
    yield from _meet(bike, PACK_ON_SIGNAL, PACK_PLUS, LOW_VOLTS, ("source", "victim"))


def reversed_poles(bike: Bike) -> Iterator[Finding]:
    """W013: plus and minus exchanged; packs in series meet plus to minus with nothing else on the wire and are left alone."""
    yield from _meet(bike, REVERSED, WANTS_PLUS, GIVES_MINUS, ("plus", "minus"))
    yield from _meet(bike, REVERSED, GIVES_PLUS, WANTS_MINUS, ("plus", "minus"))


def _two_sources(bike: Bike, kind: FindingType, role: str) -> Iterator[Finding]:
    for wire in wires_of(bike):
        parts = list(dict.fromkeys(p for p, _, pin in wire if pin.role == role))
        if len(parts) > 1:
            yield Finding(kind, tuple(p.id for p in parts[:2]), (("one", parts[0].name), ("two", parts[1].name)))


def supplies_tied(bike: Bike) -> Iterator[Finding]:
    """W014: two controllers' 5 V on one wire."""
    yield from _two_sources(bike, SUPPLIES_TIED, "supply_5v")


def parallel_packs(bike: Bike) -> Iterator[Finding]:
    """W015: packs in parallel without a module."""
    yield from _two_sources(bike, PARALLEL_PACKS, "pack_plus")


def signals_tied(bike: Bike) -> Iterator[Finding]:
    """W016: two different signals on one wire."""
    for wire in wires_of(bike):
        here = [next(p for p in wire if p[2].role == role) for role in SIGNALS if any(p[2].role == role for p in wire)]
        turning = {p[2].role for p in here} <= set(TURNING)
        if len(here) > 1 and not turning:
            yield Finding(
                SIGNALS_TIED,
                tuple(f"{p.id}.{q.id}.{pin.name}" for p, q, pin in here[:2]),
                (("one", _words(here[0])), ("two", _words(here[1]))),
            )


def serial_crossed(bike: Bike) -> Iterator[Finding]:
    """W017: transmit on transmit, or receive on receive."""
    yield from _meet(bike, SERIAL_CROSSED, {"serial_tx"}, {"display_tx"}, ("one", "two"))
    yield from _meet(bike, SERIAL_CROSSED, {"serial_rx"}, {"display_rx"}, ("one", "two"))


def half_joined(bike: Bike) -> Iterator[Finding]:
    """W018, W019, W020: a joined sensor whose ground, supply or signal goes nowhere."""
    for part in bike.parts:
        if part.kind == "controller" or part.kind in MOTOR_KINDS or not any(bike.joins_of(part.id)):
            continue
        roles = {pin.role for port in part.ports for pin in port.pins}
        if not roles & {*DEMANDS, "brake_signal", "wheel_speed"}:
            continue
        for kind, role, wanted in (
            (NO_GROUND, "sensor_ground", {"signal_ground", "pack_minus", "battery_minus", "convert_minus"}),
            (NO_SUPPLY, "sensor_supply", SUPPLIES),
        ):
            if role in roles and not any(_pick(wire, wanted) for wire in _wire_of(bike, part, role)):
                yield Finding(kind, (part.id,), (("part", part.name),))
        own = roles & {*DEMANDS, "brake_signal", "wheel_speed"}
        if not any(p.kind == "controller" for role in own for wire in _wire_of(bike, part, role) for p, _, _ in wire):
            yield Finding(NO_INPUT, (part.id,), (("part", part.name),))


def _cut_by(bike: Bike, controller: Part) -> list[Part]:
    found = [p for wire in _wire_of(bike, controller, "brake_signal") for p, _, _ in wire if p.kind in CUT_OFFS[:2]]
    return list(dict.fromkeys(found))


def brakes(bike: Bike) -> Iterator[Finding]:
    """W021, W022: one lever only; a lever that reaches one controller and not another."""
    controllers = bike.of_kind("controller")
    cuts = {c.id: _cut_by(bike, c) for c in controllers}
    for controller in controllers:
        own = cuts[controller.id]
        for part in dict.fromkeys(p for parts in cuts.values() for p in parts if p not in own):
            yield Finding(BRAKE_MISSES, (part.id, controller.id), (("part", part.name), ("controller", controller.name)))
        if len(own) == 1:
            yield Finding(ONE_BRAKE, (controller.id,), (("controller", controller.name), ("part", own[0].name)))


def nothing_asks(bike: Bike) -> Iterator[Finding]:
    """W023, W024: no demand, no way to switch on."""
    for controller in bike.of_kind("controller"):
        values = (("controller", controller.name),)
        if not any(
            p.id != controller.id and pin.role == role
            for role in DEMANDS
            for wire in _wire_of(bike, controller, role)
            for p, _, pin in wire
        ):
            yield Finding(NOTHING_ASKS, (controller.id,), values)
        has_key = any(pin.role == "key" for port in controller.ports for pin in port.pins)
        if has_key and not any(_pick(wire, {"display_key", "key_out", *PACK_PLUS}) for wire in _wire_of(bike, controller, "key")):
            yield Finding(KEY_OPEN, (controller.id,), values)


def families(bike: Bike) -> Iterator[Finding]:
    """W025: plugs of two different makes joined."""
    for join in bike.joins:
        (a, p), (b, q) = ((bike.part(part), bike.part(part).port(port)) for part, port in join.sides())
        if p.family != q.family and p.family not in PLAIN and q.family not in PLAIN:
            values = (
                ("one", f"{a.name}, {p.label or p.id}"),
                ("one_family", p.family),
                ("two", f"{b.name}, {q.label or q.id}"),
                ("two_family", q.family),
            )
            yield Finding(FAMILIES, (join.id,), values)


def crossed(bike: Bike) -> Iterator[Finding]:
    """W026: phases or halls that meet another letter: recorded as found."""
    for wire in wires_of(bike):
        for motor, _, pin in (p for p in wire if p[0].kind in MOTOR_KINDS and p[2].role in TURNING):
            other = next((p for p in wire if p[0].kind == "controller" and p[2].role in TURNING and p[2].role != pin.role), None)
            if other:
                yield Finding(
                    CROSSED,
                    (motor.id, pin.name),
                    (("motor", motor.name), ("wire", pin.words), ("other", other[2].words)),
                )


def outputs(bike: Bike) -> Iterator[Finding]:
    """W027, W028: lamps against what feeds them; what hangs on the pack's own lead."""
    for wire in wires_of(bike):
        lamps = [p for p, _, pin in wire if pin.role == "lamp_plus"]
        for part, _, pin in wire:
            if pin.role in ("accessory_plus", "convert_out") and lamps:
                gives = part.spec.accessory_a if pin.role == "accessory_plus" else part.spec.out_a
                draws = sum(lamp.spec.power_w / lamp.spec.rated_v for lamp in lamps)
                if draws > gives:
                    yield Finding(
                        OUTPUT_OVERLOADED, (part.id,), (("part", part.name), ("draw_a", f"{draws:.2g} A"), ("give_a", f"{gives:g} A"))
                    )
            if pin.role in ("convert_in", "lamp_plus") and _pick(wire, {"pack_plus"}) and not _pick(wire, {"battery_out"}):
                yield Finding(UNFUSED, (part.id,), (("part", part.name),))


RULES: tuple[Callable[[Bike], Iterator[Finding]], ...] = (
    pack_on_signal, reversed_poles, supplies_tied, parallel_packs, signals_tied, serial_crossed, half_joined, brakes, nothing_asks, families, crossed,
    outputs,
)  # fmt: skip
