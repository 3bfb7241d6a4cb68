"""Mode switch: holds a controller to its lower speed while it is closed."""

from dataclasses import dataclass

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, resistor
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import OneThing, PartKind, torque_value
from brightcore.kinds.blocks import fixed, mode, opened, port, replace

CONTACT_OHM, CLOSED_OHM = 0.2, 0.5
"""Wires and contact of the switch, then its contact closed (common practice)."""


@dataclass(frozen=True, slots=True)
class ModeSwitchSpec(Spec):
    """Two positions: open runs at full speed, closed to ground at the lower one."""

    clamp_nm: float = torque_value("clamp on the bar")


class ModeSwitch(PartKind[ModeSwitchSpec]):
    """Two-wire switch to ground on the mode input of a controller."""

    name, title, spec_type = "mode_switch", "Mode switch (full and lower speed)", ModeSwitchSpec
    does = OneThing(
        "Wheel up, the same throttle: is one position clearly slower than the other?",
        "Its plug and the controller's mode input; some controllers take a change only at a "
        "standstill.",
    )
    fails_as = "lever"
    place, symbol, has_spare, swap_min = "bar", "lever", True, 6.0
    either_way = True
    not_modelled = (
        "a third position",
        "how fast each position is",
        "what a controller does on a change",
    )

    def ports(self, spec: ModeSwitchSpec) -> tuple[Port, ...]:
        return (
            port("plug", "Mode switch", "signal:mode_signal:signal", "ground:sensor_ground:ground"),
        )

    def stamp(self, s: Stamper, part: Part[ModeSwitchSpec]) -> None:
        signal = s.tie_role(part, "mode_signal", "signal")
        ground = s.tie_role(part, "sensor_ground", "ground")
        inside = s.node(part, "inside")
        s.add(part, "contact", signal, inside, resistor(CONTACT_OHM), tol_g=0.5)
        s.add(part, "switch", inside, ground, OPEN)

    def controls(self, part: Part[ModeSwitchSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "mode", ("full", "lower"), ("{part}: full speed", "{part}: lower speed"), "hand"
            ),
        )

    def apply(self, part: Part[ModeSwitchSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "lower":
            return fixed(part, "switch", CLOSED_OHM)
        return opened(part, "switch")

    def faults(self, part: Part[ModeSwitchSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 12, "Water in the switch, or its wire pinched at the bar", 1)
        held_low = fixed(part, "switch", CLOSED_OHM)
        return (
            mode(
                part, "plug.signal", "stuck-closed", "stuck at the lower speed", 3.0, new, held_low
            ),
            mode(
                part,
                "plug.signal",
                "stuck-open",
                "never lowers the speed",
                1.5,
                new,
                opened(part, "switch"),
            ),
        )
