"""What a technician reads with: each instrument is an object that a reading names by its id.

Figures of a usual handheld meter are common practice; a shop may describe its own.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.metered import Feeding
from brightcore.errors import ReadingError, UnknownNameError

Floats = NDArray[np.float64]


PASSIVE_V = 0.4
"""Test volts up to which no semiconductor conducts (common practice)."""

OHM_RANGES = ((600.0, 5e-4), (6e3, 5e-5), (60e3, 5e-6), (600e3, 5e-7), (6e6, 1e-7), (4e7, 5e-8))
"""Ranges of a usual handheld meter on ohms: the top, and the most amps in it (common practice)."""


@dataclass(frozen=True, slots=True)
class Instrument:
    """Something to measure or feed with."""

    id: str
    title: str


@dataclass(frozen=True, slots=True)
class VoltRange:
    """How a meter reads volts: what it loads the circuit with, and how exact it is."""

    input_ohm: float = 10e6
    ratio: float = 0.004
    offset_v: float = 0.004
    top_v: float = 70.0


@dataclass(frozen=True, slots=True)
class OhmRange:
    """How a meter reads ohms: exactness, lead resistance, what it shows as over limit, and the
    volts it feeds behind a resistance."""

    ratio: float = 0.015
    offset_ohm: float = 0.06
    lead_ohm: float = 0.1
    over_ohm: float = 4e7
    open_v: float = 0.4
    behind_ohm: float = 10e3

    @property
    def feeding(self) -> Feeding:
        """What it feeds the circuit with."""
        return Feeding(self.open_v, self.behind_ohm)

    @property
    def ranges(self) -> tuple[tuple[float, Feeding], ...]:
        """The ranges that it tries one after the other: up to how many ohms, and what it feeds in
        it.

        Too few volts to turn anything on read the same in every range: then there is one.
        """
        if self.open_v <= PASSIVE_V:
            return ((self.over_ohm, self.feeding),)
        found = []
        for top, ampere in OHM_RANGES:
            found.append((top, Feeding(self.open_v, self.open_v / ampere)))
        return tuple(found)


@dataclass(frozen=True, slots=True)
class DiodeRange:
    """How a meter tests a diode: open volts behind a resistance, and what it shows as over
    limit."""

    open_v: float = 3.0
    behind_ohm: float = 3000.0
    over_v: float = 2.4

    @property
    def feeding(self) -> Feeding:
        """What it feeds the circuit with."""
        return Feeding(self.open_v, self.behind_ohm)


@dataclass(frozen=True, slots=True)
class Multimeter(Instrument):
    """A meter for volts, ohms and diodes. `floating_ohm`: source resistance above which volts are
    phantom."""

    volts: VoltRange = field(default_factory=VoltRange)
    ohms: OhmRange = field(default_factory=OhmRange)
    diode: DiodeRange = field(default_factory=DiodeRange)
    floating_ohm: float = 4e6

    def loading(self, source_ohm: Floats) -> Floats:
        """Return the share of open-circuit volts that is read behind a resistance."""
        inside = self.volts.input_ohm
        return np.asarray(inside / (inside + np.maximum(source_ohm, 0.0)))


@dataclass(frozen=True, slots=True)
class Clamp(Instrument):
    """A clamp around one wire: reads amps without opening it."""

    ratio: float = 0.025
    offset_a: float = 0.1
    top_a: float = 400.0


@dataclass(frozen=True, slots=True)
class LimitedSupply(Instrument):
    """A bench supply with a current limit: what a live winding is shown with, never the pack."""

    most_v: float = 60.0
    least_a: float = 0.1
    most_a: float = 5.0


OWN = "own:"
"""Begins the name of a meter that a shop describes itself: `own:Bench
meter|10|0.4|1.5|0.1|0.4|3`."""

LIMITS = (
    ("input resistance, MΩ", 0.1, 1000.0),
    ("accuracy in volts, %", 0.01, 10.0),
    ("accuracy in ohms, %", 0.01, 20.0),
    ("resistance of the leads, Ω", 0.0, 5.0),
    ("test volts on ohms", 0.1, 3.5),
    ("test volts on diode", 1.5, 6.0),
)
"""What a shop says of its own meter, in order, with the least and the most that is taken."""

DIODE_SHOWN = 0.8
"""Share of its open volts up to which a diode range shows a number (common practice)."""


def own_meter_name(title: str, figures: Sequence[float]) -> str:
    """Return the name by which readings know a meter of the shop; raises ReadingError for what
    cannot be."""
    if not title.strip() or any(sign in title for sign in "|:"):
        raise ReadingError("a meter needs a name without | and :")
    for value, (words, low, high) in zip(figures, LIMITS, strict=True):
        if not low <= value <= high:
            raise ReadingError(f"{words}: {value:g} is not between {low:g} and {high:g}")
    return OWN + "|".join([title.strip(), *(f"{value:g}" for value in figures)])


def _own_meter(name: str) -> Multimeter:
    title, *texts = name.removeprefix(OWN).split("|")
    try:
        figures = tuple(float(text) for text in texts)
        own_meter_name(title, figures)
    except (ValueError, ReadingError):
        raise UnknownNameError("meter", name, tuple(METERS)) from None
    mega, volts, ohms, lead, ohms_v, diode_v = figures
    usual = DEFAULT_METER
    return Multimeter(
        name,
        title,
        replace(usual.volts, input_ohm=mega * 1e6, ratio=volts / 100),
        replace(usual.ohms, ratio=ohms / 100, lead_ohm=lead, open_v=ohms_v),
        replace(usual.diode, open_v=diode_v, over_v=diode_v * DIODE_SHOWN),
        floating_ohm=0.4 * mega * 1e6,
    )


DEFAULT_METER = Multimeter("meter", "Handheld meter, 10 MΩ")
SIMPLE_METER = Multimeter(
    "simple-meter",
    "Simple meter, 1 MΩ",
    VoltRange(1e6, 0.01, 0.02),
    OhmRange(0.03, 0.2),
    floating_ohm=4e5,
)
CLAMP = Clamp("clamp", "Current clamp")
SUPPLY = LimitedSupply("supply", "Bench supply, current limited")
METERS = {item.id: item for item in (DEFAULT_METER, SIMPLE_METER, CLAMP, SUPPLY)}


def meter_of(name: str) -> Multimeter:
    """Return the meter a reading names, the usual one for "".

    Raises UnknownNameError for what reads no volts.
    """
    if name.startswith(OWN):
        return _own_meter(name)
    found = METERS.get(name or DEFAULT_METER.id)
    if not isinstance(found, Multimeter):
        rows = []
        for i, item in METERS.items():
            if isinstance(item, Multimeter):
                rows.append(i)
        known = tuple(rows)
        raise UnknownNameError("meter", name, known)
    return found
