"""Rules on signal levels, pull-ups, grounds, and who talks to a display."""

import math
from collections.abc import Iterator

from brightcore.analysis.bike import Analysis, Net, Place
from brightcore.analysis.rule import Found, rule
from brightcore.bike.model import Part
from brightcore.bike.roles import ROLES
from brightcore.findings import Finding
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import controllers, displays
from brightcore.wiring import remedies
from brightcore.wiring.sources import given_v

INPUT_V = 5.2
"""Highest volts a 5 V input is given (common practice)."""

LOWER_KOHM = 10.0
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
"""Lower leg of a divider, and the preferred values its upper leg is taken from (IEC 60063)."""

PULLED = frozenset(role.name for role in ROLES if role.output == "pulls")
"""Roles of outputs that only pull to ground; a controller's input of the same role has the
pull-up."""

TOLD = tuple(role.name for role in ROLES if role.output)
"""Roles of all outputs of sensors."""


def divider(volts: float) -> tuple[float, float]:
    """Return (upper, lower) resistors in ohm that bring volts to 5 V or just under; the upper of
    the E12 series.

    >>> divider(10.0)
    (10000.0, 10000.0)
    """
    wanted = LOWER_KOHM * (volts / 5.0 - 1.0)
    if wanted > 0:
        decade = 10.0 ** math.floor(math.log10(wanted))
    else:
        decade = 1.0
    upper = next((e * decade for e in (*E12, 10.0) if e * decade >= wanted * 0.999), 10.0 * decade)
    return round(upper * 1000, 3), LOWER_KOHM * 1000


def _kohm(ohm: float) -> str:
    return f"{ohm / 1000:g} kΩ"


def _reads(place: Place) -> bool:
    """Return whether a pin is of a controller."""
    return REGISTRY[place.part.kind].commutates


def _inputs(wire: Net) -> list[Place]:
    return [place for place in wire if _reads(place)]


@rule(
    "W041",
    "danger",
    "The {part} fed with {fed_v} gives up to {out_v} on {input}, which is rated for 5 V.",
    "Feed it through a step-down converter to 5 V, or divide its signal: {upper} from signal to "
    "input, {lower} from input to ground.",
)
def signal_level(case: Analysis, found: Found) -> Iterator[Finding]:
    """An output above what a 5 V input takes."""
    for part in case.bike.parts:
        for place in case.places_of(part, lambda r: r.output == "drives"):
            ratio = REGISTRY[part.kind].highest_ratio(part.spec, place.pin.role)
            if not ratio:
                continue
            fed = max(
                (given_v(case, wire) for wire in case.wires_of(part, "sensor_supply")), default=0.0
            )
            inputs = _inputs(case.net_of(place.id))
            out = fed * ratio
            if inputs and out > INPUT_V:
                upper, lower = divider(out)
                yield found(
                    (part.id, inputs[0].part.id),
                    part=part.name,
                    fed_v=f"{fed:g} V",
                    out_v=f"{out:.1f} V",
                    input=inputs[0].words,
                    upper=_kohm(upper),
                    lower=_kohm(lower),
                )


@rule(
    "W042",
    "fault",
    "The {part} only pulls its wire to ground, and {input} has no pull-up: the wire floats.",
    "Bring it to its own input, or fit 1 to 10 kΩ from the wire to 5 V.",
    remedies=(remedies.join_anew,),
)
def no_pull_up(case: Analysis, found: Found) -> Iterator[Finding]:
    """An output that only pulls down, on an input without a pull-up."""
    for wire in case.wires:
        inputs = _inputs(wire)
        if not inputs or any(place.pin.role in PULLED for place in inputs):
            continue
        for place in wire:
            if place.pin.role in PULLED and not _reads(place):
                yield found(
                    (place.part.id, inputs[0].part.id), part=place.part.name, input=inputs[0].words
                )


@rule(
    "W043",
    "advice",
    "The {part} takes its ground from the {ground}, its signal goes to the {signal}.",
    "Take ground where the signal is read: motor current in a shared ground shifts the signal.",
    remedies=(remedies.repin, remedies.join_anew),
)
def ground_elsewhere(case: Analysis, found: Found) -> Iterator[Finding]:
    """Ground from one controller, signal to another."""
    if len(controllers(case.bike)) < 2:
        return
    for part in case.bike.parts:
        if REGISTRY[part.kind].commutates:
            continue
        grounds = _readers(case, part, ("sensor_ground",))
        for reader in _readers(case, part, TOLD):
            if grounds and reader not in grounds:
                ground = min(other.name for other in grounds)
                yield found((part.id, reader.id), part=part.name, ground=ground, signal=reader.name)


def _readers(case: Analysis, part: Part, roles: tuple[str, ...]) -> list[Part]:
    """Return the controllers that a part's pins of some roles reach, each once."""
    wires = []
    for role in roles:
        for wire in case.wires_of(part, role):
            wires.append(wire)
    return list(dict.fromkeys(place.part for wire in wires for place in _inputs(wire)))


@rule(
    "W047",
    "fault",
    "{one} and {two} both send to the {display}.",
    "A display listens to one controller: leave the other's transmit wire off, insulated.",
    remedies=(remedies.part_wire("serial_tx"),),
)
def display_shared(case: Analysis, found: Found) -> Iterator[Finding]:
    """Two controllers that send to one display."""
    for display in displays(case.bike):
        wires = []
        for role in ("display_rx", "display_tx"):
            for wire in case.wires_of(display, role):
                wires.append(wire)
        sending = (place.part for wire in wires for place in wire if place.pin.role == "serial_tx")
        senders = list(dict.fromkeys(sending))
        if len(senders) > 1:
            one, two = senders[:2]
            yield found((display.id,), one=one.name, two=two.name, display=display.name)


RULES = (signal_level, no_pull_up, ground_elsewhere, display_shared)
