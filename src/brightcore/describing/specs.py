"""Spec values as people write them: `18 AWG`, `0.75 mm²`, `26 in`, `47-559`, `20 mph`, `12.5 Ah`, `500 W`."""

import math
import re
import typing
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from brightcore.bike.kind import PartKind
from brightcore.errors import BrightError, FormatError, Problem, ReadingError
from brightcore.units import parse_in

SUFFIX_UNITS = {
    "v": "volt", "a": "ampere", "w": "watt", "wh": "watt_hour", "ah": "ampere_hour", "ohm": "ohm", "m": "metre", "mm": "millimetre",
    "mm2": "millimetre ** 2", "kg": "kilogram", "kmh": "kilometre / hour", "c": "degC", "min": "minute", "s": "second", "nm": "newton * metre",
    "rpm": "rpm", "deg": "degree",
}  # fmt: skip
SHOWN_UNITS = {"ohm": "Ω", "mm2": "mm²", "kmh": "km/h", "c": "°C", "nm": "N·m", "v": "V", "a": "A", "w": "W", "wh": "Wh", "ah": "Ah"}
_AWG = re.compile(r"^\s*(\d{1,2}(?:/0)?)\s*awg\s*$|^\s*awg\s*(\d{1,2})\s*$", re.IGNORECASE)


def awg_area_mm2(gauge: int) -> float:
    """Return the area of a solid AWG conductor in mm² (source astm-b258); gauge -3 (written 4/0) to 40.

    >>> round(awg_area_mm2(18), 3)
    0.823
    """
    if not -3 <= gauge <= 40:
        raise ReadingError(f"{gauge} AWG is outside 4/0 to 40")
    diameter_mm = 0.127 * 92 ** ((36 - gauge) / 39)
    return math.pi / 4 * diameter_mm**2


def unit_of(field_name: str) -> str:
    """Return the unit suffix of a field name, "" where it has none."""
    last = field_name.rsplit("_", 1)[-1]
    if "_per_" in field_name or field_name.endswith(("_ratio", "_count")):
        return ""
    return last if last in SUFFIX_UNITS else ""


def shown_unit(field_name: str) -> str:
    """Return the unit to show beside a field."""
    unit = unit_of(field_name)
    return SHOWN_UNITS.get(unit, unit)


def parse_spec_value(field_name: str, text: str, hint: Any) -> Any:
    """Return a typed spec value as the field's type and unit; raises ReadingError with what was typed."""
    raw = text.strip()
    if hint is bool:
        if raw.lower() in ("yes", "true", "1", "on", "ja"):
            return True
        if raw.lower() in ("no", "false", "0", "off", ""):
            return False
        raise ReadingError(f"{raw!r} is neither yes nor no")
    if hint is str:
        return raw
    if hint == tuple[int, ...]:
        pieces = [p for p in re.split(r"[\s,;–-]+", raw) if p]
        if not pieces or not all(p.isdigit() for p in pieces):
            raise ReadingError(f"{raw!r} is not a list of whole numbers such as 11, 13, 15")
        return tuple(int(p) for p in pieces)
    gauge = _AWG.match(raw)
    if gauge and unit_of(field_name) == "mm2":
        number, stroke, _ = (gauge.group(1) or gauge.group(2)).partition("/")
        return round(awg_area_mm2(1 - int(number) if stroke else int(number)), 4)
    value = parse_in(raw, SUFFIX_UNITS.get(unit_of(field_name), ""))
    if hint is int:
        if value != round(value):
            raise ReadingError(f"{raw!r} is not a whole number")
        return round(value)
    return value


def make_spec(kind: PartKind, values: Mapping[str, Any], path: str = "spec") -> Any:
    """Return the spec of a kind from typed or plain values; what is left out takes the default.

    Raises FormatError naming every field that is unknown, in a wrong unit, impossible or contradicting.
    """
    hints = typing.get_type_hints(kind.spec_type)
    known = {f.name: f for f in fields(kind.spec_type)}
    problems, made = [], {}
    for name, value in values.items():
        if name not in known:
            problems.append(Problem(f"{path}.{name}", f"a {kind.title.lower()} has no such field; it has {', '.join(known)}"))
            continue
        try:
            made[name] = parse_spec_value(name, value, hints[name]) if isinstance(value, str) else _plain(value, hints[name])
        except BrightError as error:
            problems.append(Problem(f"{path}.{name}", str(error)))
            continue
        low, high = known[name].metadata.get("low"), known[name].metadata.get("high")
        if low is not None and not low <= made[name] <= high:
            problems.append(Problem(f"{path}.{name}", f"{value} is outside {low:g} to {high:g} {shown_unit(name)}".rstrip()))
    if problems:
        raise FormatError(tuple(problems))
    spec = kind.spec_type(**made)
    found = tuple(Problem(f"{path}.{name}", message) for name, message in kind.check_spec(spec))
    if found:
        raise FormatError(found)
    return spec


def _plain(value: Any, hint: Any) -> Any:
    if isinstance(value, bool) != (hint is bool):
        raise ReadingError(f"{value!r} is not a fitting value")
    if hint is float and isinstance(value, (int, float)) and math.isfinite(value):
        return float(value)
    if hint is int and isinstance(value, int):
        return value
    if isinstance(value, list):
        return tuple(tuple(v) if isinstance(v, list) else v for v in value)
    if hint in (bool, str) and isinstance(value, hint):
        return value
    raise ReadingError(f"{value!r} is not a fitting value")


def show_spec_value(value: Any) -> str:
    """Return a spec value as it would be typed."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ", ".join(str(v) for v in value)
    if isinstance(value, float):
        return f"{value:g}" if float(f"{value:g}") == value else repr(value)
    return str(value)
