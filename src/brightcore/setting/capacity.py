"""Pack: capacity from full to cut-off, typed or from a discharge log (common practice)."""

from collections.abc import Mapping, Sequence

from brightcore.bands import PACK
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
    volts_at,
)
from brightcore.setting.own_plug import every

WORN_SHARE, TOLD_SHARE = 0.75, 0.85
"""Share of the label under which a replacement is quoted (70 to 80 %), and under which it is
told."""

MOST_SHARE = 1.25
"""More than this share of the label is a misread log or another pack."""

ENDED = (("cut", "its board cut off"), ("stopped", "stopped at the stop volts"))
END_ROOM = 1.02
"""Share of the stop volts within which a discharge has come to its end: the volts rise as the load
goes."""

WITHOUT_BOARD = ("pouch",)
"""Chemistries of packs that come without a board: nothing in them cuts off (common practice)."""

RATE_HOURS = 5.0

LOST_SHARE = 0.1
"""A loss since the last time, as a share of the label, that is told."""


class Capacity(Instrument):
    """Amp-hours between full and cut-off."""

    key = "capacity"
    title = "Pack capacity"
    takes_log = "CSV with the columns time_s, voltage_v, current_a"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every pack."""
        return every(bike, PackSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """One discharge, from full down to its stop volts."""
        spec = bike.part(subject).spec
        assert isinstance(spec, PackSpec)
        boardless = spec.chemistry in WITHOUT_BOARD
        if boardless:
            end = "nothing else stops it"
        else:
            end = "or until its board cuts off, if that is earlier"
        return (
            Step(
                "discharge",
                f"Discharge it from full at {spec.capacity_ah / RATE_HOURS:.1f} A (C/5); stop at "
                f"{spec.empty_v():.1f} V under load, {spec.cells.empty_v:g} V a cell: {end}. "
                "Read amp-hours",
                "Attended, 10 to 30 °C, load beside nothing that burns",
                ("pack_safe",),
                (
                    Field("taken_ah", "Taken out", "A*h", 0.1, 500.0),
                    volts_at("lowest_v", "Volts at the end", PACK),
                    Field("ended", "It ended", choices=ENDED, needed=False),
                    Field("hours", "Time", "h", 0.05, 100.0, needed=False),
                    Field("taken_wh", "Energy", "W*h", 1.0, 50_000.0, needed=False),
                ),
            ),
        )

    def from_log(
        self, bike: Bike, subject: str, columns: Mapping[str, Sequence[float]]
    ) -> dict[str, str]:
        """Return the readings of a discharge log by its columns; raises RangeError where it is
        none."""
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

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Say what it still holds, against its label and the last time."""
        spec = bike.part(subject).spec
        assert isinstance(spec, PackSpec)
        taken, lowest = found.number("taken_ah"), found.number("lowest_v")
        if taken is None or lowest is None:
            return verdict_of([], False, "")
        if lowest < spec.series_count * spec.cells.dead_v:
            text = (
                f"{lowest:g} V at the end: under {spec.cells.dead_v:g} V a cell, "
                "discharged too deep"
            )
            change = (
                "Do not charge it. Pack out, outdoors, quarantine; read its cell groups "
                "after an hour."
            )
            return verdict_of([SetFinding("S125", "danger", text, change)], True, "")
        if lowest > END_ROOM * spec.empty_v() and found.chosen("ended") != "cut":
            text = f"It ended at {lowest:g} V, above its stop volts of {spec.empty_v():.1f} V"
            change = (
                "Not a whole discharge: it says nothing of the capacity. Go on to the stop volts."
            )
            return verdict_of([SetFinding("S126", "fault", text, change)], True, "")
        share = taken / spec.capacity_ah
        findings = _judged(share, taken, lowest, spec, last)
        held = Measured("capacity_ah", round(taken, 2), "Ah", f"{100 * share:.0f} % of the label")
        values = () if share > MOST_SHARE else (held,)
        marks = (Mark(taken, "holds", share >= WORN_SHARE), Mark(spec.capacity_ah, "label"))
        label = spec.capacity_ah
        band = Band(
            "Capacity", "Ah", 0.0, 1.2 * max(label, taken), (WORN_SHARE * label, label), marks
        )
        complete = next_step(self.steps(bike, subject), found) is None
        title = f"Holds {taken:g} Ah, {100 * share:.0f} % of the label"
        return verdict_of(findings, complete, title, values, (band,))


def _judged(
    share: float, taken: float, lowest: float, spec: PackSpec, last: Mapping[str, float]
) -> list[SetFinding]:
    if share > MOST_SHARE:
        text = f"{taken:g} Ah out of a pack of {spec.capacity_ah:g} Ah"
        return [
            SetFinding(
                "S120", "fault", text, "Another pack, another label, or a misread log: look again."
            )
        ]
    findings = []
    if lowest > END_ROOM * spec.empty_v():
        text = f"Its board cut off at {lowest:g} V, above {spec.empty_v():.1f} V"
        change = "One weak group ends it early: read the cell groups."
        findings.append(SetFinding("S121", "advice", text, change))
    if share < WORN_SHARE:
        text = f"It holds {100 * share:.0f} % of its label"
        findings.append(
            SetFinding(
                "S122", "advice", text, "Worn: quote a replacement, tell the rider the range."
            )
        )
    elif share < TOLD_SHARE:
        findings.append(
            SetFinding(
                "S123",
                "advice",
                f"It holds {100 * share:.0f} % of its label",
                "It ages: tell the rider.",
            )
        )
    before = last.get("capacity_ah")
    if before and before - taken > LOST_SHARE * spec.capacity_ah:
        text = f"{taken:g} Ah, {before:g} Ah last time"
        findings.append(
            SetFinding(
                "S124", "advice", text, "Heat, frost or one weak group: read the cell groups."
            )
        )
    return findings
