"""What is set into a lead: a fuse in its holder, a switch for lights; and the key or on-off
switch."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import Override, resistor
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import OneThing, PartKind, spec_value
from brightcore.kinds.blocks import fixed, mode, opened, port, replace
from brightcore.kinds.cable import Cable, CableSpec, conductors
from brightcore.kinds.pack_faults import FUSE_SEEN
from brightcore.physics.copper import wire_ohm

CONTACT_OHM = 0.004
"""A sound fuse clip or switch contact (common practice)."""

BURNT_OHM = 2.0
"""A burnt one (common practice)."""


def _two_ended(label: str, family: str) -> tuple[Port, ...]:
    ends = ("plus:wire", "minus:wire")
    return (
        port("one", label, *ends, family=family),
        port("two", f"{label} far", *ends, family=family),
    )


def _through_contact(s: Stamper, part: Part[CableSpec]) -> None:
    """Add the conductors of a two-ended piece: plus through the element `contact`, minus
    straight."""
    ohm = wire_ohm(part.spec.length_m, part.spec.area_mm2)
    for one, two in conductors(part):
        a, b = f"{part.id}.{one}", f"{part.id}.{two}"
        if one.endswith(".plus"):
            s.add(part, f"{one}-{two}", a, s.node(part, "inside"), resistor(ohm), tol_g=0.2)
            s.add(part, "contact", s.node(part, "inside"), b, resistor(CONTACT_OHM), tol_g=0.4)
        else:
            s.add(part, f"{one}-{two}", a, b, resistor(ohm), tol_g=0.2)


@dataclass(frozen=True, slots=True)
class FuseHolderSpec(CableSpec):
    """A fuse in a holder, with its two tails."""

    length_m: float = spec_value(0.2, 0.01, 30.0, "length from end to end")
    area_mm2: float = spec_value(4.0, 0.05, 50.0, "area of its tails")
    fuse_a: float = spec_value(30.0, 0.1, 500.0, "rating of the fuse in it")
    fuse_v: float = spec_value(0.0, 0.0, 1000.0, "DC volts printed on the fuse; 0 not read")


class FuseHolder(Cable):
    """Two tails with a fuse in the plus."""

    name, title, spec_type = "fuse_holder", "Inline fuse holder", FuseHolderSpec
    swap_min = 4.0
    not_modelled = ("heat of the clips",)

    def ports(self, spec: CableSpec) -> tuple[Port, ...]:
        return _two_ended("Fuse", "power-2")

    def stamp(self, s: Stamper, part: Part[CableSpec]) -> None:
        _through_contact(s, part)

    def faults(self, part: Part[CableSpec]) -> tuple[FaultMode, ...]:
        fuse = replace(
            part,
            10,
            "A fuse blows for a reason: look for a short before fitting the new one",
            0,
            f"Replace the fuse in the {part.name} (same DC rating)",
        )
        holder = replace(part, 15, "Loose clip, or more current than the holder is made for", 1)
        return (
            mode(
                part,
                "inside.fuse",
                "open",
                "fuse blown",
                2.5,
                fuse,
                opened(part, "contact"),
                seen_by_eye=FUSE_SEEN,
            ),
            mode(
                part,
                "inside.clip",
                "resistive",
                "clips burnt",
                1.0,
                holder,
                fixed(part, "contact", BURNT_OHM),
                seen_by_eye=0.6,
            ),
        )


@dataclass(frozen=True, slots=True)
class LightSwitchSpec(CableSpec):
    """A switch in the lead of a lamp."""

    length_m: float = spec_value(0.4, 0.01, 30.0, "length from end to end")
    area_mm2: float = spec_value(0.5, 0.05, 50.0, "area of its tails")
    rated_a: float = spec_value(3.0, 0.1, 50.0, "current of its contact, DC")


class LightSwitch(Cable):
    """Two tails with a contact in the plus; on at rest, as it is left when the lamp is tried."""

    name, title, spec_type = "light_switch", "Light switch", LightSwitchSpec
    does = OneThing(
        "Does it switch the lights on, and off again?",
        "Switch, plug, then the light output of the controller.",
    )
    sits, swap_min = "bar", 6.0
    not_modelled = ("wear by arcs",)

    def ports(self, spec: CableSpec) -> tuple[Port, ...]:
        return _two_ended("Light switch", "signal")

    def stamp(self, s: Stamper, part: Part[CableSpec]) -> None:
        _through_contact(s, part)

    def controls(self, part: Part[CableSpec]) -> tuple[Control, ...]:
        return (Control("light", ("on", "off"), ("{part} on", "{part} off"), "hand"),)

    def apply(self, part: Part[CableSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "off":
            return opened(part, "contact")
        return ()

    def faults(self, part: Part[CableSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 12, "Water, or more amps than the contact is made for", 0)
        return (
            mode(part, "one.plus", "open", "contact stays open", 2.0, new, opened(part, "contact")),
            mode(
                part,
                "one.plus",
                "resistive",
                "contact burnt",
                1.5,
                new,
                fixed(part, "contact", 20.0),
            ),
        )


@dataclass(frozen=True, slots=True)
class KeySwitchSpec(Spec):
    """Contact of a key or on-off switch on the key line."""

    rated_a: float = spec_value(3.0, 0.1, 100.0, "current of its contact, DC")
    max_v: float = spec_value(84.0, 12.0, 150.0, "highest volts its contact breaks, DC")


class KeySwitch(PartKind[KeySwitchSpec]):
    """Brings pack plus to the key line."""

    name, title, spec_type = "key_switch", "Key or on-off switch", KeySwitchSpec
    does = OneThing(
        "Off: is everything dark, also with the throttle touched? On: does it start at once?",
        "Switch and plug; a switch that stays on drains the pack over weeks.",
    )
    place, symbol, has_spare, swap_min = "bar", "lever", True, 6.0
    either_way = True
    not_modelled = ("wear by arcs",)

    def ports(self, spec: KeySwitchSpec) -> tuple[Port, ...]:
        return (port("plug", "Key", "vp:key_in:pack +", "key:key_out:key line"),)

    def most_v(self, spec: KeySwitchSpec) -> float:
        return spec.max_v

    def links(self, part: Part[KeySwitchSpec]) -> Iterator[tuple[str, str]]:
        return iter(())

    def stamp(self, s: Stamper, part: Part[KeySwitchSpec]) -> None:
        one, two = s.tie_role(part, "key_in", "in"), s.tie_role(part, "key_out", "out")
        s.add(part, "contact", one, two, resistor(0.1), tol_g=0.4)

    def controls(self, part: Part[KeySwitchSpec]) -> tuple[Control, ...]:
        return (Control("power", ("on", "off", "out"), ("{part} on", "{part} off", "Pack out")),)

    def apply(self, part: Part[KeySwitchSpec], control: str, value: str) -> tuple[Override, ...]:
        if value != "on":
            return opened(part, "contact")
        return ()

    def faults(self, part: Part[KeySwitchSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 12, "Water in the lock, or its wire pulled at every steering lock", 1)
        return (
            mode(part, "plug.key", "open", "contact stays open", 3.0, new, opened(part, "contact")),
            mode(
                part, "plug.key", "resistive", "contact bad", 1.5, new, fixed(part, "contact", 30e3)
            ),
        )
