"""What breaks in a pack, as rows. How common each is: common practice."""

from typing import TYPE_CHECKING, cast

from brightcore.bike.model import Part
from brightcore.circuit.elements import Override, Regions, source
from brightcore.circuit.faults import FaultMode
from brightcore.kinds.fault_rows import FaultRow, RepairRow, becomes, having, modes_of, opens

if TYPE_CHECKING:
    from brightcore.kinds.pack import PackSpec

FUSE_SEEN = 0.98
"""How often a blown fuse is found that is taken out, looked at and read in ohms (common
practice)."""

WORN_OHM = 0.3
"""A main switch, clip or joint of a pack that has worn (common practice)."""

BURNT_OHM = 2.0
"""A contact that is burnt."""

ENDS = ("pack_plus", "pack_minus")
"""Where the volts of a pack are read before it is charged or rebuilt."""


def _rows(part: Part, cells: str, board: str) -> tuple[FaultRow, ...]:
    """Return the faults of a pack; what is said of charging hangs on its chemistry."""
    spec = _spec(part)
    least = f"{spec.cells.dead_v:g} V a cell"
    service = RepairRow(
        f"Only at 0 to 45 °C, attended, and not under {least}: charge the "
        "{part} full and let it balance. If it still cuts out or falls short: rebuilt or "
        "replaced by someone qualified for packs",
        30,
        "Find why: age, a deep discharge, water or a knock",
        4,
        read_first=ENDS,
    )
    wake = RepairRow(
        f"Only at 0 to 45 °C, attended, and not under {least}: unplug every load, "
        "then the charger of the {part} on for a minute. "
        "If its BMS stays open: to someone qualified for packs",
        10,
        "A BMS trips for a reason: a low cell, a short, cold or too much current. Find it first",
        what="wake",
    )
    charge = RepairRow(
        f"Only at 0 to 45 °C, attended, and never under {least}: "
        "charge the {part} with its own charger",
        5,
        "Left on, or the charger does not charge",
        what="charge",
        read_first=ENDS,
    )
    flat = source(spec.trip_v() * 1.02, spec.internal_ohm * 2)
    sagging = source(spec.resting_v() * 0.97, spec.internal_ohm * 8)
    tripped = FaultRow("inside.bms", "open", "BMS has tripped", 3.0, wake, opens(board))
    return (
        tripped,
        *FIXED,
        FaultRow(
            "inside.cells",
            "weak",
            "weak cell group, sags under load",
            4.0,
            service,
            _cells_are(cells, sagging),
            ("weak",),
        ),
        FaultRow(
            "inside.cells",
            "faded",
            "has lost capacity with age",
            1.5,
            service,
            signs=(("faded", 0.95),),
        ),
        FaultRow(
            "inside.cells", "flat", "discharged", 4.0, charge, _cells_are(cells, flat), ("weak",)
        ),
    )


class _cells_are:
    """Makes the cells of a pack another source, with the spread of what is found in use."""

    def __init__(self, cells: str, regions: Regions) -> None:
        self.cells, self.regions = cells, regions

    def __call__(self, part: Part) -> tuple[Override, ...]:
        return (Override(f"{part.id}/{self.cells}", self.regions, tol_g=0.3, tol_j=0.03),)


FUSE = RepairRow(
    "Replace the main fuse of the {part} (same DC rating)",
    15,
    "A fuse blows for a reason: look for a short before fitting the new one",
    1,
    "fuse",
)
SOCKET = RepairRow(
    "Have the charge port of the {part} repaired by someone qualified for packs",
    20,
    "Worn or burnt charge socket",
    2,
    "charge-port",
)
SWITCH = RepairRow(
    "Replace the main switch of the {part}", 15, "Worn key switch or burnt contact", 1, "switch"
)


def _spec(part: Part) -> "PackSpec":
    return cast("PackSpec", part.spec)


def _has_fuse(part: Part) -> bool:
    return bool(_spec(part).fuse_a)


FIXED = (
    FaultRow(
        "inside.fuse",
        "open",
        "main fuse blown",
        2.0,
        FUSE,
        opens("fuse"),
        seen_by_eye=FUSE_SEEN,
        where=_has_fuse,
    ),
    FaultRow(
        "inside.charge",
        "open",
        "charge port broken",
        1.5,
        SOCKET,
        opens("charge_path"),
        where=having("charge_in"),
    ),
    FaultRow(
        "inside.switch", "open", "main switch open", 2.0, SWITCH, opens("switch"), seen_by_eye=0.4
    ),
    FaultRow(
        "inside.switch",
        "resistive",
        "main switch contact burnt",
        1.0,
        SWITCH,
        becomes("switch", BURNT_OHM),
    ),
    FaultRow(
        "inside.switch",
        "worn",
        "main switch or its joints worn",
        1.0,
        SWITCH,
        becomes("switch", WORN_OHM, 0.6),
    ),
)
"""What breaks whatever the cells are."""


def pack_faults(part: Part, cells: str, board: str) -> tuple[FaultMode, ...]:
    """Return every fault that a pack can have; `cells` and `board` name its elements."""
    return modes_of(part, _rows(part, cells, board))
