"""Pages of the library."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.downloads import download
from brightcircuit.common.forms import ImportForm
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import Act, Posted, Unfilled, act_on, status_of
from brightcircuit.common.shown import Context, Shown
from brightcircuit.common.uploads import read_upload
from brightcircuit.library.forms import SpecRow, read_entry, spec_rows
from brightcircuit.library.models import LibraryChange, LibraryPart
from brightcircuit.library.queries import parts
from brightcircuit.library.services import add_entry, change_entry, retire_entry, take_in
from brightcircuit.library.translate import core_entry
from brightcore.bike.roles import ROLES, Role
from brightcore.describing.plugs import show_plugs
from brightcore.errors import FormatError, Problem
from brightcore.formats.part_file import (
    PartEntry,
    dump_parts_csv,
    dump_parts_yaml,
    load_parts_csv,
    load_parts_yaml,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import PartKind

NAME_LENGTH = 120
"""Characters of a name at most, as the column has room."""

KINDS = [(kind.name, kind.title) for kind in REGISTRY]


@dataclass(frozen=True)
class EntryPage(Shown):
    """What one description of the library shows."""

    kind: PartKind[Any]
    row: LibraryPart | None
    errors: dict[str, str]
    rows: list[SpecRow]
    name: str
    note: str
    plugs: str
    changes: Iterable[LibraryChange]
    not_modelled: tuple[str, ...]
    roles: tuple[Role, ...]


def library(request: HttpRequest) -> HttpResponse:
    """Show the descriptions, by kind and words."""
    kind, words = request.GET.get("kind", ""), request.GET.get("q", "").strip()
    retired = request.GET.get("retired") == "1"
    titles = dict(KINDS)
    rows = [{"part": p, "kind": titles.get(p.kind, p.kind)} for p in parts(kind, words, retired)]
    context = {
        "rows": rows,
        "kinds": KINDS,
        "kind": kind,
        "words": words,
        "retired": retired,
        "form": ImportForm(),
    }
    return render(request, "library/list.html", context)


@dataclass(slots=True)
class PartAt:
    """A description of the library, and the page that an act on it leads to."""

    row: LibraryPart
    entry: PartEntry
    leads_to: str


def _copy(posted: Posted, at: PartAt) -> str:
    copy = replace(at.entry, id="", name=f"{at.entry.name} (copy)"[:NAME_LENGTH])
    made = add_entry(actor=posted.who, entry=copy, what=f"Copied from {at.entry.name}")
    at.leads_to = made.slug
    return "Copied. Change what differs."


def _retire(posted: Posted, at: PartAt) -> str:
    retire_entry(actor=posted.who, row=at.row, retired=True)
    return "Retired: it is no longer offered."


def _bring_back(posted: Posted, at: PartAt) -> str:
    retire_entry(actor=posted.who, row=at.row, retired=False)
    return "Offered again."


def _keep(posted: Posted, at: PartAt) -> str:
    changed, errors = read_entry(at.row.kind, posted.request.POST, at.entry)
    if changed is None:
        raise Unfilled(errors)
    version = whole_number(posted.text("version"), -1)
    change_entry(actor=posted.who, row=at.row, entry=changed, version=version)
    return "Saved. Bikes that have this part keep what they have."


ACTS: dict[str, Act[PartAt]] = {
    "copy": _copy,
    "retire": _retire,
    "bring-back": _bring_back,
    "keep": _keep,
}


def part_page(request: HttpRequest, slug: str) -> HttpResponse:
    """Show, change, copy or retire one description."""
    row = get_object_or_404(LibraryPart, slug=slug)
    entry = core_entry(row)
    errors: dict[str, str] = {}
    if request.method == "POST":
        posted = Posted(request)
        at = PartAt(row, entry, slug)
        try:
            messages.success(request, act_on(ACTS, posted.text("action"), posted, at))
            return redirect("library-part", at.leads_to)
        except Unfilled as unfilled:
            errors = unfilled.errors
        except ValidationError as error:
            errors = {"name": error.messages[0]}
            row.refresh_from_db()
    return _form(request, row.kind, entry, row, errors)


def part_new(request: HttpRequest) -> HttpResponse:
    """Describe a new part of a kind."""
    kind_name = request.POST.get("kind") or request.GET.get("kind", "")
    if kind_name not in REGISTRY.names():
        return render(request, "library/new.html", {"kinds": KINDS})
    errors: dict[str, str] = {}
    if request.method == "POST":
        entry, errors = read_entry(kind_name, request.POST, None)
        if entry is not None:
            made = add_entry(actor=actor(request), entry=entry)
            messages.success(request, f"{made.name} is in the library.")
            return redirect("library-part", made.slug)
    return _form(request, kind_name, None, None, errors)


def _form(
    request: HttpRequest,
    kind_name: str,
    entry: PartEntry | None,
    row: LibraryPart | None,
    errors: dict[str, str],
) -> HttpResponse:
    kind = REGISTRY[kind_name]
    spec = entry.spec if entry else kind.spec_type()
    typed = request.POST if errors else None
    ports = entry.ports if entry else kind.ports(spec)
    context: Context = EntryPage(
        kind=kind,
        row=row,
        errors=errors,
        rows=spec_rows(kind, spec, typed, errors),
        name=typed.get("name", "") if typed else entry.name if entry else "",
        note=typed.get("note", "") if typed else entry.note if entry else "",
        plugs=typed.get("plugs", "") if typed else show_plugs(ports) if entry or not ports else "",
        changes=row.changes.all()[:20] if row else [],
        not_modelled=kind.not_modelled,
        roles=ROLES,
    ).context()
    return render(request, "library/part.html", context, status=status_of(errors))


def take_in_file(request: HttpRequest) -> HttpResponse:
    """Take a YAML or CSV part file in, or say everything that is wrong with it."""
    form = ImportForm(request.POST or None, request.FILES or None)
    problems: tuple[Problem, ...] = ()
    if request.method == "POST" and form.is_valid():
        upload = form.cleaned_data["file"]
        try:
            text = read_upload(upload)
            if str(upload.name).lower().endswith(".csv"):
                entries = load_parts_csv(text)
            else:
                entries = load_parts_yaml(text)
            done = take_in(actor=actor(request), entries=entries)
            messages.success(
                request,
                (
                    f"{done.new} taken in, {done.here} were here already, {done.renamed} of them "
                    "under a new id."
                ),
            )
            return redirect("library")
        except FormatError as error:
            problems = error.problems
    return render(
        request,
        "library/import.html",
        {"form": form, "problems": problems},
        status=status_of(problems),
    )


def library_file(request: HttpRequest, kind: str) -> HttpResponse:
    """Download the library as YAML or CSV."""
    entries = [core_entry(p) for p in parts()]
    if kind == "yaml":
        return download(dump_parts_yaml(entries), "application/yaml", "parts.yaml")
    if kind == "csv":
        return download(dump_parts_csv(entries), "text/csv", "parts.csv")
    raise Http404("There is no such file.")
