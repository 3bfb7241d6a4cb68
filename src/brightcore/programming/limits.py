"""Checks of single values against what cannot bear them: cells, boards, fuses, ratings, inputs.

Each is one function and one line in `LIMITS`; codes are permanent (`docs/program.md`).
"""

from collections.abc import Callable

from brightcore.bands.points import PULLED_V, RELEASED_V
from brightcore.bike.model import Part
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.pack import PackSpec
from brightcore.programming.findings import Found, Programmed, ValueFinding

FUSE_PASSES = 2.0
"""A fuse carries so many times its rating for some seconds: longer than a board needs to open."""

PEDAL_FORWARDS = 0.0


def cell_full(case: Programmed) -> Found:
    """A board that charges its cells beyond full."""
    for part, value in case.holders("cell_full_v"):
        if isinstance(part.spec, PackSpec) and value > part.spec.cells.full_v:
            cells = part.spec.cells
            full = f"{cells.title} is full at {cells.full_v:g} V"
            text = f"{part.name} charges each cell to {value:g} V, {full}"
            change = "Lower it before it is charged again: overcharged cells catch fire."
            yield ValueFinding("V031", "danger", text, change, (part.id,))


def cell_low(case: Programmed) -> Found:
    """A board that lets its cells go under what they stand."""
    for part, value in case.holders("cell_low_v"):
        if isinstance(part.spec, PackSpec) and value < part.spec.cells.dead_v:
            text = (
                f"{part.name} lets a cell down to {value:g} V, {part.spec.cells.dead_v:g} "
                "V is the least"
            )
            change = "Raise it: cells that were lower are never charged again."
            yield ValueFinding("V032", "danger", text, change, (part.id,))


def cell_low_high(case: Programmed) -> Found:
    """A board that opens with much charge left."""
    for part, value in case.holders("cell_low_v"):
        if isinstance(part.spec, PackSpec) and value > part.spec.cells.empty_v:
            text = (
                f"{part.name} opens at {value:g} V a cell, {part.spec.cells.empty_v:g} V is empty"
            )
            change = "Lower it, or the pack cuts out early on a hill."
            yield ValueFinding("V033", "fault", text, change, (part.id,))


def board_amps(case: Programmed) -> Found:
    """A board that opens above what it and its cells are rated for."""
    for part, value in case.holders("board_trip_a"):
        if isinstance(part.spec, PackSpec) and value > part.spec.bms_peak_a:
            text = (
                f"{part.name} opens at {value:g} A, its board is rated for "
                f"{part.spec.bms_peak_a:g} A peak"
            )
            change = "Lower it: nothing else guards cells and board."
            yield ValueFinding("V034", "danger", text, change, (part.id,))


def board_behind_fuse(case: Programmed) -> Found:
    """A board that opens long after its fuse has blown."""
    for part, value in case.holders("board_trip_a"):
        if isinstance(part.spec, PackSpec):
            fuse_a = part.spec.fuse_a
        else:
            fuse_a = 0.0
        if fuse_a and value > FUSE_PASSES * fuse_a:
            text = (
                f"{part.name} opens at {value:g} A, behind a fuse of {fuse_a:g} A: the "
                "fuse goes first"
            )
            change = "Lower it: a board opens and closes again, a fuse leaves the rider standing."
            yield ValueFinding("V035", "fault", text, change, (part.id,))


def over_rating(case: Programmed) -> Found:
    """Accepts more volts than the controller is rated for."""
    for part, value in case.holders("over_voltage_v"):
        if isinstance(part.spec, ControllerSpec) and value > part.spec.max_v:
            text = f"{part.name} accepts up to {value:g} V, it is rated for {part.spec.max_v:g} V"
            change = "Lower it to the rating at most: regeneration or a wrong pack destroys it."
            yield ValueFinding("V036", "danger", text, change, (part.id,))


def cut_off_level(case: Programmed) -> Found:
    """An input level that always cuts, or never does."""
    for part, value in case.holders("cut_off_level_v"):
        if value <= PULLED_V:
            pulled = f"a pulled lever may stand at {PULLED_V:g} V and not cut"
            text = f"{part.name} cuts below {value:g} V: {pulled}"
            change = "Raise it well above that, then prove both levers with the motor turning."
            yield ValueFinding("V037", "danger", text, change, (part.id,))
        elif value >= RELEASED_V:
            text = (
                f"{part.name} cuts below {value:g} V: a released lever may stand at "
                f"{RELEASED_V:g} V"
            )
            yield ValueFinding(
                "V038", "fault", text, "Lower it: the motor would seem dead.", (part.id,)
            )


def throttle_order(case: Programmed) -> Found:
    """A throttle that starts where it ends, or above."""
    for part, start in case.holders("throttle_start_v"):
        end = case.value(part, "throttle_end_v")
        if end is not None and start >= end:
            text = (
                f"{part.name}: the throttle starts at {start:g} V and gives all at {end:g} "
                "V already"
            )
            change = "Exchange or correct them: it jumps from nothing to all, or never runs."
            yield ValueFinding("V039", "danger", text, change, (part.id,))


def pedals_backwards(case: Programmed) -> Found:
    """Help that begins when the cranks go backwards."""
    for part, value in case.holders("pedal_direction"):
        if value != PEDAL_FORWARDS:
            text = f"{part.name} helps when the cranks are turned backwards"
            change = (
                "Set it to forwards and prove it, wheel up: walking the bike back would start it."
            )
            yield ValueFinding("V040", "danger", text, change, (part.id,))


def pedal_magnets(case: Programmed) -> Found:
    """Counts other pedal magnets than the ring has."""
    for part, value in case.holders("pedal_magnets"):
        wanted = case.want(part, "pedal_magnets")
        if wanted and round(value) != round(wanted):
            text = f"{part.name} counts {value:g} pedal magnets, the ring has {wanted:g}"
            yield ValueFinding(
                "V041", "fault", text, "Correct it: help comes late, or too soon.", (part.id,)
            )


def start_at_once(case: Programmed) -> Found:
    """Help without any pulse of the cranks."""
    for part, value in case.holders("start_pulses"):
        if value < 1:
            text = f"{part.name} helps after {value:g} pulses: at a touch, or by itself"
            change = "Two pulses at least, a sixth of a turn."
            yield ValueFinding("V042", "danger", text, change, (part.id,))


def series_count(case: Programmed) -> Found:
    """A board or controller told of another number of cells in series."""
    for part, value in case.holders("series_count"):
        wanted = case.want(part, "series_count")
        if wanted and round(value) != round(wanted):
            text = f"{part.name} is told of {value:g} cells in series, {wanted:g} are there"
            change = (
                "Correct it before anything is charged or ridden: every limit of a cell goes by it."
            )
            yield ValueFinding("V043", _count_severity(part), text, change, (part.id,))


def _count_severity(part: Part) -> str:
    """Return how grave a wrong count is: a board charges by it, a gauge only shows by it."""
    if isinstance(part.spec, PackSpec):
        return "danger"
    return "fault"


LIMITS: tuple[Callable[[Programmed], Found], ...] = (
    cell_full,
    cell_low,
    cell_low_high,
    board_amps,
    board_behind_fuse,
    over_rating,
    cut_off_level,
    throttle_order,
    pedals_backwards,
    pedal_magnets,
    start_at_once,
    series_count,
)
