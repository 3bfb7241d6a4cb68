"""What is plugged to a pack by itself: the charger, and the low-cell alarm on the balance lead."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.behaviour.scene import SceneView
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import KNEE_V, OPEN, Override, limiter, resistor, source
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Feed, OneThing, PartKind, spec_value
from brightcore.kinds.blocks import fixed, mode, opened, port, replace

LIMIT_OHM, CHARGES_FROM = 0.1, 0.15
"""Inner resistance of a charger, and the share of its current from which its lamp says charging
(common practice)."""


@dataclass(frozen=True, slots=True)
class ChargerSpec(Spec):
    """What is printed on a charger."""

    out_v: float = spec_value(54.6, 3.0, 120.0, "volts at the end of charging")
    out_a: float = spec_value(2.0, 0.1, 40.0, "charging current")


class Charger(PartKind[ChargerSpec]):
    """Constant current, then constant volts; blocks backwards."""

    name, title, spec_type = "charger", "Charger", ChargerSpec
    fails_as = "charger"
    place, symbol, has_spare, swap_min = "between", "module", True, 3.0
    sits = ""
    not_modelled = ("mains side", "heat", "what it tells the pack")

    def feeds(self, part: Part[ChargerSpec]) -> tuple[Feed, ...]:
        return (Feed("charge_out", part.spec.out_v, part.spec.out_a),)

    def ports(self, spec: ChargerSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Charger",
                "plus:charge_out:charger +",
                "minus:charge_minus:charger −",
                family="charge-2",
            ),
        )

    def stamp(self, s: Stamper, part: Part[ChargerSpec]) -> None:
        plus, minus = (
            s.tie_role(part, "charge_out", "plus"),
            s.tie_role(part, "charge_minus", "minus"),
        )
        raw = s.node(part, "raw")
        s.add(part, "source", raw, minus, OPEN)
        s.add(part, "limit", raw, plus, limiter(LIMIT_OHM, part.spec.out_a), tol_j=0.1)
        s.add(part, "bleed", plus, minus, resistor(47e3), tol_g=0.3)

    def controls(self, part: Part[ChargerSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "mains", ("off", "on"), ("{part} off the mains", "{part} on the mains, attended")
            ),
        )

    def apply(self, part: Part[ChargerSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "on":
            return (Override(f"{part.id}/source", source(part.spec.out_v + KNEE_V, 0.02)),)
        return ()

    def behave(self, part: Part[ChargerSpec], view: SceneView) -> None:
        if not view.has("charging"):
            return
        inside = view.volts(f"{part.id}:raw", f"{part.id}:plus", "charging")
        ampere = (inside - KNEE_V) / LIMIT_OHM
        charging = ampere > CHARGES_FROM * part.spec.out_a
        cases = ((view.trait(part.id, "dead"), "dark"), (charging, "charging"))
        view.see("charging", *cases, otherwise="idle", part_id=part.id)

    def faults(self, part: Part[ChargerSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 5, "Heat, a fall, or the wrong pack", 2)
        return (
            mode(
                part,
                "plug.plus",
                "dead",
                "gives nothing",
                2.0,
                new,
                opened(part, "limit"),
                ("dead",),
            ),
            mode(
                part,
                "plug.plus",
                "leaky",
                "drains the pack when off",
                0.5,
                new,
                fixed(part, "bleed", 220.0),
            ),
        )


@dataclass(frozen=True, slots=True)
class AlarmSpec(Spec):
    """How a low-cell alarm is set."""

    cell_count: int = spec_value(6, 2, 24, "cells it watches")
    alarm_v: float = spec_value(3.2, 2.0, 4.0, "volts of the lowest cell at which it sounds")


class CellAlarm(PartKind[AlarmSpec]):
    """Watches every cell of a pack that has no board of its own, and only sounds."""

    name, title, spec_type = "cell_alarm", "Low-cell alarm", AlarmSpec
    does = OneThing(
        "Set it above the lowest group for a moment: does it sound?",
        "Balance plug fully home, its setting, then another alarm.",
    )
    place, symbol, has_spare, swap_min = "sensor", "module", True, 2.0
    sits = "down_tube"
    not_modelled = ("the volts of single cells", "its sound")

    def ports(self, spec: AlarmSpec) -> tuple[Port, ...]:
        return (port("plug", "Low-cell alarm", "cells:balance:balance lead", family="balance"),)

    def stamp(self, s: Stamper, part: Part[AlarmSpec]) -> None:
        s.add(
            part,
            "input",
            s.tie_role(part, "balance", "cells"),
            s.node(part, "inside"),
            resistor(1e6),
        )

    def faults(self, part: Part[AlarmSpec]) -> tuple[FaultMode, ...]:
        new = replace(
            part, 3, "Plugged the wrong way round, or a pin of the balance lead pushed back", 0
        )
        deaf = mode(
            part,
            "plug.cells",
            "deaf",
            "never sounds",
            1.0,
            new,
            opened(part, "input"),
            seen_by_eye=0.5,
        )
        return (deaf,)


def watched(part: Part) -> Iterator[str]:
    """Yield the names of a part's balance pins, `part.port.pin`."""
    for item in part.ports:
        for pin in item.pins:
            if pin.role == "balance":
                yield f"{part.id}.{item.id}.{pin.name}"
