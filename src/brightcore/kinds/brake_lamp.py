"""The rear lamp with brake light."""

from dataclasses import dataclass

from brightcore.bike.model import Part, Port
from brightcore.circuit.elements import INF, OFF_S, OPEN, Region, current_sink
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, OneThing, spec_value
from brightcore.kinds.blocks import fixed, mode, port, replace
from brightcore.kinds.lamp import LIGHTS, Lamp, LampSpec

BRAKED_BELOW_V = 1.5
"""A brake line below this is pulled (common practice)."""


@dataclass(frozen=True, slots=True)
class BrakeLampSpec(LampSpec):
    """Volts and watts printed on a rear lamp with brake light."""

    power_w: float = spec_value(0.6, 0.1, 100.0, "watts as a rear lamp")
    brake_w: float = spec_value(2.4, 0.1, 100.0, "watts more while braking")


class BrakeLamp(Lamp):
    """Three wires: lit with the lamp, brighter while the brake line is pulled to ground."""

    name, title, spec_type = "brake_lamp", "Rear lamp with brake light", BrakeLampSpec
    sits = "rear_rack"
    found_on = ("brake_signal", "accessory_plus")
    does = OneThing(
        "Does it glow with the lights, and shine with either brake pulled?",
        "Lamp, plug, then the wire of each brake.",
        "lights",
        LIGHTS,
    )
    not_modelled = ("brightness",)

    def draws(self, part: Part[LampSpec]) -> tuple[Draw, ...]:
        spec = part.spec
        more = spec.brake_w if isinstance(spec, BrakeLampSpec) else 0.0
        return (Draw("lamp_plus", (spec.power_w + more) / spec.rated_v),)

    def ports(self, spec: LampSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Rear lamp",
                "plus:lamp_plus:lamp +",
                "minus:lamp_minus:lamp −",
                "brake:brake_signal:brake line",
            ),
        )

    def stamp(self, s: Stamper, part: Part[LampSpec]) -> None:
        plus, minus = s.tie_role(part, "lamp_plus", "plus"), s.tie_role(part, "lamp_minus", "minus")
        brake, spec = s.tie_role(part, "brake_signal", "brake"), part.spec
        tail = current_sink(spec.power_w / spec.rated_v, spec.rated_v * 0.35, spec.rated_v * 0.8)
        s.add(part, "light", plus, minus, tail, tol_g=0.15, tol_j=0.15)
        s.add(part, "brake_stuck", brake, minus, OPEN)
        if isinstance(spec, BrakeLampSpec):
            ohm = spec.rated_v**2 / spec.brake_w
            bright = (Region(BRAKED_BELOW_V, 1.0 / ohm), Region(INF, OFF_S))
            s.add(
                part, "bright", plus, minus, bright, c=brake, d=minus, by_control=True, tol_g=0.15
            )

    def faults(self, part: Part[LampSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 10, "Water, or the brake wire chafed at the rack", 1)
        return (
            *super().faults(part),
            mode(
                part,
                "plug.brake",
                "short",
                "brake line shorted inside",
                0.7,
                new,
                fixed(part, "brake_stuck", 0.5),
            ),
        )
