"""Faults as rows: what breaks in a part, how common it is, what is then done.

A kind keeps its faults as a table of `FaultRow` and makes modes of them with `modes_of`; a new
fault is one row. How common a fault is, is a weight beside those of other faults (common practice,
unless a row names its source); a shop's own confirmed repairs move it.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from brightcore.bike.model import Part
from brightcore.circuit.elements import Override
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.kinds.blocks import fixed, mode, opened, weakened

Breaks = Callable[[Part], tuple[Override, ...]]
"""What a fault does to the circuit of its part."""


def nothing(part: Part) -> tuple[Override, ...]:
    """Return that the circuit stays as it is: the fault shows in a trait or a sign alone."""
    return ()


def opens(*elements: str) -> Breaks:
    """Return what opens elements of a part."""
    return lambda part: opened(part, *elements)


def becomes(element: str, ohm: float, spread: float = 0.4) -> Breaks:
    """Return what makes an element a plain resistance, with its spread of severity."""
    return lambda part: fixed(part, element, ohm, spread)


def weakens(limit: str, ohm: float) -> Breaks:
    """Return what puts a resistance into the way of a regulator instead of its limit."""
    return lambda part: weakened(part, limit, ohm)


def always(part: Part) -> bool:
    """Return that every part of a kind can have a fault."""
    return True


def having(role: str) -> Callable[[Part], bool]:
    """Return whether a part has a pin of a role."""
    return lambda part: part.has_role(role)


@dataclass(frozen=True, slots=True)
class RepairRow:
    """What is done about a fault: words with `{part}` for its name, minutes, what to look for, how
    dear its part is.

    `what` tells several repairs of one part apart, and `family` what kind of repair it is
    (`circuit.faults.RepairKind`). `read_first`: roles of two pins whose volts are read before it is
    named.
    """

    action: str
    minutes: float
    root_cause: str
    cost_level: int = 0
    what: str = ""
    family: str = "part"
    read_first: tuple[str, ...] = ()

    def of(self, part: Part) -> RepairKind:
        """Return the repair of a part."""
        own = f"{self.family}:{part.id}"
        if self.what:
            own += f":{self.what}"
        action = self.action.format(part=part.name)
        ends = _pins_of(part, self.read_first)
        return RepairKind(own, action, self.minutes, self.root_cause, self.cost_level, ends)


def _pins_of(part: Part, roles: Iterable[str]) -> tuple[str, ...]:
    """Return a pin of each role that the part has."""
    pins = {}
    for plug in part.ports:
        for pin in plug.pins:
            pins[pin.role] = f"{part.id}.{plug.id}.{pin.name}"
    return tuple(pins[role] for role in roles if role in pins)


@dataclass(frozen=True, slots=True)
class FaultRow:
    """One fault of a kind of part.

    `place`: `port.pin` or `inside.name`; `code` is permanent; `weight`: how common it is; `breaks`:
    what it does to the circuit; `traits`: what the kind's behaviour looks at; `seen_by_eye`: how
    often a look finds it; `loose`: how much more often it comes and goes than stays; `signs`: what
    else it may show (`circuit.faults`), each with its chance; `where`: which parts can have it.
    """

    place: str
    code: str
    words: str
    weight: float
    repair: RepairRow
    breaks: Breaks = nothing
    traits: tuple[str, ...] = ()
    seen_by_eye: float = 0.0
    loose: float = 0.0
    signs: tuple[tuple[str, float], ...] = ()
    where: Callable[[Part], bool] = always

    def at(self, place: str) -> "FaultRow":
        """Return the same fault at another place."""
        return replace(self, place=place)

    def of(self, part: Part) -> FaultMode:
        """Return the fault of a part."""
        return mode(
            part,
            self.place,
            self.code,
            self.words,
            self.weight,
            self.repair.of(part),
            self.breaks(part),
            self.traits,
            seen_by_eye=self.seen_by_eye,
            loose=self.loose,
            signs=self.signs,
        )


def modes_of(part: Part, rows: Iterable[FaultRow]) -> tuple[FaultMode, ...]:
    """Return the faults that a part can have, in the order of their rows."""
    return tuple(row.of(part) for row in rows if row.where(part))
