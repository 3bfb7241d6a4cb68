"""Electrical states: power, what is set on the bike, what is unplugged.

A condition is written `on; throttle.grip=full; unplug halls` and parsed back from it.
"""

from dataclasses import dataclass

from brightcore.bike.model import Join
from brightcore.bike.roles import role_of
from brightcore.circuit.contacts import join_title
from brightcore.circuit.elements import Override
from brightcore.circuit.netlist import Circuit, unplug
from brightcore.errors import UnknownNameError

NO_LONGER_SET = ".diode"
"""Readings of earlier versions name the meter's diode range as if it were set on the bike."""

POWERS = ("out", "off", "on")
"""Pack out; pack in and switched off; switched on."""


@dataclass(frozen=True, slots=True, order=True)
class Condition:
    """One electrical state of a bike. `settings` holds (control, value) away from rest."""

    power: str = "on"
    settings: tuple[tuple[str, str], ...] = ()
    unplugged: tuple[str, ...] = ()

    @property
    def id(self) -> str:
        """Canonical text of the condition."""
        pieces = [
            self.power,
            *(f"{c}={v}" for c, v in self.settings),
            *(f"unplug {j}" for j in self.unplugged),
        ]
        return "; ".join(pieces)

    def having(self, control: str, value: str) -> "Condition":
        """Return the condition with one more control set."""
        rest = tuple(item for item in self.settings if item[0] != control)
        return Condition(self.power, tuple(sorted((*rest, (control, value)))), self.unplugged)

    def without(self, join_id: str) -> "Condition":
        """Return the condition with a join unplugged."""
        return Condition(self.power, self.settings, tuple(sorted({*self.unplugged, join_id})))


def parse_condition(circuit: Circuit, text: str) -> Condition:
    """Return the condition written in `text`; raises UnknownNameError for names the bike lacks."""
    power, settings, unplugged = "on", [], []
    for piece in (item.strip() for item in text.split(";") if item.strip()):
        if piece in POWERS:
            power = piece
        elif piece.startswith("unplug "):
            unplugged.append(circuit.bike.join(piece.removeprefix("unplug ").strip()).id)
        else:
            control, _, value = piece.partition("=")
            # Cases written by an earlier version name a control that became a kind of test. They
            # are read as if it were not there.
            if control.endswith(NO_LONGER_SET):
                continue
            if control not in circuit.controls:
                raise UnknownNameError("control", piece, tuple(circuit.controls))
            values = circuit.controls[control][1].values
            if value not in values:
                raise UnknownNameError("value", piece, tuple(f"{control}={v}" for v in values))
            # What stands at rest is not written: two ways of saying one state would be two keys in
            # every cache.
            if value != values[0]:
                settings.append((control, value))
    return Condition(power, tuple(sorted(settings)), tuple(sorted(unplugged)))


def condition_overrides(circuit: Circuit, condition: Condition) -> tuple[Override, ...]:
    """Return the element overrides of power and settings (unplugging is separate, it wins)."""
    found: list[Override] = []
    chosen = dict(condition.settings)
    for name, (part_id, control) in circuit.controls.items():
        value = chosen.get(name, control.values[0])
        if control.id == "power":
            value = condition.power
        part = circuit.bike.part(part_id)
        found.extend(circuit.registry[part.kind].apply(part, control.id, value))
    return tuple(found)


def unplug_overrides(circuit: Circuit, condition: Condition) -> tuple[Override, ...]:
    """Return the overrides of everything unplugged."""
    found = []
    for join_id in condition.unplugged:
        for o in unplug(circuit, join_id):
            found.append(o)
    return tuple(found)


DEAD_STEPS = ("Switch off, pack out", "Capacitors under 5 V")
"""What is done before any plug is parted or joined."""

POWER_STEPS = {"out": (), "off": ("Pack in, left switched off",), "on": ("Pack in", "Switch on")}
"""What follows once plugs are parted or joined, by the power of the state."""

PLAIN_STEPS = {"out": "Pack out", "off": "Pack in, switched off", "on": "Switched on"}
PHASES_APART = "Phase leads bare: insulate each; wheel off the ground, turned slowly, by hand alone"


def describe(circuit: Circuit, condition: Condition) -> tuple[str, ...]:
    """Return the acts that bring a bike into a state, in the order in which they are safe.

    No plug is parted under power: switch off, pack out, capacitors empty, unplug, pack in, switch
    on.
    """
    if condition.unplugged:
        joins = [circuit.bike.join(name) for name in condition.unplugged]
        words = [*DEAD_STEPS, *(f"Unplug {join_title(circuit.bike, join)}" for join in joins)]
        words += [PHASES_APART] if any(_has_phases(circuit, join) for join in joins) else []
        words += POWER_STEPS[condition.power]
    else:
        words = [PLAIN_STEPS[condition.power]]
    for name, value in condition.settings:
        part_id, control = circuit.controls[name]
        phrase = control.words[control.values.index(value)]
        words.append(phrase.format(part=circuit.bike.part(part_id).name))
    return tuple(dict.fromkeys(words))


def _has_phases(circuit: Circuit, join: Join) -> bool:
    """Return whether a join carries phases of a motor."""
    ports = [circuit.bike.part(part).port(port) for part, port in join.sides()]
    return any(role_of(pin.role).use == "phase" for port in ports for pin in port.pins)
