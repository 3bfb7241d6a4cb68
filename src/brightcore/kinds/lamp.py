"""Lamp on the accessory output."""

from dataclasses import dataclass
from typing import Any

from brightcore.behaviour.scene import SceneView
from brightcore.bike.kind import FaultMode, PartKind, spec_value
from brightcore.bike.model import Part, Port
from brightcore.circuit.elements import current_sink
from brightcore.circuit.netlist import Stamper
from brightcore.kinds.blocks import fixed, mode, opened, port, replace


@dataclass(frozen=True, slots=True)
class LampSpec:
    """Volts and watts printed on the lamp."""

    rated_v: float = spec_value(12.0, 3.0, 90.0, "volts it is made for")
    power_w: float = spec_value(3.0, 0.1, 100.0, "watts")


class Lamp(PartKind):
    """Two wires; draws nothing below a third of its volts, then a constant current."""

    name, title, spec_type = "lamp", "Lamp", LampSpec
    place, symbol, has_spare, swap_min = "light", "lamp", True, 6.0
    not_modelled = ("brightness",)

    def ports(self, spec: Any) -> tuple[Port, ...]:
        return (port("plug", "Lamp", "plus:lamp_plus:lamp +", "minus:lamp_minus:lamp −"),)

    def stamp(self, s: Stamper, part: Part) -> None:
        plus, minus = s.tie_role(part, "lamp_plus", "plus"), s.tie_role(part, "lamp_minus", "minus")
        spec: LampSpec = part.spec
        load = current_sink(spec.power_w / spec.rated_v, spec.rated_v * 0.35, spec.rated_v * 0.8)
        s.add(part, "light", plus, minus, load, tol_g=0.15, tol_j=0.15)

    def behave(self, part: Part, view: SceneView) -> None:
        if view.has("rest"):
            volts = view.volts(f"{part.id}:plus", f"{part.id}:minus", "rest")
            lit = (volts > part.spec.rated_v * 0.55) & ~view.trait(part.id, "dead")
            view.see("lamp", (lit, "lit"), otherwise="dark", part_id=part.id)

    def faults(self, part: Part) -> tuple[FaultMode, ...]:
        new = replace(part, 10, "Water, or too many volts: check the accessory output first", 1)
        return (
            mode(part, "inside.light", "dead", "does not light", 3.0, new, opened(part, "light"), ("dead",)),
            mode(part, "inside.light", "short", "shorted inside", 0.7, new, fixed(part, "light", 0.5), ("dead",)),
        )
