"""Speed: circumference by roll-out, magnets in a turn, shown against satellite speed.

Shown over true is programmed over real circumference times real over programmed magnets (identity).
"""

from collections.abc import Mapping

from brightcore.bike.measured import drawn_mm
from brightcore.bike.model import Bike
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
)
from brightcore.touching import NOTHING

ROLLED_SHORTER = (0.96, 1.005)
"""A roll-out under the rider against the unloaded geometry (1 to 3 % shorter, common practice; some
room)."""

WELL_SHOWN = 0.03
"""Shown and satellite speed agree within this share."""

SAME = 0.02
"""Two ratios that agree within this share have one cause."""


class WheelSpeed(Instrument):
    """Roll-out, magnets and a check against satellite speed."""

    key = "speed"
    title = "Wheel and speed"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """The bike itself: it has one wheel that is counted."""
        return (Subject("", "Wheel and speed"),)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Roll-out, what is entered, then the road."""
        return (
            Step(
                "roll",
                "Mark the tyre, sit on, roll some turns in a line and measure",
                "Rider on, tyre at its pressure",
                (),
                (
                    Field("turns", "Turns", "", 1.0, 20.0),
                    Field("rolled_m", "Rolled", "m", 0.5, 60.0),
                ),
                touches=NOTHING,
            ),
            Step(
                "entered",
                "Read what the display has entered",
                "Display on",
                ("pack_safe",),
                (
                    Field("entered_mm", "Circumference entered", "mm", 300.0, 3000.0, needed=False),
                    Field("magnets", "Magnets entered", "", 1.0, 64.0, needed=False),
                ),
            ),
            Step(
                "road",
                "Ride steadily on the flat; read display and GPS together",
                "On private ground, helmet on",
                ("road",),
                (
                    Field("shown_kmh", "Display shows", "km/h", 1.0, 120.0, needed=False),
                    Field("true_kmh", "Satellite says", "km/h", 1.0, 120.0, needed=False),
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
        """Say the circumference, and whether it or the magnets are entered wrong."""
        findings: list[SetFinding] = []
        values: list[Measured] = []
        turns, rolled = found.number("turns"), found.number("rolled_m")
        real_mm = 1000 * rolled / turns if turns and rolled else None
        if real_mm is not None:
            values.append(
                Measured(
                    "circumference_mm", round(real_mm, 0), "mm", f"{rolled:g} m in {turns:g} turns"
                )
            )
            drawn = drawn_mm(bike)
            if not ROLLED_SHORTER[0] <= real_mm / drawn <= ROLLED_SHORTER[1]:
                text = f"Rolled {real_mm:.0f} mm, the tyre as described makes {drawn:.0f} mm"
                change = (
                    "The rolled figure counts. Count the turns again if in doubt, or "
                    "correct the tyre."
                )
                findings.append(SetFinding("S040", "advice", text, change))
        findings += _shown(found, real_mm, values)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "Wheel known, speed as shown", tuple(values))


def _shown(found: Readings, real_mm: float | None, values: list[Measured]) -> list[SetFinding]:
    shown, true = found.number("shown_kmh"), found.number("true_kmh")
    entered, magnets = found.number("entered_mm"), found.number("magnets")
    if shown is None or true is None:
        return []
    ratio = shown / true
    if entered is not None:
        corrected = entered / ratio
        values.append(
            Measured(
                "corrected_mm",
                round(corrected, 0),
                "mm",
                f"{entered:g} mm × {true:g} over {shown:g}",
            )
        )
    if abs(ratio - 1) <= WELL_SHOWN:
        return []
    words = f"Shows {shown:g} km/h at {true:g} km/h"
    if entered is not None and real_mm is not None:
        by_wheel = entered / real_mm
    else:
        by_wheel = None
    if by_wheel is not None and abs(ratio / by_wheel - 1) <= SAME:
        return [
            SetFinding(
                "S041",
                "fault",
                words,
                f"The circumference is entered wrong: enter {real_mm:.0f} mm.",
            )
        ]
    left = ratio / by_wheel if by_wheel else ratio
    if magnets is not None and _whole(left * magnets):
        change = (
            f"The magnets are entered wrong: {left * magnets:.0f} pass in a turn, "
            f"{magnets:g} are entered."
        )
        return [SetFinding("S042", "fault", words, change)]
    return [
        SetFinding(
            "S043", "fault", words, "Neither wheel nor magnets alone explain it: count both again."
        )
    ]


def _whole(value: float) -> bool:
    return value >= 0.9 and abs(value - round(value)) <= SAME * value
