"""Motor figures: pole pairs behind the reduction, rpm per volt, winding resistance of all three
pairs.

Copper: 0.393 % per kelvin (IEC 60028). Planetary gears, sun driving: 1 + ring over sun with the
ring held, ring over sun with the carrier held (Willis).
"""

import math
from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.kinds.motor import HubMotorSpec, MotorSpec
from brightcore.physics.copper import REFERENCE_C, warmed_ratio
from brightcore.physics.wheels import planetary_ratio
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
from brightcore.setting.own_plug import every
from brightcore.touching import NOTHING

APART_TOLD, APART_FAULT = 0.05, 0.15
"""How far one pair may lie from the mean of all three, as a share, before it is told, and a
fault."""

LEAST_AMPS = 0.5
LEAST_MV = 1.0
"""Below these the millivolts of a handheld meter say nothing."""

KV_OFF, KV_CANNOT = 0.15, 3.0
"""How far rpm per volt may lie from the description before it is told, as a share; and how many
times it may be another's before it is questioned: then another shaft was counted."""

HELD = (("ring", "the ring: carrier drives"), ("carrier", "the carrier: ring drives"))
TURNED = (("rotor", "the rotor itself"), ("out", "the wheel, or the output behind the gear"))
PAIRS = (("uv", "U and V"), ("vw", "V and W"), ("wu", "W and U"))


def at_20_c(ohm: float, celsius: float) -> float:
    """Return a copper resistance at 20 °C.

    >>> round(at_20_c(0.1393, 120.0), 4)
    0.1
    """
    return ohm / warmed_ratio(celsius)


class MotorFigures(Instrument):
    """What a controller must be told of a motor."""

    key = "motor"
    title = "Motor figures"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every motor."""
        return every(bike, MotorSpec)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Magnets and gears, spin, winding."""
        out = "Pack out, all three phases apart from the controller"
        return (
            Step(
                "magnets",
                "Count the magnets on the rotor; if it has planetary gears, teeth of ring and "
                "sun, and which member is held",
                "Opened, or from its sheet",
                (),
                (
                    Field("magnets", "Magnets", "", 2.0, 200.0, whole=True),
                    Field("ring", "Ring teeth", "", 3.0, 400.0, needed=False, whole=True),
                    Field("sun", "Sun teeth", "", 3.0, 200.0, needed=False, whole=True),
                    Field("held", "Held still", choices=HELD, needed=False),
                    Field(
                        "further",
                        "Further ratio",
                        "",
                        0.1,
                        50.0,
                        needed=False,
                        help="80 over 25 teeth: 3.2",
                    ),
                ),
                touches=NOTHING,
            ),
            Step(
                "spin",
                "Spin it with a drill: rpm, and volts AC between two phases",
                out,
                ("pack_out", "discharged"),
                (
                    Field("rpm", "rpm", "", 5.0, 20000.0, needed=False),
                    Field("turned", "What was turned", choices=TURNED, needed=False),
                    Field("ac_v", "Volts AC", "V", 0.05, 150.0, needed=False),
                ),
            ),
            Step(
                "winding",
                "A supply limited to 2 to 5 A through each pair; millivolts at the pins",
                out,
                ("pack_out", "discharged"),
                (
                    Field("amps", "Amps", "A", 0.0, 20.0, needed=False),
                    Field("winding_c", "Motor", "degC", -20.0, 130.0, needed=False),
                    *(
                        Field(
                            f"{key}_mv",
                            f"Millivolts, {words}",
                            "mV",
                            0.0,
                            20000.0,
                            needed=False,
                            over=True,
                            help="OL where no current flows",
                        )
                        for key, words in PAIRS
                    ),
                ),
            ),
            Step(
                "inductance",
                "If the meter has henry: each pair, the rotor held still at one place",
                out,
                ("pack_out", "discharged"),
                tuple(
                    Field(f"{key}_uh", f"Inductance, {words}", "uH", 1.0, 1e5, needed=False)
                    for key, words in PAIRS
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
        """Say pole pairs, rpm per volt and resistance; judge what was counted and how alike the
        pairs are."""
        spec = bike.part(subject).spec
        assert isinstance(spec, MotorSpec)
        findings: list[SetFinding] = []
        values = _poles(found, findings)
        values += _kv(found, spec, findings)
        ohms, pictures = _winding(found, findings)
        values += ohms
        values += _inductance(found, findings)
        complete = next_step(self.steps(bike, subject), found) is None and not _half_read(found)
        return verdict_of(
            findings, complete, "These are the figures for the controller", tuple(values), pictures
        )


def _half_read(found: Readings) -> bool:
    """Return whether some pairs of the winding were read, and not all."""
    read = [found.number(f"{key}_mv") for key, _ in PAIRS]
    some = any(value is not None for value in read)
    opened = any(value is not None and math.isinf(value) for value in read)
    return some and None in read and not opened


def _poles(found: Readings, findings: list[SetFinding]) -> list[Measured]:
    magnets = found.number("magnets")
    if magnets is None:
        return []
    if round(magnets) % 2:
        text = f"{magnets:.0f} magnets: north and south come in pairs"
        findings.append(SetFinding("S080", "fault", text, "Count again."))
        return []
    pairs = magnets / 2
    ring, sun, further = found.number("ring"), found.number("sun"), found.number("further")
    if ring and sun and sun > ring:
        text = f"Sun {sun:g} and ring {ring:g} teeth: the ring is the larger one"
        findings.append(SetFinding("S085", "fault", text, "Count both again, or exchange them."))
        return [Measured("pole_pairs", pairs, "", f"{magnets:.0f} magnets")]
    values = [Measured("pole_pairs", pairs, "", f"{magnets:.0f} magnets")]
    held = found.chosen("held")
    if ring and sun and not held:
        text = f"Ring {ring:g} and sun {sun:g} teeth: the ratio depends on which member is held"
        change = (
            "Geared hubs usually hold the carrier (ring over sun); with the ring held "
            "it is one more."
        )
        findings.append(SetFinding("S088", "fault", text, change))
        return values
    if ring and sun:
        reduction = planet_ratio(round(ring), round(sun), held)
    else:
        reduction = 1.0
    reduction *= further or 1.0
    if reduction != 1.0:
        words = f"{pairs:g} pairs × {reduction:g}: where speed is measured behind the gear"
        values += [
            Measured("reduction", round(reduction, 3), "", "planet and further gears"),
            Measured("effective_pole_pairs", round(pairs * reduction, 1), "", words),
        ]
    return values


def planet_ratio(ring_teeth: int, sun_teeth: int, held: str) -> float:
    """Return the ratio of a planetary gear with the sun driving; `held` is "ring" or "carrier".

    >>> planet_ratio(64, 8, "ring"), planet_ratio(64, 8, "carrier")
    (9.0, 8.0)
    """
    with_ring_held = planetary_ratio(ring_teeth, sun_teeth)
    if held == "carrier":
        return with_ring_held - 1
    return with_ring_held


def _kv(found: Readings, spec: MotorSpec, findings: list[SetFinding]) -> list[Measured]:
    """Return rpm per volt of the shaft that the description counts: a hub's wheel, a mid drive's
    motor."""
    rpm, volts = found.number("rpm"), found.number("ac_v")
    if rpm is None or volts is None:
        return []
    turned = found.chosen("turned")
    if spec.geared() and not turned:
        text = "rpm of which shaft? Behind the gear it is another figure"
        change = "Say whether the rotor itself was turned, or the wheel or output behind the gear."
        findings.append(SetFinding("S089", "fault", text, change))
        return []
    peak = volts * 2**0.5
    kv = rpm / peak * _to_described(spec, turned)
    apart = kv / spec.rpm_per_v
    if not 1 / KV_CANNOT <= apart <= KV_CANNOT:
        text = (
            f"{kv:.2f} rpm per volt, {spec.rpm_per_v:g} described: "
            f"{max(apart, 1 / apart):.1f} times apart"
        )
        change = (
            "Count and read again: another shaft, half the volts, or a meter that reads "
            "no AC so low."
        )
        findings.append(SetFinding("S087", "fault", text, change))
        return []
    if abs(apart - 1) > KV_OFF:
        text = f"{kv:.2f} rpm per volt, {spec.rpm_per_v:g} described"
        change = "Another winding, weak magnets, or the other shaft counted."
        findings.append(SetFinding("S081", "advice", text, change))
    if isinstance(spec, HubMotorSpec):
        of = "of the wheel"
    else:
        of = "of the motor"
    words = f"{of}, {rpm:g} rpm at {peak:.2f} V peak between phases"
    return [Measured("rpm_per_v", round(kv, 2), "rpm/V", words)]


def _to_described(spec: MotorSpec, turned: str) -> float:
    """Return by what the rpm of the turned shaft is multiplied to be those that are described."""
    by_wheel = isinstance(spec, HubMotorSpec)
    if turned == "rotor" and by_wheel:
        return 1 / spec.gear_ratio
    if turned == "out" and not by_wheel:
        return spec.gear_ratio
    return 1.0


def _open(pairs: list[str]) -> SetFinding:
    """Return the finding of a winding through which no current flows: two open pairs share a
    phase."""
    text = f"Open: {', '.join(pairs)}"
    if len(pairs) == 2:
        shared = set(pairs[0].split(" and ")) & set(pairs[1].split(" and "))
        text = f"Phase {''.join(shared)} is open: no current by {' nor by '.join(pairs)}"
    if len(pairs) == 3:
        text = (
            "No current through any pair: two or three phases are open, or the supply is "
            "not connected"
        )
    change = "Probes at the pins first; then the plug, the cable at the axle, the joints inside."
    return SetFinding("S086", "fault", text, change)


HENRY_TOLD, HENRY_FAULT = 0.1, 0.2
"""How far one pair may lie from the mean, as a share; it moves with the rotor (common practice)."""


def _inductance(found: Readings, findings: list[SetFinding]) -> list[Measured]:
    read = [(words, found.number(f"{key}_uh")) for key, words in PAIRS]
    values = [(words, value) for words, value in read if value is not None]
    if len(values) < len(PAIRS):
        return []
    mean = sum(value for _, value in values) / len(values)
    worst = max(values, key=lambda pair: abs(pair[1] / mean - 1))
    apart = abs(worst[1] / mean - 1)
    if apart > HENRY_TOLD:
        text = f"{worst[0]}: {worst[1]:.0f} µH, the three together {mean:.0f} µH"
        change = "Read again with the rotor at the same place; it stays apart? Shorted turns."
        findings.append(
            SetFinding("S084", "fault" if apart > HENRY_FAULT else "advice", text, change)
        )
    return [Measured("inductance_uh", round(mean, 1), "µH", "between two phases, rotor held")]


def _winding(
    found: Readings, findings: list[SetFinding]
) -> tuple[list[Measured], tuple[Band, ...]]:
    amps, celsius = found.number("amps"), found.number("winding_c")
    read = [(words, found.number(f"{key}_mv")) for key, words in PAIRS]
    millivolts = [(words, value) for words, value in read if value is not None]
    opened = [words for words, value in millivolts if math.isinf(value)]
    if opened:
        findings.append(_open(opened))
        return [], ()
    if amps is None or len(millivolts) < len(PAIRS):
        return [], ()
    if amps < LEAST_AMPS or min(value for _, value in millivolts) < LEAST_MV:
        text = f"{amps:g} A and {min(v for _, v in millivolts):g} mV are too little to compare"
        findings.append(
            SetFinding(
                "S082", "fault", text, "More current, 2 to 5 A limited, and probes at the pins."
            )
        )
        return [], ()
    ohms = []
    for words, value in millivolts:
        ohms.append(
            (words, at_20_c(value / 1000 / amps, celsius if celsius is not None else REFERENCE_C))
        )
    mean = sum(value for _, value in ohms) / len(ohms)
    worst = max(ohms, key=lambda pair: abs(pair[1] / mean - 1))
    apart = abs(worst[1] / mean - 1)
    if apart > APART_TOLD:
        severity = "fault" if apart > APART_FAULT else "advice"
        text = f"{worst[0]}: {1000 * worst[1]:.0f} mΩ, the three together {1000 * mean:.0f} mΩ"
        change = "Shorted turns, or a bad joint in one phase: compare the drag of the three pairs."
        findings.append(SetFinding("S083", severity, text, change))
    marks = tuple(
        Mark(1000 * value, words, abs(value / mean - 1) <= APART_TOLD) for words, value in ohms
    )
    band = Band(
        "Winding at 20 °C",
        "mΩ",
        0.0,
        1600 * mean,
        (1000 * mean * (1 - APART_TOLD), 1000 * mean * (1 + APART_TOLD)),
        marks,
    )
    return [Measured("phase_ohm", round(mean, 4), "Ω", "between two phases, at 20 °C")], (band,)
