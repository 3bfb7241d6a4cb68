"""Conductors: which area a current needs, and what every conductor of a bike sees."""

from collections.abc import Iterator
from dataclasses import dataclass

from brightcore.analysis.bike import Analysis, analysis_of
from brightcore.analysis.loads import through_a
from brightcore.bike.model import Bike
from brightcore.bike.roles import role_of
from brightcore.describing.join_words import join_words
from brightcore.errors import require
from brightcore.kinds.cable import conductors
from brightcore.kinds.select import cables
from brightcore.physics.contacts import CONTACTS_PER_WIRE, GOOD_POWER_OHM, GOOD_SIGNAL_OHM
from brightcore.physics.copper import THICK_MM2, lead_ohm, wire_ohm
from brightcore.physics.gauges import STANDARD_MM2, nearest_awg
from brightcore.physics.heating import SHORT_RUN_S, ampacity_a, temperature_rise_k

SIGNAL_BELOW_A = 0.5
"""A conductor with less than this is shown among the signals."""

ROUNDING = 0.999
"""Equal figures fit."""

HEAT_STEPS_MM2 = tuple(0.05 * 1.05**k for k in range(160))
"""Areas tried for the one that carries a current."""


@dataclass(frozen=True, slots=True)
class Sized:
    """A conductor for a current: area wanted by drop and by heat, the standard area and gauge, what
    it then does."""

    by_drop_mm2: float
    by_heat_mm2: float
    area_mm2: float
    awg: int
    drop_v: float
    heat_w: float
    rise_k: float


def size_conductor(
    current_a: float,
    length_m: float,
    allowed_drop_v: float,
    ambient_c: float = 25.0,
    bundle_count: int = 1,
) -> Sized:
    """Return the standard conductor pair for a current over a length (one way), both wires' drop
    within the allowed.

    Current 0.001 to 300 A, length 0.01 to 30 m, drop 0.005 to 20 V; raises RangeError for others.

    >>> size_conductor(30.0, 1.0, 0.5).area_mm2
    2.5
    """
    require("current_a", current_a, 0.001, 300.0, "A")
    require("length_m", length_m, 0.01, 30.0, "m")
    require("allowed_drop_v", allowed_drop_v, 0.005, 20.0, "V")
    by_drop = lead_ohm(length_m, 1.0) * current_a / allowed_drop_v
    carrying = (a for a in HEAT_STEPS_MM2 if ampacity_a(a, ambient_c, bundle_count) >= current_a)
    by_heat = next(carrying, 100.0)
    # A thousandth of grace: 2.5 mm² that was worked out as 2.5001 is 2.5 mm².
    wanted = max(by_drop, by_heat) * ROUNDING
    area = next((a for a in STANDARD_MM2 if a >= wanted), STANDARD_MM2[-1])
    ohm = lead_ohm(length_m, area)
    rise = temperature_rise_k(current_a, area, ambient_c, bundle_count)
    return Sized(
        by_drop, by_heat, area, nearest_awg(area), current_a * ohm, current_a**2 * ohm, rise
    )


@dataclass(frozen=True, slots=True)
class ConductorRow:
    """What one conductor of the bike sees: `drop_v` in the wire, `contact_v` in the crimps and
    contacts at its ends. `owner`: the id of the part or join that it is of."""

    owner: str
    title: str
    carries: str
    current_a: float
    length_m: float
    area_mm2: float
    drop_v: float
    rise_k: float
    limit_a: float
    contact_v: float = 0.0
    short_run: bool = False

    @property
    def is_signal(self) -> bool:
        """Whether the conductor carries next to nothing."""
        return self.current_a < SIGNAL_BELOW_A

    @property
    def stands_a(self) -> float:
        """What the conductor carries as long as its current lasts, in A."""
        if self.short_run:
            return ampacity_a(self.area_mm2, seconds=SHORT_RUN_S)
        return self.limit_a

    @property
    def fits(self) -> bool:
        """Whether the conductor carries its current (or nothing is known of it)."""
        return self.area_mm2 == 0 or self.current_a * ROUNDING <= self.stands_a


def conductor_table(bike: Bike) -> tuple[ConductorRow, ...]:
    """Return every conductor with a described area, thickest current first; drop is of this one
    wire."""
    case = analysis_of(bike)
    return case.remember("conductors", lambda: _table(case))


def _table(case: Analysis) -> tuple[ConductorRow, ...]:
    rows = [*_of_cables(case), *_of_joins(case)]
    return tuple(sorted(rows, key=lambda r: (-r.current_a, r.title, r.carries)))


def _of_cables(case: Analysis) -> Iterator[ConductorRow]:
    for part in cables(case.bike):
        for one, two in conductors(part):
            ends = f"{part.id}.{one}", f"{part.id}.{two}"
            yield _row(case, part.id, part.name, ends, part.spec.length_m, part.spec.area_mm2)


def _of_joins(case: Analysis) -> Iterator[ConductorRow]:
    for join in case.bike.joins:
        if join.wire.area_mm2 <= 0:
            continue
        for a, b in join.pairs:
            ends = f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}"
            words = join_words(case.bike, join)
            yield _row(case, join.id, words, ends, join.wire.length_m, join.wire.area_mm2)


def _row(
    case: Analysis, owner: str, title: str, ends: tuple[str, str], length_m: float, area_mm2: float
) -> ConductorRow:
    current = through_a(case, *ends)
    if area_mm2 >= THICK_MM2:
        contact_ohm = GOOD_POWER_OHM
    else:
        contact_ohm = GOOD_SIGNAL_OHM
    phase = any(role_of(role).use == "phase" for role in case.nets.roles_of(ends[0]))
    return ConductorRow(
        owner,
        title,
        case.nets.title(ends[0]),
        current,
        length_m,
        area_mm2,
        current * wire_ohm(length_m, area_mm2),
        temperature_rise_k(current, area_mm2),
        ampacity_a(area_mm2),
        current * CONTACTS_PER_WIRE * contact_ohm,
        phase,
    )
