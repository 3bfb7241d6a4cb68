"""Pack: rest volts of each cell group, spread, charge; internal resistance (common practice)."""

from collections.abc import Mapping

from brightcore.bands import CELL, PACK
from brightcore.bands.points import cell
from brightcore.bike.model import Bike
from brightcore.kinds.pack import PackSpec
from brightcore.matching.packs import internal_ohm
from brightcore.physics.cells import charge_from_v
from brightcore.setting.contract import (
    Band,
    Field,
    Instrument,
    Mark,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
    volts_at,
)
from brightcore.setting.own_plug import every

SPREAD_TOLD_V, SPREAD_FAULT_V, SPREAD_DANGER_V = 0.05, 0.1, 0.5
"""Spread of the groups at rest that is told, that is a fault in the making (30 to 50 mV, 100 mV),
and from which a group is damaged or shorted inside and nothing is charged."""

LEAST_RISE_A, LEAST_SAG_V = 1.0, 0.02

CELL_MOHM = (1.5, 77.0, 150.0)
"""Resistance that each cell of a string adds: less cannot be, more is told, far more is no use.

60 to 200 mΩ of a 13S4P pack are usual (common practice): 18 to 62 mΩ a cell, its contacts among
them.
"""


class CellGroups(Instrument):
    """A row of group volts, and two loads."""

    key = "groups"
    title = "Cell groups"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every pack."""
        return every(bike, PackSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Groups at rest, then two loads."""
        return (
            Step(
                "groups",
                "Measure each group in turn at the balance plug; or paste the row",
                "Rested an hour, charger off",
                ("pack_safe", "balance"),
                (
                    volts_at(
                        "groups",
                        "Volts of the groups",
                        CELL,
                        many=True,
                        totals=True,
                        help="such as 3.81 3.81 3.80 …; or from one end, such as 3.81 7.62 11.42 …",
                    ),
                ),
            ),
            Step(
                "loads",
                "Volts at the plug at a light and at a heavy load",
                "Wheel up or on the road, pack warm",
                ("pack_safe", "wheel_up"),
                (
                    volts_at("light_v", "Volts, light", PACK, needed=False),
                    Field("light_a", "Amps, light", "A", 0.0, 300.0, needed=False),
                    volts_at("heavy_v", "Volts, heavy", PACK, needed=False),
                    Field("heavy_a", "Amps, heavy", "A", 0.0, 300.0, needed=False),
                ),
            ),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Judge count, spread and the lowest group; say charge and resistance."""
        spec = bike.part(subject).spec
        assert isinstance(spec, PackSpec)
        row = found.row("groups")
        findings: list[SetFinding] = []
        values: list[Measured] = []
        pictures: tuple[Band, ...] = ()
        if row:
            findings += _groups(row, spec)
            if "groups" in found.totals:
                words = ", ".join(f"{value:g}" for value in row)
                text = f"Read from one end of the plug: the groups are {words} V"
                findings.append(
                    SetFinding("S145", "advice", text, "Otherwise type each group by itself.")
                )
            mean, low, high = sum(row) / len(row), min(row), max(row)
            share = charge_from_v(mean, spec.chemistry)
            values += [
                Measured(
                    "spread_v",
                    round(high - low, 3),
                    "V",
                    f"group {row.index(low) + 1} lowest, {row.index(high) + 1} highest",
                ),
                Measured("lowest_v", low, "V", f"group {row.index(low) + 1}"),
                Measured("charge_percent", round(100 * share, 0), "%", "from rested volts"),
            ]
            rows = []
            for n, v in enumerate(row, 1):
                rows.append(Mark(v, str(n), v > mean - SPREAD_TOLD_V))
            marks = tuple(rows)
            pictures = (
                Band(
                    "Groups at rest",
                    "V",
                    min(low, mean - 0.2),
                    max(high, mean + 0.2),
                    (mean - SPREAD_TOLD_V, mean + SPREAD_TOLD_V),
                    marks,
                ),
            )
        findings += _loads(found, values, last, spec)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "Groups agree", tuple(values), pictures)


def _groups(row: tuple[float, ...], spec: PackSpec) -> list[SetFinding]:
    """Return what a row of groups means for the pack; single groups that are a danger are told
    before."""
    found = []
    if len(row) != spec.series_count:
        text = f"{len(row)} groups typed, the pack has {spec.series_count} in series"
        found.append(
            SetFinding("S070", "fault", text, "Read the row again, or correct the description.")
        )
    low, high = min(row), max(row)
    cells = spec.cells
    if cells.dead_v <= low < cells.empty_v:
        text = f"Group {row.index(low) + 1} rests at {low:g} V, under {cells.empty_v:g} V: empty"
        change = (
            "Charge it with its own charger, attended, and read the row again after an hour: a "
            "group that stays behind is worn. Left like this it dies."
        )
        found.append(SetFinding("S078", "fault", text, change))
    band = cell(cells)
    if all(band.hazard(value) is None for value in row):
        found += _spread(row, low, high)
    return found


def _spread(row: tuple[float, ...], low: float, high: float) -> list[SetFinding]:
    spread = high - low
    lowest = row.index(low) + 1
    if spread > SPREAD_DANGER_V:
        text = (
            f"Spread {spread:.2f} V: group {lowest} is damaged, shorted inside, or its wire is off"
        )
        change = (
            "Do not charge it, balance it or ride it. Pack out, outdoors; a wire of the balance "
            "plug that is off is the only harmless reason: look there first."
        )
        return [SetFinding("S079", "danger", text, change)]
    if spread > SPREAD_FAULT_V:
        text = f"Spread {1000 * spread:.0f} mV: group {lowest} trips the board early under load"
        change = "Balance on its own charger, attended; if it returns, the group is worn."
        return [SetFinding("S073", "fault", text, change)]
    if spread > SPREAD_TOLD_V:
        text = f"Spread {1000 * spread:.0f} mV, usual under 50 mV"
        return [SetFinding("S074", "advice", text, "Balance on its own charger, then read again.")]
    return []


def limits_mohm(spec: PackSpec) -> tuple[float, float, float]:
    """Return the resistances of a pack under which it cannot be, above which it is told, and is no
    use, mΩ.

    >>> [round(ohm) for ohm in limits_mohm(PackSpec())]
    [5, 250, 488]
    """
    strings = spec.series_count / spec.parallel_count
    least, told, most = (each * strings for each in CELL_MOHM)
    return least, told, most


def _loads(
    found: Readings, values: list[Measured], last: Mapping[str, float], spec: PackSpec
) -> list[SetFinding]:
    light_v, light_a, heavy_v, heavy_a = (
        found.number(n) for n in ("light_v", "light_a", "heavy_v", "heavy_a")
    )
    if light_v is None or light_a is None or heavy_v is None or heavy_a is None:
        return []
    if heavy_a - light_a < LEAST_RISE_A or light_v - heavy_v < LEAST_SAG_V:
        text = "The heavy load must draw clearly more, and sag clearly lower"
        return [
            SetFinding("S075", "fault", text, "Read both again: full throttle against coasting.")
        ]
    milliohm = 1000 * internal_ohm(light_v, light_a, heavy_v, heavy_a)
    least, told, most = limits_mohm(spec)
    usual = (
        f"usual up to {told:.0f} mΩ for {spec.series_count} in series, {spec.parallel_count} beside"
    )
    if milliohm < least:
        text = f"{milliohm:.1f} mΩ is less than {spec.series_count} cells in series can have"
        return [
            SetFinding("S143", "fault", text, "Read volts and amps again, both at the same moment.")
        ]
    words = f"{light_v - heavy_v:.2f} V over {heavy_a - light_a:.1f} A"
    if milliohm > most:
        text = f"{milliohm:.0f} mΩ, {usual}"
        change = (
            "Measure across plug, fuse and lead under load first; then the cells are at their end."
        )
        return [SetFinding("S144", "fault", text, change)]
    values.append(Measured("internal_ohm", round(milliohm / 1000, 4), "Ω", words))
    before = 1000 * last.get("internal_ohm", 0.0)
    if milliohm > told:
        change = "Worn, cold, or a hot contact: measure across the plug too."
        return [SetFinding("S076", "advice", f"{milliohm:.0f} mΩ, {usual}", change)]
    if before and milliohm > 1.3 * before:
        text = f"{milliohm:.0f} mΩ, {before:.0f} mΩ last time"
        return [SetFinding("S077", "advice", text, "It ages: tell the rider.")]
    return []
