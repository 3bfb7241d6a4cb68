"""Which plug is this: the fewest readings that name a plug without a label, asked for by what they
tell."""

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from brightcore.bike.model import Bike, Pin
from brightcore.bike.roles import role_of
from brightcore.describing.edit import with_port
from brightcore.describing.join_words import port_words
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
from brightcore.touching import DEAD

SURE, WIRE_SURE = 0.95, 0.8
"""Belief from which a plug is named, and from which a wire of it is."""

LEAST_BITS = 0.03
SMALL = 0.02
"""A plug below this belief is no longer named among the possible ones."""

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
    "volt": (
        "Pack in, wheel up; black probe on battery −. Over 6 V: note it and leave that wire alone"
    ),
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
        found = []
        for c in controllers(bike):
            if len(c.ports) > 1:
                found.append(Subject(c.id, c.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """What is seen, the readings made, and the next one that tells most for its minutes."""
        made = []
        for name, text in (typed or {}).items():
            if _reading(name) is not None and text:
                made.append(name)
        steps = [_look(), *(_step(name) for name in made)]
        found = read_all([item for step in steps for item in step.fields], typed or {})
        wires = _wires(found)
        if wires and len(made) < MOST_READINGS:
            before = _reading(made[-1]) if made else None
            asked = _next(bike, subject, found, wires, before[0] if before else "ohm")
            if asked:
                steps.append(_step(asked))
        return tuple(steps)

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Say which plug it is and which wire is what, or what is still possible."""
        wires = _wires(found)
        if not wires:
            return verdict_of([], False, "", waiting="Count the pins and look at the wires")
        known, share = _belief(bike, subject, found, wires)
        order = [int(n) for n in np.argsort(-share)]
        part = bike.part(subject)
        names = [port_words(part, c.port) for c in known] + [OTHER]
        told = " or ".join(
            f"{names[n]} {100 * share[n]:.0f} %" for n in order[:3] if share[n] > SMALL
        )
        best = order[0]
        if best < len(known) and share[best] >= SURE and len(known[best].port.pins) == len(wires):
            return _named(known[best], names[best], float(share[best]), wires)
        if best == len(known) and share[best] >= SURE:
            text = "No plug of this controller reads like that"
            change = "Another part's plug, a fault, or one that is not described: follow its cable."
            return verdict_of([SetFinding("S130", "fault", text, change)], True, "")
        if _next(bike, subject, found, wires):
            return verdict_of([], False, "", waiting=f"So far: {told}")
        text = f"No further reading here tells these apart: {told}"
        change = (
            "Connect what it should belong to and see what answers, or follow the wire "
            "to the board."
        )
        findings = [SetFinding("S131", "advice", text, change)]
        if _alike(known, share):
            values = _wire_values(known[best], wires, _class_words)
        else:
            values = []
        return verdict_of(findings, True, f"Not decided: {told}", tuple(values))

    def described(self, bike: Bike, subject: str, found: Readings) -> Bike:
        """Return the bike with the plug as found: gender, colours, and its pins in the order
        found."""
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
        unread = []
        for row, wire in zip(at, wires, strict=True):
            unread.append(_is_pole_unread(known[best], row, wire))
        own = len(set(chosen)) == len(chosen)
        certain = own and not any(unread) and float(at.max(axis=1).min()) >= WIRE_SURE
        if certain:
            pins = [port.pins[n] for n in chosen]
        else:
            pins = list(port.pins)
        if certain:
            pins = [
                replace(pin, colour=wire.colour or pin.colour)
                for pin, wire in zip(pins, wires, strict=True)
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
            Field(
                "thick",
                "Thick wires",
                "",
                1.0,
                float(MOST_PINS),
                needed=False,
                many=True,
                help="such as 1 2",
            ),
            Field("colours", "Colours", needed=False, words=True, help="such as red black white"),
            Field("state", "The pack", choices=STATES),
            Field("gender", "Contacts", choices=GENDERS, needed=False),
        ),
        touches=DEAD,
    )


def _reading(name: str) -> tuple[str, int] | None:
    """Return (kind, place) of a reading's field, None for another field."""
    kind, _, place = name.partition("_")
    if kind in MINUTES and place.isdigit():
        return (kind, int(place))
    return None


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
    """Return the wires of the plug in hand with what was read of each; empty until they are
    counted."""
    count = found.number("pins")
    if count is None or not found.chosen("state"):
        return ()
    thick = {round(n) for n in found.row("thick")}
    colours = found.chosen("colours").replace(",", " ").split()
    wires = []
    for place in range(1, round(count) + 1):
        values = [(kind, found.number(f"{kind}_{place}")) for kind in MINUTES]
        rows = []
        for kind, value in values:
            if value is not None:
                rows.append((kind, bin_of(kind, value)))
        read = tuple(rows)
        colour = colours[place - 1] if place <= len(colours) else ""
        wires.append(Wire(place, place in thick if thick else None, colour, read))
    return tuple(wires)


def _belief(
    bike: Bike, subject: str, found: Readings, wires: tuple[Wire, ...]
) -> tuple[tuple[Candidate, ...], Floats]:
    state = found.chosen("state")
    known = candidates(replace(bike, measured=()), subject, state)
    rows = []
    for value in bike.measured:
        if value.part == subject and value.name.startswith("plug_"):
            rows.append(value.name.removeprefix("plug_"))
    taken = frozenset(rows)
    return known, weigh(known, wires, found.chosen("gender"), taken, state != "out")


def _next(
    bike: Bike, subject: str, found: Readings, wires: tuple[Wire, ...], before: str = "ohm"
) -> str:
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
    if best < len(known) and (sure or _alike(known, share)):
        bits = [
            bit + _doubt(known[best], wires, place)
            for (place, _), bit in zip(asked, bits, strict=True)
        ]
    costs = [
        MINUTES[kind] + (CHANGE_MIN if (kind == "ohm") is not (before == "ohm") else 0.0)
        for _, kind in asked
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
    return not any(_doubt(known[best], wires, wire.place) for wire in wires)


def _doubt(candidate: Candidate, wires: tuple[Wire, ...], place: int) -> float:
    """Return how unsure it is what a wire is for, as a share; 0 where it is known well enough."""
    if len(candidate.port.pins) != len(wires):
        return 0.0
    row = assignment(candidate, wires)[place - 1]
    if _is_pole_unread(candidate, row, wires[place - 1]):
        return 1.0
    known = max(_shares(candidate, row, _class_words).values())
    if known >= WIRE_SURE:
        return 0.0
    return 1 - known


def _is_pole_unread(candidate: Candidate, row: Floats, wire: Wire) -> bool:
    """Return whether a wire is taken for plus or minus of a supply and nobody has read it.

    Colours agree on nothing between makers: a wrong pole destroys what is plugged in, so that only
    a reading says which it is.
    """
    pin = candidate.port.pins[int(np.argmax(row))]
    return bool(role_of(pin.role).polarity) and not wire.read


def _class_words(pin: Pin) -> str:
    """Return what a pin is for in the words that plugs which read alike share."""
    role = role_of(pin.role)
    if role.ground_like:
        return "ground"
    if role.use == "supply":
        return "supply"
    if role.is_signal:
        return "signal"
    return pin.words


def _shares(candidate: Candidate, row: Floats, words: Callable[[Pin], str]) -> dict[str, float]:
    """Return the belief in each meaning of a wire, in words, pins of one meaning together."""
    found: dict[str, float] = {}
    for pin, share in zip(candidate.port.pins, row, strict=True):
        found[words(pin)] = found.get(words(pin), 0.0) + float(share)
    return found


def _alike(known: tuple[Candidate, ...], share: Floats) -> bool:
    """Return whether all plugs that are still possible have pins of the same meanings."""
    left = [c for c, weight in zip(known, share, strict=False) if weight > SMALL]
    kinds = set()
    for c in left:
        kinds.add(tuple(sorted(_class_words(pin) for pin in c.port.pins)))
    return len(kinds) == 1 and float(share[-1]) <= 1 - SURE


def _wire_values(
    candidate: Candidate, wires: tuple[Wire, ...], words: Callable[[Pin], str]
) -> list[Measured]:
    """Return what each wire is, with the belief in it."""
    values = []
    for wire, row in zip(wires, assignment(candidate, wires), strict=True):
        shares = _shares(candidate, row, words)
        best = max(shares, key=lambda name: shares[name])
        looks = f", {wire.colour}" if wire.colour else ""
        share = shares[best]
        if _is_pole_unread(candidate, row, wire):
            best, share = "plus or minus, not read yet", 0.5
        told = f"wire {wire.place}{looks}: {best}"
        values.append(Measured(f"wire_{wire.place}", round(share, 3), "", told))
    return values


def _allowed(found: Readings, wires: tuple[Wire, ...]) -> list[tuple[int, str]]:
    """Return the readings that may be taken: no resistor on a thick wire or one over 6 V, ohms
    first."""
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


def _named(candidate: Candidate, name: str, share: float, wires: tuple[Wire, ...]) -> Verdict:
    plug = Measured(
        f"plug_{candidate.port.id}", round(share, 3), "", f"{name}, with {len(wires)} pins"
    )
    told_wires = _wire_values(candidate, wires, lambda pin: pin.words)
    values = [plug, *told_wires]
    unsure = []
    for row in told_wires:
        if row.value < WIRE_SURE:
            unsure.append(row.name.removeprefix("wire_"))
    findings = []
    if unsure:
        text = f"Wires {', '.join(unsure)} are not told apart by these readings"
        change = (
            "Signals of one kind look alike until their part is moved: read them once connected."
        )
        findings.append(SetFinding("S132", "advice", text, change))
    return verdict_of(findings, True, f"{name}: {100 * share:.0f} %", tuple(values))
