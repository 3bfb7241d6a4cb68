"""Cadence sensor: magnets on a ring at the cranks."""

from dataclasses import dataclass

from brightcore.behaviour.symptom import Symptom
from brightcore.bike.model import Part
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import Override
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.kinds.base import Fitting, spec_value
from brightcore.kinds.blocks import mode, opened, pulling, replace
from brightcore.kinds.three_wire import ThreeWireSensor, ThreeWireSpec

GAP_SEEN = 0.97
"""How often a magnet out of reach is found with a gauge or a ruler (common practice)."""


@dataclass(frozen=True, slots=True)
class PedalSpec(ThreeWireSpec):
    """Cadence sensor: magnets on a ring at the cranks."""

    magnet_count: int = spec_value(12, 1, 64, "magnets on the ring", awaits="Program")


class PedalSensor(ThreeWireSensor[PedalSpec]):
    """Three-wire cadence sensor: pulses while the cranks turn."""

    name, title, spec_type = "pedal_sensor", "Pedal sensor", PedalSpec
    found_on = ("pedal_signal", "supply_5v")
    fails_as = "sensor"
    place, symbol, has_spare, swap_min = "sensor", "cranks", True, 12.0
    plug, signal = "Pedal sensor", ("pedal_signal", "signal")
    sits, pedalled = "bracket", True
    fitting = Fitting(set_words="Magnet ring 1 to 4 mm from the sensor, the right way round")
    symptoms = (
        Symptom(
            "pedal-silent",
            "Pedalling brings no help",
            "pedal",
            "motor",
            "silent",
            every=True,
            rank=3,
        ),
    )
    not_modelled = ("turning direction", "torque")

    def controls(self, part: Part[PedalSpec]) -> tuple[Control, ...]:
        return (
            Control(
                "turn", ("high", "low"), ("Cranks turned slowly", "Cranks turned slowly"), "turns"
            ),
        )

    def apply(self, part: Part[PedalSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "low":
            return pulling(part, "sensor")
        return ()

    def faults(self, part: Part[PedalSpec]) -> tuple[FaultMode, ...]:
        new = replace(part, 25, "Water, or the ring rubbed on the sensor", 1)
        gap = RepairKind(
            f"part:{part.id}:gap",
            f"Set the magnet ring of the {part.name} to 1–4 mm, right way round",
            12,
            "Ring moved or cracked",
            0,
        )
        return (
            mode(
                part,
                "inside.ring",
                "gap",
                "magnet ring out of reach",
                2.4,
                gap,
                opened(part, "sensor_out"),
                seen_by_eye=GAP_SEEN,
                loose=0.6,
            ),
            self.dead(part, 2.0, new),
            self.stuck(part, 1.0, new),
            self.short(part, new),
        )
