"""Display: lit from the pack, hands pack volts back on the key line, talks on two wires."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, current_sink, diode, resistor, switched
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import MAKE_SPREAD, opened, port, regulator
from brightcore.kinds.display_faults import display_faults

SERIAL_V = 3.0
"""Volts above which a line of messages is heard (common practice)."""

DISPLAY_A, ASLEEP_A = 0.02, 2e-4
"""Amps that a lit display takes, and one that is off (common practice)."""


@dataclass(frozen=True, slots=True)
class DisplaySpec(Spec):
    """A five-wire display."""

    lit_from_v: float = spec_value(18.0, 5.0, 60.0, "volts from which it lights")
    max_v: float = spec_value(60.0, 12.0, 120.0, "highest supply it stands")
    assist_levels: int = spec_value(5, 1, 9, "assist levels", awaits="Program")
    conductors: tuple[tuple[str, str], ...] = spec_value(
        (), doc="pairs of port.pin that it only hands on, such as throttle and levers", later=True
    )
    clamp_nm: float = torque_value("clamp on the bar")


class Display(PartKind[DisplaySpec]):
    """What the rider sees; shows brake symbol and errors that the controller reports."""

    name, title, spec_type = "display", "Display", DisplaySpec
    fails_as = "display"
    place, symbol, has_spare, swap_min = "bar", "display", True, 4.0
    settings = {"wheel_circumference_mm": "wheel circumference"}
    symptoms = (
        Symptom("dark", "Dead: the display stays dark", "switch_on", "display", "dark", rank=1),
        Symptom(
            "brake-shown",
            "Brake symbol shows with the levers released",
            "switch_on",
            "brake_symbol",
            "shown",
            rank=9,
        ),
        Symptom(
            "error-communication",
            "Shows a communication error",
            "switch_on",
            "error",
            "communication",
            rank=12,
        ),
        Symptom("speed-wrong", "Shows a wrong speed", "throttle", "speed", "wrong", rank=16),
    )
    not_modelled = ("the content of serial messages", "backlight")

    def ports(self, spec: DisplaySpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Display",
                "vp:display_plus:pack +",
                "key:display_key:key line",
                "gnd:sensor_ground:ground",
                "rx:display_rx:receive",
                "tx:display_tx:transmit",
            ),
        )

    def draws(self, part: Part[DisplaySpec]) -> tuple[Draw, ...]:
        return (Draw("display_plus", DISPLAY_A),)

    def links(self, part: Part[DisplaySpec]) -> Iterator[tuple[str, str]]:
        """Return what it hands on, its ground among it where it has several plugs."""
        grounds = []
        for q in part.ports:
            for p in q.pins:
                if p.role == "sensor_ground":
                    grounds.append(f"{q.id}.{p.name}")
        return iter((*part.spec.conductors, *((grounds[0], other) for other in grounds[1:])))

    def most_v(self, spec: DisplaySpec) -> float:
        return spec.max_v

    def stamp(self, s: Stamper, part: Part[DisplaySpec]) -> None:
        plus, key, ground, rx, tx = (
            s.tie_role(part, role, name)
            for role, name in (
                ("display_plus", "plus"),
                ("display_key", "key"),
                ("sensor_ground", "ground"),
                ("display_rx", "rx"),
                ("display_tx", "tx"),
            )
        )
        for one, two in part.spec.conductors:
            s.add(
                part,
                f"{one}-{two}",
                f"{part.id}.{one}",
                f"{part.id}.{two}",
                resistor(0.1),
                tol_g=0.2,
            )
        logic = s.node(part, "logic")
        s.add(
            part,
            "load",
            plus,
            ground,
            current_sink(DISPLAY_A, part.spec.lit_from_v * 0.5, part.spec.lit_from_v * 0.8),
            tol_g=0.35,
            tol_j=0.35,
        )
        s.add(part, "key_switch", plus, key, OPEN, c=plus, d=ground, by_control=True, tol_g=0.3)
        regulator(
            s,
            part,
            logic,
            ground,
            plus,
            5.0,
            0.05,
            "logic",
            part.spec.lit_from_v - 4,
            part.spec.lit_from_v,
        )
        s.add(part, "tx_drive", logic, tx, resistor(1000.0), tol_g=MAKE_SPREAD)
        s.add(part, "rx_pull", rx, ground, resistor(100e3), tol_g=MAKE_SPREAD)
        s.add(part, "tx_clamp", ground, tx, diode(0.6, 5.0))
        s.add(part, "rx_clamp", ground, rx, diode(0.6, 5.0))

    def controls(self, part: Part[DisplaySpec]) -> tuple[Control, ...]:
        return (Control("power", ("on", "off", "out"), ("Display on", "Display off", "Pack out")),)

    def apply(self, part: Part[DisplaySpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "on":
            return (Override(f"{part.id}/key_switch", switched(2.0, part.spec.lit_from_v)),)
        asleep = current_sink(ASLEEP_A, part.spec.lit_from_v * 0.5, part.spec.lit_from_v * 0.8)
        load = Override(f"{part.id}/load", asleep, tol_g=0.35, tol_j=0.35)
        return (*opened(part, "key_switch", "logic_limit"), load)

    def behave(self, part: Part[DisplaySpec], view: SceneView) -> None:
        if not view.has("rest"):
            return
        state = "demand" if view.has("demand") else "rest"
        lit = self._lit(part, view, "rest")
        view.see("display", (lit, "lit"), otherwise="dark")
        loud = view.limit(SERIAL_V, 1.5, 4.0)
        heard = view.volts(f"{part.id}:rx", f"{part.id}:ground", state) > loud
        for controller in view.circuit.nets.mates(part.id, "display_tx"):
            if view.node(controller, "rx"):
                heard &= view.volts(f"{controller}:rx", f"{controller}:ground", state) > loud
        for observable, blank in (("brake_symbol", "off"), ("speed", "none")):
            if observable in view.result:
                blank_code = view.codes(observable)[blank]
                view.result[observable] = np.where(
                    lit & heard, view.result[observable], blank_code
                ).astype(np.int8)
        if "speed" in view.result:
            code = view.codes("speed")
            wrong = view.trait(part.id, "wheel_wrong") & (view.result["speed"] == code["shown"])
            view.result["speed"] = np.where(wrong, code["wrong"], view.result["speed"]).astype(
                np.int8
            )
        if "error" in view.result:
            code = view.codes("error")
            shown = np.where(heard, view.result["error"], code["communication"])
            view.result["error"] = np.where(lit, shown, code["none"]).astype(np.int8)

    def _lit(self, part: Part[DisplaySpec], view: SceneView, state: str) -> np.ndarray:
        supply = view.volts(f"{part.id}:plus", f"{part.id}:ground", state)
        return np.asarray((supply > part.spec.lit_from_v) & ~view.trait(part.id, "dead"))

    def faults(self, part: Part[DisplaySpec]) -> tuple[FaultMode, ...]:
        return display_faults(part, part.spec.conductors)
