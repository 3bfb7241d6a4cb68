"""Part descriptions as YAML and CSV: reading with every problem named, writing back the same."""

import csv
import io
import itertools
from collections.abc import Iterable
from dataclasses import dataclass, fields
from functools import cache
from importlib.resources import files

import jsonschema
import yaml

from brightcore.bike.model import Port, Spec
from brightcore.describing.specs import make_spec, show_spec_value
from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import MAX_BYTES, check_format, read_port, schema_problems
from brightcore.formats.bike_writing import plain_port, spec_document
from brightcore.formats.border import check_border
from brightcore.formats.csv_cells import csv_text, plain_cell
from brightcore.formats.plain import Json, JsonObject
from brightcore.formats.schema import PARTS_FORMAT, VERSION, parts_schema
from brightcore.formats.schema_pieces import MOST_PARTS
from brightcore.formats.yaml_text import read_yaml
from brightcore.kinds import REGISTRY

CSV_COLUMNS = ("id", "kind", "name", "note", "spec")


@dataclass(frozen=True, slots=True)
class PartEntry:
    """One part description of a library: what a part of the bike is made from."""

    id: str
    kind: str
    name: str
    spec: Spec
    ports: tuple[Port, ...]
    own_ports: bool = False
    note: str = ""


@cache
def _validator() -> Json:
    return jsonschema.Draft202012Validator(parts_schema(REGISTRY))


def load_parts_yaml(text: str | bytes) -> tuple[PartEntry, ...]:
    """Return the entries of a YAML part file; raises FormatError listing every problem."""
    document = read_yaml(text)
    check_format(document, PARTS_FORMAT)
    problems = schema_problems(_validator(), document)
    if problems:
        raise FormatError(tuple(problems))
    return _entries(document["parts"], lambda i: f"$.parts[{i}]")


def load_parts_csv(text: str | bytes) -> tuple[PartEntry, ...]:
    """Return the entries of a CSV part file (ports are the usual ones); raises FormatError by
    line."""
    if len(text) > MAX_BYTES:
        raise FormatError(
            (Problem("line 1", f"the file is larger than {MAX_BYTES // 1_000_000} MB"),)
        )
    try:
        if isinstance(text, bytes):
            decoded = text.decode("utf-8-sig")
        else:
            decoded = text
        reader = csv.DictReader(io.StringIO(decoded), restkey="more")
        rows = list(itertools.islice(reader, MOST_PARTS + 1))
    except (UnicodeDecodeError, csv.Error) as error:
        raise FormatError((Problem("line 1", f"this is not CSV text: {error}"),)) from None
    if len(rows) > MOST_PARTS:
        raise FormatError(
            (Problem(f"line {MOST_PARTS + 2}", f"more than {MOST_PARTS} parts in one file"),)
        )
    check_border([list(row.values()) for row in rows])
    problems: list[Problem] = []
    raws: list[JsonObject] = []
    for i, row in enumerate(rows):
        missing = []
        for c in ("id", "kind", "name"):
            if not (row.get(c) or "").strip():
                missing.append(c)
        if missing:
            problems.append(
                Problem(
                    f"line {i + 2}",
                    f"{', '.join(missing)} is missing; the columns are {', '.join(CSV_COLUMNS)}",
                )
            )
            continue
        spec = {}
        for piece in (row.get("spec") or "").split(";"):
            name, sign, value = piece.partition("=")
            if piece.strip() and not sign:
                problems.append(Problem(f"line {i + 2}", f"{piece.strip()!r} is not field=value"))
            elif sign:
                spec[name.strip()] = value.strip()
        texts = {
            name: plain_cell((row.get(name) or "").strip())
            for name in ("id", "kind", "name", "note")
        }
        raws.append(texts | {"spec": spec})
    if not rows:
        problems.append(Problem("line 1", f"no rows; the columns are {', '.join(CSV_COLUMNS)}"))
    if problems:
        raise FormatError(tuple(problems))
    shaped = schema_problems(
        _validator(), {"format": PARTS_FORMAT, "version": VERSION, "parts": raws}
    )
    if shaped:
        raise FormatError(
            tuple(Problem(p.path.replace("$.parts", "row"), p.message) for p in shaped)
        )
    return _entries(raws, lambda i: f"line {i + 2}")


def _entries(raws: list[JsonObject], where: Json) -> tuple[PartEntry, ...]:
    problems: list[Problem] = []
    found: list[PartEntry] = []
    seen: set[str] = set()
    for i, raw in enumerate(raws):
        if raw["id"] in seen:
            problems.append(Problem(f"{where(i)}.id", f"{raw['id']!r} is used twice"))
            continue
        seen.add(raw["id"])
        try:
            found.append(make_entry(raw, where(i)))
        except FormatError as error:
            problems.extend(error.problems)
    if problems:
        raise FormatError(tuple(problems))
    return tuple(found)


def make_entry(raw: JsonObject, path: str = "$") -> PartEntry:
    """Return the entry of one description that has passed the schema; raises FormatError."""
    kind = REGISTRY[raw["kind"]]
    spec = make_spec(kind, raw.get("spec") or {}, f"{path}.spec")
    own = bool(raw.get("ports"))
    if own:
        ports = tuple(read_port(p) for p in raw["ports"])
    else:
        ports = kind.ports(spec)
    if not ports:
        raise FormatError(
            (Problem(f"{path}.ports", f"a {kind.title.lower()} needs its ports written out"),)
        )
    ends = set()
    for q in ports:
        for p in q.pins:
            ends.add(f"{q.id}.{p.name}")
    wrong = []
    for pair in getattr(spec, "conductors", ()):
        for end in pair:
            if end not in ends:
                wrong.append(end)
    if wrong:
        raise FormatError((Problem(f"{path}.spec.conductors", f"there is no pin {wrong[0]!r}"),))
    return PartEntry(raw["id"], kind.name, raw["name"], spec, ports, own, raw.get("note", ""))


def entry_document(entry: PartEntry) -> JsonObject:
    """Return an entry as a plain object; ports only where they are its own."""
    found: JsonObject = {"id": entry.id, "kind": entry.kind, "name": entry.name}
    if entry.note:
        found["note"] = entry.note
    found["spec"] = spec_document(entry.spec)
    if entry.own_ports:
        found["ports"] = [plain_port(port) for port in entry.ports]
    return found


def dump_parts_yaml(entries: Iterable[PartEntry]) -> str:
    """Return a YAML part file."""
    document = {
        "format": PARTS_FORMAT,
        "version": VERSION,
        "parts": [entry_document(e) for e in entries],
    }
    return str(yaml.safe_dump(document, allow_unicode=True, sort_keys=False, width=140))


def dump_parts_csv(entries: Iterable[PartEntry]) -> str:
    """Return a CSV part file; own ports are not in it (the YAML file has them)."""
    rows = ((e.id, e.kind, e.name, e.note, _spec_cell(e.spec)) for e in entries)
    return csv_text(CSV_COLUMNS, rows)


def _spec_cell(spec: Spec) -> str:
    """Return a spec as `field=value; field=value`."""
    shown = (f for f in fields(spec) if f.name != "conductors")
    return "; ".join(f"{f.name}={show_spec_value(getattr(spec, f.name))}" for f in shown)


@cache
def generic_entries() -> tuple[PartEntry, ...]:
    """Return the generic entries that ship with the app; they need no maker."""
    return load_parts_yaml(
        files("brightcore.formats").joinpath("generic_parts.yaml").read_text(encoding="utf-8")
    )
