"""Spec forms of any kind: one text field per value, typed with the unit people use."""

import typing
from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

from brightcore.bike.kind import PartKind
from brightcore.describing.plugs import parse_plugs, show_plugs
from brightcore.describing.specs import make_spec, show_spec_value, shown_unit
from brightcore.errors import FormatError, Problem
from brightcore.formats.part_file import PartEntry
from brightcore.kinds import REGISTRY

HIDDEN = ("conductors",)


@dataclass(frozen=True, slots=True)
class SpecRow:
    """One field of a spec form."""

    name: str
    label: str
    unit: str
    help: str
    value: str
    error: str
    choices: tuple[tuple[str, str], ...] = ()


def spec_rows(kind: PartKind, spec: Any, typed: Mapping[str, str] | None = None, errors: Mapping[str, str] | None = None) -> list[SpecRow]:
    """Return the rows of a spec form, with what was typed and what is wrong with it."""
    hints = typing.get_type_hints(kind.spec_type)
    rows = []
    for f in fields(kind.spec_type):
        if f.name in HIDDEN:
            continue
        value = typed.get(f"spec-{f.name}", "") if typed is not None else show_spec_value(getattr(spec, f.name))
        choices: tuple[tuple[str, str], ...] = (("yes", "yes"), ("no", "no")) if hints[f.name] is bool else ()
        if f.name == "chemistry":
            choices = (("nickel", "nickel-rich lithium"), ("lfp", "LFP"), ("pouch", "soft pouch"))
        limits = f.metadata
        span = f", {limits['low']:g} to {limits['high']:g}" if limits.get("low") is not None else ""
        label = f.name.replace("_", " ").replace("bms", "BMS")
        unit = shown_unit(f.name)
        if unit:
            label = label.rsplit(" ", 1)[0]
        rows.append(SpecRow(f.name, label, unit, limits.get("doc", "") + span, value, (errors or {}).get(f.name, ""), choices))
    return rows


def read_spec(kind: PartKind, data: Mapping[str, str], keep: Any = None) -> tuple[Any, dict[str, str]]:
    """Return (spec, errors by field) of a posted spec form; hidden fields are kept from `keep`."""
    names = [f.name for f in fields(kind.spec_type)]
    values: dict[str, Any] = {n: data[f"spec-{n}"] for n in names if f"spec-{n}" in data}
    if keep is not None:
        values |= {n: [list(pair) for pair in getattr(keep, n)] for n in names if n in HIDDEN}
    try:
        return make_spec(kind, values), {}
    except FormatError as error:
        return None, {p.path.rsplit(".", 1)[-1]: p.message for p in error.problems}


def read_entry(kind_name: str, data: Mapping[str, str], known: PartEntry | None) -> tuple[PartEntry | None, dict[str, str]]:
    """Return (entry, errors) of a posted library form."""
    kind = REGISTRY[kind_name]
    spec, errors = read_spec(kind, data, known.spec if known else None)
    name = data.get("name", "").strip()
    if not name or len(name) > 120:
        errors["name"] = "Give it a name of up to 120 characters."
    usual = kind.ports(spec) if spec is not None else ()
    text = data.get("plugs", "")
    ports = usual
    try:
        if text.strip():
            ports = parse_plugs(text, known.ports if known else usual)
        if not ports and spec is not None:
            raise FormatError((Problem("plugs", "write its plugs out, one a line"),))
        ends = {f"{q.id}.{p.name}" for q in ports for p in q.pins}
        lost = [end for pair in getattr(spec, "conductors", ()) for end in pair if end not in ends]
        if lost:
            raise FormatError((Problem("plugs", f"a conductor ends at {lost[0]}, which is no pin any more"),))
    except FormatError as error:
        errors["plugs"] = "; ".join(str(p) for p in error.problems)
    if errors:
        return None, errors
    own = show_plugs(ports) != show_plugs(usual)
    return PartEntry(
        known.id if known else "", kind.name, name, spec, ports if own else usual, own, data.get("note", "").strip()[:2000]
    ), {}
