"""Blocks that several kinds of part share: electrics and fault-mode helpers."""

from brightcore.bike.model import Part, Pin, Port
from brightcore.circuit.elements import (
    DEAD_SPREAD,
    KNEE_V,
    OPEN,
    Override,
    diode,
    limiter,
    ramp_source,
    ratio_source,
    resistor,
    switched,
)
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper

LOGIC_V = 5.0
"""Supply that a controller gives to sensors and halls."""

COLLECTOR_LOAD_OHM = 1000.0
"""What a hall switch with open collector loads its supply with (common practice)."""

MAKE_SPREAD = 0.35
"""Spread of pull-ups, dividers and loads between makes: up to twice either way (common
practice)."""

INSIDE_OHM = 2200.0
"""What the inside of a regulator and the logic behind it load a rail with (common practice: 0.2 to
7 kΩ)."""

RATIO_SPREAD = 0.07
"""Spread of what a ratiometric sensor gives over its supply, between makes (common practice)."""

SENSOR_ON_V = 3.0
"""Supply volts below which a 5 V sensor does nothing (common practice)."""


def pins(*specs: str) -> tuple[Pin, ...]:
    """Return pins from `name:role` or `name:role:label` texts; a bare name is its own role."""
    found = []
    for spec in specs:
        name, _, rest = spec.partition(":")
        role, _, label = rest.partition(":")
        found.append(Pin(name, role or name, label))
    return tuple(found)


def port(port_id: str, label: str, *specs: str, family: str = "signal", **more: object) -> Port:
    """Return a port with pins written as in `pins`."""
    return Port(port_id, pins(*specs), label, family, **more)  # type: ignore[arg-type]


def first_pin(part: Part, *roles: str) -> str:
    """Return `part.port.pin` of the first pin with one of the roles, or "" where there is none."""
    for item in part.ports:
        for pin in item.pins:
            if pin.role in roles:
                return f"{part.id}.{item.id}.{pin.name}"
    return ""


def regulator(
    s: Stamper,
    part: Part,
    rail: str,
    ground: str,
    control: str,
    volt: float,
    limit_a: float,
    name: str = "supply",
    on_from_v: float = 8.0,
    on_to_v: float = 12.0,
) -> None:
    """Add a supply of `volt` with current limit, running while `control` stands above 8–12 V.

    What its rail shows to a meter while it is dead hangs on its inside.
    """
    raw = s.node(part, f"{name}_raw")
    s.add(
        part,
        f"{name}_source",
        raw,
        ground,
        ramp_source(volt + KNEE_V, 0.01, on_from_v, on_to_v),
        c=control,
        d=ground,
        by_control=True,
        tol_j=0.025,
    )
    s.add(part, f"{name}_limit", raw, rail, limiter(0.2, limit_a), tol_j=0.3)
    s.add(part, f"{name}_bleed", rail, ground, resistor(INSIDE_OHM), tol_g=DEAD_SPREAD)


def pulled_up(s: Stamper, part: Part, pin: str, rail: str, ohm: float, name: str) -> None:
    """Add an input pulled up to a rail."""
    s.add(part, f"{name}_pull", rail, pin, resistor(ohm), tol_g=MAKE_SPREAD)


def open_collector(
    s: Stamper,
    part: Part,
    out: str,
    supply: str,
    ground: str,
    name: str,
    load_ohm: float = COLLECTOR_LOAD_OHM,
) -> None:
    """Add a sensor output that pulls to ground when active (conditions make it active)."""
    s.add(part, f"{name}_out", out, ground, OPEN, c=supply, d=ground, by_control=True, tol_g=0.4)
    draws_on(s, part, f"{name}_load", supply, ground, load_ohm)


def draws_on(s: Stamper, part: Part, name: str, supply: str, ground: str, ohm: float) -> None:
    """Add what a sensor draws from its supply; what it shows to a meter while dead hangs on its
    inside."""
    s.add(part, name, supply, ground, resistor(ohm), tol_g=MAKE_SPREAD, tol_dead=DEAD_SPREAD)


def ratio_output(
    s: Stamper, part: Part, ends: tuple[str, str, str], ratio: float, ohm: float, tol_g: float
) -> None:
    """Add an output that gives a share of its supply; `ends` are signal, supply and ground."""
    signal, supply, ground = ends
    s.add(
        part,
        "output",
        signal,
        ground,
        ratio_source(ratio, ohm),
        c=supply,
        d=ground,
        by_control=True,
        tol_g=tol_g,
        tol_j=RATIO_SPREAD,
    )


def pulling(part: Part, name: str) -> tuple[Override, ...]:
    """Return the override that makes an open-collector output active."""
    return (Override(f"{part.id}/{name}_out", switched(60.0, SENSOR_ON_V)),)


def half_bridge(s: Stamper, part: Part, phase: str, plus: str, minus: str, name: str) -> None:
    """Add one leg: body diodes, phase-voltage divider, dormant shorted switches."""
    s.add(part, f"{name}_low_diode", minus, phase, diode(0.5, 0.05), tol_j=0.08)
    s.add(part, f"{name}_high_diode", phase, plus, diode(0.5, 0.05), tol_j=0.08)
    s.add(part, f"{name}_divider", phase, minus, resistor(47e3), tol_g=MAKE_SPREAD)
    s.add(part, f"{name}_low_short", phase, minus, OPEN)
    s.add(part, f"{name}_high_short", phase, plus, OPEN)


def replace(
    part: Part, minutes: float, root_cause: str, cost_level: int, action: str = ""
) -> RepairKind:
    """Return the repair "replace this part"."""
    return RepairKind(
        f"part:{part.id}", action or f"Replace the {part.name}", minutes, root_cause, cost_level
    )


def mode(
    part: Part,
    pin: str,
    name: str,
    title: str,
    weight: float,
    repair: RepairKind,
    overrides: tuple[Override, ...] = (),
    traits: tuple[str, ...] = (),
    level: str = "full",
    seen_by_eye: float = 0.0,
    loose: float = 0.0,
    signs: tuple[tuple[str, float], ...] = (),
) -> FaultMode:
    """Return a fault mode with its permanent id; `pin` is `port.pin` or `inside.name`."""
    return FaultMode(
        f"{part.id}.{pin}/{name}/{level}",
        f"{part.name}: {title}",
        weight,
        repair,
        overrides,
        tuple(f"{part.id}:{t}" for t in traits),
        f"{part.id}.{pin}",
        seen_by_eye,
        loose,
        signs=signs,
    )


def fixed(part: Part, element: str, ohm: float, spread: float = 0.4) -> tuple[Override, ...]:
    """Return an override that makes an element a plain resistance."""
    return (Override(f"{part.id}/{element}", resistor(ohm), tol_g=spread, tol_j=0.0),)


def weakened(part: Part, limit: str, ohm: float, spread: float = 0.5) -> tuple[Override, ...]:
    """Return an override that puts `ohm` into the way of a regulator instead of its limit."""
    return (Override(f"{part.id}/{limit}", diode(KNEE_V, ohm), tol_g=spread),)


def opened(part: Part, *elements: str) -> tuple[Override, ...]:
    """Return overrides that open elements."""
    return tuple(Override(f"{part.id}/{e}", OPEN) for e in elements)
