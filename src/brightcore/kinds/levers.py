"""What cuts the motor by a brake lever: a switch in it, or a magnet and its sensor on it."""

from dataclasses import dataclass

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Fitting, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import fixed, mode, opened, port, pulling, replace
from brightcore.kinds.three_wire import ThreeWireSensor, ThreeWireSpec

CONTACT_OHM, WORN_OHM = 0.2, 4e3
"""Contact of a lever's switch, sound and worn (common practice)."""


@dataclass(frozen=True, slots=True)
class LeverSpec(Spec):
    """Brake lever with a switch to ground."""

    normally_closed: bool = spec_value(False, doc="closed while released")
    clamp_nm: float = torque_value("clamp on the bar")


class BrakeLever(PartKind[LeverSpec]):
    """Two-wire cut-off switch in the lever."""

    name, title, spec_type = "brake_lever", "Brake lever with switch", LeverSpec
    found_on = ("brake_signal",)
    fails_as = "lever"
    place, symbol, has_spare, swap_min = "bar", "lever", True, 8.0
    cuts, either_way = "brake", True
    not_modelled: tuple[str, ...] = ("where in the lever's travel the switch acts",)

    def ports(self, spec: LeverSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug", "Brake lever", "signal:brake_signal:signal", "ground:sensor_ground:ground"
            ),
        )

    def stamp(self, s: Stamper, part: Part[LeverSpec]) -> None:
        signal, ground = (
            s.tie_role(part, "brake_signal", "signal"),
            s.tie_role(part, "sensor_ground", "ground"),
        )
        inside = s.node(part, "inside")
        s.add(part, "contact", signal, inside, resistor(CONTACT_OHM), tol_g=0.5)
        s.add(part, "switch", inside, ground, OPEN)

    def controls(self, part: Part[LeverSpec]) -> tuple[Control, ...]:
        return (
            Control("lever", ("released", "pulled"), ("{part} released", "{part} pulled"), "hand"),
        )

    def apply(self, part: Part[LeverSpec], control: str, value: str) -> tuple[Override, ...]:
        closed = (value == "pulled") != part.spec.normally_closed
        if closed:
            return fixed(part, "switch", 0.5)
        return opened(part, "switch")

    def faults(self, part: Part[LeverSpec]) -> tuple[FaultMode, ...]:
        new = replace(
            part,
            15,
            "Worn switch, or dirt and water in the lever",
            1,
            f"Free, clean or replace the switch of the {part.name}",
        )
        return (
            mode(
                part,
                "plug.signal",
                "stuck-closed",
                "switch stuck closed",
                4.0,
                new,
                fixed(part, "switch", 0.5),
                seen_by_eye=0.1,
                loose=0.3,
            ),
            mode(
                part,
                "plug.signal",
                "stuck-open",
                "switch never closes",
                2.0,
                new,
                opened(part, "switch"),
            ),
            mode(
                part,
                "plug.signal",
                "resistive",
                "switch contact worn",
                1.0,
                new,
                fixed(part, "contact", WORN_OHM, 0.9),
            ),
        )


@dataclass(frozen=True, slots=True)
class CutOffSpec(ThreeWireSpec):
    """Magnetic brake cut-off for levers without a switch: three wires."""


class MagneticCutOff(ThreeWireSensor[CutOffSpec]):
    """Sensor and magnet on a lever: magnet away = braking, output pulls to ground."""

    name, title, spec_type = "magnetic_cut_off", "Magnetic brake cut-off", CutOffSpec
    found_on = ("brake_signal", "supply_5v")
    fails_as = "lever"
    place, symbol, has_spare, swap_min = "bar", "lever", True, 10.0
    plug, signal = "Cut-off", ("brake_signal", "signal")
    cuts = "brake"
    fitting = Fitting(
        set_words=(
            "Tack the magnet lightly, powered: symbol off at rest and on a bump; on early, or "
            "only after some real pull, as your school has it, and never later than the pads bite"
        ),
        set_powered=True,
        fix_words="roughen, glue with epoxy, hold with a tie, check again while it sets",
        fix_early="A magnet glued in the wrong place has to be broken off.",
        fix_caution="Keep glue out of lever pivot and reservoir; gloves, air.",
    )
    not_modelled: tuple[str, ...] = ("the exact travel at which it switches",)

    def controls(self, part: Part[CutOffSpec]) -> tuple[Control, ...]:
        return (
            Control("lever", ("released", "pulled"), ("{part} released", "{part} pulled"), "hand"),
        )

    def apply(self, part: Part[CutOffSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "pulled":
            return pulling(part, "sensor")
        return ()

    def faults(self, part: Part[CutOffSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 20, "Water in the sensor or a pulled cable", 1)
        magnet = RepairKind(
            f"part:{part.id}:magnet",
            f"Set the magnet of the {part.name} again, then fix it",
            15,
            "Magnet moved: tape alone comes loose with heat and vibration",
            0,
        )
        return (
            mode(
                part,
                "inside.magnet",
                "lost",
                "magnet moved away, always cuts the motor",
                4.0,
                magnet,
                pulling(part, "sensor"),
                seen_by_eye=0.5,
                loose=0.5,
            ),
            self.stuck(part, 1.5, new, "stuck-on"),
            self.dead(part, 2.0, new, "sensor dead, never cuts the motor"),
            self.short(part, new),
        )
