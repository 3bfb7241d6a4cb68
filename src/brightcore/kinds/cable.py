"""Cable with any ports: extension, lead, splitting harness, bridging cap.

Pins of the same name on different ports are one conductor each from the first port, or
from `conductors` where names differ.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Part, Spec
from brightcore.circuit.contacts import LOOSE_SHARE, SEVERITIES
from brightcore.circuit.elements import OPEN, Override, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import PartKind, spec_value
from brightcore.kinds.blocks import mode
from brightcore.physics.copper import THICK_MM2, wire_ohm

CABLE_WEIGHT, BROKEN_SHARE = 2.5, 0.7
"""Prior of everything that can be wrong in one cable, and how much of it is a broken conductor
(common practice)."""

TORN = {"power": SEVERITIES["power"][2:], "signal": SEVERITIES["signal"][1:2]}
"""Levels of a conductor that is torn in part; a thin one has others by its place."""

SPLICE_M = 0.05
"""A cable of no more metres is a splice: it says nothing of how far a run reaches (common
practice)."""


@dataclass(frozen=True, slots=True)
class CableSpec(Spec):
    """Length, conductor area and, where names differ, what connects to what."""

    length_m: float = spec_value(1.0, 0.01, 30.0, "length from end to end")
    area_mm2: float = spec_value(0.25, 0.05, 50.0, "area of each conductor")
    conductors: tuple[tuple[str, str], ...] = spec_value(
        (), doc="pairs of port.pin, where names differ"
    )


def conductors(part: Part[CableSpec]) -> Iterator[tuple[str, str]]:
    """Yield the (port.pin, port.pin) ends of every conductor."""
    if part.spec.conductors:
        yield from part.spec.conductors
        return
    first, *others = part.ports
    for pin in first.pins:
        for other in others:
            if any(p.name == pin.name for p in other.pins):
                yield f"{first.id}.{pin.name}", f"{other.id}.{pin.name}"


class Cable(PartKind[CableSpec]):
    """Conductors between plugs."""

    name, title, spec_type = "cable", "Cable or harness", CableSpec
    place, symbol, has_spare, swap_min, inline = "between", "cable", True, 10.0, True
    sits = ""
    not_modelled: tuple[str, ...] = ("leakage through wet insulation", "breaks that come and go")

    def links(self, part: Part[CableSpec]) -> Iterator[tuple[str, str]]:
        return conductors(part)

    def check_spec(self, spec: CableSpec) -> Iterator[tuple[str, str]]:
        for pair in spec.conductors:
            if len(pair) != 2 or any(end.count(".") != 1 for end in pair):
                yield "conductors", f"{pair!r} is not a pair of port.pin"

    def stamp(self, s: Stamper, part: Part[CableSpec]) -> None:
        ohm = wire_ohm(part.spec.length_m, part.spec.area_mm2)
        for one, two in conductors(part):
            s.add(
                part,
                f"{one}-{two}",
                f"{part.id}.{one}",
                f"{part.id}.{two}",
                resistor(ohm),
                tol_g=0.2,
            )

    def faults(self, part: Part[CableSpec]) -> tuple[FaultMode, ...]:
        repair = RepairKind(
            f"cable:{part.id}",
            f"Repair or replace the {part.name}",
            20,
            "Pinched, stretched or bent too often: change its route",
            1,
        )
        found = []
        count = max(len(tuple(conductors(part))), 1)
        if part.spec.area_mm2 >= THICK_MM2:
            circuit_class = "power"
        else:
            circuit_class = "signal"
        for one, two in conductors(part):
            element = f"{part.id}/{one}-{two}"
            branch = part.port(two.partition(".")[0])
            words = f"{{{part.id}.{one}}} conductor" + (
                f" in {branch.label or branch.id}" if len(part.ports) > 2 else ""
            )
            found.append(
                mode(
                    part,
                    one,
                    f"wire-to-{two}",
                    f"{words} broken",
                    CABLE_WEIGHT * BROKEN_SHARE / count,
                    repair,
                    (Override(element, OPEN),),
                    level="open",
                    seen_by_eye=0.15,
                    loose=LOOSE_SHARE,
                )
            )
            for level, ohm, spread in TORN[circuit_class]:
                found.append(
                    mode(
                        part,
                        one,
                        f"wire-to-{two}",
                        f"{words} resistive",
                        CABLE_WEIGHT * (1 - BROKEN_SHARE) / count / len(TORN[circuit_class]),
                        repair,
                        (Override(element, resistor(ohm), tol_g=spread * 2),),
                        level=level,
                        seen_by_eye=0.1,
                    )
                )
        return tuple(found)
