"""Spec values as people write them: `18 AWG`, `0.75 mm²`, `26 in`, `47-559`, `20 mph`, `12.5 Ah`,
`500 W`."""

import math
import re
from collections.abc import Mapping

from brightcore.bike.model import Spec
from brightcore.errors import BrightError, FormatError, Problem, ReadingError
from brightcore.kinds.base import AnyKind, SpecField, spec_fields
from brightcore.physics.gauges import awg_area_mm2
from brightcore.units import parse_in, plain_text

SUFFIX_UNITS = {
    "v": "volt",
    "a": "ampere",
    "w": "watt",
    "wh": "watt_hour",
    "ah": "ampere_hour",
    "ohm": "ohm",
    "m": "metre",
    "mm": "millimetre",
    "mm2": "millimetre ** 2",
    "kg": "kilogram",
    "kmh": "kilometre / hour",
    "c": "degC",
    "min": "minute",
    "s": "second",
    "nm": "newton * metre",
    "rpm": "rpm",
    "deg": "degree",
    "km": "kilometre",
}
SHOWN_UNITS = {
    "ohm": "Ω",
    "mm2": "mm²",
    "kmh": "km/h",
    "c": "°C",
    "nm": "N·m",
    "v": "V",
    "a": "A",
    "w": "W",
    "wh": "Wh",
    "ah": "Ah",
}
_GAUGE = r"(\d{1,2}|0{2,4}|[1-4]/0)"
_AWG = re.compile(
    rf"^#?{_GAUGE}\s*(?:awg|ga|gauge|g)\.?$|^(?:awg|ga|gauge|#)\s*#?{_GAUGE}$", re.IGNORECASE
)


def gauge_of(text: str) -> int | None:
    """Return the gauge number in a text, None where there is none; 0 and less for 1/0, 2/0 …

    >>> [gauge_of(text) for text in ("18 AWG", "awg 4/0", "00 AWG", "12 ga", "0.75 mm²")]
    [18, -3, -1, 12, None]
    """
    match = _AWG.match(plain_text(text))
    if match is None:
        return None
    number = match.group(1) or match.group(2)
    if "/" in number:
        return 1 - int(number[0])
    if len(number) > 1 and set(number) == {"0"}:
        return 1 - len(number)
    return int(number)


def unit_of(field_name: str) -> str:
    """Return the unit suffix of a field name, "" where it has none."""
    last = field_name.rsplit("_", 1)[-1]
    if "_per_" in field_name or field_name.endswith(("_ratio", "_count")):
        return ""
    if last in SUFFIX_UNITS:
        return last
    return ""


def shown_unit(field_name: str) -> str:
    """Return the unit to show beside a field."""
    unit = unit_of(field_name)
    return SHOWN_UNITS.get(unit, unit)


TRUE_WORDS = ("yes", "true", "1", "on", "ja")
FALSE_WORDS = ("no", "false", "0", "off", "")
Value = object
"""A typed spec value: bool, int, float, text or tuple, as its field says."""


def parse_spec_value(field_name: str, text: str, hint: object) -> Value:
    """Return a typed spec value as the field's type and unit; raises ReadingError with what was
    typed."""
    raw = text.strip()
    if hint is bool:
        return _yes_or_no(raw)
    if hint is str:
        return raw
    if hint == tuple[int, ...]:
        return _whole_numbers(raw)
    value = parse_measure(raw, unit_of(field_name))
    if hint is int:
        if value != round(value):
            raise ReadingError(f"{raw!r} is not a whole number")
        return round(value)
    return value


def parse_measure(text: str, unit: str = "") -> float:
    """Return what was typed as a number in a unit of SUFFIX_UNITS, "" for a bare number; raises
    ReadingError."""
    raw = text.strip()
    gauge = gauge_of(raw)
    if gauge is not None and unit == "mm2":
        return round(awg_area_mm2(gauge), 4)
    return parse_in(raw, SUFFIX_UNITS.get(unit, ""))


def _yes_or_no(raw: str) -> bool:
    if raw.lower() in TRUE_WORDS:
        return True
    if raw.lower() in FALSE_WORDS:
        return False
    raise ReadingError(f"{raw!r} is neither yes nor no")


MOST_DIGITS = 9
"""Longer whole numbers are none that a part has."""


def _whole_numbers(raw: str) -> tuple[int, ...]:
    pieces = [piece for piece in re.split(r"[\s,;–-]+", raw) if piece]
    if not pieces or not all(piece.isdigit() for piece in pieces):
        raise ReadingError(f"{raw!r} is not a list of whole numbers such as 11, 13, 15")
    if max(map(len, pieces)) > MOST_DIGITS:
        raise ReadingError(f"{raw[:40]!r} holds a number that is too large")
    return tuple(int(piece) for piece in pieces)


def make_spec(kind: AnyKind, values: Mapping[str, Value], path: str = "spec") -> Spec:
    """Return the spec of a kind from typed or plain values; what is left out takes the default.

    Raises FormatError naming every field that is unknown, in a wrong unit, impossible or
    contradicting.
    """
    known = {item.name: item for item in spec_fields(kind.spec_type)}
    problems: list[Problem] = []
    made: dict[str, Value] = {}
    for name, value in values.items():
        if name not in known:
            words = f"a {kind.title.lower()} has no such field; it has {', '.join(known)}"
            problems.append(Problem(f"{path}.{name}", words))
            continue
        try:
            made[name] = _value(known[name], value)
        except BrightError as error:
            problems.append(Problem(f"{path}.{name}", str(error)))
    if problems:
        raise FormatError(tuple(problems))
    spec: Spec = kind.spec_type(**made)
    found = tuple(Problem(f"{path}.{name}", message) for name, message in kind.check_spec(spec))
    if found:
        raise FormatError(found)
    return spec


def _value(item: SpecField, value: Value) -> Value:
    """Return a value as its field's type, within its limits. Raises ReadingError."""
    if isinstance(value, str):
        made = parse_spec_value(item.name, value, item.hint)
    else:
        made = _plain(value, item.hint)
    if item.low is None or item.high is None or not isinstance(made, int | float):
        return made
    if not item.low <= made <= item.high:
        span = f"{item.low:g} to {item.high:g} {shown_unit(item.name)}".rstrip()
        raise ReadingError(f"{value} is outside {span}")
    return made


def _plain(value: Value, hint: object) -> Value:
    if isinstance(value, bool) != (hint is bool):
        raise ReadingError(f"{value!r} is not a fitting value")
    if hint is float and isinstance(value, int | float) and math.isfinite(value):
        return float(value)
    if hint is int and isinstance(value, int):
        return value
    if isinstance(value, list):
        found = []
        for item in value:
            found.append(tuple(item) if isinstance(item, list) else item)
        return tuple(found)
    if hint in (bool, str) and isinstance(value, bool | str):
        return value
    raise ReadingError(f"{value!r} is not a fitting value")


def show_spec_value(value: Value) -> str:
    """Return a spec value as it would be typed."""
    if isinstance(value, bool):
        if value:
            return "yes"
        return "no"
    if isinstance(value, tuple):
        return ", ".join(str(item) for item in value)
    if isinstance(value, float):
        if float(f"{value:g}") == value:
            return f"{value:g}"
        return repr(value)
    return str(value)
