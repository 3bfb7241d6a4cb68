"""A Match plan: what is asked, typed by people, checked field by field."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from typing import Any

from brightcircuit.common.numbers import whole_number
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError
from brightcore.formats.schema_pieces import MOST_TEETH
from brightcore.matching.drive import DRAG_AREA_M2, TYRES
from brightcore.matching.ranges import ROUTES
from brightcore.procedure.costing import read_minutes

MOST_VARIANTS = 3


@dataclass(frozen=True, slots=True)
class Field:
    """One number of the form: name, label, unit, default, limits."""

    name: str
    label: str
    unit: str
    default: float
    low: float
    high: float


NUMBERS = (
    Field("load_mass_kg", "Rider and load", "kg", 85.0, 20.0, 500.0),
    Field("rider_w", "Rider’s own power", "W", 80.0, 0.0, 600.0),
    Field("hill_percent", "Hill", "%", 6.0, 0.0, 35.0),
    Field("hill_kmh", "Hill at (0: its own)", "km/h", 0.0, 0.0, 60.0),
    Field("hill_min", "Climb time", "min", 15.0, 0.5, 240.0),
    Field("wind_kmh", "Head wind", "km/h", 0.0, -60.0, 60.0),
    Field("air_c", "Air", "°C", 20.0, -30.0, 55.0),
    Field("cruise_kmh", "Cruising speed, flat", "km/h", 22.0, 5.0, 60.0),
    Field("charger_a", "Charger", "A", 3.0, 0.2, 40.0),
)
LOGGED = (
    Field("log_km", "Distance", "km", 0.0, 0.1, 5000.0),
    Field("log_from_km", "Odometer before", "km", 0.0, 0.0, 1e6),
    Field("log_to_km", "Odometer after", "km", 0.0, 0.0, 1e6),
    Field("log_ah", "Used", "Ah", 0.0, 0.01, 500.0),
    Field("log_percent", "Gauge used", "%", 0.0, 0.1, 100.0),
    Field("log_from_v", "Rested before", "V", 0.0, 1.0, 150.0),
    Field("log_to_v", "Rested after", "V", 0.0, 1.0, 150.0),
)
"""A ride that was logged; empty ones are left out."""

UNITS = {
    "kg": "kg",
    "W": "w",
    "%": "",
    "min": "min",
    "km/h": "kmh",
    "A": "a",
    "km": "km",
    "Ah": "ah",
    "V": "v",
    "°C": "c",
}
"""The unit that a number is read in, by the one that is shown."""

CHOICES: dict[str, tuple[str, tuple[str, ...], str]] = {
    "body": ("Riding position", tuple(DRAG_AREA_M2), "upright"),
    "tyre": ("Tyres", tuple(TYRES), "touring"),
    "route": ("Route", tuple(ROUTES), "rolling"),
}


Numbers = dict[str, Any]
"""Values of a plan by their names, as they are stored: numbers, words of a choice, None."""

Exchanged = dict[str, Any]
"""What a variant exchanges, as it is stored: its name, library parts, changed values."""


@dataclass(frozen=True, slots=True)
class Plan:
    """What a job's Match was asked; units as in the names, None where nobody has said.

    What an hour of labour costs is the shop's to say; plans of earlier versions held it as well.
    `variants`, `options` and `tally` are as they were stored: what is exchanged, and numbers by the
    id of an option or a part. `resistance` and `log` stand in plans of earlier versions, which
    measured packs here and not in Set.
    """

    load_mass_kg: float
    rider_w: float
    hill_percent: float
    hill_kmh: float
    hill_min: float
    wind_kmh: float
    air_c: float
    cruise_kmh: float
    charger_a: float
    body: str
    tyre: str
    route: str
    sprocket: int = 0
    log_km: float | None = None
    log_from_km: float | None = None
    log_to_km: float | None = None
    log_ah: float | None = None
    log_percent: float | None = None
    log_from_v: float | None = None
    log_to_v: float | None = None
    used_km: float | None = None
    used_ah: float | None = None
    place: str = ""
    locked: bool = False
    variants: Sequence[Exchanged] = ()
    options: Mapping[str, dict[str, float]] = field(default_factory=dict)
    tally: Mapping[str, float] = field(default_factory=dict)
    tally_min: float = 0.0
    resistance: Mapping[str, Any] | None = None
    log: Mapping[str, Any] | None = None

    @classmethod
    def of(cls, load_mass_kg: float, data: Mapping[str, Any]) -> "Plan":
        """Return a plan from what was stored, filled up with what nobody has asked yet."""
        usual: Numbers = {item.name: item.default for item in NUMBERS}
        usual |= {name: choice[2] for name, choice in CHOICES.items()}
        usual["load_mass_kg"] = load_mass_kg
        known = {item.name for item in fields(cls)}
        # A plan stored by another version may hold what this one does not ask.
        return cls(**usual | {name: value for name, value in data.items() if name in known})


def read_riding(data: Mapping[str, str]) -> tuple[Numbers, dict[str, str]]:
    """Return (values, errors by field) of the posted riding form."""
    values: Numbers = {}
    errors: dict[str, str] = {}
    for f in NUMBERS:
        _number(data, f, values, errors)
    for name, (_, options, default) in CHOICES.items():
        values[name] = data.get(name) if data.get(name) in options else default
    logged, wrong = read_logged(data)
    values |= logged
    errors |= wrong
    teeth = whole_number(data.get("sprocket"), 0)
    values["sprocket"] = teeth if teeth <= MOST_TEETH else 0
    return values, errors


def read_logged(data: Mapping[str, str]) -> tuple[Numbers, dict[str, str]]:
    """Return (values, errors by field) of a ride that was logged; what is not given is None."""
    values: Numbers = {}
    errors: dict[str, str] = {}
    for f in LOGGED:
        values[f.name] = None
        if data.get(f.name, "").strip():
            _number(data, f, values, errors)
    if not errors:
        errors |= _log_errors(values)
    return values, errors


def _log_errors(values: Mapping[str, Any]) -> dict[str, str]:
    """Return what is wrong with a logged ride as a whole: one distance and one use, or neither."""

    def given(*names: str) -> list[bool]:
        return [values.get(name) is not None for name in names]

    pairs = {
        "log_from_km": given("log_from_km", "log_to_km"),
        "log_from_v": given("log_from_v", "log_to_v"),
    }
    for name, pair in pairs.items():
        if any(pair) != all(pair):
            return {name: "Give both, before and after."}
    if all(pairs["log_from_km"]) and values["log_to_km"] <= values["log_from_km"]:
        return {"log_to_km": "The odometer after the ride is above the one before it."}
    distances = sum((*given("log_km"), all(pairs["log_from_km"])))
    uses = sum((*given("log_ah", "log_percent"), all(pairs["log_from_v"])))
    if distances > 1 or uses > 1 or distances != uses:
        return {
            "log_km": "Give one distance (ridden, or the odometer before and after) and one "
            "use (amp-hours, "
            "percent of the gauge, or rested volts before and after); or none of them."
        }
    return {}


def read_money(
    data: Mapping[str, str], prefix: str, names: tuple[str, ...], errors: dict[str, str]
) -> dict[str, float]:
    """Return the posted numbers of one row (`prefix-name`); empty ones are left out, wrong ones go
    to `errors`."""
    found: dict[str, float] = {}
    for name in names:
        text = data.get(f"{prefix}-{name}", "").strip()
        if not text:
            continue
        try:
            found[name] = _money_or_minutes(name, text)
        except BrightError as error:
            errors[f"{prefix}-{name}"] = str(error)
            continue
        if not 0 <= found[name] <= 1e6:
            errors[f"{prefix}-{name}"] = f"{name.replace('_', ' ')}: from 0 to a million."
    return found


def _money_or_minutes(name: str, text: str) -> float:
    if name in ("min", "minutes"):
        return read_minutes("Minutes", text, 1e6)
    return parse_measure(text)


def _number(data: Mapping[str, str], asked: Field, values: Numbers, errors: dict[str, str]) -> None:
    if asked.name not in data:
        values[asked.name] = asked.default
        return
    text = data[asked.name].strip()
    if asked.unit == "%":
        text = text.removesuffix("%")
    try:
        value = parse_measure(text, UNITS[asked.unit])
    except BrightError as error:
        errors[asked.name] = str(error)
        return
    if not asked.low <= value <= asked.high:
        errors[asked.name] = f"From {asked.low:g} to {asked.high:g}."
    values[asked.name] = value


def read_variant(data: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, str]]:
    """Return (variant, errors) of the posted variant form: a name and what differs."""
    errors: dict[str, str] = {}
    variant: Exchanged = {"name": data.get("name", "").strip()[:60]}
    for kind in ("pack", "controller", "motor", "second_pack"):
        if data.get(kind):
            variant[kind] = data[kind][:40]
    for name in ("chain_ring", "wheel_seat"):
        text = data.get(name, "").strip()
        if text:
            variant[name] = whole_number(text, 0)
            if not 8 <= variant[name] <= 700:
                errors[name] = "A whole number from 8 to 700."
    if not variant["name"]:
        errors["name"] = "Give it a short name, such as 52 V."
    if len(variant) < 2 and not errors:
        errors["name"] = "Choose at least one thing that differs."
    return variant, errors
