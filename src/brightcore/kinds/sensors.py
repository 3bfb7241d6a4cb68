"""Sensors beside the pedal sensor: wheel speed and pedal torque."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import OPEN, Override, ratio_source, resistor
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Fitting, PartKind, S, spec_value
from brightcore.kinds.blocks import fixed, mode, opened, port, pulling, ratio_output, replace
from brightcore.kinds.three_wire import ThreeWireSensor, ThreeWireSpec


class WheelSensor(PartKind[S]):
    """What every sensor for the speed of a wheel shares: magnets on the spokes that pass it."""

    place, symbol, has_spare, swap_min = "sensor", "wheel", True, 8.0
    sits = "rear_axle"
    fitting = Fitting(set_words="Magnet passes the sensor closely at the mark on it")

    def controls(self, part: Part[S]) -> tuple[Control, ...]:
        return (
            Control(
                "rotor",
                ("0", "1", "2", "3", "4", "5"),
                ("Wheel turned slowly by hand",) * 6,
                "turns",
            ),
        )

    def broken(self, part: Part[S]) -> RepairKind:
        """Return the repair of a sensor that is beyond setting."""
        return replace(part, 15, "Stone chip, or a cable rubbed through at the stay", 1)

    def gap(self, part: Part[S], element: str) -> FaultMode:
        """Return the magnet that passes too far away, so that the element never conducts."""
        set_again = RepairKind(
            f"part:{part.id}:gap",
            f"Set the spoke magnet of the {part.name} to 2–5 mm",
            6,
            "Magnet slid down the spoke",
            0,
        )
        return mode(
            part,
            "inside.magnet",
            "gap",
            "spoke magnet out of reach",
            4.0,
            set_again,
            opened(part, element),
            seen_by_eye=0.7,
        )


@dataclass(frozen=True, slots=True)
class SpeedSpec(ThreeWireSpec):
    """Wheel-speed sensor at the frame, magnets on the spokes."""

    magnet_count: int = spec_value(1, 1, 12, "magnets on the spokes", awaits="Program")


class SpeedSensor(WheelSensor[SpeedSpec], ThreeWireSensor[SpeedSpec]):
    """Three-wire wheel-speed sensor: one pulse a magnet."""

    name, title, spec_type = "speed_sensor", "Wheel-speed sensor", SpeedSpec
    fails_as = "sensor"
    plug, signal = "Speed sensor", ("wheel_speed", "wheel speed")
    not_modelled = ("the exact gap", "pulses lost at speed")

    def apply(self, part: Part[SpeedSpec], control: str, value: str) -> tuple[Override, ...]:
        if int(value) % 2:
            return pulling(part, "sensor")
        return ()

    def faults(self, part: Part[SpeedSpec]) -> tuple[FaultMode, ...]:
        new = self.broken(part)
        return (
            self.gap(part, "sensor_out"),
            self.dead(part, 1.5, new),
            self.stuck(part, 0.7, new),
            self.short(part, new),
        )


@dataclass(frozen=True, slots=True)
class ReedSpec(Spec):
    """Wheel-speed sensor with a reed contact."""

    magnet_count: int = spec_value(1, 1, 12, "magnets on the spokes", awaits="Program")


class ReedSensor(WheelSensor[ReedSpec]):
    """Two wires: a contact to ground that a magnet on the spokes closes."""

    name, title, spec_type = "reed_sensor", "Two-wire wheel-speed sensor", ReedSpec
    fails_as = "sensor"
    not_modelled = ("the exact gap", "bouncing of the contact")

    def ports(self, spec: ReedSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Speed sensor",
                "signal:wheel_speed:wheel speed",
                "ground:sensor_ground:ground",
            ),
        )

    def stamp(self, s: Stamper, part: Part[ReedSpec]) -> None:
        signal, ground = (
            s.tie_role(part, "wheel_speed", "signal"),
            s.tie_role(part, "sensor_ground", "ground"),
        )
        s.add(part, "reed", signal, ground, OPEN)

    def apply(self, part: Part[ReedSpec], control: str, value: str) -> tuple[Override, ...]:
        if int(value) % 2:
            return fixed(part, "reed", 0.3)
        return ()

    def faults(self, part: Part[ReedSpec]) -> tuple[FaultMode, ...]:
        new = self.broken(part)
        return (
            self.gap(part, "reed"),
            mode(part, "plug.signal", "dead", "never closes", 1.5, new, opened(part, "reed")),
            mode(part, "plug.signal", "stuck", "stays closed", 1.0, new, fixed(part, "reed", 0.3)),
        )


@dataclass(frozen=True, slots=True)
class TorqueSpec(ThreeWireSpec):
    """Torque sensor at the cranks: an offset at rest and a slope, and pulses while turning."""

    rest_ratio: float = spec_value(0.2, 0.05, 0.4, "output over supply, feet off the pedals")
    push_ratio: float = spec_value(0.4, 0.1, 0.9, "output over supply at full push")
    torque_nm_per_v: float = spec_value(100.0, 5.0, 500.0, "slope", awaits="Set")
    magnet_count: int = spec_value(18, 1, 64, "cadence pulses per turn", awaits="Program")


class TorqueSensor(ThreeWireSensor[TorqueSpec]):
    """Four-wire sensor: torque as volts, cadence as pulses."""

    name, title, spec_type = "torque_sensor", "Torque sensor", TorqueSpec
    fails_as = "sensor"
    plug, signal = "Torque sensor", ("pedal_signal", "cadence")
    place, symbol, has_spare, swap_min = "sensor", "cranks", False, 45.0
    sits, pedalled = "bracket", True
    fitting = Fitting(
        set_words="Feet off the pedals when switching on: that is when zero is taken",
        set_powered=True,
    )
    not_modelled = (
        "drift of the zero",
        "turning direction",
        "difference between left and right leg",
    )

    def highest_ratio(self, spec: TorqueSpec, role: str) -> float:
        if role == "torque_signal":
            return spec.push_ratio
        return 0.0

    def ports(self, spec: TorqueSpec) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                "Torque sensor",
                "supply:sensor_supply:5 V",
                "ground:sensor_ground:ground",
                "torque:torque_signal:torque",
                "signal:pedal_signal:cadence",
            ),
        )

    def check_spec(self, spec: TorqueSpec) -> Iterator[tuple[str, str]]:
        if spec.push_ratio <= spec.rest_ratio:
            yield "push_ratio", "is not above rest_ratio"

    def stamp(self, s: Stamper, part: Part[TorqueSpec]) -> None:
        super().stamp(s, part)
        supply, ground = (s.tie_role(part, f"sensor_{n}", n) for n in ("supply", "ground"))
        torque = s.tie_role(part, "torque_signal", "torque")
        ratio_output(s, part, (torque, supply, ground), part.spec.rest_ratio, 300.0, 0.04)

    def controls(self, part: Part[TorqueSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "turn", ("high", "low"), ("Cranks turned slowly", "Cranks turned slowly"), "turns"
            ),
            Control(
                "push",
                ("rest", "pushed"),
                ("Feet off the pedals", "Pedal pushed hard, brake held"),
                "hand",
            ),
        )

    def apply(self, part: Part[TorqueSpec], control: str, value: str) -> tuple[Override, ...]:
        if control == "turn":
            if value == "low":
                return pulling(part, "sensor")
            return ()
        if value == "pushed":
            return (
                Override(
                    f"{part.id}/output", ratio_source(part.spec.push_ratio, 300.0), tol_g=0.06
                ),
            )
        return ()

    def faults(self, part: Part[TorqueSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 60, "Water in the shell, or the bearing pressed in askew", 3)
        zero = RepairKind(
            f"setting:{part.id}:zero",
            "Re-zero the torque sensor: switch on with feet off the pedals",
            2,
            "Switched on with a foot on the pedal",
            0,
        )
        out, spec = f"{part.id}/output", part.spec
        return (
            mode(
                part,
                "plug.torque",
                "dead",
                "torque output dead",
                2.0,
                new,
                (Override(out, resistor(200.0)),),
            ),
            mode(
                part,
                "plug.torque",
                "stuck-rest",
                "torque output stays at rest",
                1.5,
                new,
                (Override(out, ratio_source(spec.rest_ratio, 300.0)),),
            ),
            mode(
                part,
                "plug.torque",
                "high",
                "torque output stuck high",
                1.0,
                new,
                (Override(out, ratio_source(0.96, 300.0)),),
            ),
            mode(
                part,
                "plug.torque",
                "zero-high",
                "zero stands at the pushed value",
                1.5,
                zero,
                (Override(out, ratio_source(spec.push_ratio, 300.0)),),
            ),
            self.dead(part, 1.5, new, "no cadence pulses"),
            self.short(part, new),
        )
