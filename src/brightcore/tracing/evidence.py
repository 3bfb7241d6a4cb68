"""Evidence and its likelihood under every hypothesis.

A number is Gaussian around its prediction, mixed with a small chance of a wrong reading; a
seen thing has a confusion probability. The hypothesis "not modelled" expects what the
modelled faults together would give, mixed with anything at all.
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.errors import BrightError, ReadingError, UnknownNameError
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.table import OVER_LIMIT_OHM, Prediction, Table
from brightcore.units import parse_quantity

Floats = NDArray[np.float64]

WRONG_READING = 0.02
"""Chance that a reading is simply wrong: slipped probe, misread, wrong pin (common practice)."""

RANGE_V = 70.0
OHM_OFFSET = 0.1
DIODE_OVER_V = 2.4
SOMETIMES_WEIGHT = 0.5
REPEAT_WEIGHT = 0.5
"""Weight of the second and later looks at one observable with the same answer: not independent."""

KINDS = ("volts", "ohms", "diode", "swing", "look", "inspect", "swap")


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing measured or seen. Which fields matter depends on `kind` (see docs/formats)."""

    kind: str
    value: str
    condition: str = ""
    red: str = ""
    black: str = ""
    scene: str = ""
    observable: str = ""
    subject: str = ""
    sometimes: bool = False

    @property
    def test_id(self) -> str:
        """Id of the test that this is an answer to."""
        if self.kind == "look":
            return f"look {self.scene}"
        if self.kind in ("inspect", "swap"):
            return f"{self.kind} {self.subject}"
        return f"{self.kind} {self.red} {self.black} @ {self.condition}"


def validate(table: Table, item: Evidence) -> None:
    """Raise BrightError where the evidence names what this bike does not have."""
    if item.kind not in KINDS:
        raise UnknownNameError("kind of evidence", item.kind, KINDS)
    if item.kind == "look":
        if item.scene not in table.scenes:
            raise UnknownNameError("scene", item.scene, tuple(table.scenes))
        if item.observable not in table.scenes[item.scene].seen:
            raise UnknownNameError("observable", item.observable, table.scenes[item.scene].seen)
        if item.value not in OBSERVABLES[item.observable].ids():
            raise UnknownNameError("answer", item.value, OBSERVABLES[item.observable].ids())
    elif item.kind == "inspect":
        _one_of(item.value, ("good", "damaged"))
    elif item.kind == "swap":
        table.circuit.bike.part(item.subject)
        _one_of(item.value, ("gone", "same"))
    else:
        parse_condition(table.circuit, item.condition)
        for end in (item.red, item.black):
            table.circuit.bike.pin(end)
        if item.red == item.black:
            raise ReadingError("both probes stand on the same point")
        if item.kind == "swing":
            swing_values(item.value)
        else:
            parse_quantity(item.value, "Ω" if item.kind == "ohms" else "V")


def _one_of(value: str, allowed: tuple[str, ...]) -> None:
    if value not in allowed:
        raise UnknownNameError("answer", value, allowed)


def swing_values(text: str) -> tuple[float, float]:
    """Return (low, high) volts of `0.1 to 4.9`, or of one number that stays."""
    pieces = [p for p in text.replace("…", " to ").replace("–", " to ").split(" to ") if p.strip()]
    if len(pieces) not in (1, 2):
        raise ReadingError(f"{text!r}: type the lowest and highest volts, such as 0.1 to 4.9")
    values = [parse_quantity(p, "V") for p in pieces]
    if any(math.isinf(v) for v in values):
        raise ReadingError(f"{text!r} is not a range of volts")
    return min(values), max(values)


def swing_conditions(table: Table, condition: Condition) -> tuple[Condition, Condition]:
    """Return the two states between which a swing is read: at rest and at the named setting."""
    moving = [item for item in condition.settings if table.circuit.controls[item[0]][1].id in ("rotor", "turn")]
    rest = tuple(item for item in condition.settings if item not in moving)
    return Condition(condition.power, rest, condition.unplugged), condition


def log_ohm(value: float | Floats) -> Floats:
    """Return log10 of ohms with the meter's lead resistance added, over-limit clipped."""
    return np.asarray(np.log10(np.minimum(value, OVER_LIMIT_OHM) + OHM_OFFSET))


def transformed(kind: str, found: Prediction) -> tuple[Floats, Floats]:
    """Return (mean, sigma) [R] on the scale on which readings of a kind are compared."""
    if kind == "ohms":
        mean = log_ohm(found.mean)
        size = np.minimum(found.mean, OVER_LIMIT_OHM) + OHM_OFFSET
        return mean, np.where(found.floating, 0.15, np.sqrt((found.sigma / size / math.log(10)) ** 2 + 0.02**2))
    if kind == "diode":
        return np.minimum(found.mean, DIODE_OVER_V), found.sigma + 0.03
    return found.mean, found.sigma


def predict(table: Table, kind: str, condition: Condition, red: str, black: str) -> list[Prediction]:
    """Return the predictions of a reading: one, or low and high for a swing."""
    if kind == "ohms":
        return [table.read_ohms(condition, red, black)]
    if kind != "swing":
        return [table.read_volts(condition, red, black)]
    one, two = (table.read_volts(c, red, black) for c in swing_conditions(table, condition))
    first_low = one.mean <= two.mean
    uncertain = one.uncertain | two.uncertain

    def pick(low: bool) -> Prediction:
        use_one = first_low == low
        return Prediction(
            np.where(use_one, one.mean, two.mean), np.where(use_one, one.sigma, two.sigma),
            np.where(use_one, one.floating, two.floating), uncertain,
        )  # fmt: skip

    return [pick(True), pick(False)]


def reading_numbers(item: Evidence) -> tuple[float, ...]:
    """Return the typed value as numbers on the comparison scale."""
    if item.kind == "swing":
        return swing_values(item.value)
    value = parse_quantity(item.value, "Ω" if item.kind == "ohms" else "V")
    if item.kind == "ohms":
        return (float(log_ohm(max(value, 0.0))),)
    if item.kind == "diode":
        return (min(value, DIODE_OVER_V),)
    return (RANGE_V if math.isinf(value) else value,)


def scale_range(kind: str) -> float:
    """Return the width of the comparison scale of a kind, for the "anything" part."""
    return {"ohms": 8.2, "diode": DIODE_OVER_V + 0.5}.get(kind, RANGE_V)


def log_likelihood(table: Table, hypotheses: HypothesisSet, item: Evidence) -> Floats:
    """Return the log likelihood [H] of one piece of evidence under every hypothesis."""
    if item.kind == "look":
        rows = _look(table, item)
    elif item.kind == "inspect":
        rows = inspect_probability(hypotheses, item.subject)[1 if item.value == "damaged" else 0]
    elif item.kind == "swap":
        rows = swap_probability(hypotheses, item.subject)[0 if item.value == "gone" else 1]
    else:
        rows = _number(table, item)
    modelled = rows[: hypotheses.rows]
    prior = hypotheses.prior[: hypotheses.rows]
    broad = 0.5 * float(modelled @ prior / prior.sum()) + 0.5 * _anything(item)
    full = np.append(modelled, broad)
    weight = SOMETIMES_WEIGHT if item.sometimes else 1.0
    return np.asarray(weight * np.log(np.maximum(full, 1e-12)))


def _anything(item: Evidence) -> float:
    if item.kind == "look":
        return 1.0 / len(OBSERVABLES[item.observable].classes)
    if item.kind in ("inspect", "swap"):
        return 0.5
    return (1.0 / scale_range(item.kind)) ** (2 if item.kind == "swing" else 1)


def _look(table: Table, item: Evidence) -> Floats:
    seen = OBSERVABLES[item.observable]
    codes = table.seen(item.scene)[item.observable]
    return np.asarray(seen.seen_given()[codes, seen.ids().index(item.value)])


def _number(table: Table, item: Evidence) -> Floats:
    condition = parse_condition(table.circuit, item.condition)
    found = predict(table, item.kind, condition, item.red, item.black)
    density = np.ones(table.count)
    anything = _anything(item)
    for prediction, value in zip(found, reading_numbers(item), strict=True):
        mean, sigma = transformed(item.kind, prediction)
        density *= np.exp(-0.5 * ((value - mean) / sigma) ** 2) / (sigma * math.sqrt(2 * math.pi))
    mixed = (1 - WRONG_READING) * density + WRONG_READING * anything
    return np.where(found[0].uncertain, anything, mixed)


def inspect_probability(hypotheses: HypothesisSet, subject: str) -> tuple[Floats, Floats]:
    """Return P(looks good), P(damage seen) [H-1] for a close look at a repair's place."""
    damaged = np.full(hypotheses.rows, 0.04)
    for i, hypothesis in enumerate(hypotheses.items[: hypotheses.rows]):
        if hypothesis.repair.id == subject and hypothesis.mode is not None:
            damaged[i] = max(hypothesis.mode.seen_by_eye, 0.04)
    return 1.0 - damaged, damaged


def owner(repair_id: str) -> str:
    """Return the part or join that a repair is about."""
    return repair_id.split(":")[1] if ":" in repair_id else ""


def swap_probability(hypotheses: HypothesisSet, part_id: str) -> tuple[Floats, Floats]:
    """Return P(trouble gone), P(trouble the same) [H-1] after lending a known good part."""
    gone = np.full(hypotheses.rows, 0.03)
    for i, hypothesis in enumerate(hypotheses.items[: hypotheses.rows]):
        if hypothesis.mode is None:
            gone[i] = 0.5
        elif hypothesis.repair.id.split(":")[0] != "join" and owner(hypothesis.repair.id) == part_id:
            gone[i] = 0.97
    return gone, 1.0 - gone


def repeat_weights(items: list[Evidence]) -> list[float]:
    """Return a weight per item: later looks with the same observable and answer count half."""
    counts: dict[tuple[str, str], int] = {}
    weights = []
    for item in items:
        key = (item.observable, item.value) if item.kind == "look" else ("", "")
        weights.append(REPEAT_WEIGHT if item.kind == "look" and counts.get(key) else 1.0)
        counts[key] = counts.get(key, 0) + 1
    return weights


__all__ = ["BrightError", "Evidence", "log_likelihood", "predict", "validate"]
