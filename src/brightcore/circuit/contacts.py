"""Mated pins as elements, and what may go wrong with them: contacts, neighbours, exchanged pins.

Every mated pin pair is a contact resistance. Dormant elements for shorted neighbours and exchanged
pins wait for a fault to wake them.
"""

from brightcore.bike.model import Bike, Join, Port
from brightcore.bike.roles import role_of
from brightcore.circuit.by_place import (
    ByPlace,
    contacts_by_place,
    several_of,
    stamp_across,
    stamp_halls,
)
from brightcore.circuit.controls import KindTable
from brightcore.circuit.elements import OPEN, Element, Override, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.nets import Nets
from brightcore.circuit.stamper import Stamper
from brightcore.physics.contacts import GOOD_POWER_OHM, GOOD_SIGNAL_OHM
from brightcore.physics.copper import THICK_MM2, wire_ohm

SEVERITIES = {
    "power": (
        ("warm", 0.04, 0.5),
        ("slight", 0.5, 0.5),
        ("mid", 5.0, 0.5),
        ("high", 100.0, 0.8),
        ("far", 5e3, 0.9),
    ),
    "ground": (("low", 8.0, 0.6), ("slight", 4e3, 0.4), ("mid", 22e3, 0.45), ("high", 220e3, 0.6)),
    "signal": (("slight", 4e3, 0.4), ("mid", 22e3, 0.45), ("high", 220e3, 0.6)),
}
"""Resistance in ohm and relative spread of the levels of a bad contact or wire: a melted power
contact has 10 to 100 mΩ; a ground that several share shifts them all from a few ohm on."""

PLUG_WEIGHT = 3.0
"""Prior of everything that can be wrong in one plug, however many pins it has (common practice)."""

PLUG_SHARES = {"open": 0.5, "resistive": 0.26, "short": 0.1, "leak": 0.08, "exchanged": 0.06}
"""How that is shared out (common practice)."""

LOOSE_SHARE = 0.35
"""How often an open contact is one that comes and goes, against one that stays (common
practice)."""

HOT = {"warm": 0.85, "slight": 0.95, "mid": 0.7}
"""How often a bad power contact is hot to the hand after a hard pull, by level (common
practice)."""

LEAKS = (("leak", 2.5e3, 0.7), ("damp", 3e4, 0.8))
"""Water between neighbouring pins: 1 to 100 kΩ (common practice)."""


def pair_class(bike: Bike, join: Join, pair: tuple[str, str]) -> str:
    """Return "power" or "signal" for a mated pin pair, from the roles and wires on both sides."""
    thick = []
    for (part_id, port_id), name in zip(join.sides(), pair, strict=True):
        part = bike.part(part_id)
        if role_of(part.port(port_id).pin(name).role).carries_power:
            return "power"
        thick.append(getattr(part.spec, "area_mm2", 0.0) >= THICK_MM2)
    if all(thick):
        return "power"
    return "signal"


def level_class(circuit_class: str, roles: set[str]) -> str:
    """Return the class of `SEVERITIES` for a contact or wire on a net with these roles."""
    ground = bool(roles) and all(role_of(role).ground_like for role in roles)
    # A ground shared by several sensors shifts all of them from a few ohms on; a signal wire alone
    # stands kilo-ohms. So the same plug has levels of its own on that pin.
    if ground and circuit_class == "signal":
        return "ground"
    return circuit_class


def contact_id(join: Join, pair: tuple[str, str]) -> str:
    """Return the element id of a mated pin pair."""
    return f"{join.id}/contact:{pair[0]}"


def stamp_join(
    stamper: Stamper, nets: Nets, registry: KindTable, join: Join
) -> tuple[list[FaultMode], list[ByPlace]]:
    """Add a join's contacts and its dormant shorts and swaps; return its fault modes, and its
    places of a free value."""
    bike = nets.bike
    holder = bike.part(join.a_part)
    port = holder.port(join.a_port)
    faults: list[FaultMode] = []
    repair = RepairKind(
        f"join:{join.id}",
        f"Clean and re-seat the {join_title(bike, join)}; re-crimp or re-terminate if pins are bad",
        12,
        "Water, strain or a pin not fully home: seal it, point it down, give the cable a drip loop",
        0,
    )
    ends = {}
    count = max(len(join.pairs), 1)
    for pair in join.pairs:
        a = f"{join.a_part}.{join.a_port}.{pair[0]}"
        b = f"{join.b_part}.{join.b_port}.{pair[1]}"
        ends[pair] = (a, b)
        circuit_class = pair_class(bike, join, pair)
        if circuit_class == "power":
            ohm = GOOD_POWER_OHM
        else:
            ohm = GOOD_SIGNAL_OHM
        if join.wire.area_mm2 > 0:
            ohm += wire_ohm(join.wire.length_m, join.wire.area_mm2)
        element = contact_id(join, pair)
        stamper.elements.append(Element(element, a, b, resistor(ohm), tol_g=0.5))
        base = f"{join.a_part}.{join.a_port}.{pair[0]}"
        title = f"{{{base}}} contact, {join_title(bike, join)}"
        faults.append(
            FaultMode(
                f"{base}/contact/open",
                f"{title}: open",
                PLUG_WEIGHT * PLUG_SHARES["open"] / count,
                repair,
                (Override(element, OPEN),),
                family=base,
                seen_by_eye=0.4,
                loose=LOOSE_SHARE,
            )
        )
        levels = SEVERITIES[level_class(circuit_class, nets.roles_of(a))]
        each = PLUG_WEIGHT * PLUG_SHARES["resistive"] / count / len(levels)
        for level, fault_ohm, spread in levels:
            faults.append(
                FaultMode(
                    f"{base}/contact/{level}",
                    f"{title}: resistive",
                    each,
                    repair,
                    (Override(element, resistor(fault_ohm), tol_g=spread),),
                    family=base,
                    seen_by_eye=0.4,
                    hot=HOT.get(level, 0.0) if circuit_class == "power" else 0.0,
                )
            )
    faults.extend(_shorts(stamper, join, ends, port, repair, bike))
    if port.rewireable:
        faults.extend(_swaps(stamper, join, ends, nets, registry))
    title = join_title(bike, join)
    faults.extend(several_of(join, port, repair, title))
    faults.extend(stamp_halls(stamper.elements, join, registry, bike, title))
    plain = [pair for pair in join.pairs if pair_class(bike, join, pair) != "power"]
    # Half as likely as the named levels: those stand for most of the range already.
    weight = 0.5 * PLUG_WEIGHT * PLUG_SHARES["resistive"] * len(plain) / count
    by_place = list(contacts_by_place(join, repair, plain, weight, title, nets))
    by_place += stamp_across(stamper.elements, join, port, repair, title, nets)
    return faults, by_place


def _shorts(
    stamper: Stamper,
    join: Join,
    ends: dict[tuple[str, str], tuple[str, str]],
    port: Port,
    repair: RepairKind,
    bike: Bike,
) -> list[FaultMode]:
    faults = []
    order = [pin.name for pin in port.pins]
    pairs = sorted(join.pairs, key=lambda pair: order.index(pair[0]))
    count = max(len(pairs) - 1, 1)
    for first, second in zip(pairs, pairs[1:], strict=False):
        # Neighbours only: water and bent pins bridge what lies side by side.
        element = f"{join.id}/short:{first[0]}-{second[0]}"
        stamper.elements.append(Element(element, ends[first][0], ends[second][0], OPEN))
        where = f"{join.a_part}.{join.a_port}"
        title = (
            f"{{{where}.{first[0]}}} and {{{where}.{second[0]}}} shorted, {join_title(bike, join)}"
        )
        faults.append(
            FaultMode(
                f"{join.a_part}.{join.a_port}.{first[0]}/short-to-{second[0]}/full",
                title,
                PLUG_WEIGHT * PLUG_SHARES["short"] / count,
                repair,
                (Override(element, resistor(0.02), tol_g=0.5),),
                family=f"{join.id}/short",
                seen_by_eye=0.5,
                loose=LOOSE_SHARE / 2,
            )
        )
        for level, ohm, spread in LEAKS:
            faults.append(
                FaultMode(
                    f"{join.a_part}.{join.a_port}.{first[0]}/short-to-{second[0]}/{level}",
                    (
                        f"{{{where}.{first[0]}}} leaks to {{{where}.{second[0]}}}, wet "
                        f"{join_title(bike, join)}"
                    ),
                    PLUG_WEIGHT * PLUG_SHARES["leak"] / count / len(LEAKS),
                    repair,
                    (Override(element, resistor(ohm), tol_g=spread),),
                    family=f"{join.id}/short",
                    seen_by_eye=0.5,
                )
            )
    return faults


def _swaps(
    stamper: Stamper,
    join: Join,
    ends: dict[tuple[str, str], tuple[str, str]],
    nets: Nets,
    registry: KindTable,
) -> list[FaultMode]:
    faults, bike = [], nets.bike
    order = RepairKind(
        f"order:{join.id}",
        f"Put the wires of the {join_title(bike, join)} back in order",
        5,
        "Wires swapped when it was last connected: mark them",
        0,
    )
    if join.pairs:
        first_pin = f"{join.a_part}.{join.a_port}.{join.pairs[0][0]}"
    else:
        first_pin = ""
    here = set()
    for name in nets.pins:
        if first_pin and nets.find(name) == nets.find(first_pin):
            here.add(name.split(".")[0])
    phases = bool(first_pin) and any(
        role_of(role).use == "phase" for role in nets.roles_of(first_pin)
    )
    driving = []
    for p in sorted(here):
        if registry[bike.part(p).kind].commutates:
            driving.append(p)
    wrong = tuple(f"{p}:order_wrong" for p in driving) if phases else ()
    for first, second in zip(join.pairs, join.pairs[1:], strict=False):
        cross = []
        for one, two in ((first, second), (second, first)):
            element = f"{join.id}/cross:{one[0]}-{two[0]}"
            stamper.elements.append(Element(element, ends[one][0], ends[two][1], OPEN))
            cross.append(Override(element, resistor(GOOD_POWER_OHM)))
        rows = []
        for pair in (first, second):
            rows.append(Override(contact_id(join, pair), OPEN))
        straight = tuple(rows)
        faults.append(
            FaultMode(
                f"{join.a_part}.{join.a_port}.{first[0]}/exchanged-with-{second[0]}/full",
                f"{{{join.a_part}.{join.a_port}.{first[0]}}} and "
                f"{{{join.a_part}.{join.a_port}.{second[0]}}} exchanged, {join_title(bike, join)}",
                PLUG_WEIGHT * PLUG_SHARES["exchanged"] / max(len(join.pairs) - 1, 1),
                order,
                (*straight, *cross),
                wrong,
                f"{join.id}/order",
                0.3,
            )
        )
    return faults


def join_title(bike: Bike, join: Join) -> str:
    """Return words for a join: the label of the port that has one."""
    for part_id, port_id in join.sides():
        port = bike.part(part_id).port(port_id)
        if port.label:
            if "plug" not in port.label:
                return f"{port.label} plug"
            return port.label
    return f"{bike.part(join.a_part).name} to {bike.part(join.b_part).name} plug"
