"""Rules on nets: what meets what through plugs and cables."""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.bike.model import Part
from brightcore.bike.roles import ROLES, named, role_of
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import at_place
from brightcore.wiring import remedies
from brightcore.wiring.sources import PACK_PLUS

LOW_VOLTS = named(level="5v")
GIVES_PLUS, WANTS_PLUS = named(polarity="plus", gives=True), named(polarity="plus", wants=True)
GIVES_MINUS, WANTS_MINUS = named(polarity="minus", gives=True), named(polarity="minus", wants=True)
SIGNALS = tuple(role.name for role in ROLES if role.is_signal)
TURNING = named(use="phase") | named(use="hall")
LIGHT = frozenset(("lamp_plus", "lamp_minus"))
SENSOR_USES = ("demand", "cut_off", "speed", "mode")
"""What a sensor or lever tells the controller."""


def _meet(
    case: Analysis,
    found: Found,
    first: frozenset[str],
    second: frozenset[str],
    names: tuple[str, str],
) -> Iterator[Finding]:
    """Yield a finding for every wire that has a pin of the first roles and another of the
    second."""
    for wire in case.wires:
        one, two = wire.having(first), wire.having(second)
        if one and two and one.id != two.id:
            yield found((one.id, two.id), **{names[0]: one.words, names[1]: two.words})


@rule(
    "W012",
    "danger",
    "Pack + ({source}) reaches {victim}, which is rated for 5 V.",
    "Disconnect that wire before any power. Identify both pins with a meter first.",
    remedies=(remedies.join_anew, remedies.repin, remedies.part_wire()),
)
def pack_on_signal(case: Analysis, found: Found) -> Iterator[Finding]:
    """Pack volts on a 5 V pin."""
    yield from _meet(case, found, PACK_PLUS, LOW_VOLTS, ("source", "victim"))


@rule(
    "W013",
    "danger",
    "{plus} is connected to {minus}: plus and minus are swapped.",
    "Swap the two wires before any power.",
    remedies=(remedies.repin,),
)
def reversed_poles(case: Analysis, found: Found) -> Iterator[Finding]:
    """Plus and minus exchanged; packs in series meet plus to minus with nothing else on the wire
    and are left alone."""
    told = set()
    for first, second in ((WANTS_PLUS, GIVES_MINUS), (GIVES_PLUS, WANTS_MINUS)):
        for finding in _meet(case, found, first, second, ("plus", "minus")):
            if finding.subjects not in told:
                told.add(finding.subjects)
                yield finding


def _two_sources(case: Analysis, found: Found, role: str) -> Iterator[Finding]:
    """Yield a finding for every wire on which two parts give the same."""
    for wire in case.wires:
        parts = wire.parts(lambda place: place.pin.role == role)
        if len(parts) > 1:
            one, two = parts[:2]
            yield found((one.id, two.id), one=one.name, two=two.name)


@rule(
    "W014",
    "danger",
    "The 5 V supplies of {one} and {two} are tied together.",
    "Share ground and signal only; take the 5 V of one controller.",
    remedies=(remedies.part_wire("supply_5v"),),
)
def supplies_tied(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two controllers' 5 V on one wire."""
    yield from _two_sources(case, found, "supply_5v")


@rule(
    "W015",
    "danger",
    "{one} and {two} are connected in parallel directly.",
    "Fit a combining module: the fuller pack otherwise charges the other without a limit.",
    remedies=(remedies.join_anew, remedies.combiner),
)
def parallel_packs(case: Analysis, found: Found) -> Iterator[Finding]:
    """Packs in parallel without a module."""
    yield from _two_sources(case, found, "pack_plus")


@rule(
    "W016",
    "fault",
    "{one} and {two} share a wire.",
    "Two outputs spoil each other: bring each to its own input.",
    remedies=(remedies.join_anew,),
)
def signals_tied(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two different signals on one wire; crossed phases and halls are told by themselves."""
    for wire in case.wires:
        here = []
        for role in SIGNALS:
            if place := wire.having(frozenset((role,))):
                here.append(place)
        serial = wire.first(lambda place: place.role.use == "serial")
        if here and serial and serial.part.id != here[0].part.id:
            here.append(serial)
        # Phases and halls that meet are another mistake, told by a rule that names both wires.
        if len(here) > 1 and not {place.pin.role for place in here} <= TURNING:
            one, two = here[:2]
            yield found((one.id, two.id), one=one.words, two=two.words)


@rule(
    "W017",
    "fault",
    "{one} is connected to {two}: both send, or both listen.",
    "Swap the two serial wires: transmit goes to receive.",
    remedies=(remedies.repin,),
)
def serial_crossed(case: Analysis, found: Found) -> Iterator[Finding]:
    """Transmit on transmit, or receive on receive."""
    for one, two in (("serial_tx", "display_tx"), ("serial_rx", "display_rx")):
        yield from _meet(case, found, frozenset((one,)), frozenset((two,)), ("one", "two"))


def sensing(case: Analysis) -> Iterator[tuple[Part, frozenset[str]]]:
    """Yield every connected sensor and lever with the roles of its pins."""
    apart = {part.id for part in at_place(case.bike, "controller", "motor")}
    for part in case.bike.parts:
        if part.id in apart or part.id not in case.connected or REGISTRY[part.kind].inline:
            continue
        rows = []
        for port in part.ports:
            for pin in port.pins:
                rows.append(pin.role)
        roles = frozenset(rows)
        if any(role_of(role).use in SENSOR_USES for role in roles):
            yield part, roles


def _unfed(case: Analysis, found: Found, role: str, wanted: frozenset[str]) -> Iterator[Finding]:
    for part, roles in (*sensing(case), *_lit(case)):
        if role in roles and not any(wire.having(wanted) for wire in case.wires_of(part, role)):
            yield found((part.id,), part=part.name)


def _lit(case: Analysis) -> Iterator[tuple[Part, frozenset[str]]]:
    """Yield every connected lamp and the like with the roles of its pins."""
    for part in case.bike.parts:
        rows = []
        for port in part.ports:
            for pin in port.pins:
                rows.append(pin.role)
        roles = frozenset(rows)
        if part.id in case.connected and roles & LIGHT:
            yield part, roles


@rule(
    "W018",
    "fault",
    "The ground of the {part} reaches no ground.",
    "Bring it to the ground of the plug that takes its signal.",
    remedies=(remedies.repin,),
)
def no_ground(case: Analysis, found: Found) -> Iterator[Finding]:
    """A connected sensor or lamp whose ground goes nowhere."""
    for role in ("sensor_ground", "lamp_minus"):
        yield from _unfed(case, found, role, GIVES_MINUS | {"convert_minus"})


@rule(
    "W019",
    "fault",
    "The supply of the {part} is fed by nothing.",
    "Bring it to the supply of the plug that it belongs to: 5 V for sensors, lamp volts for lamps.",
    remedies=(remedies.repin,),
)
def no_supply(case: Analysis, found: Found) -> Iterator[Finding]:
    """A connected sensor or lamp whose supply goes nowhere."""
    for role in ("sensor_supply", "lamp_plus"):
        yield from _unfed(case, found, role, GIVES_PLUS)


@rule(
    "W020",
    "fault",
    "The signal of the {part} reaches no input.",
    "If the controller has no such plug: another controller of the same volts and amps, or a "
    "display with an input for it.",
    remedies=(remedies.repin,),
)
def no_input(case: Analysis, found: Found) -> Iterator[Finding]:
    """A connected sensor whose signal goes nowhere."""
    reading = {part.id for part in at_place(case.bike, "controller")}
    for part, roles in sensing(case):
        own = [role for role in roles if role_of(role).use in SENSOR_USES]
        wires = []
        for role in own:
            for wire in case.wires_of(part, role):
                wires.append(wire)
        if not any(place.part.id in reading for wire in wires for place in wire):
            yield found((part.id,), part=part.name)


@rule(
    "W062",
    "fault",
    "The phases of the {motor} go to the {phases}, its halls to the {halls}.",
    (
        "Connect both plugs of a motor to one controller: it otherwise shudders and draws full "
        "current."
    ),
    remedies=(remedies.join_anew,),
)
def motor_split(case: Analysis, found: Found) -> Iterator[Finding]:
    """A motor whose phases and halls reach different controllers."""
    for motor in at_place(case.bike, "motor"):
        driving = {use: _drivers(case, motor, use) for use in ("phase", "hall")}
        if all(driving.values()) and not driving["phase"] & driving["hall"]:
            phases, halls = (case.bike.part(min(driving[use])).name for use in ("phase", "hall"))
            yield found((motor.id,), motor=motor.name, phases=phases, halls=halls)


def _drivers(case: Analysis, motor: Part, use: str) -> set[str]:
    """Return the controllers that a motor's pins of a use reach."""
    return {
        place.part.id
        for own in case.places_of(motor, lambda role: role.use == use)
        for place in case.net_of(own.id)
        if REGISTRY[place.part.kind].commutates
    }


@rule(
    "W063",
    "danger",
    (
        "The {pack} is connected to the output of the {module}: it is charged from there without "
        "a limit."
    ),
    "Pack out. Connect every pack to an input of its own; only the controller goes to the output.",
    remedies=(remedies.join_anew,),
)
def pack_on_output(case: Analysis, found: Found) -> Iterator[Finding]:
    """A pack on the output of a combining module."""
    for wire in case.wires:
        module = wire.having(frozenset(("combine_out",)))
        pack = wire.having(frozenset(("pack_plus",)))
        if module and pack:
            yield found(
                (pack.part.id, module.part.id), pack=pack.part.name, module=module.part.name
            )


@rule(
    "W061",
    "fault",
    "{power} is connected to {signal}.",
    "A supply or ground belongs on no signal: the part gets nothing, and the input stays at one "
    "level. Move the two wires before power.",
    remedies=(remedies.repin, remedies.join_anew),
)
def supply_on_signal(case: Analysis, found: Found) -> Iterator[Finding]:
    """A supply or ground of one part on a signal of another; pack volts on a 5 V pin are told
    elsewhere."""
    for wire in case.wires:
        # Pack volts on a signal are graver and told as that.
        if wire.having(PACK_PLUS):
            continue
        signal = wire.first(lambda place: place.role.is_signal or place.role.use == "serial")
        power = wire.first(lambda place: bool(place.role.polarity))
        if signal and power and signal.part.id != power.part.id:
            yield found((power.id, signal.id), power=power.words, signal=signal.words)


@rule(
    "W026",
    "advice",
    "{motor}: {wire} goes to {other} of the controller.",
    "Right if it was found so and runs smoothly; otherwise set phases and halls with the phase "
    "and hall finder.",
)
def crossed(case: Analysis, found: Found) -> Iterator[Finding]:
    """Phases or halls that meet another letter: recorded as found."""
    for wire in case.wires:
        turning = [place for place in wire if place.pin.role in TURNING]
        drivers = [place for place in turning if REGISTRY[place.part.kind].commutates]
        for place in (p for p in turning if REGISTRY[p.part.kind].place == "motor"):
            other = next((d for d in drivers if d.pin.role != place.pin.role), None)
            if other:
                yield found(
                    (place.part.id, place.pin.name),
                    motor=place.part.name,
                    wire=place.pin.words,
                    other=other.pin.words,
                )


RULES = (
    pack_on_signal,
    reversed_poles,
    supplies_tied,
    parallel_packs,
    signals_tied,
    serial_crossed,
    no_ground,
    no_supply,
    no_input,
    supply_on_signal,
    motor_split,
    pack_on_output,
    crossed,
)
