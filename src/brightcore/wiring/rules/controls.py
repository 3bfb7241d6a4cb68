"""Rules on what asks the motor to run and what cuts it off: brakes, demands, keys, gear-shift
sensor."""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis, Place
from brightcore.analysis.rule import Found, rule
from brightcore.bike.model import Part
from brightcore.bike.roles import ROLES, named
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.levers import LeverSpec
from brightcore.kinds.select import at_place, controllers, cutting, mid_motors
from brightcore.kinds.switches import GearSensor
from brightcore.wiring import remedies
from brightcore.wiring.sources import PACK_PLUS

DEMANDS = named(use="demand")
SWITCHES_KEY = frozenset(
    role.name for role in ROLES if role.use == "key" and role.gives and role.name != "key"
)
DRIVES = frozenset(role.name for role in ROLES if role.output == "drives")
"""Roles of outputs that drive their wire."""


@rule(
    "W006",
    "fault",
    "No brake cut-off is connected to the {controller}.",
    (
        "Fit one on each lever, or waive it with a reason that stays on the job sheet; local law "
        "may require it."
    ),
    remedies=(remedies.join_free, remedies.fit_cut_off),
)
def no_cut_off(case: Analysis, found: Found) -> Iterator[Finding]:
    """A bike on which no brake lever is connected."""
    if any(part.id in case.connected for part in cutting(case.bike, "brake")):
        return
    for controller in controllers(case.bike):
        yield found((controller.id,), controller=controller.name)


def _levers_on(case: Analysis, controller: Part) -> list[Part]:
    """Return the brake levers whose signal reaches a controller, each once."""
    levers = {part.id for part in cutting(case.bike, "brake")}
    wires = case.wires_of(controller, "brake_signal")
    parts = []
    for wire in wires:
        for place in wire:
            if place.part.id in levers:
                parts.append(place.part)
    return list(dict.fromkeys(parts))


@rule(
    "W021",
    "advice",
    "Only one brake cuts the {controller} off: {part}.",
    "Fit a cut-off on the other lever too, or note why not.",
    remedies=(remedies.join_free, remedies.fit_cut_off),
)
def one_brake(case: Analysis, found: Found) -> Iterator[Finding]:
    """A controller that only one lever cuts."""
    for controller in controllers(case.bike):
        levers = _levers_on(case, controller)
        if len(levers) == 1:
            yield found((controller.id,), controller=controller.name, part=levers[0].name)


@rule(
    "W022",
    "fault",
    "The {part} does not cut off the {controller}, but cuts off another controller.",
    "Bring both brakes to every controller: tie the signals and the grounds, never the supplies.",
    remedies=(remedies.join_free,),
)
def brake_misses(case: Analysis, found: Found) -> Iterator[Finding]:
    """A lever that reaches one controller and not another."""
    reached = {c.id: _levers_on(case, c) for c in controllers(case.bike)}
    everyone = dict.fromkeys(lever for levers in reached.values() for lever in levers)
    for controller in controllers(case.bike):
        for lever in everyone:
            if lever not in reached[controller.id]:
                yield found((lever.id, controller.id), part=lever.name, controller=controller.name)


@rule(
    "W023",
    "fault",
    "No throttle or pedal signal reaches the {controller}.",
    "Connect a throttle, a pedal or a torque sensor.",
    remedies=(remedies.join_free, remedies.fit_demand),
)
def nothing_asks(case: Analysis, found: Found) -> Iterator[Finding]:
    """A controller that no demand reaches."""
    for controller in controllers(case.bike):
        if not any(_asked_by(case, controller, role) for role in sorted(DEMANDS)):
            yield found((controller.id,), controller=controller.name)


def _asked_by(case: Analysis, controller: Part, role: str) -> bool:
    def asks(place: Place) -> bool:
        return not REGISTRY[place.part.kind].commutates and place.pin.role == role

    return any(wire.first(asks) for wire in case.wires_of(controller, role))


@rule(
    "W024",
    "fault",
    "Nothing switches the key line of the {controller}.",
    (
        "Connect a display or a key switch; a bridging cap, where the maker allows it, keeps it "
        "always on."
    ),
    remedies=(remedies.repin,),
)
def key_open(case: Analysis, found: Found) -> Iterator[Finding]:
    """A controller whose key line nothing switches."""
    for controller in controllers(case.bike):
        has_key = any(case.places_of(controller, lambda r: r.name == "key"))
        wires = case.wires_of(controller, "key")
        if has_key and not any(wire.having(SWITCHES_KEY | PACK_PLUS) for wire in wires):
            yield found((controller.id,), controller=controller.name)


@rule(
    "W044",
    "fault",
    "The {part} cannot be connected: no controller of this bike has a throttle plug.",
    "Another controller of {volts} and {amps} with the plug; or a display that takes a throttle "
    "and passes it on.",
    remedies=(remedies.swap,),
)
def no_throttle_plug(case: Analysis, found: Found) -> Iterator[Finding]:
    """A throttle, and neither controller nor display with a pin for it."""
    owners = [
        p for p in case.bike.parts if any(case.places_of(p, lambda r: r.name == "throttle_signal"))
    ]
    throttles = []
    for p in owners:
        if REGISTRY[p.kind].highest_ratio(p.spec, "throttle_signal"):
            throttles.append(p)
    if len(owners) > len(throttles):
        return
    for part in throttles:
        for controller in controllers(case.bike)[:1]:
            spec = controller.spec
            yield found(
                (part.id,),
                part=part.name,
                volts=f"{spec.rated_v:g} V",
                amps=f"{spec.battery_limit_a:g} A",
            )


@rule(
    "W045",
    "fault",
    "{one} and {two} drive one wire: at rest each holds the other down.",
    "One of them only, or each to an input of its own.",
    remedies=(remedies.join_anew,),
)
def demands_tied(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two driven outputs on one wire."""
    reading = {part.id for part in at_place(case.bike, "controller")}
    for wire in case.wires:
        parts = wire.parts(lambda place: place.pin.role in DRIVES and place.part.id not in reading)
        if len(parts) > 1:
            yield found((parts[0].id, parts[1].id), one=parts[0].name, two=parts[1].name)


@rule(
    "W046",
    "fault",
    "{one} opens and {two} closes when braking, on one wire: it stays cut off, or never is.",
    "Two of one kind on a wire, or one input each.",
    remedies=(remedies.join_anew,),
)
def cut_offs_mixed(case: Analysis, found: Found) -> Iterator[Finding]:
    """Normally closed and normally open on one wire."""
    reading = {part.id for part in at_place(case.bike, "controller")}
    for wire in case.wires:
        levers = wire.parts(
            lambda place: place.role.use == "cut_off" and place.part.id not in reading
        )
        closed = []
        for p in levers:
            if isinstance(p.spec, LeverSpec) and p.spec.normally_closed:
                closed.append(p)
        others = [p for p in levers if p not in closed]
        if closed and others:
            one, two = closed[0], others[0]
            yield found((one.id, two.id), one=one.name, two=two.name)


@rule(
    "W048",
    "advice",
    "The key line of the {controller} is bridged: it is on whenever the pack is.",
    "Only with a switch on the pack within reach; unplug it when the bike stands.",
)
def key_bridged(case: Analysis, found: Found) -> Iterator[Finding]:
    """Pack + and key line on one wire, nothing between."""
    for wire in case.wires:
        keys = wire.parts(lambda place: place.pin.role == "key")
        if keys and wire.having(PACK_PLUS):
            yield found((keys[0].id,), controller=keys[0].name)


@rule(
    "W049",
    "advice",
    "The {motor} drives {count} sprockets and nothing cuts it while shifting.",
    "Some workshops fit a gear-shift sensor to every mid drive, others ease off or stays in one "
    "gear. Fit one, or note why not.",
    remedies=(remedies.join_free, remedies.fit_gear_sensor),
)
def no_gear_sensor(case: Analysis, found: Found) -> Iterator[Finding]:
    """A mid drive with gears and no gear-shift sensor."""
    if any(part.id in case.connected for part in case.bike.of_kind(GearSensor.name)):
        return
    for motor in mid_motors(case.bike):
        count = len(motor.spec.sprocket_teeth)
        if count > 1:
            yield found((motor.id,), motor=motor.name, count=str(count))


RULES = (
    no_cut_off,
    one_brake,
    brake_misses,
    nothing_asks,
    key_open,
    no_throttle_plug,
    demands_tied,
    cut_offs_mixed,
    key_bridged,
    no_gear_sensor,
)
