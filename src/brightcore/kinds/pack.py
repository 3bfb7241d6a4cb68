"""Battery pack: cells in series, internal resistance, BMS switch, fuse, main switch."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.bike.model import Part, Port, Spec
from brightcore.circuit.controls import Control
from brightcore.circuit.elements import INF, OPEN, Override, Regions, resistor, source
from brightcore.circuit.faults import FaultMode
from brightcore.circuit.stamper import Stamper
from brightcore.kinds.base import Feed, PartKind, spec_value, torque_value
from brightcore.kinds.blocks import opened, port
from brightcore.kinds.pack_faults import pack_faults
from brightcore.physics.cells import CHEMISTRIES, Chemistry, chemistry

CHOICES = tuple((name, cells.title) for name, cells in CHEMISTRIES.items())

CELLS, BOARD = "cells", "bms"
"""The elements of a pack that stand for its cells and for the switch of its board."""

BOARD_OHM = 0.01
"""Resistance of a closed board (common practice)."""


@dataclass(frozen=True, slots=True)
class PackSpec(Spec):
    """What the label and the board of a pack say."""

    series_count: int = spec_value(13, 3, 24, "cells in series")
    parallel_count: int = spec_value(4, 1, 20, "cells in parallel")
    chemistry: str = spec_value("nickel", doc="nickel, lfp or pouch", choices=CHOICES)
    capacity_ah: float = spec_value(14.0, 1.0, 200.0, "label capacity")
    bms_continuous_a: float = spec_value(30.0, 1.0, 500.0, "BMS continuous current")
    bms_peak_a: float = spec_value(60.0, 1.0, 1000.0, "BMS peak current")
    fuse_a: float = spec_value(40.0, 0.0, 500.0, "main fuse rating; 0: it has none")
    fuse_v: float = spec_value(
        0.0, 0.0, 1000.0, "DC volts printed on the fuse; 0 not read", later=True
    )
    internal_ohm: float = spec_value(
        0.11, 0.0005, 20.0, "resistance of cells and board", usual=(0.01, 0.5)
    )
    cell_v: float = spec_value(3.8, 0.0, 4.6, "resting volts of one cell, as found or assumed")
    mark: str = spec_value(
        "",
        doc="its number or the shop's mark on it; a quarantine follows it to other bikes",
        later=True,
    )

    boss_nm: float = torque_value("screws of its mount")

    @property
    def cells(self) -> Chemistry:
        """What its cells are."""
        return chemistry(self.chemistry)

    def full_v(self) -> float:
        """Return volts of the full pack."""
        return self.series_count * self.cells.full_v

    def nominal_v(self) -> float:
        """Return nominal volts."""
        return self.series_count * self.cells.nominal_v

    def empty_v(self) -> float:
        """Return volts at the end of the working window."""
        return self.series_count * self.cells.empty_v

    def trip_v(self) -> float:
        """Return volts at which the BMS cuts out, all cells equal."""
        return self.series_count * self.cells.trip_v

    def resting_v(self) -> float:
        """Return volts at rest now, as found or assumed."""
        return self.series_count * self.cell_v

    def energy_wh(self) -> float:
        """Return the energy from full to empty: label capacity by the curve of its cells."""
        return self.capacity_ah * self.series_count * self.cells.mean_v


def at_cell_v(pack: Part[PackSpec], cell_v: float) -> tuple[Override, ...]:
    """Return a pack as one whose cells rest at other volts, its board closed unless it lets go at
    those."""
    cells = source(pack.spec.series_count * cell_v, pack.spec.internal_ohm)
    return Override(f"{pack.id}/{CELLS}", cells), Override(
        f"{pack.id}/{BOARD}", _board(pack.spec, cell_v)
    )


def _board(spec: PackSpec, cell_v: float) -> Regions:
    """Return the switch of a board: it lets go where the cells rest below its trip."""
    if cell_v >= spec.cells.trip_v:
        return resistor(BOARD_OHM)
    return OPEN


class Pack(PartKind[PackSpec]):
    """The energy source; its minus is the ground of every circuit."""

    name, title, spec_type = "pack", "Battery pack", PackSpec
    fails_as = "pack"
    place, symbol, has_spare, swap_min = "energy", "pack", True, 4.0
    sits, needed, grounds = "down_tube", True, True
    not_modelled = (
        "single cell volts behind the board",
        "communication wires",
        "cell temperature",
    )

    def ports(self, spec: PackSpec) -> tuple[Port, ...]:
        return (
            port(
                "main",
                "Pack",
                "plus:pack_plus:pack +",
                "minus:pack_minus:pack −",
                family="power-2",
                required=True,
            ),
        )

    def check_spec(self, spec: PackSpec) -> Iterator[tuple[str, str]]:
        if spec.chemistry not in CHEMISTRIES:
            yield "chemistry", f"must be one of {', '.join(CHEMISTRIES)}"
        if spec.bms_peak_a < spec.bms_continuous_a:
            yield "bms_peak_a", "is below bms_continuous_a"

    def feeds(self, part: Part[PackSpec]) -> tuple[Feed, ...]:
        return (Feed("pack_plus", part.spec.full_v(), part.spec.bms_continuous_a),)

    def stamp(self, s: Stamper, part: Part[PackSpec]) -> None:
        spec: PackSpec = part.spec
        minus, cells, board, fused = (s.node(part, n) for n in ("minus", "cells", "board", "fused"))
        plus = s.tie_role(part, "pack_plus", "plus")
        for pin in s.pins(part, "pack_minus"):
            s.tie(pin, minus)
        s.add(part, CELLS, cells, minus, source(spec.resting_v(), spec.internal_ohm), tol_j=0.045)
        s.add(part, BOARD, cells, board, _board(spec, spec.cell_v), tol_g=0.2)
        s.add(part, "bms_leak", cells, board, resistor(2.2e6), tol_g=0.6)
        s.add(part, "fuse", board, fused, resistor(0.003), fuse_a=spec.fuse_a * 2.0 or INF)
        s.add(part, "switch", fused, plus, resistor(0.004))
        if s.pins(part, "charge_in"):
            charge = s.tie_role(part, "charge_in", "charge")
            s.add(part, "charge_path", charge, board, resistor(0.02), tol_g=0.3)
        for pin in s.pins(part, "balance"):
            s.add(part, "balance", pin, cells, resistor(1000.0), tol_g=0.3)

    def controls(self, part: Part[PackSpec]) -> tuple[Control, ...]:
        return (
            Control("power", ("on", "off", "out"), ("Switched on", "Switched off", "Pack out")),
        )

    def apply(self, part: Part[PackSpec], control: str, value: str) -> tuple[Override, ...]:
        if value == "out":
            return opened(part, "switch")
        return ()

    def faults(self, part: Part[PackSpec]) -> tuple[FaultMode, ...]:
        return pack_faults(part, CELLS, BOARD)
