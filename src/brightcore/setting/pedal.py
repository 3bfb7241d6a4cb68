"""Pedal sensor: pulses in a turn, gap, direction (common practice)."""

from collections.abc import Mapping

from brightcore.bands import SIGNAL
from brightcore.bike.model import Bike
from brightcore.kinds.pedal_sensor import PedalSpec
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    ReadAt,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
    volts_at,
)
from brightcore.setting.own_plug import at_own_plug, every
from brightcore.touching import NOTHING

GAP_MM = (1.0, 4.0)
LOW_LEVEL_V, HIGH_LEVEL_V = 0.6, 3.0
WAYS = (
    ("yes", "forwards, and not backwards"),
    ("no", "backwards"),
    ("none", "neither way"),
)
"""What the cranks do: nothing at all is told apart from the wrong way round."""


class PedalRing(Instrument):
    """Magnets that pass, and what the sensor makes of them."""

    key = "pedal"
    title = "Pedal sensor"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every cadence sensor."""
        return every(bike, PedalSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Gap, volts, pulses, direction."""
        on = "Pack in, display on, assist at zero, wheel off the ground"
        gates = ("pack_safe", "wheel_up")
        return (
            Step(
                "gap",
                "Measure the gap between magnet ring and sensor",
                "Pack out",
                (),
                (Field("gap_mm", "Gap", "mm", 0.0, 15.0),),
                touches=NOTHING,
            ),
            Step(
                "volts",
                "Red on the signal; turn the cranks slowly by hand",
                on,
                gates,
                (volts_at("low_v", "Lowest", SIGNAL), volts_at("high_v", "Highest", SIGNAL)),
            ),
            Step(
                "count",
                "Count the pulses in one turn of the cranks",
                on,
                gates,
                (Field("pulses", "Pulses in a turn", "", 0.0, 200.0),),
            ),
            Step(
                "way",
                "Level one: does it help forwards, and not backwards?",
                on,
                gates,
                (Field("way", "It helps", choices=WAYS),),
            ),
        )

    def readings(self, bike: Bike, subject: str) -> tuple[ReadAt, ...]:
        """Volts at its own plug, at both ends of a pulse."""
        return at_own_plug(
            bike,
            subject,
            ("low_v", "pedal_signal", f"on; {subject}.turn=low"),
            ("high_v", "pedal_signal", f"on; {subject}.turn=high"),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Judge gap, levels, count and direction."""
        findings = []
        gap, low, high, pulses = (found.number(n) for n in ("gap_mm", "low_v", "high_v", "pulses"))
        if gap is not None and not GAP_MM[0] <= gap <= GAP_MM[1]:
            text = f"Gap {gap:g} mm, usual {GAP_MM[0]:g} to {GAP_MM[1]:g} mm"
            findings.append(
                SetFinding("S050", "fault", text, "Shim or move the sensor; the ring must not rub.")
            )
        if low is not None and high is not None and (low > LOW_LEVEL_V or high < HIGH_LEVEL_V):
            text = f"The signal goes from {low:g} to {high:g} V only"
            findings.append(
                SetFinding(
                    "S051", "fault", text, "Gap, supply or signal wire: it should reach both ends."
                )
            )
        entered = bike.part(subject).spec
        if isinstance(entered, PedalSpec):
            wanted = entered.magnet_count
        else:
            wanted = 0
        if pulses is not None and wanted and round(pulses) == 2 * wanted:
            text = f"{pulses:.0f} pulses in a turn, twice the {wanted} magnets described"
            change = "Both edges of each magnet were counted: count one, or describe the ring anew."
            findings.append(SetFinding("S054", "advice", text, change))
        elif pulses is not None and round(pulses) != wanted:
            text = f"{pulses:.0f} pulses in a turn, {wanted} magnets described"
            findings.append(
                SetFinding(
                    "S052",
                    "fault",
                    text,
                    "Missing magnet, gap too wide, or describe the ring anew.",
                )
            )
        if found.chosen("way") == "no":
            text = "It helps the wrong way round"
            findings.append(
                SetFinding(
                    "S053", "danger", text, "Switch off: turn the ring round, or set the direction."
                )
            )
        if found.chosen("way") == "none":
            text = "It helps neither way round"
            change = (
                "Its volts first, both ends of a pulse; then level, plug, and the ring's direction."
            )
            findings.append(SetFinding("S055", "fault", text, change))
        values: tuple[Measured, ...] = ()
        if pulses is not None:
            values = (Measured("pulses", round(pulses), "", "counted"),)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "Every magnet is seen, the right way round", values)
