"""Sorts of trouble that no list of the engine names as such, at any value between its levels.

Each sort yields troubles of one bike by random; what is right is told by places: the parts and
joins at which it is, the part whose purchase is no waste.
"""

from collections.abc import Callable, Iterator

import numpy as np

from brightcore.bike.model import Join, Part, Pin
from brightcore.bike.roles import role_of
from brightcore.circuit.contacts import contact_id
from brightcore.circuit.netlist import Circuit
from brightcore.kinds.cable import CableSpec
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.pack import PackSpec
from strangers.solver import Branch
from strangers.truth import Trouble, drain, resistance

Rng = np.random.Generator
Sort = Callable[[Circuit, Rng], Iterator[Trouble]]


def between(rng: Rng, low: float, high: float) -> float:
    """Return a value, evenly by decades."""
    return float(np.exp(rng.uniform(np.log(low), np.log(high))))


def _pins(circuit: Circuit) -> Iterator[tuple[Join, tuple[str, str], Part, Pin]]:
    """Yield every pin of every join with its two names, its part and itself (the a side)."""
    for join in circuit.bike.joins:
        part = circuit.bike.part(join.a_part)
        port = part.port(join.a_port)
        for pair in join.pairs:
            yield join, pair, part, next(p for p in port.pins if p.name == pair[0])


def _ends(join: Join, pair: tuple[str, str]) -> tuple[str, str]:
    return (
        f"{join.a_part}.{join.a_port}.{pair[0]}",
        f"{join.b_part}.{join.b_port}.{pair[1]}",
    )


def _roles(circuit: Circuit, join: Join, pair: tuple[str, str]) -> set[str]:
    return set(circuit.nets.roles_of(_ends(join, pair)[0])) | set(
        circuit.nets.roles_of(_ends(join, pair)[1])
    )


def _contacts(
    circuit: Circuit, wanted: Callable[[set[str]], bool]
) -> list[tuple[Join, tuple[str, str]]]:
    found = []
    for join in circuit.bike.joins:
        for pair in join.pairs:
            if wanted(_roles(circuit, join, pair)):
                found.append((join, pair))
    return found


def _contact(
    circuit: Circuit,
    rng: Rng,
    sort: str,
    wanted: Callable[[set[str]], bool],
    low: float,
    high: float,
) -> Iterator[Trouble]:
    places = _contacts(circuit, wanted)
    while places:
        join, pair = places[int(rng.integers(len(places)))]
        ohm = between(rng, low, high)
        yield Trouble(
            sort,
            f"{join.id} {pair[0]} {ohm:.0f} Ω",
            {contact_id(join, pair): resistance(ohm)},
            owners=frozenset({join.id}),
        )


def supply_contact(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A contact of a 5 V wire, 20 Ω to 4 kΩ."""
    yield from _contact(
        circuit, rng, "5 V contact", lambda r: bool(r & {"supply_5v", "sensor_supply"}), 20, 4e3
    )


def ground_contact(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A contact of a sensor's ground, 50 Ω to 4 kΩ."""
    yield from _contact(circuit, rng, "ground contact", lambda r: "sensor_ground" in r, 50, 4e3)


def signal_contact(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A contact of a signal, 1 kΩ to 200 kΩ."""

    def signals(roles: set[str]) -> bool:
        return any(role.endswith("_signal") or role.startswith("hall_") for role in roles)

    yield from _contact(circuit, rng, "signal contact", signals, 1e3, 2e5)


def _near(circuit: Circuit, *pins: str) -> frozenset[str]:
    """Return the parts and joins that the nets of some pins run through, controllers aside."""
    nets = circuit.nets
    found: set[str] = set()
    roots = {nets.find(pin) for pin in pins}
    for join in circuit.bike.joins:
        for pair in join.pairs:
            ends = _ends(join, pair)
            if any(nets.find(end) in roots for end in ends):
                found.add(join.id)
    for part in circuit.bike.parts:
        for port in part.ports:
            for pin in port.pins:
                name = f"{part.id}.{port.id}.{pin.name}"
                if nets.find(name) in roots and isinstance(part.spec, CableSpec):
                    found.add(part.id)
    return frozenset(found)


def _sensors(circuit: Circuit) -> list[tuple[Part, str, str, str]]:
    """Return (part, signal pin, ground pin, supply pin) of parts that give a signal."""
    found = []
    for part in circuit.bike.parts:
        if isinstance(part.spec, (ControllerSpec, CableSpec)):
            continue
        for port in part.ports:
            by_role: dict[str, str] = {}
            for pin in port.pins:
                by_role.setdefault(pin.role, f"{part.id}.{port.id}.{pin.name}")
            signal = next(
                (n for r, n in by_role.items() if r.endswith("_signal") or r == "hall_a"), ""
            )
            ground, supply = by_role.get("sensor_ground", ""), by_role.get("sensor_supply", "")
            if signal and ground and supply:
                found.append((part, signal, ground, supply))
    return found


def pulled_down(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A sensor's signal pulled down by 300 to 900 Ω inside it."""
    sensors = _sensors(circuit)
    while sensors:
        part, signal, ground, _ = sensors[int(rng.integers(len(sensors)))]
        ohm = between(rng, 300, 900)
        node = circuit.node_of
        joins = frozenset(j.id for j in circuit.bike.joins_of(part.id))
        yield Trouble(
            "pulled down",
            f"{signal} {ohm:.0f} Ω",
            extra=(Branch("strange", node[signal], node[ground], resistance(ohm)),),
            owners=frozenset({part.id}) | joins,
            buys=frozenset({part.id}),
        )


def leak(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A leak between any two pins of one plug, 200 Ω to 30 kΩ."""
    joins = [j for j in circuit.bike.joins if len(j.pairs) > 1]
    while joins:
        join = joins[int(rng.integers(len(joins)))]
        picked = rng.permutation(len(join.pairs))[:2]
        pairs = [join.pairs[int(k)] for k in picked]
        roles = _roles(circuit, join, pairs[0]) | _roles(circuit, join, pairs[1])
        if any(role_of(r).use == "phase" for r in roles) or "pack_plus" in roles:
            continue
        ohm = between(rng, 200, 3e4)
        one, two = (_ends(join, pair)[0] for pair in pairs)
        node = circuit.node_of
        if node[one] == node[two]:
            continue
        yield Trouble(
            "leak",
            f"{one} {two} {ohm:.0f} Ω",
            extra=(Branch("strange", node[one], node[two], resistance(ohm)),),
            owners=_near(circuit, one, two),
        )


def halls_inside(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """Two halls exchanged inside the motor."""
    motors = [m for m in circuit.bike.having(MotorSpec) if f"{m.id}:hall_a" in circuit.node_of]
    while motors:
        motor = motors[int(rng.integers(len(motors)))]
        a, b = [str(x) for x in rng.choice(list("abc"), 2, replace=False)]
        moved = {
            f"{motor.id}/hall_{a}_out.a": circuit.node_of[f"{motor.id}:hall_{b}"],
            f"{motor.id}/hall_{b}_out.a": circuit.node_of[f"{motor.id}:hall_{a}"],
        }
        joins = frozenset(j.id for j in circuit.bike.joins_of(motor.id))
        yield Trouble(
            "halls inside",
            f"{motor.id} {a}{b}",
            moved=moved,
            owners=frozenset({motor.id}) | joins,
            buys=frozenset({motor.id}),
            orders=True,
        )


def _at_controllers(circuit: Circuit, wanted: Callable[[str], bool]) -> list[tuple[Part, str, str]]:
    """Return (controller, pin, role) of every pin of a controller whose role is wanted."""
    found = []
    for part in circuit.bike.having(ControllerSpec):
        for port in part.ports:
            for pin in port.pins:
                if wanted(pin.role):
                    found.append((part, f"{part.id}.{port.id}.{pin.name}", pin.role))
    return found


RAILS = ("battery_out", "supply_5v", "accessory_plus")


def consumer(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """Something that draws 20 to 500 mA and nobody described, on a rail of a controller."""
    pins = _at_controllers(circuit, lambda role: role in RAILS)
    while pins:
        part, name, role = pins[int(rng.integers(len(pins)))]
        ampere = between(rng, 0.02, 0.5)
        node = circuit.node_of
        yield Trouble(
            "consumer",
            f"{name} {1000 * ampere:.0f} mA",
            extra=(Branch("strange", node[name], node[f"{part.id}:ground"], drain(ampere, 3.0)),),
            owners=_near(circuit, name),
            roles=frozenset({f"{part.id}:{role}"}),
            drains=role == "battery_out",
        )


def thirsty(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A sensor that draws 60 to 500 mA."""
    sensors = _sensors(circuit)
    while sensors:
        part, _, ground, supply = sensors[int(rng.integers(len(sensors)))]
        ampere = between(rng, 0.06, 0.5)
        node = circuit.node_of
        yield Trouble(
            "thirsty sensor",
            f"{part.id} {1000 * ampere:.0f} mA",
            extra=(Branch("strange", node[supply], node[ground], drain(ampere, 2.5)),),
            owners=frozenset({part.id}) | frozenset(j.id for j in circuit.bike.joins_of(part.id)),
            buys=frozenset({part.id}),
        )


def water(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """Water in a whole plug: 1 to 20 kΩ between all neighbours, and the contacts a little worse."""
    joins = [
        j
        for j in circuit.bike.joins
        if len(j.pairs) > 2
        and not any(role_of(r).use == "phase" for pair in j.pairs for r in _roles(circuit, j, pair))
    ]
    while joins:
        join = joins[int(rng.integers(len(joins)))]
        ohm = between(rng, 1e3, 2e4)
        node, extra = circuit.node_of, []
        ends = [_ends(join, pair)[0] for pair in join.pairs]
        for one, two in zip(ends, ends[1:], strict=False):
            if node[one] != node[two]:
                own = resistance(ohm * float(rng.uniform(0.5, 2.0)))
                extra.append(Branch(f"strange {one}", node[one], node[two], own))
        yield Trouble(
            "water in a plug",
            f"{join.id} {ohm:.0f} Ω",
            extra=tuple(extra),
            owners=frozenset({join.id}),
        )


def not_home(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A plug that is not home: several contacts bad or open."""
    joins = [j for j in circuit.bike.joins if len(j.pairs) > 1]
    while joins:
        join = joins[int(rng.integers(len(joins)))]
        count = int(rng.integers(2, min(len(join.pairs), 4) + 1))
        picked = rng.permutation(len(join.pairs))[:count]
        pieces = {}
        for k in picked:
            ohm = 1e9 if rng.random() < 0.5 else between(rng, 50, 1e5)
            pieces[contact_id(join, join.pairs[int(k)])] = resistance(ohm)
        yield Trouble(
            "not home", f"{join.id} {count} contacts", pieces, owners=frozenset({join.id})
        )


def aged(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """Aged cells: three to ten times the inner resistance."""
    parts = circuit.bike.having(PackSpec)
    while parts:
        part = parts[int(rng.integers(len(parts)))]
        factor = between(rng, 3, 10)
        names = [e.id for e in circuit.elements if e.id == f"{part.id}/cells"]
        yield Trouble(
            "aged cells",
            f"{part.id} × {factor:.1f}",
            scaled=dict.fromkeys(names, 1 / factor),
            owners=frozenset({part.id}),
            buys=frozenset({part.id}),
        )


def torn(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A cable torn in part: one or two cores 30 Ω to open."""
    cores: dict[str, list[str]] = {}
    for e in circuit.elements:
        part, _, rest = e.id.partition("/")
        owner = next((p for p in circuit.bike.parts if p.id == part), None)
        if owner is not None and isinstance(owner.spec, CableSpec) and "-" in rest:
            cores.setdefault(part, []).append(e.id)
    cables = sorted(cores)
    while cables:
        part = cables[int(rng.integers(len(cables)))]
        count = int(rng.integers(1, 3))
        names = [str(x) for x in rng.permutation(cores[part])[:count]]
        pieces = {}
        for name in names:
            ohm = 1e9 if rng.random() < 0.4 else between(rng, 30, 1e5)
            pieces[name] = resistance(ohm)
        joins = frozenset(j.id for j in circuit.bike.joins_of(part))
        yield Trouble(
            "torn cable",
            f"{part} {len(names)} cores",
            pieces,
            owners=frozenset({part}) | joins,
            buys=frozenset({part}),
        )


def to_frame(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A signal wire that touches the frame, 0.2 to 20 Ω to battery minus."""
    found = []
    for join, pair, _, _ in _pins(circuit):
        roles = _roles(circuit, join, pair)
        signal = any(r.endswith("_signal") or r.startswith("hall_") for r in roles)
        if signal:
            found.append((join, pair))
    controllers = circuit.bike.having(ControllerSpec)
    boxes = frozenset(part.id for part in controllers)
    while found and controllers:
        join, pair = found[int(rng.integers(len(found)))]
        ohm = between(rng, 0.2, 20)
        node = circuit.node_of
        pin = _ends(join, pair)[1]
        if node[pin] == node[f"{controllers[0].id}:ground"]:
            continue
        yield Trouble(
            "wire on frame",
            f"{pin} {ohm:.1f} Ω",
            extra=(
                Branch("strange", node[pin], node[f"{controllers[0].id}:ground"], resistance(ohm)),
            ),
            owners=_near(circuit, pin) | frozenset({join.b_part}) - boxes,
            # The wire of that part itself touches: a new part with its lead cures it as well.
            buys=frozenset({join.b_part}) - boxes,
        )


def hidden(circuit: Circuit, rng: Rng) -> Iterator[Trouble]:
    """A switch or an alarm that nobody described, on a signal of a controller: it pulls the line
    down through 1 to 600 Ω."""
    pins = _at_controllers(circuit, lambda role: role.endswith("_signal"))
    while pins:
        part, name, role = pins[int(rng.integers(len(pins)))]
        ohm = between(rng, 1, 600)
        node = circuit.node_of
        yield Trouble(
            "hidden",
            f"{name} {ohm:.0f} Ω",
            extra=(Branch("strange", node[name], node[f"{part.id}:ground"], resistance(ohm)),),
            owners=_near(circuit, name),
            roles=frozenset({f"{part.id}:{role}"}),
        )


SORTS: dict[str, Sort] = {
    "5 V contact": supply_contact,
    "ground contact": ground_contact,
    "signal contact": signal_contact,
    "pulled down": pulled_down,
    "leak": leak,
    "halls inside": halls_inside,
    "consumer": consumer,
    "thirsty sensor": thirsty,
    "water in a plug": water,
    "not home": not_home,
    "aged cells": aged,
    "torn cable": torn,
    "wire on frame": to_frame,
}
"""Every sort by name."""
