"""A Match plan: what is asked, typed by people, checked field by field."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from brightcore.describing.specs import parse_spec_value
from brightcore.errors import BrightError
from brightcore.matching.drive import DRAG_AREA_M2, TYRES
from brightcore.matching.riding import ROUTES

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
    parsed_as: str = ""


NUMBERS = (
    Field("load_mass_kg", "Rider and load", "kg", 85.0, 20.0, 500.0),
    Field("rider_w", "Rider’s own power", "W", 80.0, 0.0, 600.0),
    Field("hill_percent", "Hill", "%", 6.0, 0.0, 35.0, "hill_ratio"),
    Field("hill_min", "Minutes on it", "min", 15.0, 0.5, 240.0),
    Field("wind_kmh", "Head wind", "km/h", 0.0, -60.0, 60.0),
    Field("charger_a", "Charger", "A", 3.0, 0.2, 40.0),
)
CHOICES: dict[str, tuple[str, tuple[str, ...], str]] = {
    "body": ("How it sits in the wind", tuple(DRAG_AREA_M2), "upright"),
    "tyre": ("Tyres", tuple(TYRES), "touring"),
    "route": ("Route", tuple(ROUTES), "rolling"),
}


def defaults(load_mass_kg: float) -> dict[str, Any]:
    """Return the plan of a job that nobody has asked anything yet."""
    found: dict[str, Any] = {f.name: f.default for f in NUMBERS} | {n: c[2] for n, c in CHOICES.items()}
    return found | {
        "load_mass_kg": load_mass_kg,
        "place": "",
        "labour_per_hour": 60.0,
        "locked": False,
        "variants": [],
        "log_from_v": None,
        "log_to_v": None,
        "options": {},
        "tally": {},
        "tally_min": 0.0,
        "log_km": None,
        "log_ah": None,
    }


def read_riding(data: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, str]]:
    """Return (values, errors by field) of the posted riding form."""
    values: dict[str, Any] = {}
    errors: dict[str, str] = {}
    for f in NUMBERS:
        _number(data, f.name, f.parsed_as or f.name, f.low, f.high, values, errors)
    for name, (_, options, default) in CHOICES.items():
        values[name] = data.get(name) if data.get(name) in options else default
    values["place"] = data.get("place", "")[:60]
    for name, low, high in (("log_km", 0.1, 5000.0), ("log_ah", 0.01, 500.0), ("log_from_v", 1.0, 150.0), ("log_to_v", 1.0, 150.0)):
        values[name] = None
        if data.get(name, "").strip():
            _number(data, name, name, low, high, values, errors)
    volts = [values.get(n) is not None for n in ("log_from_v", "log_to_v")]
    used = values.get("log_ah") is not None or all(volts)
    if not errors and (any(volts) != all(volts) or (values.get("log_km") is not None) != used):
        errors["log_km"] = "Give the distance with the amp-hours used or with the rested volts before and after; or none of them."
    return values, errors


def read_money(data: Mapping[str, str], prefix: str, names: tuple[str, ...], errors: dict[str, str]) -> dict[str, float]:
    """Return the posted numbers of one row (`prefix-name`); empty ones are left out, wrong ones go to `errors`."""
    found: dict[str, float] = {}
    for name in names:
        text = data.get(f"{prefix}-{name}", "").strip()
        if not text:
            continue
        try:
            found[name] = parse_spec_value("money_ratio", text, float)
        except BrightError as error:
            errors[f"{prefix}-{name}"] = str(error)
            continue
        if not 0 <= found[name] <= 1e6:
            errors[f"{prefix}-{name}"] = f"{name.replace('_', ' ')}: from 0 to a million."
    return found


def _number(
    data: Mapping[str, str], name: str, parsed_as: str, low: float, high: float, values: dict[str, Any], errors: dict[str, str]
) -> None:
    text = data.get(name, "").strip().removesuffix("%")
    try:
        value = parse_spec_value(
            parsed_as if parsed_as != "log_km" else "log_ratio", text.removesuffix("km") if name == "log_km" else text, float
        )
    except BrightError as error:
        errors[name] = str(error)
        return
    if not low <= value <= high:
        errors[name] = f"From {low:g} to {high:g}."
    values[name] = value


def read_variant(data: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, str]]:
    """Return (variant, errors) of the posted variant form: a name and what differs."""
    errors: dict[str, str] = {}
    variant: dict[str, Any] = {"name": data.get("name", "").strip()[:60]}
    for kind in ("pack", "controller", "motor", "second_pack"):
        if data.get(kind):
            variant[kind] = data[kind][:40]
    for name in ("chain_ring", "wheel_seat"):
        text = data.get(name, "").strip()
        if text:
            if text.isdigit() and 8 <= int(text) <= 700:
                variant[name] = int(text)
            else:
                errors[name] = "A whole number."
    if not variant["name"]:
        errors["name"] = "Give it a short name, such as 52 V."
    if len(variant) < 2 and not errors:
        errors["name"] = "Choose at least one thing that differs."
    return variant, errors
