"""What a technician reads with: each instrument is an object that a reading names by its id.

Figures of a usual handheld meter are common practice; issue by issue a shop may describe its own.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from brightcore.circuit.elements import Regions, source
from brightcore.errors import UnknownNameError

Floats = NDArray[np.float64]


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
    """How a meter reads ohms: exactness, lead resistance, and what it shows as over limit."""

    ratio: float = 0.015
    offset_ohm: float = 0.06
    lead_ohm: float = 0.1
    over_ohm: float = 4e7


@dataclass(frozen=True, slots=True)
class DiodeRange:
    """How a meter tests a diode: open volts behind a resistance, and what it shows as over limit."""

    open_v: float = 3.0
    behind_ohm: float = 3000.0
    over_v: float = 2.4


@dataclass(frozen=True, slots=True)
class Multimeter(Instrument):
    """A meter for volts, ohms and diodes. `floating_ohm`: source resistance above which volts are phantom."""

    volts: VoltRange = field(default_factory=VoltRange)
    ohms: OhmRange = field(default_factory=OhmRange)
    diode: DiodeRange = field(default_factory=DiodeRange)
    floating_ohm: float = 4e6

    def loading(self, source_ohm: Floats) -> Floats:
        """Return the share of open-circuit volts that is read behind a resistance."""
        inside = self.volts.input_ohm
        return np.asarray(inside / (inside + np.maximum(source_ohm, 0.0)))

    def diode_source(self) -> Regions:
        """Return the regions of its diode test, for an element of the circuit."""
        return source(self.diode.open_v, self.diode.behind_ohm)


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


DEFAULT_METER = Multimeter("meter", "Handheld meter, 10 MΩ")
SIMPLE_METER = Multimeter(
    "simple-meter", "Simple meter, 1 MΩ", VoltRange(1e6, 0.01, 0.02), OhmRange(0.03, 0.2), floating_ohm=4e5
)
CLAMP = Clamp("clamp", "Current clamp")
SUPPLY = LimitedSupply("supply", "Bench supply, current limited")
INSTRUMENTS = {item.id: item for item in (DEFAULT_METER, SIMPLE_METER, CLAMP, SUPPLY)}


def meter_of(name: str) -> Multimeter:
    """Return the meter a reading names, the usual one for "".

    Raises UnknownNameError for what reads no volts.
    """
    found = INSTRUMENTS.get(name or DEFAULT_METER.id)
    if not isinstance(found, Multimeter):
        known = tuple(i for i, item in INSTRUMENTS.items() if isinstance(item, Multimeter))
        raise UnknownNameError("meter", name, known)
    return found
