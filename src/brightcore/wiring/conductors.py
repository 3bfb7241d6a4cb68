"""Conductors: which area a current needs, and what every conductor of a bike sees.

Resistance: sources iec-60028 and iec-60228; gauges: astm-b258; current per area and temperature rise: common practice.
"""

import math
from dataclasses import dataclass

from brightcore.bike.model import Bike, Join
from brightcore.circuit.nets import Nets
from brightcore.describing.edit import join_words
from brightcore.describing.specs import awg_area_mm2
from brightcore.errors import require
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import conductors
from brightcore.matching.packs import lead_ohm

STANDARD_MM2 = (0.14, 0.25, 0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0)
A_PER_MM2 = 12.0
RISE_AT_LIMIT_K = 40.0
INSULATION_C = 90.0
SIGNAL_BELOW_A = 0.5
SHORT_RUN_RATIO = 1.5
"""Full phase current lasts about a minute: phase wires stand this much more than for long (common practice)."""

CONTACTS, GOOD_POWER_OHM, GOOD_SIGNAL_OHM = 2, 0.001, 0.01
"""A contact with its crimp at either end of a wire; a good one is well below the 50 mV at 30 A that make it suspect (common practice)."""

SIGNAL_A, SUPPLY_A = 0.005, 0.05
"""Currents taken for signal and 5 V supply wires (common practice)."""


@dataclass(frozen=True, slots=True)
class Sized:
    """A conductor for a current: area wanted by drop and by heat, the standard area and gauge to take, and what it then does."""

    by_drop_mm2: float
    by_heat_mm2: float
    area_mm2: float
    awg: int
    drop_v: float
    heat_w: float
    rise_k: float


def ampacity_a(area_mm2: float, ambient_c: float = 25.0, bundle_count: int = 1) -> float:
    """Return the current a flexible wire stands for long: 12 A/mm² at 25 °C alone, less when warm or bundled.

    Ambient: square root of the headroom to 90 °C insulation. Bundle: 0.8 for two or three loaded wires, 0.7 for more.
    """
    require("area_mm2", area_mm2, 0.05, 100.0, "mm²")
    require("ambient_c", ambient_c, -30.0, 80.0, "°C")
    require("bundle_count", bundle_count, 1, 60)
    thin = 1.0 + 0.6 * math.exp(-area_mm2)  # thin wires shed heat better for their area
    warm = math.sqrt((INSULATION_C - ambient_c) / (INSULATION_C - 25.0))
    return A_PER_MM2 * area_mm2 * thin * warm * (1.0 if bundle_count == 1 else 0.8 if bundle_count <= 3 else 0.7)


def temperature_rise_k(current_a: float, area_mm2: float, ambient_c: float = 25.0, bundle_count: int = 1) -> float:
    """Return the rise over ambient: 40 K at the ampacity, with the square of the current (common practice)."""
    return RISE_AT_LIMIT_K * (current_a / ampacity_a(area_mm2, ambient_c, bundle_count)) ** 2


def nearest_awg(area_mm2: float) -> int:
    """Return the thinnest gauge that has at least the area (source astm-b258)."""
    return max(g for g in range(31) if awg_area_mm2(g) >= area_mm2 * 0.97) if area_mm2 <= awg_area_mm2(0) else 0


def size_conductor(current_a: float, length_m: float, allowed_drop_v: float, ambient_c: float = 25.0, bundle_count: int = 1) -> Sized:
    """Return the standard conductor pair for a current over a length (one way), with both wires' drop within what is allowed.

    Raises RangeError for impossible values.
    """
    require("current_a", current_a, 0.001, 300.0, "A")
    require("length_m", length_m, 0.01, 30.0, "m")
    require("allowed_drop_v", allowed_drop_v, 0.005, 20.0, "V")
    by_drop = lead_ohm(length_m, 1.0) * current_a / allowed_drop_v
    by_heat = next((a for a in _steps() if ampacity_a(a, ambient_c, bundle_count) >= current_a), 100.0)
    area = next((a for a in STANDARD_MM2 if a >= max(by_drop, by_heat) * 0.999), STANDARD_MM2[-1])
    ohm = lead_ohm(length_m, area)
    return Sized(
        by_drop,
        by_heat,
        area,
        nearest_awg(area),
        current_a * ohm,
        current_a**2 * ohm,
        temperature_rise_k(current_a, area, ambient_c, bundle_count),
    )


def _steps() -> list[float]:
    return [0.05 * 1.05**k for k in range(160)]


@dataclass(frozen=True, slots=True)
class ConductorRow:
    """What one conductor of the bike sees: `drop_v` in the wire, `contact_v` in the crimps and contacts at its ends."""

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
        """What the conductor stands as long as its current lasts, in A."""
        return self.limit_a * (SHORT_RUN_RATIO if self.short_run else 1.0)

    @property
    def fits(self) -> bool:
        """Whether the conductor stands its current (or nothing is known of it)."""
        return self.area_mm2 == 0 or self.current_a <= self.stands_a * 1.001


def conductor_table(bike: Bike) -> tuple[ConductorRow, ...]:
    """Return every conductor with a described area, thickest current first; drop is of this one wire."""
    nets = Nets(bike, REGISTRY)
    rows = []
    for part in bike.of_kind("cable"):
        for one, _two in conductors(part):
            rows.append(_row(bike, nets, f"{part.name}", f"{part.id}.{one}", part.spec.length_m, part.spec.area_mm2))
    for join in bike.joins:
        if join.wire.area_mm2 > 0:
            rows += [_row(bike, nets, join_words(bike, join), _pin(join, a), join.wire.length_m, join.wire.area_mm2) for a, _ in join.pairs]
    return tuple(sorted(rows, key=lambda r: (-r.current_a, r.title, r.carries)))


def _pin(join: Join, name: str) -> str:
    return f"{join.a_part}.{join.a_port}.{name}"


def _row(bike: Bike, nets: Nets, title: str, pin: str, length_m: float, area_mm2: float) -> ConductorRow:
    roles = nets.roles_of(pin)
    current = current_of(bike, roles)
    ohm = lead_ohm(length_m, area_mm2) / 2
    return ConductorRow(
        title, nets.title(pin), current, length_m, area_mm2, current * ohm, temperature_rise_k(current, area_mm2), ampacity_a(area_mm2),
        current * CONTACTS * (GOOD_POWER_OHM if area_mm2 >= 1.0 else GOOD_SIGNAL_OHM), any(role.startswith("phase_") for role in roles),
    )  # fmt: skip


def current_of(bike: Bike, roles: set[str]) -> float:
    """Return the current in A that a net with these roles carries at most."""
    controllers = bike.of_kind("controller")
    if roles & {"battery_plus", "battery_minus", "pack_plus", "pack_minus", "combine_a", "combine_b", "combine_out"} and not roles & {
        "display_plus",
        "key_in",
    }:
        return sum(bike.setting(c.id, "current_limit_a", c.spec.battery_limit_a) for c in controllers)
    if any(role.startswith("phase_") for role in roles):
        most = max((bike.setting(c.id, "phase_limit_a", c.spec.phase_limit_a) for c in controllers), default=0.0)
        return most * math.sqrt(2 / 3)  # six-step: each phase carries two thirds of the time
    if roles & {"accessory_plus", "lamp_plus", "lamp_minus"}:
        return sum(p.spec.power_w / p.spec.rated_v for p in bike.of_kind("lamp"))
    return SUPPLY_A if roles & {"supply_5v", "sensor_supply", "signal_ground", "sensor_ground"} else SIGNAL_A
