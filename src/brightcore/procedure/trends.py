"""What was measured of one bike again and again: how it moved over the years, and what moved
much."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

FOLLOWED = {
    "capacity_ah": ("Capacity", "Ah"),
    "ohm": ("Pack and lead, from the sag", "mΩ"),
    "phase_ohm": ("Winding", "mΩ"),
    "rest_v": ("At rest", "V"),
    "full_v": ("Pulled", "V"),
    "cut_mm": ("Cuts at", "mm"),
    "zero_v": ("Feet off", "V"),
    "rpm_per_v": ("No-load turns", "rpm/V"),
    "circumference_mm": ("Roll-out", "mm"),
}
"""Values that are followed over the years: their words and the unit they are shown in."""

IN_MILLI = ("ohm", "phase_ohm")
MUCH = 0.15
"""A value that has moved by this share of its first reading is told (common practice)."""


@dataclass(frozen=True, slots=True)
class Moment:
    """One value as it was measured: of what (a part's name, "" for the bike), when, how much."""

    name: str
    of: str
    on: date
    value: float


@dataclass(frozen=True, slots=True)
class Trend:
    """One value over the years, oldest first; `share`: how far it has moved against its first
    reading."""

    title: str
    unit: str
    moments: tuple[tuple[date, float], ...]

    @property
    def share(self) -> float:
        """How far the last reading lies from the first, as a share of it; 0 where the first is
        0."""
        first, last = self.moments[0][1], self.moments[-1][1]
        if first:
            return (last - first) / first
        return 0.0

    @property
    def moved(self) -> bool:
        """Whether it has moved much."""
        return abs(self.share) >= MUCH

    @property
    def words(self) -> str:
        """First and last reading in words."""
        first, last = self.moments[0][1], self.moments[-1][1]
        percent = round(100 * self.share)
        moved = f"{percent:+d} %" if percent else "as before"
        return f"{first:.4g} to {last:.4g} {self.unit}, {moved}"


def trends(moments: Iterable[Moment]) -> tuple[Trend, ...]:
    """Return every value that was measured at least twice, what moved most first."""
    rows: dict[tuple[str, str], list[tuple[date, float]]] = {}
    for moment in moments:
        if moment.name in FOLLOWED:
            factor = 1000.0 if moment.name in IN_MILLI else 1.0
            rows.setdefault((moment.name, moment.of), []).append((moment.on, factor * moment.value))
    found = []
    for (name, of), values in rows.items():
        words, unit = FOLLOWED[name]
        title = f"{of}: {words[0].lower()}{words[1:]}" if of else words
        found.append(Trend(title, unit, tuple(sorted(values, key=lambda row: row[0]))))
    several = [trend for trend in found if len(trend.moments) > 1]
    return tuple(sorted(several, key=lambda trend: -abs(trend.share)))
