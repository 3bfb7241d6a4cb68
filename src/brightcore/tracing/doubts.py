"""Readings that cannot be, and readings that were taken before: questioned, never silently used."""

import math

from brightcore.bands import Bands, bands_at
from brightcore.bands.model import Hazard
from brightcore.errors import ReadingError
from brightcore.kinds.select import packs
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import kind_of, test_id
from brightcore.tracing.tests.swing import swing_values
from brightcore.units import format_quantity, parse_quantity

OVER_FULL, SPARE_V = 1.15, 2.0
"""Volts that a bike can show: so many times all its packs full, and a little (a charger, a motor
turned)."""

DIODE_TOP_V = 4.0
"""No diode range shows more (common practice)."""


def impossible(engine: Engine, item: Evidence) -> str:
    """Return why a reading cannot be as it was typed, "" where it can."""
    try:
        if item.kind == "swing":
            return _volts(engine, max(map(abs, swing_values(item.value))))
        if item.kind == "volts":
            value = parse_quantity(item.value, "V")
            if math.isinf(value):
                return (
                    "OL in volts means that the meter's range was too small, or that it "
                    "stood on ohms"
                )
            return _volts(engine, abs(value))
        if item.kind == "ohms" and parse_quantity(item.value, "Ω") < 0:
            return (
                "Ohms below zero mean that there were volts: pack out, capacitors empty, then again"
            )
        if item.kind == "diode":
            value = parse_quantity(item.value, "V")
            if value < 0 or (DIODE_TOP_V < value < math.inf):
                return "A diode range shows 0 to 3 V, or OL"
    except ReadingError:
        return ""
    return ""


def _volts(engine: Engine, volt: float) -> str:
    # All packs are added, in series or not: a limit that is too wide only lets a slip through, one
    # that is too narrow calls a true reading wrong.
    most = OVER_FULL * sum(pack.spec.full_v() for pack in packs(engine.bike)) + SPARE_V
    if volt <= most:
        return ""
    return (
        f"{format_quantity(volt, 'V')} is more than this bike can show "
        f"({format_quantity(most, 'V')} at most)"
    )


def danger_of(engine: Engine, item: Evidence) -> tuple[Hazard | None, str]:
    """Return the danger that a reading is at its points, None where it is none; and what was
    read."""
    bands, values = _at_points(engine, item)
    for value in values:
        hazard = bands.hazard(value) if bands is not None else None
        if hazard is not None and bands is not None:
            said = hazard.text.format(
                value=format_quantity(value, bands.unit), usual=bands.usual_words
            )
            return hazard, f"{engine_points(engine, item)}: {said}"
    return None, ""


def is_well(engine: Engine, item: Evidence) -> bool:
    """Return whether a reading says that its points are no danger: it can be, and lies in no danger
    band."""
    bands, values = _at_points(engine, item)
    # What was impossible says nothing: a danger stands until a reading that can be true lies well.
    return bool(values) and bands is not None and not impossible(engine, item)


def _at_points(engine: Engine, item: Evidence) -> tuple[Bands | None, list[float]]:
    """Return the bands of a reading's points and its volts, empty where it is none in volts."""
    if item.kind not in ("volts", "swing"):
        return None, []
    try:
        if item.kind == "swing":
            values: tuple[float, ...] = swing_values(item.value)
        else:
            values = (parse_quantity(item.value, "V"),)
    except ReadingError:
        return None, []
    return bands_at(engine.bike, item.red, item.black), [v for v in values if math.isfinite(v)]


def engine_points(engine: Engine, item: Evidence) -> str:
    """Return the pin that the red probe stood on, in words."""
    part, _, pin = engine.bike.pin(item.red)
    return f"{part.name}, {pin.words}"


def repeated(item: Evidence, earlier: list[Evidence]) -> int | None:
    """Return the index of the earlier reading at the same points in the same state, None where
    there is none.

    Looks may be made again without a word.
    """
    if kind_of(item.kind).entry != "number":
        return None
    wanted = test_id(item)
    return next((k for k, old in enumerate(earlier) if test_id(old) == wanted), None)
