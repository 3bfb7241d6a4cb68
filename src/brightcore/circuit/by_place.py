"""Troubles by place: whatever steady fault a branch or a pair of wires can have, of any value.

The kinds of part and the plugs name the faults that are common. A single steady fault that nobody
named is still a resistance in one branch, a conductance between two nets, or several contacts of
one plug at once; each of these stands here as a place with a free value. Which values are told
apart is chosen later, by the volts that would be read (`simulation.levels`).

All weights and limits are common practice.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join, Part, Pin, Port
from brightcore.bike.roles import role_of
from brightcore.circuit.controls import KindTable
from brightcore.circuit.elements import OPEN, Element, Override, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.nets import Nets

SERIES_OHM = (6.0, 3e5)
"""What a bad contact or a torn core has: from what begins to show to what is as good as open."""

ACROSS_OHM = (3.0, 6e4)
"""What leads from one wire to another inside a part or a plug: from as good as a short to what
still shows."""

INSIDE_WEIGHT, ACROSS_WEIGHT, CORE_WEIGHT = 0.35, 0.2, 0.4
"""Priors of everything of that sort in one part, one plug, one cable, against a plug's 3."""

FRAME_WEIGHT, FRAME_OHM = 0.1, (0.3, 100.0)
"""Prior of a wire of one part that touches the frame, and what it then has to battery minus."""

SEVERAL_WEIGHT, HALLS_WEIGHT = 0.25, 0.15
"""Priors of a plug that is not home or full of water, and of halls exchanged in a motor."""

WET_OHM, POOR_OHM = (3e3,), (120.0,)
"""Water between all neighbours of a plug, and all of its contacts poor."""

STARTED = 3
"""Pins from which a plug can be half home."""


@dataclass(frozen=True, slots=True)
class ByPlace:
    """A trouble whose value is free: `element` becomes a resistance between the two `ohms`.

    `start` begins the ids of its fault modes, to which the value is added. `in_line`: the current
    runs through it, so that few ohms are slight; across two wires many are. `most`: levels at most.
    """

    start: str
    title: str
    weight: float
    repair: RepairKind
    element: str
    family: str
    ohms: tuple[float, float]
    in_line: bool
    most: int
    seen_by_eye: float = 0.0

    def mode(self, ohm: float, spread: float, share: float) -> FaultMode:
        """Return the fault mode at one value, with the spread that one level stands for."""
        return FaultMode(
            f"{self.start}/{about(ohm)}",
            self.title,
            self.weight * share,
            self.repair,
            (Override(self.element, resistor(ohm), tol_g=spread),),
            family=self.family,
            seen_by_eye=self.seen_by_eye,
        )


def about(ohm: float) -> str:
    """Return the level of a resistance as fault ids are written.

    >>> about(7.31), about(1520.4)
    ('about-7.3', 'about-1520')
    """
    if ohm < 10:
        return f"about-{ohm:.1f}"
    return f"about-{ohm:.0f}"


def _name(join: Join, pair: tuple[str, str]) -> str:
    return f"{join.a_part}.{join.a_port}.{pair[0]}"


def contacts_by_place(
    join: Join,
    repair: RepairKind,
    pairs: list[tuple[str, str]],
    weight: float,
    title: str,
    nets: Nets,
) -> Iterator[ByPlace]:
    """Yield the contacts of a plug that carry no power, each with any resistance: closely where a
    supply or a ground runs through it, as that moves all that hangs on it."""
    for pair in pairs:
        base = _name(join, pair)
        roles = [role_of(name) for name in nets.roles_of(base)]
        shared = any(role.ground_like or role.polarity for role in roles)
        yield ByPlace(
            f"{base}/contact",
            f"{{{base}}} contact, {title}: resistive",
            weight / len(pairs),
            repair,
            f"{join.id}/contact:{pair[0]}",
            base,
            SERIES_OHM,
            in_line=True,
            most=5 if shared else 2,
            seen_by_eye=0.4,
        )


def cores_by_place(
    part: Part, ends: list[tuple[str, str]], repair: RepairKind
) -> Iterator[ByPlace]:
    """Yield the cores of a thin cable, each torn to any resistance."""
    for one, two in ends:
        yield ByPlace(
            f"{part.id}.{one}/wire-to-{two}",
            f"{part.name}: {{{part.id}.{one}}} conductor torn in part",
            CORE_WEIGHT / len(ends),
            repair,
            f"{part.id}/{one}-{two}",
            f"{part.id}.{one}",
            SERIES_OHM,
            in_line=True,
            most=2,
            seen_by_eye=0.1,
        )


def _pairs_inside(port: Port) -> list[tuple[Pin, Pin]]:
    """Return the pins of a plug between which something may lead inside its part: signal and
    ground, supply and ground, signal and supply."""
    grounds = [pin for pin in port.pins if role_of(pin.role).ground_like]
    others = [p for p in port.pins if p not in grounds and role_of(p.role).use != "phase"]
    found = [(pin, ground) for pin in others for ground in grounds[:1]]
    supplies = [pin for pin in others if role_of(pin.role).polarity == "plus"]
    for pin in others:
        if supplies and pin not in supplies:
            found.append((pin, supplies[0]))
    return found


def stamp_inside(found: list[Element], part: Part, repair: RepairKind) -> Iterator[ByPlace]:
    """Add the dormant paths inside a small part and yield them as places."""
    pairs = [(port, one, two) for port in part.ports for one, two in _pairs_inside(port)]
    for port, one, two in pairs:
        element = f"{part.id}/inside:{port.id}.{one.name}-{two.name}"
        a, b = f"{part.id}.{port.id}.{one.name}", f"{part.id}.{port.id}.{two.name}"
        found.append(Element(element, a, b, OPEN))
        yield ByPlace(
            f"{a}/inside-to-{two.name}",
            f"{part.name}: {{{a}}} leads to {{{b}}} inside it",
            INSIDE_WEIGHT / len(pairs),
            repair,
            element,
            f"{part.id}.{port.id}.{one.name}",
            ACROSS_OHM,
            in_line=False,
            # What a sensor draws too much has the knee of the limit that feeds it: one level more.
            most=3 if role_of(one.role).polarity == "plus" else 2,
        )


def stamp_to_frame(
    found: list[Element], part: Part, ends: list[str], repair: RepairKind, minus: str
) -> Iterator[ByPlace]:
    """Add the paths from wires of a part (`port.pin`) to battery minus, as where a frame is tied to
    it, and yield them."""
    wires = []
    for end in dict.fromkeys(ends):
        port, _, pin = end.partition(".")
        role = role_of(part.port(port).pin(pin).role)
        if not role.ground_like and role.use != "phase":
            wires.append(end)
    for end in wires:
        name = f"{part.id}.{end}"
        element = f"{part.id}/frame:{end}"
        found.append(Element(element, name, minus, OPEN))
        yield ByPlace(
            f"{name}/touches-frame",
            f"{part.name}: {{{name}}} wire touches the frame",
            FRAME_WEIGHT / len(wires),
            repair,
            element,
            name,
            FRAME_OHM,
            in_line=False,
            most=1,
            seen_by_eye=0.3,
        )


def stamp_across(
    found: list[Element], join: Join, port: Port, repair: RepairKind, title: str, nets: Nets
) -> Iterator[ByPlace]:
    """Add the dormant paths between pins of a plug, where one of them is a supply or ground, and
    yield them; neighbours have theirs already."""
    order = [pin.name for pin in port.pins]
    pairs = sorted(join.pairs, key=lambda pair: order.index(pair[0]))
    rows = []
    for n, first in enumerate(pairs):
        for second in pairs[n + 1 :]:
            one, two = _name(join, first), _name(join, second)
            if nets.find(one) == nets.find(two):
                continue
            roles = [role_of(r) for pin in (one, two) for r in nets.roles_of(pin)]
            powered = any(role.ground_like or role.polarity for role in roles)
            if powered and not any(role.use == "phase" for role in roles):
                rows.append((first[0], one, second[0], two, second is pairs[n + 1]))
    for first_name, one, second_name, two, side_by_side in rows:
        if side_by_side:
            element = f"{join.id}/short:{first_name}-{second_name}"
        else:
            element = f"{join.id}/across:{first_name}-{second_name}"
            found.append(Element(element, one, two, OPEN))
        yield ByPlace(
            f"{one}/leads-to-{second_name}",
            f"{{{one}}} leads to {{{two}}}, {title}",
            ACROSS_WEIGHT / len(rows),
            repair,
            element,
            f"{join.id}/short",
            ACROSS_OHM,
            in_line=False,
            most=1,
            seen_by_eye=0.4,
        )


def several_of(join: Join, port: Port, repair: RepairKind, title: str) -> Iterator[FaultMode]:
    """Yield what takes several contacts of a plug at once: not home, half home, all poor, water in
    it."""
    order = [pin.name for pin in port.pins]
    pairs = sorted(join.pairs, key=lambda pair: order.index(pair[0]))
    if len(pairs) < 2:
        return
    contacts = [f"{join.id}/contact:{pair[0]}" for pair in pairs]
    middle = (len(contacts) + 1) // 2
    rows: list[tuple[str, str, tuple[Override, ...]]] = [
        ("not-home/all", "not home: no contact", _open(contacts))
    ]
    if len(contacts) >= STARTED:
        rows.append(("not-home/first", "half home: one side open", _open(contacts[:middle])))
        rows.append(("not-home/last", "half home: one side open", _open(contacts[middle:])))
    for ohm in POOR_OHM if len(contacts) >= STARTED else ():
        poor = tuple(Override(name, resistor(ohm), tol_g=0.9) for name in contacts)
        rows.append((f"poor/{about(ohm)}", "all contacts poor", poor))
    shorts = [
        f"{join.id}/short:{one[0]}-{two[0]}" for one, two in zip(pairs, pairs[1:], strict=False)
    ]
    for ohm in WET_OHM:
        wet = tuple(Override(name, resistor(ohm), tol_g=0.7) for name in shorts)
        rows.append((f"wet/{about(ohm)}", "water in the whole plug", wet))
    for name, words, overrides in rows:
        yield FaultMode(
            f"{join.a_part}.{join.a_port}.{pairs[0][0]}/{name}",
            f"{title[:1].upper()}{title[1:]}: {words}",
            SEVERAL_WEIGHT / len(rows),
            repair,
            overrides,
            family=f"{join.id}/several",
            seen_by_eye=0.5,
        )


def _open(contacts: list[str]) -> tuple[Override, ...]:
    return tuple(Override(name, OPEN) for name in contacts)


def stamp_halls(
    found: list[Element], join: Join, registry: KindTable, bike: Bike, title: str
) -> Iterator[FaultMode]:
    """Add what crosses two halls at a motor's plug and yield the exchanges that nobody re-pins
    there: they are inside the motor, or in a plug that is moulded."""
    ends = [bike.part(name) for name, _ in join.sides()]
    if not any(_has_phases(part) and not registry[part.kind].commutates for part in ends):
        return
    pairs = {}
    for pair in join.pairs:
        role = bike.part(join.a_part).port(join.a_port).pin(pair[0]).role
        other = bike.part(join.b_part).port(join.b_port).pin(pair[1]).role
        hall = next((r for r in (role, other) if r in ("hall_a", "hall_b", "hall_c")), "")
        if hall:
            pairs[hall] = pair
    if len(pairs) < 3:
        return
    repair = RepairKind(
        f"order:{join.id}",
        f"Try the other orders of the halls at the {title} (Set finds the one that runs), then "
        "re-pin it",
        8,
        "The motor's halls are wired in another order than its colours say",
        0,
    )
    names = sorted(pairs)
    for n, one in enumerate(names):
        for two in names[n + 1 :]:
            first, second = pairs[one], pairs[two]
            overrides = [
                Override(f"{join.id}/contact:{first[0]}", OPEN),
                Override(f"{join.id}/contact:{second[0]}", OPEN),
            ]
            for here, there in ((first, second), (second, first)):
                element = f"{join.id}/crossed:{here[0]}-{there[0]}"
                a = f"{join.a_part}.{join.a_port}.{here[0]}"
                b = f"{join.b_part}.{join.b_port}.{there[1]}"
                found.append(Element(element, a, b, OPEN))
                overrides.append(Override(element, resistor(0.01)))
            yield FaultMode(
                f"{_name(join, first)}/other-order-{second[0]}/full",
                f"Halls {one[-1].upper()} and {two[-1].upper()} exchanged in the motor",
                HALLS_WEIGHT / 3,
                repair,
                tuple(overrides),
                family=f"{join.id}/order",
            )


def inside_repair(
    registry: KindTable, part: Part, modes: tuple[FaultMode, ...]
) -> RepairKind | None:
    """Return what is done where something leads inside a part: a sensor, lever, lamp or display is
    replaced, of a motor its halls. None where the part is neither."""
    kind = registry[part.kind]
    if kind.commutates or kind.grounds:
        return None
    wanted = f"part:{part.id}:halls" if _has_phases(part) else f"part:{part.id}"
    return next((mode.repair for mode in modes if mode.repair.id == wanted), None)


def _has_phases(part: Part) -> bool:
    return any(role_of(pin.role).use == "phase" for port in part.ports for pin in port.pins)
