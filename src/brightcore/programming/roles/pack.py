"""Roles of the pack: label, cells, cut-offs, capacity."""

from brightcore.analysis.strings import strings
from brightcore.bike.model import Part
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs
from brightcore.programming.case import Case, Role, Want

LABELS_V = (24.0, 36.0, 48.0, 52.0, 60.0, 72.0)
"""Labels that displays know (common practice)."""

OVER_SHARE = 1.04
"""Over-voltage above the full pack, for what regeneration and a charger add."""


def string(case: Case) -> tuple[Part[PackSpec], ...]:
    """Return the packs in series that feed the device, itself where it is a pack; empty where there
    is none."""
    own = next((pack for pack in packs(case.bike) if pack.id == case.part.id), None)
    if own is not None:
        return (own,)
    found = strings(case.bike)
    if found:
        return found[0]
    return ()


def label(case: Case) -> Want | None:
    """Pack label that the display's gauge goes by."""
    row = string(case)
    if not row:
        return None
    nominal = sum(pack.spec.nominal_v() for pack in row)
    count = sum(pack.spec.series_count for pack in row)
    value = min(LABELS_V, key=lambda v: abs(v - nominal))
    return Want(value, f"{count} cells in series, {nominal:.1f} V nominal")


def series(case: Case) -> Want | None:
    """Cells in series."""
    row = string(case)
    if not row:
        return None
    counts = [pack.spec.series_count for pack in row]
    return Want(
        sum(counts), " + ".join(f"{n} in the {p.name}" for n, p in zip(counts, row, strict=True))
    )


def low_cutoff(case: Case) -> Want | None:
    """Low-voltage cut-off above what the BMS trips at."""
    row = string(case)
    if not row:
        return None
    value = round(sum(pack.spec.series_count * pack.spec.cells.cutoff_v for pack in row))
    cells = " + ".join(f"{p.spec.series_count} cells × {p.spec.cells.cutoff_v:g} V" for p in row)
    trip = sum(pack.spec.trip_v() for pack in row)
    return Want(
        value,
        f"{cells} under load: above the BMS trip at {trip:.1f} V, "
        "so that the controller cuts out first and softly",
    )


def over_voltage(case: Case) -> Want | None:
    """Over-voltage above the full pack."""
    row = string(case)
    if not row:
        return None
    full = sum(pack.spec.full_v() for pack in row)
    above = round(full * OVER_SHARE, 1)
    spec = case.part.spec
    if isinstance(spec, ControllerSpec) and above > spec.max_v:
        words = f"Full pack {full:.1f} V and {100 * (OVER_SHARE - 1):.0f} % would be {above:g} V"
        return Want(spec.max_v, f"{words}: no more than the controller is rated for")
    return Want(above, f"Full pack {full:.1f} V and {100 * (OVER_SHARE - 1):.0f} %")


def capacity(case: Case) -> Want | None:
    """Amp-hours that the gauge counts down from: packs in parallel add up, those in series do
    not."""
    own = next((pack for pack in packs(case.bike) if pack.id == case.part.id), None)
    if own is not None:
        return Want(own.spec.capacity_ah, "Its own cells")
    rows = strings(case.bike)
    if not rows:
        return None
    value = sum(min(pack.spec.capacity_ah for pack in row) for row in rows)
    names = " + ".join(f"{min(p.spec.capacity_ah for p in row):g} Ah" for row in rows)
    return Want(round(value, 1), f"{names} as fitted")


def cell_low(case: Case) -> Want | None:
    """Where a pack board opens: the trip of its cells."""
    for pack in packs(case.bike):
        if pack.id == case.part.id:
            return Want(pack.spec.cells.trip_v, f"{pack.spec.chemistry} cells, under load")
    return None


def cell_full(case: Case) -> Want | None:
    """Where a pack board ends charging."""
    for pack in packs(case.bike):
        if pack.id == case.part.id:
            return Want(pack.spec.cells.full_v, f"{pack.spec.chemistry} cells, full")
    return None


def board_amps(case: Case) -> Want | None:
    """Current at which a pack board opens."""
    for pack in packs(case.bike):
        if pack.id == case.part.id:
            return Want(
                pack.spec.bms_peak_a,
                "Peak current of the board; its continuous one is the controller's limit",
            )
    return None


ROLES = (
    Role("pack_label_v", "Pack label", "V", label, tuple((v, f"{v:g} V") for v in LABELS_V)),
    Role("series_count", "Cells in series", "", series),
    Role("low_cutoff_v", "Low-voltage cut-off", "V", low_cutoff, digits=1),
    Role("over_voltage_v", "Over-voltage", "V", over_voltage, digits=1),
    Role("capacity_ah", "Capacity for the gauge", "Ah", capacity, digits=1),
    Role("cell_low_v", "Cell, opens below", "V", cell_low, digits=2),
    Role("cell_full_v", "Cell, full at", "V", cell_full, digits=2),
    Role("board_trip_a", "Board opens at", "A", board_amps),
)
