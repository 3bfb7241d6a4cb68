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
    KNEE_V,
    OPEN,
    Override,
    current_sink,
    diode,
    ramp_source,
    resistor,
)
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.netlist import Stamper
from brightcore.kinds.base import Draw, Feed, Fitting, PartKind
from brightcore.kinds.blocks import (
    LOGIC_V,
    MAKE_SPREAD,
    fixed,
    half_bridge,
    mode,
    opened,
    port,
    pulled_up,
    regulator,
    replace,
    weakened,
)
from brightcore.kinds.controller_rules import ControllerRules
from brightcore.kinds.controller_spec import LOAD, ControllerSpec
from brightcore.kinds.motor import HALLS, PHASES

LOW_LOGIC_V = 4.3
"""Where a 5 V supply that is off usually stands (common practice)."""

BRIDGE_OHM = 1.0
"""Clip leads and a small fuse (common practice)."""

BLOWN_SMELT = 0.5
"""How often a blown power stage can be smelt (common practice)."""

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
        new = replace(part, 35, "Water, heat, or a short on one of its leads", 2)
        menu = RepairKind(
            f"setting:{part.id}:cutoff",
            "Set the low-voltage cut-off to suit the pack",
            5,
            "Set for another pack",
            0,
        )
        limit = RepairKind(
            f"setting:{part.id}:limit",
            "Set the speed limit or the level's current back to what the class of the bike allows",
            5,
            "Set for another wheel, or by somebody who tried the menu",
            0,
        )
        roles = {pin.role for pin in part.pins}
        found = [
            mode(
                part,
                "inside.board",
                "dead",
                "does nothing at all",
                2.0,
                new,
                opened(part, "supply_limit", "standby"),
                ("dead",),
                signs=(("smelt", 0.25),),
            ),
            mode(
                part,
                "inside.supply",
                "dead",
                "5 V supply dead",
                1.5,
                new,
                opened(part, "supply_limit"),
            ),
            mode(
                part,
                "inside.supply",
                "low",
                "5 V supply stands too low",
                0.7,
                new,
                (
                    Override(
                        f"{part.id}/supply_source",
                        ramp_source(LOW_LOGIC_V + KNEE_V, 0.01, 8.0, 12.0),
                    ),
                ),
            ),
            mode(
                part,
                "inside.supply",
                "weak",
                "5 V supply weak",
                1.0,
                new,
                weakened(part, "supply_limit", 55.0),
            ),
            mode(
                part,
                "inside.menu",
                "cutoff-high",
                "low-voltage cut-off set too high",
                1.5,
                menu,
                (),
                ("cutoff_high",),
                seen_by_eye=0.9,
            ),
            mode(
                part,
                "inside.menu",
                "limit-low",
                "speed limit or level set too low",
                1.0,
                limit,
                (),
                ("limit_low",),
                seen_by_eye=0.9,
            ),
        ]
        cooling = RepairKind(
            f"part:{part.id}:cooling",
            f"Give the {part.name} air and metal to shed its heat, and lower its phase current",
            20,
            "Shut into a bag or frame, mounted on plastic, or a limit set too high for it",
            0,
        )
        found.append(
            mode(
                part,
                "inside.heat",
                "cut-back",
                "grows too hot and holds back",
                0.2,
                cooling,
                (),
                ("cut_back",),
                loose=4.0,
                signs=(("hot", 0.9),),
            )
        )
        for phase in PHASES:
            letter = phase[-1].upper()
            pin = f"phases.{phase[-1]}"
            found += [
                mode(
                    part,
                    pin,
                    "gate-dead",
                    f"phase {letter} never driven",
                    0.8,
                    new,
                    (),
                    (f"gate_dead:{phase}",),
                ),
                mode(
                    part,
                    pin,
                    "low-shorted",
                    f"phase {letter} lower switch shorted",
                    0.7,
                    new,
                    fixed(part, f"{phase}_low_short", 0.02),
                    ("bridge_short",),
                    signs=(("smelt", BLOWN_SMELT),),
                ),
                mode(
                    part,
                    pin,
                    "high-shorted",
                    f"phase {letter} upper switch shorted",
                    0.7,
                    new,
                    fixed(part, f"{phase}_high_short", 0.02),
                    ("bridge_short",),
                    signs=(("smelt", BLOWN_SMELT),),
                ),
            ]
        for i, pin in enumerate(_pins(part, "brake_signal")):
            found.append(
                mode(
                    part,
                    pin,
                    "stuck",
                    "brake input stuck low",
                    0.7,
                    new,
                    fixed(part, f"brake_{i}_stuck", 200.0),
                )
            )
        for role, name, title in (
            *((h, h, f"hall {h[-1].upper()} input") for h in HALLS),
            ("throttle_signal", "throttle", "throttle input"),
            ("pedal_signal", "pedal", "pedal input"),
            ("ntc", "ntc", "temperature input"),
            ("torque_signal", "torque", "torque input"),
        ):
            if role in roles:
                pin = next(iter(_pins(part, role)))
                found.append(
                    mode(part, pin, "input-dead", f"{title} dead", 0.5, new, (), (f"dead:{name}",))
                )
        if "accessory_plus" in roles:
            pin = next(iter(_pins(part, "accessory_plus")))
            found.append(
                mode(
                    part, pin, "dead", "lamp output dead", 1.0, new, opened(part, "accessory_limit")
                )
            )
        if "serial_tx" in roles:
            found.append(
                mode(
                    part,
                    next(iter(_pins(part, "serial_tx"))),
                    "dead",
                    "does not talk to the display",
                    0.7,
                    new,
                    fixed(part, "tx_drive", 1e6),
                )
            )
        return tuple(found)


def _has(part: Part, role: str) -> bool:
    return any(True for _ in _pins(part, role))


def _pins(part: Part, role: str) -> Iterator[str]:
    for item in part.ports:
        for pin in item.pins:
            if pin.role == role:
                yield f"{item.id}.{pin.name}"
