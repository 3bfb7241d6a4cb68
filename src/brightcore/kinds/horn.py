"""The horn: what it is, what is heard of it, and how it fails."""

from dataclasses import dataclass

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.behaviour.vocabulary import Observable
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, current_sink
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, Fitting, OneThing, PartKind, spec_value
from brightcore.kinds.blocks import fixed, mode, opened, port, replace
from brightcore.kinds.lamp import LIT_SHARE

SOUNDS = Observable(
    "horn", "Does the horn sound?", (("sounds", "sounds"), ("silent", "silent")), slip=0.01
)


@dataclass(frozen=True, slots=True)
class HornSpec(Spec):
    """Volts and watts printed on a horn with its button."""

    rated_v: float = spec_value(12.0, 3.0, 90.0, "volts it is made for")
    power_w: float = spec_value(10.0, 0.1, 100.0, "watts while it sounds")


class Horn(PartKind[HornSpec]):
    """Two wires and a button."""

    name, title, spec_type = "horn", "Horn with button", HornSpec
    place, symbol, has_spare, swap_min = "light", "lamp", True, 6.0
    sits = "bar"
    act = "Press the button of {part}"
    symptoms = (
        Symptom(
            "horn-silent",
            "Horn does not sound",
            "horn",
            "horn",
            "silent",
            rank=18,
            suggested_by=("horn",),
        ),
    )
    shows = (SOUNDS,)
    found_on = ("accessory_plus",)
    fitting = Fitting(where=", its button under the thumb")
    does = OneThing(
        "Does it sound, loud and at once?",
        "Horn, plug, then its button.",
        "horn",
        ("horn", "sounds", "Press it.", "Loud, stops when let go."),
    )
    not_modelled = ("loudness",)

    def draws(self, part: Part[HornSpec]) -> tuple[Draw, ...]:
        return (Draw("lamp_plus", part.spec.power_w / part.spec.rated_v),)

    def made_for_v(self, spec: HornSpec) -> float:
        return spec.rated_v

    def ports(self, spec: HornSpec) -> tuple[Port, ...]:
        return (port("plug", "Horn", "plus:lamp_plus:horn +", "minus:lamp_minus:horn −"),)

    def stamp(self, s: Stamper, part: Part[HornSpec]) -> None:
        plus, minus = s.tie_role(part, "lamp_plus", "plus"), s.tie_role(part, "lamp_minus", "minus")
        s.add(part, "sound", plus, minus, OPEN)

    def controls(self, part: Part[HornSpec]) -> tuple[Control, ...]:
        return (
            Control("button", ("released", "pressed"), ("", "Button of {part} pressed"), "hand"),
        )

    def apply(self, part: Part[HornSpec], control: str, value: str) -> tuple[Override, ...]:
        if value != "pressed":
            return ()
        spec = part.spec
        load = current_sink(spec.power_w / spec.rated_v, spec.rated_v * 0.35, spec.rated_v * 0.8)
        return (Override(f"{part.id}/sound", load, tol_g=0.15, tol_j=0.15),)

    def behave(self, part: Part[HornSpec], view: SceneView) -> None:
        if view.has("pressed"):
            volts = view.volts(f"{part.id}:plus", f"{part.id}:minus", "pressed")
            sounds = (volts > part.spec.rated_v * view.limit(LIT_SHARE, 0.4, 0.75)) & ~view.trait(
                part.id, "dead"
            )
            view.see("horn", (sounds, "sounds"), otherwise="silent", part_id=part.id)

    def faults(self, part: Part[HornSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 10, "Water in horn or button", 1)
        return (
            mode(
                part,
                "inside.horn",
                "dead",
                "does not sound",
                3.0,
                new,
                opened(part, "sound"),
                ("dead",),
            ),
            mode(
                part,
                "inside.horn",
                "short",
                "shorted inside",
                0.5,
                new,
                fixed(part, "sound", 0.5),
                ("dead",),
            ),
        )
