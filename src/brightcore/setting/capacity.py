"""Pack: capacity from full to cut-off, typed or from a discharge log (common practice)."""

from collections.abc import Mapping, Sequence

from brightcore.bike.model import Bike
from brightcore.kinds.pack import PackSpec
from brightcore.matching.packs import discharge_capacity
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

WORN_SHARE, TOLD_SHARE = 0.75, 0.85
"""Share of the label under which a replacement is quoted (70 to 80 %), and under which it is told."""

MOST_SHARE = 1.25
"""More than this share of the label is a misread log or another pack."""

LOST_SHARE = 0.1
"""A loss since the last time, as a share of the label, that is told."""


class Capacity(Instrument):
    """Amp-hours between full and cut-off."""

    key = "capacity"
    title = "Pack capacity"
    takes_log = "CSV with the columns time_s, voltage_v, current_a"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every pack."""
        return tuple(Subject(p.id, p.name) for p in bike.having(PackSpec))

    def steps(self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None) -> tuple[Step, ...]:
        """One discharge, from full until it cuts off."""
        return (
            Step(
                "discharge",
                "Discharge it from full until it cuts off, a fifth of its capacity an hour; read amp-hours",
                "Attended, 10 to 30 °C, load beside nothing that burns",
                ("pack_safe",),
                (
                    Field("taken_ah", "Taken out", "A*h", 0.1, 500.0),
                    Field("lowest_v", "Volts at the end", "V", 5.0, 120.0),
                    Field("hours", "Time", "h", 0.05, 100.0, needed=False),
                    Field("taken_wh", "Energy", "W*h", 1.0, 50_000.0, needed=False),
                ),
            ),
        )

    def from_log(self, bike: Bike, subject: str, columns: Mapping[str, Sequence[float]]) -> dict[str, str]:
        """Return the readings of a discharge log by its columns; raises RangeError where it is none."""
        spec = bike.part(subject).spec
        assert isinstance(spec, PackSpec)
        found = discharge_capacity(
            columns["time_s"], columns["voltage_v"], columns["current_a"], spec.capacity_ah
        )
        return {
            "taken_ah": f"{found.capacity_ah:.2f}",
            "lowest_v": f"{found.lowest_v:.1f}",
            "hours": f"{found.hours:.2f}",
            "taken_wh": f"{found.energy_wh:.0f}",
        }

    def judge(
        self, bike: Bike, subject: str, found: Readings, options: Mapping[str, str], last: Mapping[str, float]
    ) -> Verdict:
        """Say what it still holds, against its label and the last time."""
        spec = bike.part(subject).spec
        assert isinstance(spec, PackSpec)
        taken, lowest = found.number("taken_ah"), found.number("lowest_v")
        if taken is None or lowest is None:
            return verdict_of([], False, "")
        share = taken / spec.capacity_ah
        findings = _judged(share, taken, lowest, spec, last)
        values = (Measured("capacity_ah", round(taken, 2), "Ah", f"{100 * share:.0f} % of the label"),)
        marks = (Mark(taken, "holds", share >= WORN_SHARE), Mark(spec.capacity_ah, "label"))
        label = spec.capacity_ah
        band = Band("Capacity", "Ah", 0.0, 1.2 * max(label, taken), (WORN_SHARE * label, label), marks)
        complete = next_step(self.steps(bike, subject), found) is None
        title = f"Holds {taken:g} Ah, {100 * share:.0f} % of the label"
        return verdict_of(findings, complete, title, values, (band,))


def _judged(
    share: float, taken: float, lowest: float, spec: PackSpec, last: Mapping[str, float]
) -> list[SetFinding]:
    if share > MOST_SHARE:
        text = f"{taken:g} Ah out of a pack of {spec.capacity_ah:g} Ah"
        return [
            SetFinding("S120", "fault", text, "Another pack, another label, or a misread log: look again.")
        ]
    findings = []
    if lowest > spec.empty_v():
        text = f"It ended at {lowest:g} V, above its empty volts of {spec.empty_v():.1f} V"
        change = "Not a whole discharge, or one weak group cut it off: read the cell groups."
        findings.append(SetFinding("S121", "advice", text, change))
    if share < WORN_SHARE:
        text = f"It holds {100 * share:.0f} % of its label"
        findings.append(
            SetFinding("S122", "advice", text, "Worn: quote a replacement, tell the rider the range.")
        )
    elif share < TOLD_SHARE:
        findings.append(
            SetFinding(
                "S123", "advice", f"It holds {100 * share:.0f} % of its label", "It ages: tell the rider."
            )
        )
    before = last.get("capacity_ah")
    if before and before - taken > LOST_SHARE * spec.capacity_ah:
        text = f"{taken:g} Ah, {before:g} Ah last time"
        findings.append(
            SetFinding("S124", "advice", text, "Heat, frost or one weak group: read the cell groups.")
        )
    return findings
