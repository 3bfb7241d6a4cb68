"""Motor controller: supplies, inputs, three half bridges, and the rules of what it then does.

The rules (`ControllerRules`) are behaviour of this kind, not of the diagnosis; their thresholds are
data of each controller.
"""

from collections.abc import Iterator

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import (
    DEAD_SPREAD,
    OPEN,
    Override,
    current_sink,
    diode,
    resistor,
)
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, Feed, Fitting, PartKind
from brightcore.kinds.blocks import (
    LOGIC_V,
    MAKE_SPREAD,
    fixed,
    half_bridge,
    port,
    pulled_up,
    regulator,
)
from brightcore.kinds.controller_faults import controller_faults, pins_with
from brightcore.kinds.controller_rules import ControllerRules
from brightcore.kinds.controller_spec import LOAD, ControllerSpec
from brightcore.kinds.motor import HALLS, PHASES

BRIDGE_OHM = 1.0
"""Clip leads and a small fuse (common practice)."""

STANDBY_A = 0.03
"""What a controller takes through its key line (common practice)."""


class Controller(PartKind[ControllerSpec]):
    """Turns demand into phase currents."""

    name, title, spec_type = "controller", "Controller", ControllerSpec
    fails_as = "controller"
    place, symbol, has_spare, swap_min = "controller", "controller", True, 25.0
    sits, needed, commutates = "bracket", True, True
    fitting = Fitting(mounted=True)
    settings = {
        "current_limit_a": "battery current limit",
        "phase_limit_a": "phase current limit",
        "low_cutoff_v": "low-voltage cut-off",
        "wheel_circumference_mm": "wheel circumference",
    }
    symptoms = (
        Symptom(
            "rough",
            "Shudders or runs rough when pulling away",
            "throttle",
            "motor",
            "rough",
            rank=4,
        ),
        Symptom("twitch", "Twitches, then stops", "throttle", "motor", "twitch", rank=5),
        Symptom("cuts", "Cuts out under load or uphill", "pull", "motor", "cuts", rank=6),
        Symptom("weak", "Slow: never reaches full speed", "throttle", "motor", "weak", rank=7),
        Symptom(
            "error-temperature",
            "Shows a temperature error",
            "switch_on",
            "error",
            "temperature",
            rank=13,
        ),
        Symptom(
            "error-power",
            "Shows a phase or power stage error",
            "throttle",
            "error",
            "power",
            rank=14,
        ),
    )
    not_modelled = (
        "switching ripple",
        "capacitor charge",
        "heat",
        "field weakening",
        "firmware settings not listed",
    )

    def ports(self, spec: ControllerSpec) -> tuple[Port, ...]:
        five = ("supply:supply_5v:5 V", "ground:signal_ground:ground")
        return (
            port(
                "battery",
                "Battery",
                "plus:battery_plus:battery +",
                "minus:battery_minus:battery −",
                family="power-2",
                required=True,
            ),
            port(
                "phases",
                "Phase",
                *(f"{p[-1]}:{p}:phase {p[-1].upper()}" for p in PHASES),
                family="power-3",
                required=True,
                rewireable=True,
            ),
            port(
                "halls",
                "Hall",
                *five,
                *(f"{h[-1]}:{h}:hall {h[-1].upper()}" for h in HALLS),
                "temperature:ntc:temperature",
                "speed:wheel_speed:wheel speed",
                family="signal-7",
                required=not spec.sensorless,
            ),
            port("throttle", "Throttle", *five, "signal:throttle_signal:throttle signal"),
            port(
                "brake_left",
                "Left brake",
                "signal:brake_signal:brake signal",
                "ground:signal_ground:ground",
            ),
            port(
                "brake_right",
                "Right brake",
                "signal:brake_signal:brake signal",
                "ground:signal_ground:ground",
            ),
            port("pedal", "Pedal sensor", *five, "signal:pedal_signal:pedal signal"),
            port(
                "display",
                "Display",
                "vp:battery_out:pack +",
                "key:key:key line",
                "gnd:signal_ground:ground",
                "rx:serial_tx:to display",
                "tx:serial_rx:from display",
                required=True,
            ),
            port("lamp", "Lamp", "plus:accessory_plus:lamp +", "minus:signal_ground:lamp −"),
        )

    def check_spec(self, spec: ControllerSpec) -> Iterator[tuple[str, str]]:
        if spec.max_v < spec.rated_v:
            yield "max_v", "is below rated_v"
        if spec.low_cutoff_v >= spec.max_v:
            yield "low_cutoff_v", "is not below max_v"
        if not spec.throttle_start_v < spec.throttle_full_v < spec.throttle_error_v:
            yield "throttle_full_v", "must lie between throttle_start_v and throttle_error_v"

    def stamp(self, s: Stamper, part: Part[ControllerSpec]) -> None:
        spec: ControllerSpec = part.spec
        plus, minus = (
            s.tie_role(part, "battery_plus", "plus"),
            s.tie_role(part, "battery_minus", "ground"),
        )
        s.tie_role(part, "signal_ground", "ground")
        s.tie_role(part, "battery_out", "plus")
        key, rail = s.tie_role(part, "key", "key"), s.tie_role(part, "supply_5v", "rail")
        s.add(part, "bleed", plus, minus, resistor(100e3), tol_g=0.3, tol_dead=DEAD_SPREAD)
        s.add(part, LOAD, plus, minus, OPEN)
        s.add(part, "key_pull", key, minus, resistor(47e3), tol_g=MAKE_SPREAD)
        s.add(part, "key_bridge", plus, key, OPEN)
        s.add(
            part, "standby", key, minus, current_sink(STANDBY_A, 6.0, 10.0), tol_g=0.35, tol_j=0.35
        )
        regulator(s, part, rail, minus, key, LOGIC_V, spec.supply_limit_a)
        for pin in s.pins(part, "throttle_signal"):
            s.tie(pin, s.node(part, "throttle"))
            s.add(
                part,
                "throttle_pull",
                s.node(part, "throttle"),
                minus,
                resistor(100e3),
                tol_g=MAKE_SPREAD,
            )
        for i, pin in enumerate(s.pins(part, "brake_signal")):
            s.tie(pin, s.node(part, f"brake_{i}"))
            pulled_up(s, part, s.node(part, f"brake_{i}"), rail, 10e3, f"brake_{i}")
            s.add(part, f"brake_{i}_stuck", s.node(part, f"brake_{i}"), minus, OPEN)
        for role, name, ohm in (
            *((h, h, 4.7e3) for h in HALLS),
            ("ntc", "ntc", 10e3),
            ("wheel_speed", "speed", 10e3),
            ("pedal_signal", "pedal", 4.7e3),
            ("mode_signal", "mode", 10e3),
        ):
            if s.pins(part, role):
                pulled_up(s, part, s.tie_role(part, role, name), rail, ohm, name)
        if s.pins(part, "torque_signal"):
            s.add(
                part,
                "torque_pull",
                s.tie_role(part, "torque_signal", "torque"),
                minus,
                resistor(100e3),
                tol_g=MAKE_SPREAD,
            )
        if s.pins(part, "serial_tx", "serial_rx"):
            tx, rx = s.tie_role(part, "serial_tx", "tx"), s.tie_role(part, "serial_rx", "rx")
            s.add(part, "tx_drive", rail, tx, resistor(1000.0), tol_g=MAKE_SPREAD)
            s.add(part, "rx_pull", rx, minus, resistor(100e3), tol_g=MAKE_SPREAD)
            for pin, name in ((tx, "tx_clamp"), (rx, "rx_clamp")):
                s.add(part, name, minus, pin, diode(0.6, 5.0))
        if s.pins(part, "accessory_plus"):
            lamp = s.tie_role(part, "accessory_plus", "accessory")
            regulator(s, part, lamp, minus, key, spec.accessory_v, spec.accessory_a, "accessory")
        for phase in PHASES:
            leg = s.tie_role(part, phase, phase)
            half_bridge(s, part, leg, plus, minus, phase)

    def controls(self, part: Part[ControllerSpec]) -> tuple[Control, ...]:
        drive = Control(
            "drive", ("rest", "pull"), ("", "Pulling hard, uphill, slowly and off the road")
        )
        bridge = Control(
            "bridge", ("open", "bridged"), ("", "Battery + bridged to the key line, fused")
        )
        if _has(part, "key"):
            return (drive, bridge)
        return (drive,)

    def apply(self, part: Part[ControllerSpec], control: str, value: str) -> tuple[Override, ...]:
        spec: ControllerSpec = part.spec
        if value == "bridged":
            return fixed(part, "key_bridge", BRIDGE_OHM)
        if value != "pull":
            return ()
        load = current_sink(spec.battery_limit_a, spec.low_cutoff_v * 0.35, spec.low_cutoff_v * 0.6)
        return (Override(f"{part.id}/{LOAD}", load, tol_g=0.1, tol_j=0.08),)

    def draws(self, part: Part[ControllerSpec]) -> tuple[Draw, ...]:
        return (Draw("key", STANDBY_A),)

    def feeds(self, part: Part[ControllerSpec]) -> tuple[Feed, ...]:
        spec = part.spec
        return (
            Feed("supply_5v", LOGIC_V, spec.supply_limit_a),
            Feed("accessory_plus", spec.accessory_v, spec.accessory_a),
        )

    def most_v(self, spec: ControllerSpec) -> float:
        return spec.max_v

    def rated_a(self, spec: ControllerSpec) -> float:
        return spec.battery_limit_a

    def behave(self, part: Part[ControllerSpec], view: SceneView) -> None:
        ControllerRules(part, view).run()

    def faults(self, part: Part[ControllerSpec]) -> tuple[FaultMode, ...]:
        return controller_faults(part)


def _has(part: Part, role: str) -> bool:
    return any(True for _ in pins_with(part, role))
