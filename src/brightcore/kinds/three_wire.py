"""What every sensor of three wires shares: supply, ground, and an output that pulls to ground."""

from dataclasses import dataclass
from typing import TypeVar

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.faults import FaultMode, RepairKind
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Draw, PartKind, spec_value
from brightcore.kinds.blocks import COLLECTOR_LOAD_OHM, fixed, mode, open_collector, opened, port

STUCK_OHM, SHORT_OHM = 40.0, 8.0
"""An output that stays on ground, and a sensor that shorts its supply (common practice)."""


@dataclass(frozen=True, slots=True)
class ThreeWireSpec(Spec):
    """Sensor with a supply of its own."""

    supply_v: float = spec_value(5.0, 3.0, 12.0, "supply it is made for")


T = TypeVar("T", bound=ThreeWireSpec)


class ThreeWireSensor(PartKind[T]):
    """Hall switch with open collector. `signal` is (role, label) of its output, `plug` the plug's
    label."""

    plug: str = ""
    signal: tuple[str, str] = ("", "signal")

    def draws(self, part: Part[T]) -> tuple[Draw, ...]:
        return (Draw("sensor_supply", part.spec.supply_v / COLLECTOR_LOAD_OHM),)

    def made_for_v(self, spec: T) -> float:
        return spec.supply_v

    def ports(self, spec: T) -> tuple[Port, ...]:
        return (
            port(
                "plug",
                self.plug,
                "supply:sensor_supply:5 V",
                "ground:sensor_ground:ground",
                f"signal:{':'.join(self.signal)}",
            ),
        )

    def stamp(self, s: Stamper, part: Part[T]) -> None:
        ends = []
        for n in ("supply", "ground"):
            ends.append(s.tie_role(part, f"sensor_{n}", n))
        open_collector(
            s, part, s.tie_role(part, self.signal[0], "signal"), ends[0], ends[1], "sensor"
        )

    def dead(
        self, part: Part[T], weight: float, new: RepairKind, title: str = "no pulses"
    ) -> FaultMode:
        """Return the output that never pulls."""
        return mode(part, "plug.signal", "dead", title, weight, new, opened(part, "sensor_out"))

    def stuck(
        self, part: Part[T], weight: float, new: RepairKind, name: str = "stuck"
    ) -> FaultMode:
        """Return the output that always pulls."""
        held = fixed(part, "sensor_out", STUCK_OHM)
        return mode(part, "plug.signal", name, "output stuck on ground", weight, new, held)

    def short(self, part: Part[T], new: RepairKind, weight: float = 0.7) -> FaultMode:
        """Return the sensor that shorts what feeds it."""
        load = fixed(part, "sensor_load", SHORT_OHM)
        return mode(part, "plug.supply", "short", "shorts the 5 V supply", weight, new, load)
