"""Measured values in words, beside what is described."""

from dataclasses import dataclass

from brightcore.bike.measured import preferred, standing_values
from brightcore.bike.model import Bike, MeasuredValue
from brightcore.describing.labels import LABELS

WHOLE = "the bike"

ONLY_MEASURED = {
    "circumference_mm": "Circumference of the wheel",
    "cut_mm": "Cuts at",
    "rest_v": "At rest",
    "full_v": "Pulled",
    "start_v": "Controller starts at",
    "end_v": "Controller gives all at",
    "zero_v": "Torque, feet off",
    "spread_v": "Spread of the groups",
    "lowest_v": "Lowest group",
    "charge_percent": "Charge",
    "pole_pairs": "Pole pairs",
    "effective_pole_pairs": "Pole pairs, effective",
    "crossing": "Crossing of phases and halls",
    "inductance_uh": "Inductance between two phases",
    "r25_ohm": "Thermistor at 25 °C",
    "beta_k": "Thermistor β",
}
"""What values are called that no description has."""


@dataclass(frozen=True, slots=True)
class MeasuredWords:
    """A measured value as shown: of what, its label, the value with its unit, how and when;
    `described`: what it stands in for, "" where nothing of the sort is described."""

    part: str
    label: str
    shown: str
    words: str
    on: str
    described: str = ""


def shown_value(value: float, unit: str) -> str:
    """Return a value with its unit, small resistances in milliohms.

    >>> shown_value(0.095, "Ω"), shown_value(8.6, "rpm/V"), shown_value(0.17, "")
    ('95 mΩ', '8.6 rpm/V', '0.17')
    """
    if unit == "Ω" and abs(value) < 1:
        return f"{1000 * value:.4g} mΩ"
    return f"{value:.6g} {unit}".strip()


def label_of(value: MeasuredValue) -> str:
    """Return what a measured value is called: as the field it stands in for, else its own name."""
    names = ONLY_MEASURED | LABELS
    return names.get(value.name, value.name.replace("_", " ").capitalize())


def measured_words(bike: Bike) -> tuple[MeasuredWords, ...]:
    """Return every measured value that stands, in words."""
    if not bike.measured:
        return ()
    instead = {(value.part, value.name): described for value, described in preferred(bike)}
    found = []
    for value in standing_values(bike):
        described = instead.get((value.part, value.name))
        if described is not None:
            shown = shown_value(described, value.unit)
        else:
            shown = ""
        name = bike.part(value.part).name if value.part else WHOLE
        found.append(
            MeasuredWords(
                name,
                label_of(value),
                shown_value(value.value, value.unit),
                value.words,
                value.on,
                shown,
            )
        )
    return tuple(found)


def worked_with(bike: Bike) -> tuple[MeasuredWords, ...]:
    """Return the measured values that stand in for described ones."""
    return tuple(words for words in measured_words(bike) if words.described)
