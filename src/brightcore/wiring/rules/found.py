"""Rules on what was found at a part: cells outside their window, no fuse, values that no such part has."""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.describing.specs import shown_unit
from brightcore.findings import Finding
from brightcore.kinds.base import spec_fields
from brightcore.kinds.select import packs
from brightcore.units import format_quantity

NEVER_CHARGED_V = {"nickel": 2.5, "pouch": 2.5, "lfp": 2.0}
"""Resting volts of a cell below which copper may have dissolved: it is not charged any more (common
practice)."""

OVER_V = 0.03
"""A cell this much above full is overcharged; less is how well it was measured."""


def _resting(cell_v: float) -> str:
    return f"{cell_v:.2f} V"


@rule(
    "W064",
    "danger",
    "The cells of the {pack} rest at {cell_v}, below {never_v}: they may short inside when charged.",
    "Never charge it. Pack out, outdoors, away from what burns; the quarantine box and a battery recycler.",
)
def dead_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found below what may ever be charged again."""
    for pack in packs(case.bike):
        never = NEVER_CHARGED_V[pack.spec.chemistry]
        if pack.spec.cell_v < never:
            yield found(
                (pack.id,), pack=pack.name, cell_v=_resting(pack.spec.cell_v), never_v=f"{never:g} V a cell"
            )


@rule(
    "W065",
    "fault",
    "The cells of the {pack} rest at {cell_v}, below the {trip_v} at which its board lets go.",
    "No load on it. Its own charger, attended, at 0 to 45 °C: a few minutes first, then measure every group; "
    "one that does not follow the others ends it.",
)
def tripped_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found below the trip of the board, not yet too low to be charged."""
    for pack in packs(case.bike):
        if NEVER_CHARGED_V[pack.spec.chemistry] <= pack.spec.cell_v < pack.spec.cells.trip_v:
            yield found(
                (pack.id,),
                pack=pack.name,
                cell_v=_resting(pack.spec.cell_v),
                trip_v=f"{pack.spec.cells.trip_v:g} V",
            )


@rule(
    "W066",
    "danger",
    "The cells of the {pack} rest at {cell_v}, above full at {full_v}: overcharged.",
    "Off the charger, which may be the wrong one; nothing flammable near. Take it down slowly with a lamp as "
    "load, attended and outdoors; then the charger and every group are measured.",
)
def overcharged_cells(case: Analysis, found: Found) -> Iterator[Finding]:
    """Cells found above full."""
    for pack in packs(case.bike):
        if pack.spec.cell_v > pack.spec.cells.full_v + OVER_V:
            yield found(
                (pack.id,),
                pack=pack.name,
                cell_v=_resting(pack.spec.cell_v),
                full_v=f"{pack.spec.cells.full_v:g} V",
            )


@rule(
    "W067",
    "fault",
    "The {pack} has no main fuse: a short in its lead is stopped by nothing but its board, if at all.",
    "A fuse in the plus lead, as close to the pack as can be, DC rated for the full pack, below what the "
    "thinnest wire of the lead stands. Until then read the plug for a short before the pack goes in.",
)
def no_fuse(case: Analysis, found: Found) -> Iterator[Finding]:
    """A pack that was described as having no fuse."""
    for pack in packs(case.bike):
        if not pack.spec.fuse_a:
            yield found((pack.id,), pack=pack.name)


@rule(
    "W068",
    "advice",
    "{part}: {what} {value} is outside the usual {low} to {high}.",
    "Measure it again, leads shorted first for small ohms; if it stays, it may be the fault.",
)
def unusual_value(case: Analysis, found: Found) -> Iterator[Finding]:
    """A measured value that is possible, and that such a part usually does not have."""
    for part in case.bike.parts:
        for item in spec_fields(type(part.spec)):
            if item.usual is None:
                continue
            value, (low, high) = float(getattr(part.spec, item.name)), item.usual
            if not low <= value <= high:
                shown = [format_quantity(v, shown_unit(item.name)).strip() for v in (value, low, high)]
                yield found(
                    (part.id, item.name),
                    part=part.name,
                    what=item.doc,
                    value=shown[0],
                    low=shown[1],
                    high=shown[2],
                )


RULES = (dead_cells, tripped_cells, overcharged_cells, no_fuse, unusual_value)
