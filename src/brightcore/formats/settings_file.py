"""Settings of a device as JSON, YAML or CSV: in with every problem named by place, out in menu
order."""

from collections.abc import Mapping

from brightcore.errors import BrightError, FormatError, Problem
from brightcore.formats.bike_file import parse_json
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.csv_cells import csv_rows, csv_text
from brightcore.formats.yaml_text import read_yaml
from brightcore.programming.profile import Profile

SETTINGS_FORMAT = "bright-circuit/settings"
MAX_BYTES = 200_000
COLUMNS = ("code", "name", "value", "unit")


def read_settings(content: bytes, name: str, profile: Profile) -> dict[str, float]:
    """Return values by code, in shown units; by its name a file is JSON, YAML or CSV.

    Raises FormatError naming every unknown code, wrong unit and value out of range by its place;
    then nothing of the file is to be used.
    """
    if len(content) > MAX_BYTES:
        raise FormatError((Problem("$", f"the file is larger than {MAX_BYTES // 1000} kB"),))
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError((Problem("$", "this is not UTF-8 text"),)) from None
    if name.lower().endswith(".csv"):
        rows = _csv_rows(text)
    else:
        rows = _tree_rows(text, name)
    found: dict[str, float] = {}
    problems = []
    for place, code, value, unit in rows:
        try:
            item = profile.parameter(code)
        except BrightError:
            problems.append(Problem(place, f"{profile.title} has no parameter {code!r}"))
            continue
        if unit and unit != item.unit:
            problems.append(
                Problem(place, f"{code} is in {item.unit or 'plain numbers'}, not in {unit}")
            )
            continue
        if code in found:
            problems.append(Problem(place, f"{code} is there twice"))
            continue
        try:
            found[code] = item.read(value)
        except BrightError as error:
            problems.append(Problem(place, str(error)))
    if problems:
        raise FormatError(tuple(problems))
    return found


Cells = list[tuple[str, str, str, str]]


def _csv_rows(text: str) -> Cells:
    rows = csv_rows(text)
    head = [cell.strip().lower() for cell in rows[0]] if rows else []
    if "code" not in head or "value" not in head:
        raise FormatError(
            (Problem("line 1", "the first line must name the columns code and value"),)
        )
    code, value = head.index("code"), head.index("value")
    unit = head.index("unit") if "unit" in head else -1
    found = []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) <= max(code, value):
            raise FormatError((Problem(f"line {number}", "is too short"),))
        told = row[unit].strip() if 0 <= unit < len(row) else ""
        found.append((f"line {number}", row[code].strip(), row[value].strip(), told))
    return found


def _tree_rows(text: str, name: str) -> Cells:
    if name.lower().endswith((".yaml", ".yml")):
        document = read_yaml(text)
    else:
        document = parse_json(text)
    if not isinstance(document, dict) or document.get("format") != SETTINGS_FORMAT:
        raise FormatError((Problem("$.format", f"wanted {SETTINGS_FORMAT!r}"),))
    if document.get("version") != 1:
        raise FormatError(
            (Problem("$.version", f"is {document.get('version')!r}; this copy reads 1"),)
        )
    values = document.get("values")
    if not isinstance(values, dict):
        raise FormatError((Problem("$.values", "must be an object of code and value"),))
    found = []
    for code, value in values.items():
        found.append((f"$.values.{code}", str(code), str(value), ""))
    return found


def settings_document(profile: Profile, values: Mapping[str, float]) -> str:
    """Return the settings of a device as JSON text, which is YAML as well."""
    ordered = {}
    for p in profile.parameters:
        if p.code in values:
            ordered[p.code] = values[p.code]
    return canonical_json(
        {"format": SETTINGS_FORMAT, "version": 1, "profile": profile.id, "values": ordered}
    )


def settings_csv(profile: Profile, values: Mapping[str, float]) -> str:
    """Return the settings of a device as CSV: code, name, value, unit."""
    rows = []
    for p in profile.parameters:
        if p.code in values:
            rows.append((p.code, p.name, p.shown(values[p.code]), p.unit))
    return csv_text(COLUMNS, rows)
