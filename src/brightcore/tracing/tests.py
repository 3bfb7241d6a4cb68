"""Candidate tests of one bike: what can be measured, looked at, unplugged or swapped.

Built from the description alone. A test knows how long it takes, what state the bike must
be in and which cautions stand before it.
"""

from dataclasses import dataclass

from brightcore.behaviour.scene import Scene
from brightcore.bike.kind import FaultMode
from brightcore.bike.model import Join
from brightcore.circuit.conditions import Condition, describe
from brightcore.circuit.netlist import Circuit, join_title, pair_class
from brightcore.circuit.nets import GROUND_ROLES, Nets
from brightcore.kinds.cable import conductors
from brightcore.kinds.controller import DIODE_TESTS
from brightcore.tracing.evidence import owner
from brightcore.tracing.hypotheses import HypothesisSet

GATES = {
    "pack_safe": "Pack looked at: not swollen, hot, wet, dropped or smelling",
    "wheel_up": "Driven wheel off the ground; hands, hair and straps clear; you know where the cut-off is",
    "pack_out": "Pack switched off, unplugged and out",
    "discharged": "Capacitors discharged: under 5 V between battery + and − at the controller",
    "road": "Brakes stop the bike without the cut-off; slow, off the road, helmet on",
    "known_good": "Spare is of the same volts, protocol and pinout; no pack volts on signal pins",
}
"""Cautions, acknowledged before a test and logged (common practice; local rules decide)."""


@dataclass(frozen=True, slots=True)
class Test:
    """One thing to do next. `minutes` counts doing it, not setting the bike up for it."""

    id: str
    kind: str
    title: str
    condition: Condition
    minutes: float
    gates: tuple[str, ...] = ()
    red: str = ""
    black: str = ""
    scene: str = ""
    subject: str = ""
    place: str = ""
    steps: tuple[str, ...] = ()


def enumerate_tests(circuit: Circuit, hypotheses: HypothesisSet, scenes: tuple[Scene, ...]) -> tuple[Test, ...]:
    """Return every candidate test of a bike, cheapest families first."""
    nets = circuit.nets
    found: list[Test] = [_look(circuit, scene) for scene in scenes]
    for join in circuit.bike.joins:
        found += _volts_at(circuit, nets, join)
        found += _ohms_at(circuit, nets, join)
    found += _ends(circuit, nets)
    found += _loose_parts(circuit, nets)
    found += _diodes(circuit)
    found += _inspections(circuit, hypotheses)
    found += _swaps(circuit, hypotheses)
    return tuple({test.id: test for test in found}.values())


def where(circuit: Circuit, pin: str) -> str:
    """Return words for the place of a pin: plug and side."""
    part, port, _ = circuit.bike.pin(pin)
    for join in circuit.bike.joins_of(part.id, port.id):
        return f"{join_title(circuit.bike, join)}, {part.name} side"
    return f"{part.name}, {port.label or port.id}"


def volts_gates(condition: Condition) -> tuple[str, ...]:
    """Return the cautions before a powered reading."""
    if condition.power != "on":
        return ("pack_safe",)
    if any(v == "pull" for _, v in condition.settings):
        return ("pack_safe", "road")
    return ("pack_safe", "wheel_up")


def numeric(circuit: Circuit, nets: Nets, kind: str, condition: Condition, red: str, black: str, minutes: float) -> Test:
    """Return the test "read between two points in a condition"."""
    verb = {"volts": "Volts", "swing": "Volts", "ohms": "Ohms", "diode": "Diode test"}[kind]
    same = where(circuit, red) == where(circuit, black)
    place = where(circuit, red)
    black_words = nets.title(black) if same else f"{nets.title(black)} at the {where(circuit, black)}"
    title = f"{verb} from {nets.title(red)} (red) to {black_words} (black), at the {place}"
    gates = ("pack_out", "discharged") if kind in ("ohms", "diode") else volts_gates(condition)
    text_id = f"{kind} {red} {black} @ {condition.id}"
    return Test(text_id, kind, title, condition, minutes, gates, red, black, place=place, steps=describe(circuit, condition))


def _look(circuit: Circuit, scene: Scene) -> Test:
    condition = scene.states[-1][1] if scene.id.split("/")[0] in ("pull",) else scene.states[0][1]
    title, gates = scene.title, volts_gates(condition)
    if scene.unplugged:
        title = (
            f"Unplug the {join_title(circuit.bike, circuit.bike.join(scene.unplugged))}, then: {scene.title[0].lower()}{scene.title[1:]}"
        )
    if scene.id.startswith("spin"):
        gates = ("pack_out",)
    kind = "unplug" if scene.unplugged else "look"
    shown = Condition(condition.power, (), condition.unplugged)
    return Test(f"look {scene.id}", kind, title, shown, scene.minutes, gates, scene=scene.id, steps=describe(circuit, shown))


def _access(circuit: Circuit, join: Join) -> float:
    return max(circuit.bike.part(p).port(q).access_min for p, q in join.sides())


def _conditions(circuit: Circuit, roles: set[str]) -> list[tuple[str, Condition]]:
    """Return the (kind, condition) pairs worth reading on a net with these roles."""
    on, found = Condition(), [("volts", Condition())]

    def controls(control_id: str) -> list[str]:
        return [name for name, (_, control) in circuit.controls.items() if control.id == control_id]

    if "throttle_signal" in roles:
        found += [("volts", on.having(c, "full")) for c in controls("grip")]
    if "brake_signal" in roles:
        found += [("volts", on.having(c, "pulled")) for c in controls("lever")]
    if roles & {"hall_a", "hall_b", "hall_c", "wheel_speed"}:
        turned = on
        for c in controls("rotor"):
            turned = turned.having(c, "3")
        found = [("swing", turned)] if turned != on else found
    if "pedal_signal" in roles:
        found = [("swing", on.having(c, "low")) for c in controls("turn")]
    if "torque_signal" in roles:
        found += [("volts", on.having(c, "pushed")) for c in controls("push")]
    if roles & {"battery_plus", "pack_plus"}:
        hard = on
        for c in controls("grip"):
            hard = hard.having(c, "full")
        for c in controls("drive"):
            found.append(("volts", hard.having(c, "pull")))
        found.append(("volts", Condition("off")))
    return found


def _volts_at(circuit: Circuit, nets: Nets, join: Join) -> list[Test]:
    found = []
    for part_id, port_id in join.sides():
        black = nets.ground(part_id, port_id)
        for pin in circuit.bike.part(part_id).port(port_id).pins:
            red = f"{part_id}.{port_id}.{pin.name}"
            roles = nets.roles_of(red)
            if red == black or not black or any(role.startswith("phase") for role in roles):
                continue
            if roles & GROUND_ROLES and len(roles) < 2:
                continue
            for kind, condition in _conditions(circuit, roles):
                braked = condition.settings and kind == "volts" and "brake_signal" in roles
                if braked and not _same_lever(circuit, nets, red, condition):
                    continue
                road = 4.0 if any(v == "pull" for _, v in condition.settings) else 0.0
                minutes = 0.8 + _access(circuit, join) + road + (0.4 if kind == "swing" else 0.0)
                found.append(numeric(circuit, nets, kind, condition, red, black, minutes))
    return found


def _same_lever(circuit: Circuit, nets: Nets, pin: str, condition: Condition) -> bool:
    part_id = circuit.controls[condition.settings[0][0]][0]
    part = circuit.bike.part(part_id)
    mine = {nets.find(f"{part_id}.{q.id}.{p.name}") for q in part.ports for p in q.pins}
    return nets.find(pin) in mine


def _ohms_at(circuit: Circuit, nets: Nets, join: Join) -> list[Test]:
    """Ohms across each mated contact, pack out."""
    found = []
    out = Condition("out")
    minutes = 0.7 + _access(circuit, join)
    for pair in join.pairs:
        red, black = f"{join.a_part}.{join.a_port}.{pair[0]}", f"{join.b_part}.{join.b_port}.{pair[1]}"
        test = numeric(circuit, nets, "ohms", out, red, black, minutes)
        title = f"Ohms across the {nets.title(red)} contact of the {join_title(circuit.bike, join)}, side to side"
        found.append(_retitled(test, title))
        if pair_class(circuit.bike, join, pair) == "power" and "battery_plus" in nets.roles_of(red) | {""}:
            hard = [c for kind, c in _conditions(circuit, {"pack_plus"}) if c.settings]
            for condition in hard:
                test = numeric(circuit, nets, "volts", condition, red, black, minutes + 4.0)
                found.append(_retitled(test, title.replace("Ohms", "Volts")))
    names = [pin.name for pin in circuit.bike.part(join.a_part).port(join.a_port).pins]
    apart = out.without(join.id)
    for part_id, port_id in join.sides():
        for one, two in zip(names, names[1:], strict=False):
            mates = {a: (a if part_id == join.a_part and port_id == join.a_port else b) for a, b in join.pairs}
            if one in mates and two in mates:
                red, black = (f"{part_id}.{port_id}.{mates[n]}" for n in (one, two))
                found.append(numeric(circuit, nets, "ohms", apart, red, black, minutes + 0.3))
    return found


def _retitled(test: Test, title: str) -> Test:
    return Test(test.id, test.kind, title, test.condition, test.minutes, test.gates, test.red, test.black,
                test.scene, test.subject, test.place, test.steps)  # fmt: skip


def _ends(circuit: Circuit, nets: Nets) -> list[Test]:
    """Ohms end to end of every conductor of every cable, pack out."""
    found = []
    for part in circuit.bike.of_kind("cable"):
        for one, two in conductors(part):
            red, black = f"{part.id}.{one}", f"{part.id}.{two}"
            test = numeric(circuit, nets, "ohms", Condition("out"), red, black, 2.0)
            found.append(_retitled(test, f"Ohms along the {nets.title(red)} conductor of the {part.name.lower()}, end to end ({where(circuit, black)})"))  # fmt: skip
    return found


def _loose_parts(circuit: Circuit, nets: Nets) -> list[Test]:
    """Ohms into a lever's plug while it is pulled, unplugged."""
    found = []
    for name, (part_id, control) in circuit.controls.items():
        part = circuit.bike.part(part_id)
        if control.id != "lever" or part.kind != "brake_lever":
            continue
        for join in circuit.bike.joins_of(part_id):
            port = part.ports[0]
            red, black = (f"{part_id}.{port.id}.{pin.name}" for pin in port.pins[:2])
            condition = Condition("out", ((name, "pulled"),), (join.id,))
            found.append(numeric(circuit, nets, "ohms", condition, red, black, 1.5))
    return found


def _diodes(circuit: Circuit) -> list[Test]:
    """The six body-diode readings, phases unplugged at the controller."""
    found, nets = [], circuit.nets
    for name, (part_id, control) in circuit.controls.items():
        if control.id != "diode":
            continue
        part = circuit.bike.part(part_id)
        pins = {pin.role: f"{part.id}.{q.id}.{pin.name}" for q in part.ports for pin in q.pins}
        joins = [j for j in circuit.bike.joins_of(part_id) if pins["phase_u"].split(".")[1] in (j.a_port, j.b_port)]
        for value in DIODE_TESTS[1:]:
            letter, _, end = value.partition("-")
            phase, rail = pins[f"phase_{letter}"], pins[f"battery_{end}"]
            red, black = (phase, rail) if end == "plus" else (rail, phase)
            condition = Condition("out", ((name, value),), tuple(j.id for j in joins[:1]))
            found.append(numeric(circuit, nets, "diode", condition, red, black, 1.0))
    return found


def _inspections(circuit: Circuit, hypotheses: HypothesisSet) -> list[Test]:
    found = []
    best: dict[str, FaultMode] = {}
    for item in hypotheses.items:
        if item.mode is not None:
            lead = best.get(item.repair.id, item.mode)
            best[item.repair.id] = max(lead, item.mode, key=lambda mode: mode.seen_by_eye)
    for repair_id, mode in best.items():
        if mode.seen_by_eye < 0.3:
            continue
        gates: tuple[str, ...]
        what = owner(repair_id)
        joins = [j for j in circuit.bike.joins if j.id == what]
        if joins:
            title = f"Unplug and look closely at the pins of the {join_title(circuit.bike, joins[0])}: bent, pushed back, green?"
            gates, minutes = ("pack_out",), 1.5 + _access(circuit, joins[0])
        elif repair_id.startswith("setting:"):
            title = f"Look at the settings. {mode.title}: is that so?"
            gates, minutes = (), 0.3
        else:
            title = f"Look closely. {mode.title}: is that so?"
            gates, minutes = ("pack_out",) if circuit.bike.part(what).kind == "pack" else (), 1.5
        power = "out" if gates else "on"
        found.append(Test(f"inspect {repair_id}", "inspect", title, Condition(power), minutes, gates, subject=repair_id,
                          steps=describe(circuit, Condition(power))))  # fmt: skip
    return found


def _swaps(circuit: Circuit, hypotheses: HypothesisSet) -> list[Test]:
    owners = {owner(item.repair.id) for item in hypotheses.items if item.mode is not None}
    found = []
    for part in circuit.bike.parts:
        kind = circuit.registry[part.kind]
        if kind.has_spare and part.id in owners:
            title = f"Lend a known good {part.name.lower()}: is the trouble gone?"
            found.append(Test(f"swap {part.id}", "swap", title, Condition(), kind.swap_min + 1.0,
                              ("pack_safe", "pack_out", "known_good", "wheel_up"), subject=part.id, steps=("Pack out while swapping", "Then switched on")))  # fmt: skip
    return found
