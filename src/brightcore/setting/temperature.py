"""Motor thermistor: β from two points, its table, roll-back and stop.

R = R25 · exp(β (1/T − 1/298.15 K)), the two-constant form of Steinhart and Hart, Deep-Sea Research
15 (1968)
497.
"""

import math
from collections.abc import Mapping
from dataclasses import replace

from brightcore.bike.model import Bike
from brightcore.kinds.motor import MotorSpec
from brightcore.physics.heat_limits import ROLL_BACK_C, STOP_C
from brightcore.setting.contract import (
    Curve,
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

KELVIN, REFERENCE_K = 273.15, 298.15
USUAL_OHM, USUAL_BETA = 10_000.0, (3300.0, 4100.0)
TABLE_C = (0, 10, 20, 25, 30, 40, 50, 60, 70, 80, 90, 100, 110, 120, 130)
LEAST_APART_C = 10.0
STILL_SHARE = 0.05
"""A sensor that changes by less than this share over `LEAST_APART_C` does not move (common
practice)."""

OPEN_OHM, SHORT_OHM = 1e6, 10.0
"""Above the one a thermistor of a motor is open, below the other shorted (common practice)."""

OFF_SHARE = 0.15


def resistance_ohm(celsius: float, r25_ohm: float, beta_k: float) -> float:
    """Return the resistance of an NTC at a temperature.

    >>> [round(resistance_ohm(100.0, 10_000.0, beta_k)) for beta_k in (3435.0, 3950.0)]
    [987, 698]
    """
    return r25_ohm * math.exp(beta_k * (1 / (celsius + KELVIN) - 1 / REFERENCE_K))


def temperature_c(ohm: float, r25_ohm: float, beta_k: float) -> float:
    """Return the temperature at which an NTC has a resistance."""
    return 1 / (1 / REFERENCE_K + math.log(ohm / r25_ohm) / beta_k) - KELVIN


def beta_of(ohm_a: float, celsius_a: float, ohm_b: float, celsius_b: float) -> float:
    """Return β from two points."""
    return math.log(ohm_a / ohm_b) / (1 / (celsius_a + KELVIN) - 1 / (celsius_b + KELVIN))


class Thermistor(Instrument):
    """A motor's temperature sensor, cold and warm."""

    key = "temperature"
    title = "Motor temperature"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every motor with a thermistor."""
        found = []
        for p in bike.having(MotorSpec):
            if p.spec.thermistor:
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Cold, then warm."""
        out = "Pack out, motor plug apart, capacitors discharged"
        gates = ("pack_out", "discharged")
        return (
            Step(
                "cold",
                "Ohms between temperature and ground of the motor plug, motor as cold as the room",
                out,
                gates,
                (
                    Field("cold_c", "Room", "degC", -20.0, 50.0),
                    Field("cold_ohm", "Cold", "ohm", 0.0, 1e7, over=True),
                ),
            ),
            Step(
                "warm",
                "After a ride, or warmed: the same, with a thermometer on the hub",
                out,
                gates,
                (
                    Field("warm_c", "Hub", "degC", 0.0, 130.0, needed=False),
                    Field("warm_ohm", "Warm", "ohm", 0.0, 1e7, needed=False, over=True),
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
        """Say R25 and β, and whether it is the usual 10 kΩ sensor."""
        cold_c, cold, warm_c, warm = (
            found.number(n) for n in ("cold_c", "cold_ohm", "warm_c", "warm_ohm")
        )
        if cold_c is None or cold is None:
            return verdict_of([], False, "")
        for words, ohm in (("cold", cold), ("warm", warm)):
            broken = _broken(words, ohm)
            if broken is not None:
                return verdict_of([broken], True, "")
        findings = []
        beta = sum(USUAL_BETA) / 2
        known = warm is not None and warm_c is not None and abs(warm_c - cold_c) >= LEAST_APART_C
        if known and warm is not None and warm_c is not None:
            if abs(warm / cold - 1) < STILL_SHARE:
                text = f"{cold:g} Ω at {cold_c:g} °C, {warm:g} Ω at {warm_c:g} °C: it does not move"
                change = "A fixed resistor in its place, or a sensor that touches nothing warm."
                findings.append(SetFinding("S065", "fault", text, change))
                return verdict_of(findings, True, "")
            if (warm < cold) is not (warm_c > cold_c):
                text = (
                    f"{cold:g} Ω at {cold_c:g} °C, {warm:g} Ω at {warm_c:g} °C: it rises with heat"
                )
                change = (
                    "No NTC: a winding, a PTC or a wrong pin. Do not connect it to an NTC input."
                )
                findings.append(SetFinding("S061", "fault", text, change))
                return verdict_of(findings, True, "")
            beta = beta_of(cold, cold_c, warm, warm_c)
        r25 = cold / math.exp(beta * (1 / (cold_c + KELVIN) - 1 / REFERENCE_K))
        if abs(r25 / USUAL_OHM - 1) > OFF_SHARE:
            text = f"{r25 / 1000:.3g} kΩ at 25 °C, usual 10 kΩ"
            findings.append(
                SetFinding(
                    "S060",
                    "fault",
                    text,
                    "Open or wet plug, or another sensor: choose its table in the controller.",
                )
            )
        elif known and not USUAL_BETA[0] <= beta <= USUAL_BETA[1]:
            text = f"β is {beta:.0f} K, usual {USUAL_BETA[0]:.0f} to {USUAL_BETA[1]:.0f} K"
            findings.append(
                SetFinding(
                    "S062",
                    "advice",
                    text,
                    "The hub was not one temperature, or another sensor: measure once more.",
                )
            )
        values = (
            Measured("r25_ohm", round(r25, 0), "Ω", "at 25 °C"),
            *((Measured("beta_k", round(beta, 0), "K", "from two points"),) if known else ()),
            Measured(
                "roll_back_ohm",
                round(resistance_ohm(ROLL_BACK_C, r25, beta), 0),
                "Ω",
                f"at {ROLL_BACK_C:.0f} °C: power is taken back",
            ),
            Measured(
                "stop_ohm",
                round(resistance_ohm(STOP_C, r25, beta), 0),
                "Ω",
                f"at {STOP_C:.0f} °C: stop",
            ),
        )
        rows = []
        for c in TABLE_C:
            if c >= 20:
                rows.append((float(c), resistance_ohm(c, r25, beta) / 1000))
        points = tuple(rows)
        curve = Curve("Resistance by temperature", "kΩ", points, (), "°C")
        complete = next_step(self.steps(bike, subject), found) is None
        result = verdict_of(
            findings, complete, "A sensor the controller can read", values, (curve,)
        )
        return replace(result, table=whole_table(r25, beta))


def _broken(words: str, ohm: float | None) -> SetFinding | None:
    """Return the finding of an open or shorted sensor, None where it is neither."""
    if ohm is None:
        return None
    if ohm > OPEN_OHM:
        if math.isinf(ohm):
            text = f"Open, {words}"
        else:
            text = f"{ohm:g} Ω, {words}: open"
        change = (
            "Its plug and its wire; inside the motor its joint. Until then nothing "
            "watches the heat."
        )
        return SetFinding("S063", "fault", text, change)
    if ohm < SHORT_OHM:
        change = (
            "Chafed wire, or water in the plug. Until then the controller reads it as far too hot."
        )
        return SetFinding("S064", "fault", f"{ohm:g} Ω, {words}: shorted", change)
    return None


def whole_table(r25_ohm: float, beta_k: float) -> tuple[tuple[str, ...], ...]:
    """Return the resistance at every 10 °C, with what the controller should do there."""
    rows = [("°C", "Ω", "")]
    for celsius in TABLE_C:
        if celsius >= STOP_C:
            does = "stop"
        elif celsius >= ROLL_BACK_C:
            does = "power taken back"
        else:
            does = ""
        rows.append((f"{celsius}", f"{resistance_ohm(celsius, r25_ohm, beta_k):.0f}", does))
    return tuple(rows)
