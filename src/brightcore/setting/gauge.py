"""Bare strain gauge: its bridge, the millivolts to expect, and the gain of its amplifier.

Quarter bridge: Vo / Vex ≈ gauge factor × strain / 4 (strain-gauge handbooks).
"""

from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.kinds.motor import MotorSpec
from brightcore.kinds.select import mid_motors
from brightcore.kinds.sensors import TorqueSpec
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
from brightcore.setting.torque import torque_nm
from brightcore.touching import NOTHING

USUAL_OHM, OFF_SHARE = 350.0, 0.03
MOST_MA, MOST_GAIN = 15.0, 2000.0
"""Current through a gauge above which it warms itself; gain above which noise is what one sees
(common practice)."""

LEAST_MV = 0.01
OPEN_OHM, SHORT_OHM = 5000.0, 50.0
"""Above the one a bare gauge is open, below the other shorted: they are made from 120 to 1000 Ω."""


def bridge_mv(excitation_v: float, factor: float, microstrain: float) -> float:
    """Return millivolts of a quarter bridge.

    >>> bridge_mv(5.0, 2.0, 1000.0)
    2.5
    """
    return 1000 * excitation_v * factor * microstrain * 1e-6 / 4


class StrainGauge(Instrument):
    """A gauge without an amplifier."""

    key = "gauge"
    title = "Bare strain gauge"
    helper = True

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every torque sensor, and every mid drive that may hide one."""
        parts = (*bike.having(TorqueSpec), *mid_motors(bike))
        found = []
        for p in parts:
            if isinstance(p.spec, TorqueSpec | MotorSpec):
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """The gauge, a known torque, what is wanted."""
        out = "Pack out; gauge on its own"
        fed = (
            "Bridge of three resistors like the gauge, fed from a bench supply; never from the pack"
        )
        return (
            Step(
                "gauge",
                "Ohms of the gauge, cold and unloaded",
                out,
                ("pack_out",),
                (
                    Field("gauge_ohm", "Gauge", "ohm", 0.0, 1e7, over=True),
                    Field("excitation_v", "Feed of the bridge", "V", 0.5, 12.0),
                    Field("factor", "Gauge factor", "", 0.5, 200.0, needed=False, help="usual 2"),
                ),
            ),
            Step(
                "load",
                "Hang a known mass on the level crank; change of the bridge's millivolts",
                fed,
                (),
                (
                    Field("mass_kg", "Mass", "kg", 1.0, 150.0),
                    Field("crank_mm", "Crank length", "mm", 50.0, 220.0),
                    Field("change_mv", "Change", "mV", -100.0, 100.0),
                ),
            ),
            Step(
                "wanted",
                "What the controller wants at full push",
                "From its sheet; 1 V above the rest is usual",
                (),
                (
                    Field("full_nm", "Full push", "N*m", 5.0, 300.0),
                    Field("span_v", "Volts for it", "V", 0.1, 4.0),
                ),
                touches=NOTHING,
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
        """Say millivolts a newton metre, strain, and the gain."""
        ohm, feed = found.number("gauge_ohm"), found.number("excitation_v")
        findings: list[SetFinding] = []
        values: list[Measured] = []
        if ohm is not None and feed is not None:
            findings += _gauge(ohm, feed)
        mass, crank, change = (found.number(n) for n in ("mass_kg", "crank_mm", "change_mv"))
        full, span = found.number("full_nm"), found.number("span_v")
        if None not in (feed, mass, crank, change):
            assert (
                feed is not None and mass is not None and crank is not None and change is not None
            )
            if abs(change) < LEAST_MV:
                text = f"{change:g} mV at {torque_nm(mass, crank):.0f} N·m: nothing moves"
                findings.append(
                    SetFinding(
                        "S026", "fault", text, "Loose gauge, wrong arm of the bridge, or more mass."
                    )
                )
            else:
                slope = abs(change) / torque_nm(mass, crank)
                strain = 4000 * abs(change) / (feed * (found.number("factor") or 2.0))
                values += [
                    Measured(
                        "mv_per_nm",
                        round(slope, 5),
                        "mV/N·m",
                        f"{change:g} mV at {torque_nm(mass, crank):.1f} N·m",
                    ),
                    Measured("microstrain", round(strain, 0), "µε", "at that torque"),
                ]
                if full is not None and span is not None:
                    gain = 1000 * span / (slope * full)
                    values.append(
                        Measured("gain", round(gain, 0), "", f"{span:g} V at {full:g} N·m")
                    )
                    if gain > MOST_GAIN:
                        text = f"A gain of {gain:.0f} shows noise more than torque"
                        change_to = (
                            "Half or full bridge, more feed, or the gauge where the "
                            "metal bends more."
                        )
                        findings.append(SetFinding("S027", "advice", text, change_to))
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, "The amplifier's gain is known", tuple(values))


def _gauge(ohm: float, feed: float) -> list[SetFinding]:
    if ohm > OPEN_OHM:
        return [
            SetFinding(
                "S024", "fault", "The gauge is open", "A torn wire, or a joint at the gauge."
            )
        ]
    if ohm < SHORT_OHM:
        change = "Wires that touch, or a gauge crushed under its cover."
        return [SetFinding("S025", "fault", f"The gauge is shorted: {ohm:g} Ω", change)]
    findings = []
    if abs(ohm / USUAL_OHM - 1) > OFF_SHARE:
        text = f"{ohm:g} Ω, usual {USUAL_OHM:g} Ω"
        findings.append(
            SetFinding(
                "S028", "advice", text, "Three resistors like the gauge complete its bridge."
            )
        )
    milliamp = 1000 * feed / (2 * ohm)
    if milliamp > MOST_MA:
        text = f"{milliamp:.0f} mA through the gauge: it warms itself and drifts"
        findings.append(SetFinding("S029", "fault", text, "Feed it with fewer volts."))
    return findings
