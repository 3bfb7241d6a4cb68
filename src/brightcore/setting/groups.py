"""Pack: rest volts of each cell group, spread, charge; internal resistance (common practice)."""

from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.kinds.pack import PackSpec
from brightcore.matching.packs import internal_ohm
from brightcore.physics.cells import charge_from_v, chemistry
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
)

SPREAD_TOLD_V, SPREAD_FAULT_V = 0.05, 0.1
"""Spread of the groups at rest that is told, and that is a fault in the making (30 to 50 mV, 100 mV)."""

DEAD_CELL_V = {"nickel": 2.5, "lfp": 2.0, "pouch": 3.0}
MOST_MOHM, LEAST_RISE_A = 250.0, 1.0
LEAST_SAG_V = 0.02


class CellGroups(Instrument):
    """A row of group volts, and two loads."""

    key = "groups"
    title = "Cell groups"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every pack."""
        return tuple(Subject(p.id, p.name) for p in bike.having(PackSpec))

    def steps(self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None) -> tuple[Step, ...]:
        """Groups at rest, then two loads."""
        gates = ("pack_safe",)
        return (
            Step(
                "groups",
                "At the balance plug, one probe a group further each time; or paste the row",
                "Rested an hour, charger off",
                gates,
                (
                    Field(
                        "groups",
                        "Volts of the groups",
                        "V",
                        0.0,
                        4.6,
                        many=True,
                        help="such as 3.81 3.81 3.80 …",
                    ),
                ),
            ),
            Step(
                "loads",
                "Volts at the plug at a light and at a heavy load",
                "Wheel up or on the road, pack warm",
                ("pack_safe", "wheel_up"),
                (
                    Field("light_v", "Volts, light", "V", 5.0, 120.0, needed=False),
                    Field("light_a", "Amps, light", "A", 0.0, 300.0, needed=False),
                    Field("heavy_v", "Volts, heavy", "V", 5.0, 120.0, needed=False),
                    Field("heavy_a", "Amps, heavy", "A", 0.0, 300.0, needed=False),
                ),
            ),
        )

    def judge(
        self, bike: Bike, subject: str, found: Readings, options: Mapping[str, str], last: Mapping[str, float]
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
            marks = tuple(Mark(v, str(n), v > mean - SPREAD_TOLD_V) for n, v in enumerate(row, 1))
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
        findings += _loads(found, values, last)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "Groups agree", tuple(values), pictures)


def _groups(row: tuple[float, ...], spec: PackSpec) -> list[SetFinding]:
    if len(row) != spec.series_count:
        text = f"{len(row)} groups typed, the pack has {spec.series_count} in series"
        return [SetFinding("S070", "fault", text, "Read the row again, or correct the description.")]
    low, high = min(row), max(row)
    dead = DEAD_CELL_V.get(spec.chemistry, 2.5)
    if low < dead:
        text = f"Group {row.index(low) + 1} rests at {low:g} V, under {dead:g} V"
        return [
            SetFinding("S071", "danger", text, "Do not charge it. Stop, outdoors, quarantine: answer Arrive.")
        ]
    if high > chemistry(spec.chemistry).full_v + 0.05:
        text = f"Group {row.index(high) + 1} stands at {high:g} V: overcharged"
        return [
            SetFinding(
                "S072", "danger", text, "Do not charge it. Take it outdoors and let it rest; quarantine."
            )
        ]
    if high - low > SPREAD_FAULT_V:
        text = (
            f"Spread {1000 * (high - low):.0f} mV: group {row.index(low) + 1} trips the board early "
            "under load"
        )
        return [
            SetFinding(
                "S073",
                "fault",
                text,
                "Balance on its own charger, attended; if it returns, the group is worn.",
            )
        ]
    if high - low > SPREAD_TOLD_V:
        text = f"Spread {1000 * (high - low):.0f} mV, usual under 50 mV"
        return [SetFinding("S074", "advice", text, "Balance on its own charger, then read again.")]
    return []


def _loads(found: Readings, values: list[Measured], last: Mapping[str, float]) -> list[SetFinding]:
    light_v, light_a, heavy_v, heavy_a = (
        found.number(n) for n in ("light_v", "light_a", "heavy_v", "heavy_a")
    )
    if light_v is None or light_a is None or heavy_v is None or heavy_a is None:
        return []
    if heavy_a - light_a < LEAST_RISE_A or light_v - heavy_v < LEAST_SAG_V:
        text = "The heavy load must draw clearly more, and sag clearly lower"
        return [SetFinding("S075", "fault", text, "Read both again: full throttle against coasting.")]
    milliohm = 1000 * internal_ohm(light_v, light_a, heavy_v, heavy_a)
    values.append(
        Measured(
            "internal_ohm",
            round(milliohm / 1000, 4),
            "Ω",
            f"{light_v - heavy_v:.2f} V over {heavy_a - light_a:.1f} A",
        )
    )
    before = 1000 * last.get("internal_ohm", 0.0)
    if milliohm > MOST_MOHM:
        text = f"{milliohm:.0f} mΩ, usual 60 to 200 mΩ"
        return [
            SetFinding("S076", "advice", text, "Worn, cold, or a hot contact: measure across the plug too.")
        ]
    if before and milliohm > 1.3 * before:
        return [
            SetFinding(
                "S077", "advice", f"{milliohm:.0f} mΩ, {before:.0f} mΩ last time", "It ages: tell the rider."
            )
        ]
    return []
