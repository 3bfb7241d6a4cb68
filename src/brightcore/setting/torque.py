"""Torque sensor: zero with feet off, then a known mass on a crank of known length.

N·m = mass × 9.80665 × crank (standard gravity, ISO 80000-3). Slopes are common practice, 100 N·m
per volt.
"""

from collections.abc import Mapping

from brightcore.bands import OUTPUT, SIGNAL, bands_of
from brightcore.bike.model import Bike
from brightcore.kinds.sensors import TorqueSpec
from brightcore.physics.air import GRAVITY
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

ZERO_V = (0.7, 1.5)
NEAR_SUPPLY = 0.9
"""A signal above this share of the supply is no torque (common practice)."""

LEAST_RISE_V = 0.03
SIDES_APART, DRIFTED = 0.1, 0.1
"""Left and right, now and last time, as a share, from which it is told (common practice)."""


def torque_nm(mass_kg: float, crank_mm: float) -> float:
    """Return the torque of a mass hung on a level crank, N·m.

    >>> round(torque_nm(10.0, 170.0), 2)
    16.67
    """
    return mass_kg * GRAVITY * crank_mm / 1000


class TorqueSlope(Instrument):
    """Volts of a torque sensor unloaded and under a known torque."""

    key = "torque"
    title = "Torque sensor"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every torque sensor."""
        return every(bike, TorqueSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Supply, zero, then both sides."""
        on = "Pack in, display on, assist at zero, brake held, wheel off the ground"
        gates = ("pack_safe", "wheel_up")
        return (
            Step(
                "supply",
                "Red on the supply, black on ground of the torque plug",
                on,
                gates,
                (volts_at("supply_v", "Supply", OUTPUT),),
            ),
            Step(
                "zero",
                "Feet off, switch on, then read the signal",
                on,
                gates,
                (volts_at("zero_v", "Signal, feet off", SIGNAL),),
            ),
            Step(
                "left",
                "Left crank forward and level; hang a known mass on the pedal",
                on,
                gates,
                (
                    Field("mass_kg", "Mass", "kg", 1.0, 150.0),
                    Field("crank_mm", "Crank length", "mm", 50.0, 220.0),
                    volts_at("left_v", "Signal, left loaded", SIGNAL),
                ),
            ),
            Step(
                "right",
                "The same on the right crank",
                on,
                gates,
                (volts_at("right_v", "Signal, right loaded", SIGNAL, needed=False),),
            ),
        )

    def readings(self, bike: Bike, subject: str) -> tuple[ReadAt, ...]:
        """Volts at the sensor's own plug, feet off."""
        return at_own_plug(
            bike,
            subject,
            ("supply_v", "sensor_supply", "on"),
            ("zero_v", "torque_signal", "on"),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Say zero and slope, and where the two sides or the last time differ."""
        findings = []
        supply, zero = found.number("supply_v"), found.number("zero_v")
        bands = bands_of(bike, OUTPUT, subject)
        if supply is not None and bands is not None and supply < bands.usual[0][0]:
            text = f"Supply {supply:g} V, usual {bands.usual_words}: what it gives means nothing"
            change = (
                "Unplug other sensors one at a time, pack out each time, until the supply returns."
            )
            findings.append(SetFinding("S046", "fault", text, change))
        findings += _near_supply(found, supply)
        if zero is not None and not ZERO_V[0] <= zero <= ZERO_V[1]:
            text = f"{zero:g} V with feet off, usual {ZERO_V[0]:g} to {ZERO_V[1]:g} V"
            findings.append(
                SetFinding(
                    "S031", "fault", text, "Take the zero again: feet off while it is switched on."
                )
            )
        mass, crank = found.number("mass_kg"), found.number("crank_mm")
        left, right = found.number("left_v"), found.number("right_v")
        values: tuple[Measured, ...] = ()
        if zero is not None and mass is not None and crank is not None and left is not None:
            if left - zero < LEAST_RISE_V:
                text = f"The signal does not rise under load: {zero:g} to {left:g} V"
                findings.append(
                    SetFinding("S032", "fault", text, "Wrong wire, wrong side, or a dead gauge.")
                )
            else:
                slope = torque_nm(mass, crank) / (left - zero)
                values = (
                    Measured("zero_v", zero, "V", "feet off"),
                    *(
                        (
                            Measured(
                                "rest_ratio", round(zero / supply, 3), "", "feet off, over supply"
                            ),
                        )
                        if supply
                        else ()
                    ),
                    Measured(
                        "torque_nm_per_v",
                        round(slope, 2),
                        "N·m/V",
                        f"{torque_nm(mass, crank):.1f} N·m over {left - zero:.2f} V",
                    ),
                )
                findings += _compare(slope, torque_nm(mass, crank), zero, right, last)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "Zero and slope are known", values)


def _near_supply(found: Readings, supply: float | None) -> list[SetFinding]:
    """Return a finding where the signal stands at its supply: its ground is open, or it is beyond
    its end."""
    if supply is None:
        return []
    for name, words in (
        ("zero_v", "with feet off"),
        ("left_v", "left loaded"),
        ("right_v", "right loaded"),
    ):
        volt = found.number(name)
        if volt is not None and volt > NEAR_SUPPLY * supply:
            text = f"{volt:g} V {words}, near its supply of {supply:g} V"
            change = (
                "Its ground is open, signal and supply touch, or the load is beyond "
                "what it measures."
            )
            return [SetFinding("S047", "fault", text, change)]
    return []


def _compare(
    slope: float, torque: float, zero: float, right: float | None, last: Mapping[str, float]
) -> list[SetFinding]:
    findings = []
    if right is not None and right - zero < LEAST_RISE_V:
        text = "The right crank moves nothing: this sensor feels one side only"
        findings.append(SetFinding("S034", "advice", text, "Usual on some; tell the rider."))
    elif right is not None:
        other = torque / (right - zero)
        if abs(other / slope - 1) > SIDES_APART:
            text = f"Left {slope:.0f}, right {other:.0f} N·m per volt"
            findings.append(
                SetFinding(
                    "S033",
                    "advice",
                    text,
                    "Crank, bearing or sleeve off: check the torque of its bolts.",
                )
            )
    before = last.get("torque_nm_per_v")
    if before and abs(slope / before - 1) > DRIFTED:
        text = f"Slope {slope:.0f} N·m per volt, {before:.0f} last time"
        findings.append(
            SetFinding("S035", "advice", text, "Same mass and crank? Then the gauge drifts.")
        )
    return findings
