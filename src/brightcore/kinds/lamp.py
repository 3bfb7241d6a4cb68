"""Lamp on the accessory output."""

from dataclasses import dataclass

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.elements import current_sink
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, Fitting, OneThing, PartKind, spec_value
from brightcore.kinds.blocks import fixed, mode, opened, port, replace

LIT_SHARE = 0.55
"""Share of its volts from which a lamp is called lit (common practice)."""


LIGHTS = (
    "light",
    "lights",
    "Switch it on and off; a brake lamp by each lever.",
    "Bright, steady, off when off.",
)
"""How a lamp is proven: key, verb, act, what is expected."""


@dataclass(frozen=True, slots=True)
class LampSpec(Spec):
    """Volts and watts printed on the lamp."""

    rated_v: float = spec_value(12.0, 3.0, 90.0, "volts it is made for")
    power_w: float = spec_value(3.0, 0.1, 100.0, "watts")


class Lamp(PartKind[LampSpec]):
    """Two wires; draws nothing below a third of its volts, then a constant current."""

    name, title, spec_type = "lamp", "Lamp", LampSpec
    fitting = Fitting(where=" where it is seen and dazzles nobody")
    found_on: tuple[str, ...] = ("accessory_plus",)
    does = OneThing(
        "Does it light with the light switched on, and go out again?",
        "Lamp, plug, then the light output.",
        "lights",
        LIGHTS,
    )
    place, symbol, has_spare, swap_min = "light", "lamp", True, 6.0
    sits = "fork"
    symptoms = (Symptom("lamp-dark", "Lamp does not light", "switch_on", "lamp", "dark", rank=16),)
    not_modelled = ("brightness",)

    def draws(self, part: Part[LampSpec]) -> tuple[Draw, ...]:
        return (Draw("lamp_plus", part.spec.power_w / part.spec.rated_v),)

    def made_for_v(self, spec: LampSpec) -> float:
        return spec.rated_v

    def ports(self, spec: LampSpec) -> tuple[Port, ...]:
        return (port("plug", "Lamp", "plus:lamp_plus:lamp +", "minus:lamp_minus:lamp −"),)

    def stamp(self, s: Stamper, part: Part[LampSpec]) -> None:
        plus, minus = s.tie_role(part, "lamp_plus", "plus"), s.tie_role(part, "lamp_minus", "minus")
        spec: LampSpec = part.spec
        (draw,) = self.draws(part)
        load = current_sink(draw.ampere, spec.rated_v * 0.35, spec.rated_v * 0.8)
        s.add(part, "light", plus, minus, load, tol_g=0.15, tol_j=0.15)

    def behave(self, part: Part[LampSpec], view: SceneView) -> None:
        if view.has("rest"):
            volts = view.volts(f"{part.id}:plus", f"{part.id}:minus", "rest")
            lit = (volts > part.spec.rated_v * view.limit(LIT_SHARE, 0.4, 0.75)) & ~view.trait(
                part.id, "dead"
            )
            view.see("lamp", (lit, "lit"), otherwise="dark", part_id=part.id)

    def faults(self, part: Part[LampSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 10, "Water, or too many volts: check the accessory output first", 1)
        return (
            mode(
                part,
                "inside.light",
                "dead",
                "does not light",
                3.0,
                new,
                opened(part, "light"),
                ("dead",),
            ),
            mode(
                part,
                "inside.light",
                "short",
                "shorted inside",
                0.7,
                new,
                fixed(part, "light", 0.5),
                ("dead",),
            ),
        )
