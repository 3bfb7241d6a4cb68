"""Spec forms of any kind: one text field per value, typed with the unit people use."""

from collections.abc import Mapping
from dataclasses import dataclass

from brightcore.bike.model import TOLD, USUAL, WHENCE, Part, Spec
from brightcore.describing.labels import field_label
from brightcore.describing.plugs import parse_plugs, show_plugs
from brightcore.describing.specs import make_spec, show_spec_value, shown_unit
from brightcore.errors import FormatError, Problem
from brightcore.formats.part_file import PartEntry
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import AnyKind, SpecField, spec_fields

HIDDEN = ("conductors",)
YES_NO = (("yes", "yes"), ("no", "no"))


@dataclass(frozen=True, slots=True)
class SpecRow:
    """One field of a spec form. `whence`: where its value comes from on this part, "" on a form of
    the library."""

    name: str
    label: str
    unit: str
    help: str
    value: str
    error: str
    choices: tuple[tuple[str, str], ...] = ()
    whence: str = ""


def spec_rows(
    kind: AnyKind,
    spec: Spec,
    typed: Mapping[str, str] | None = None,
    errors: Mapping[str, str] | None = None,
    part: Part | None = None,
) -> list[SpecRow]:
    """Return the rows of a spec form, with what was typed and what is wrong with it; `part`: whose
    values they are."""
    rows = []
    for item in spec_fields(kind.spec_type):
        if item.name in HIDDEN:
            continue
        if typed is None:
            value = show_spec_value(getattr(spec, item.name))
        else:
            value = typed.get(f"spec-{item.name}", "")
        rows.append(
            SpecRow(
                name=item.name,
                label=field_label(item.name, item.label),
                unit=shown_unit(item.name),
                help=_help(item),
                value=value,
                error=(errors or {}).get(item.name, ""),
                choices=YES_NO if item.hint is bool else item.choices,
                whence=_whence(item, part, typed),
            )
        )
    return rows


def _whence(item: SpecField, part: Part | None, typed: Mapping[str, str] | None) -> str:
    """Return where a number on a part comes from; what is no number is seen, not read."""
    if part is None or item.hint not in (int, float):
        return ""
    own = part.whence(item.name)
    if typed is not None:
        return typed.get(f"whence-{item.name}", own)
    return own


def read_known(kind: AnyKind, data: Mapping[str, str], part: Part, spec: Spec) -> dict[str, str]:
    """Return where the values of a posted form come from.

    A number that was typed anew was told, unless the form says that it was read on the label.
    """
    known = dict(part.known)
    for item in spec_fields(kind.spec_type):
        said = data.get(f"whence-{item.name}", "")
        if said in WHENCE:
            known[item.name] = said
        differs = getattr(part.spec, item.name, None) != getattr(spec, item.name)
        if differs and item.hint in (int, float) and known.get(item.name, USUAL) == USUAL:
            known[item.name] = TOLD
    return known


def _help(item: SpecField) -> str:
    """Return what a field means, its limits, and which station will read it where none does yet."""
    pieces = [item.doc]
    if item.low is not None:
        pieces.append(f"{item.low:g} to {item.high:g}")
    if item.awaits:
        pieces.append(f"kept for {item.awaits}, to come")
    return ", ".join(piece for piece in pieces if piece)


def read_spec(
    kind: AnyKind, data: Mapping[str, str], keep: Spec | None = None
) -> tuple[Spec | None, dict[str, str]]:
    """Return (spec, errors by field) of a posted spec form; hidden fields are kept from `keep`."""
    names = [item.name for item in spec_fields(kind.spec_type)]
    values: dict[str, object] = {n: data[f"spec-{n}"] for n in names if f"spec-{n}" in data}
    if keep is not None:
        for n in names:
            if n in HIDDEN:
                values[n] = [list(pair) for pair in getattr(keep, n)]
    try:
        return make_spec(kind, values), {}
    except FormatError as error:
        return None, {p.path.rsplit(".", 1)[-1]: p.message for p in error.problems}


def read_entry(
    kind_name: str, data: Mapping[str, str], known: PartEntry | None
) -> tuple[PartEntry | None, dict[str, str]]:
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
        ends = set()
        for q in ports:
            for p in q.pins:
                ends.add(f"{q.id}.{p.name}")
        lost = []
        for pair in getattr(spec, "conductors", ()):
            for end in pair:
                if end not in ends:
                    lost.append(end)
        if lost:
            raise FormatError(
                (Problem("plugs", f"a conductor ends at {lost[0]}, which is no pin any more"),)
            )
    except FormatError as error:
        errors["plugs"] = "; ".join(str(p) for p in error.problems)
    if errors or spec is None:
        return None, errors
    own = show_plugs(ports) != show_plugs(usual)
    return PartEntry(
        known.id if known else "",
        kind.name,
        name,
        spec,
        ports if own else usual,
        own,
        data.get("note", "").strip()[:2000],
    ), {}
