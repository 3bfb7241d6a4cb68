"""Which plug is this: the fewest readings that name a plug without a label, asked for by what they tell."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from brightcore.bike.model import Bike
from brightcore.describing.edit import port_words, with_port
from brightcore.kinds.select import controllers
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    read_all,
    verdict_of,
)
from brightcore.setting.plug_belief import (
    MINUTES,
    SAFE_OPEN_V,
    Candidate,
    Floats,
    Wire,
    assignment,
    bin_of,
    candidates,
    gains,
    weigh,
)

SURE, WIRE_SURE = 0.95, 0.8
"""Belief from which a plug is named, and from which a wire of it is."""

LEAST_BITS = 0.03
MOST_READINGS, MOST_PINS = 24, 16
CHANGE_MIN = 2.0
"""Minutes for putting the pack in or out between two readings (common practice)."""

GENDERS = (("pins", "pins"), ("sockets", "sockets"))
STATES = (
    ("out", "pack stays out: ohms only"),
    ("off", "pack can go in, no display connected"),
    ("on", "pack in, display connected and on"),
)
TITLES = {
    "ohm": "Wire {n}: ohms to battery −",
    "volt": "Wire {n}: volts to battery −, nothing connected to it",
    "load": "Wire {n}: volts again, with 1 kΩ from it to battery −",
}
STANDS = {
    "ohm": "Pack out, every plug of the controller free; black probe on battery −",
    "volt": "Pack in, wheel up; black probe on battery −. Over 6 V: note it and leave that wire alone",
    "load": "As before; this wire read 6 V or less. Never load a thick wire or one over 6 V",
}
GATES_OF = {
    "ohm": ("pack_out", "discharged"),
    "volt": ("pack_safe", "wheel_up"),
    "load": ("pack_safe", "wheel_up"),
}
FIELDS = {
    "ohm": ("Ohms of wire {n}", "ohm", 0.0, 1e9),
    "volt": ("Volts of wire {n}", "V", -1.0, 120.0),
    "load": ("Volts of wire {n}, loaded", "V", -1.0, 7.0),
}
OTHER = "none of this part's plugs"


class WhichPlug(Instrument):
    """Pins, looks, then readings; answers with a probability and what else it could be."""

    key = "plug"
    title = "Which plug is this?"
    helper = True

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every controller: its plugs are the ones that look alike."""
        return tuple(Subject(c.id, c.name) for c in controllers(bike) if len(c.ports) > 1)

    def steps(self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None) -> tuple[Step, ...]:
        """What is seen, the readings made, and the next one that tells most for its minutes."""
        made = [name for name, text in (typed or {}).items() if _reading(name) is not None and text]
        steps = [_look(), *(_step(name) for name in made)]
        found = read_all([item for step in steps for item in step.fields], typed or {})
        wires = _wires(found)
        if wires and len(made) < MOST_READINGS:
            before = _reading(made[-1]) if made else None
            asked = _next(bike, subject, found, wires, before[0] if before else "ohm")
            if asked:
                steps.append(_step(asked))
        return tuple(steps)

    def judge(
        self, bike: Bike, subject: str, found: Readings, options: Mapping[str, str], last: Mapping[str, float]
    ) -> Verdict:
        """Say which plug it is and which wire is what, or what is still possible."""
        wires = _wires(found)
        if not wires:
            return verdict_of([], False, "", waiting="Count the pins and look at the wires")
        known, share = _belief(bike, subject, found, wires)
        order = [int(n) for n in np.argsort(-share)]
        part = bike.part(subject)
        names = [port_words(part, c.port) for c in known] + [OTHER]
        told = " or ".join(f"{names[n]} {100 * share[n]:.0f} %" for n in order[:3] if share[n] > 0.02)
        best = order[0]
        if best < len(known) and share[best] >= SURE and len(known[best].port.pins) == len(wires):
            return _named(known[best], names[best], float(share[best]), wires, told)
        if best == len(known) and share[best] >= SURE:
            text = "No plug of this controller reads like that"
            change = "Another part's plug, a fault, or one that is not described: follow its cable."
            return verdict_of([SetFinding("S130", "fault", text, change)], True, "")
        if _next(bike, subject, found, wires):
            return verdict_of([], False, "", waiting=f"So far: {told}")
        text = f"No further reading here tells these apart: {told}"
        change = "Connect the sensor that it should be for and read again, or follow the wire to the board."
        return verdict_of([SetFinding("S131", "advice", text, change)], True, f"Not decided: {told}")

    def described(self, bike: Bike, subject: str, found: Readings) -> Bike:
        """Return the bike with the plug as found: gender, colours, and its pins in the order found."""
        wires = _wires(found)
        if not wires:
            return bike
        known, share = _belief(bike, subject, found, wires)
        best = int(np.argmax(share))
        if best == len(known) or share[best] < SURE or len(known[best].port.pins) != len(wires):
            return bike
        port = known[best].port
        at = assignment(known[best], wires)
        chosen = [int(n) for n in at.argmax(axis=1)]
        certain = len(set(chosen)) == len(chosen) and float(at.max(axis=1).min()) >= WIRE_SURE
        pins = [port.pins[n] for n in chosen] if certain else list(port.pins)
        if certain:
            pins = [
                replace(pin, colour=wire.colour or pin.colour) for pin, wire in zip(pins, wires, strict=True)
            ]
        made = replace(port, pins=tuple(pins), gender=found.chosen("gender") or port.gender)
        return with_port(bike, subject, made)


def _look() -> Step:
    return Step(
        "look",
        "Look at the plug: pins, which are thick, colours in order from the notch",
        "Pack out, plug free; number its wires from the notch or the arrow",
        (),
        (
            Field("pins", "Pins with a wire", "", 1.0, float(MOST_PINS), whole=True),
            Field("state", "The pack", choices=STATES),
            Field(
                "thick", "Thick wires", "", 1.0, float(MOST_PINS), needed=False, many=True, help="such as 1 2"
            ),
            Field("gender", "It has", choices=GENDERS, needed=False),
            Field("colours", "Colours", needed=False, words=True, help="such as red black white"),
        ),
    )


def _reading(name: str) -> tuple[str, int] | None:
    """Return (kind, place) of a reading's field, None for another field."""
    kind, _, place = name.partition("_")
    return (kind, int(place)) if kind in MINUTES and place.isdigit() else None


def _step(name: str) -> Step:
    kind, place = _reading(name) or ("ohm", 1)
    label, unit, low, high = FIELDS[kind]
    return Step(
        name,
        TITLES[kind].format(n=place),
        STANDS[kind],
        GATES_OF[kind],
        (Field(name, label.format(n=place), unit, low, high, over=kind == "ohm"),),
    )


def _wires(found: Readings) -> tuple[Wire, ...]:
    """Return the wires of the plug in hand with what was read of each; empty until they are counted."""
    count = found.number("pins")
    if count is None or not found.chosen("state"):
        return ()
    thick = {round(n) for n in found.row("thick")}
    colours = found.chosen("colours").replace(",", " ").split()
    wires = []
    for place in range(1, round(count) + 1):
        values = [(kind, found.number(f"{kind}_{place}")) for kind in MINUTES]
        read = tuple((kind, bin_of(kind, value)) for kind, value in values if value is not None)
        colour = colours[place - 1] if place <= len(colours) else ""
        wires.append(Wire(place, place in thick if thick else None, colour, read))
    return tuple(wires)


def _belief(
    bike: Bike, subject: str, found: Readings, wires: tuple[Wire, ...]
) -> tuple[tuple[Candidate, ...], Floats]:
    state = found.chosen("state")
    known = candidates(replace(bike, measured=()), subject, state)
    taken = frozenset(
        value.name.removeprefix("plug_")
        for value in bike.measured
        if value.part == subject and value.name.startswith("plug_")
    )
    return known, weigh(known, wires, found.chosen("gender"), taken, state != "out")


def _next(bike: Bike, subject: str, found: Readings, wires: tuple[Wire, ...], before: str = "ohm") -> str:
    """Return the reading to take next, "" where the plug is named or none tells enough.

    `before`: kind of the last reading; putting the pack in or out between two costs its minutes.
    """
    known, share = _belief(bike, subject, found, wires)
    sure = share.max() >= SURE
    if sure and _wires_known(known, share, wires):
        return ""
    asked = _allowed(found, wires)
    if not asked:
        return ""
    bits = gains(known, wires, share, asked)
    best = int(np.argmax(share))
    if sure and best < len(known):
        bits = [bit + _doubt(known[best], wires, place) for (place, _), bit in zip(asked, bits, strict=True)]
    costs = [
        MINUTES[kind] + (CHANGE_MIN if (kind == "ohm") is not (before == "ohm") else 0.0) for _, kind in asked
    ]
    worth = [bit / cost for bit, cost in zip(bits, costs, strict=True)]
    chosen = int(np.argmax(worth))
    if bits[chosen] < LEAST_BITS:
        return ""
    place, kind = asked[chosen]
    return f"{kind}_{place}"


def _wires_known(known: tuple[Candidate, ...], share: Floats, wires: tuple[Wire, ...]) -> bool:
    best = int(np.argmax(share))
    if best == len(known) or len(known[best].port.pins) != len(wires):
        return True
    return float(assignment(known[best], wires).max(axis=1).min()) >= WIRE_SURE


def _doubt(candidate: Candidate, wires: tuple[Wire, ...], place: int) -> float:
    """Return how unsure it is which pin a wire is, as a share: what a reading of it may settle."""
    if len(candidate.port.pins) != len(wires):
        return 0.0
    return float(1 - assignment(candidate, wires)[place - 1].max())


def _allowed(found: Readings, wires: tuple[Wire, ...]) -> list[tuple[int, str]]:
    """Return the readings that may be taken: no resistor on a thick wire or one over 6 V, ohms first."""
    state, asked, seen = found.chosen("state"), [], set()
    for wire in wires:
        kinds = {kind for kind, _ in wire.read}
        for kind in ("ohm", "volt", "load"):
            if kind in kinds or (kind != "ohm" and state == "out"):
                continue
            if kind == "load":
                volts = found.number(f"volt_{wire.place}")
                if volts is None or volts > SAFE_OPEN_V or wire.thick:
                    continue
            alike = (kind, wire.read, wire.thick, wire.colour)
            if alike not in seen:
                seen.add(alike)
                asked.append((wire.place, kind))
    return asked


def _named(candidate: Candidate, name: str, share: float, wires: tuple[Wire, ...], told: str) -> Verdict:
    at = assignment(candidate, wires)
    values = [Measured(f"plug_{candidate.port.id}", round(share, 3), "", f"{name}, with {len(wires)} pins")]
    unsure = []
    for wire, row in zip(wires, at, strict=True):
        pin = candidate.port.pins[int(row.argmax())]
        words = f"wire {wire.place}{f', {wire.colour}' if wire.colour else ''}: {pin.words}"
        values.append(Measured(f"wire_{wire.place}", round(float(row.max()), 3), "", words))
        if row.max() < WIRE_SURE:
            unsure.append(str(wire.place))
    findings = []
    if unsure:
        text = f"Wires {', '.join(unsure)} are not told apart by these readings"
        change = "Signals of one kind look alike until their part is moved: read them once connected."
        findings.append(SetFinding("S132", "advice", text, change))
    return verdict_of(findings, True, f"{name}: {100 * share:.0f} %", tuple(values))
