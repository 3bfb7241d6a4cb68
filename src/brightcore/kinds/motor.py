"""Hub motor: star winding, three halls, thermistor, wheel-speed sensor, gear and clutch."""

from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from brightcore.behaviour.scene import SceneView
from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, resistor
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, Fitting, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import LOGIC_V, draws_on, port, pulling
from brightcore.kinds.motor_faults import motor_faults

HALL_CODES = ("101", "100", "110", "010", "011", "001")
"""Hall levels A, B, C in six sectors, sensors at 120° (Hanselman, 2nd ed., ch. 4)."""

PHASES = ("phase_u", "phase_v", "phase_w")
HALLS = ("hall_a", "hall_b", "hall_c")


LOOSE_OHM = 10.0
"""Between two phases of a motor: more than this and they no longer brake each other (common
practice)."""

HALL_LOAD_OHM = 450.0
"""What the three halls of a motor load their supply with (common practice)."""


@dataclass(frozen=True, slots=True)
class MotorSpec(Spec):
    """What is known of any brushless motor.

    Turns per volt are of the wheel for a hub, of the motor for a mid drive.
    """

    phase_ohm: float = spec_value(
        0.15, 0.0005, 50.0, "resistance between two phases", usual=(0.02, 1.0)
    )
    rpm_per_v: float = spec_value(8.6, 0.5, 2000.0, "no-load turns per volt")
    magnet_count: int = spec_value(32, 2, 200, "magnets on the rotor", awaits="Program")
    gear_ratio: float = spec_value(5.0, 1.0, 100.0, "internal reduction; 1 is direct drive")
    rated_w: float = spec_value(500.0, 50.0, 10000.0, "power printed on it")
    phase_limit_a: float = spec_value(
        0.0, 0.0, 2000.0, "phase current its maker allows for a minute; 0 not stated", later=True
    )
    thermistor: bool = spec_value(True, doc="10 kΩ NTC in the winding")
    speed_sensor: bool = spec_value(True, doc="gives wheel-speed pulses")
    speed_magnets: int = spec_value(6, 1, 64, "speed pulses per wheel turn", awaits="Program")

    def geared(self) -> bool:
        """Return whether there is a reduction with a one-way clutch."""
        return self.gear_ratio > 1.0


@dataclass(frozen=True, slots=True)
class HubMotorSpec(MotorSpec):
    """What is known of a hub motor."""

    rpm_per_v: float = spec_value(
        8.6, 0.5, 200.0, "no-load turns of the wheel per volt", usual=(3.0, 30.0)
    )
    gear_ratio: float = spec_value(5.0, 1.0, 30.0, "internal reduction; 1 is direct drive")
    axle_bore_mm: float = spec_value(
        0.0, 0.0, 60.0, "clear bore of axle and bearing for the cable; 0 not measured", later=True
    )
    cable_jacket_mm: float = spec_value(
        0.0, 0.0, 40.0, "outside of its cable; 0 not measured", later=True
    )
    axle_nut_nm: float = torque_value("axle nuts")
    disc_bolt_nm: float = torque_value("bolts of the brake disc")


M = TypeVar("M", bound=MotorSpec)


class Motor(PartKind[M]):
    """Brushless motor with halls."""

    place, symbol, has_spare, swap_min = "motor", "motor", False, 60.0
    sits = "axle"
    fitting = Fitting(
        opened="cover, axle and cable",
        opened_caution="Pack out, phase leads apart. Magnets snap rotor and stator together: "
        "fingers and "
        "loose tools out of the gap, press it apart with screws, never by hand.",
        passes_cable=True,
    )
    symptoms = (
        Symptom("free", "Motor runs, wheel does not turn", "throttle", "motor", "free", rank=8),
        Symptom(
            "error-hall", "Shows a hall or motor sensor error", "throttle", "error", "hall", rank=10
        ),
        Symptom("speed-none", "Speed stays at 0", "throttle", "speed", "none", rank=15),
        Symptom(
            "drags", "Wheel turns with strong cogging when pushed", "spin", "drag", "drags", rank=17
        ),
    )
    not_modelled: tuple[str, ...] = (
        "back-EMF while turning",
        "bearings",
        "leakage to the axle",
    )

    def ports(self, spec: M) -> tuple[Port, ...]:
        extra = [
            *(["temperature:ntc:temperature"] if spec.thermistor else []),
            *(["speed:wheel_speed:wheel speed"] if spec.speed_sensor else []),
        ]
        return (
            port(
                "phases",
                "Phase",
                *(f"{p[-1]}:{p}:phase {p[-1].upper()}" for p in PHASES),
                family="power-3",
                required=True,
                rewireable=True,
                access_min=1.0,
            ),
            port(
                "halls",
                "Hall",
                "supply:sensor_supply:hall 5 V",
                "ground:sensor_ground:hall ground",
                *(f"{h[-1]}:{h}:hall {h[-1].upper()}" for h in HALLS),
                *extra,
                family="signal-7",
                access_min=1.0,
            ),
        )

    def draws(self, part: Part[M]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", LOGIC_V / HALL_LOAD_OHM),)

    def stamp(self, s: Stamper, part: Part[M]) -> None:
        spec = part.spec
        star = s.node(part, "star")
        for phase in PHASES:
            pin = s.tie_role(part, phase, phase)
            s.add(part, f"{phase}_winding", pin, star, resistor(spec.phase_ohm / 2), tol_g=0.1)
        s.add(part, "turn_short", s.node(part, "phase_u"), s.node(part, "phase_v"), OPEN)
        supply, ground = (
            s.tie_role(part, "sensor_supply", "supply"),
            s.tie_role(part, "sensor_ground", "ground"),
        )
        draws_on(s, part, "hall_load", supply, ground, HALL_LOAD_OHM)
        for hall in HALLS:
            s.add(
                part,
                f"{hall}_out",
                s.tie_role(part, hall, hall),
                ground,
                OPEN,
                c=supply,
                d=ground,
                by_control=True,
                tol_g=0.4,
            )
        for phase, hall in zip(PHASES, HALLS, strict=True):
            s.add(part, f"{phase}_touch", s.node(part, phase), s.node(part, hall), OPEN)
        if spec.thermistor and s.pins(part, "ntc"):
            s.add(
                part,
                "thermistor",
                s.tie_role(part, "ntc", "ntc"),
                ground,
                resistor(10e3),
                tol_g=0.15,
            )
        if spec.speed_sensor and s.pins(part, "wheel_speed"):
            s.add(
                part,
                "speed_out",
                s.tie_role(part, "wheel_speed", "speed"),
                ground,
                OPEN,
                c=supply,
                d=ground,
                by_control=True,
                tol_g=0.4,
            )

    def controls(self, part: Part[M]) -> tuple[Control, ...]:
        return (
            Control(
                "rotor", ("0", "1", "2", "3", "4", "5"), (self.turning_words(part),) * 6, "turns"
            ),
        )

    def turning_words(self, part: Part[M]) -> str:
        """Return how the rotor is turned by hand."""
        return f"Wheel turned slowly by hand, {'backwards' if part.spec.geared() else 'either way'}"

    def apply(self, part: Part[M], control: str, value: str) -> tuple[Override, ...]:
        code = HALL_CODES[int(value)]
        active = []
        for hall, level in zip(HALLS, code, strict=True):
            if level == "0":
                for o in pulling(part, hall):
                    active.append(o)
        if part.spec.speed_sensor and part.has_role("wheel_speed") and int(value) % 2:
            active += pulling(part, "speed")
        return tuple(active)

    def behave(self, part: Part[M], view: SceneView) -> None:
        if view.has("clipped"):
            closed = (view.phase_ohm(part.id) < LOOSE_OHM).sum(axis=0)
            stripped = view.trait(part.id, "stripped")
            cases = ((stripped | (closed == 0), "free"), (closed < len(PHASES), "lumps"))
            view.see("braking", *cases, otherwise="even", part_id=part.id)
        if view.has("out"):
            loops = view.phase_ohm(part.id)
            dragging = (loops.min(axis=0) < 0.7 * part.spec.phase_ohm) | view.trait(
                part.id, "drags"
            )
            for controller in view.circuit.nets.mates(part.id, *PHASES):
                joined = ~_isolated(view, part.id, controller)
                dragging |= view.trait(controller, "bridge_short") & joined
            view.see("drag", (dragging, "drags"), otherwise="free", part_id=part.id)
        for controller in view.circuit.nets.mates(part.id, *PHASES):
            name = view.name_for("motor", controller)
            if name in view.result:
                code = view.codes(name)
                turning = np.isin(view.result[name], [code["smooth"], code["weak"], code["cuts"]])
                slips = view.trait(part.id, "stripped") & turning
                faint = view.trait(part.id, "weak_field") & (view.result[name] == code["smooth"])
                view.result[name] = np.select(
                    [slips, faint & view.has("load")],
                    [code["free"], code["weak"]],
                    view.result[name],
                ).astype(np.int8)
                break

    def faults(self, part: Part[M]) -> tuple[FaultMode, ...]:
        return motor_faults(part, PHASES, HALLS)


class HubMotor(Motor[HubMotorSpec]):
    """Brushless motor in a wheel."""

    name, title, spec_type = "hub_motor", "Hub motor", HubMotorSpec
    fails_as = "motor"


def _isolated(view: SceneView, motor: str, controller: str) -> np.ndarray:
    """Return whether the motor's phases are cut off from the controller by unplugging."""
    join_id = view.scene.unplugged
    if not join_id:
        return view.none()
    join = view.circuit.bike.join(join_id)
    roles = set()
    for part, q in join.sides():
        for p in view.circuit.bike.part(part).port(q).pins:
            roles.add(p.role)
    return view.none() | bool(roles & set(PHASES))
