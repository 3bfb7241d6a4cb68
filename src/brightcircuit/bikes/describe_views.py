"""Pages on which a bike is described: pattern, parts, joins, swaps, comparing, label."""

import uuid
from dataclasses import dataclass, replace
from typing import Any

import segno
from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from brightcircuit.bikes.describe import Edited, Refused, edit, edit_spec
from brightcircuit.bikes.drawings import PartCard, bare_line, drawing_of, part_card
from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.bikes.queries import latest_revision, offered
from brightcircuit.bikes.services import edit_bike, edit_notes, set_contact, store_bike
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import Posted, as_typed, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.library.forms import SpecRow, spec_rows
from brightcircuit.library.models import StockItem
from brightcircuit.library.queries import on_shelf
from brightcircuit.library.queries import parts as library_parts
from brightcircuit.shop.first_run import is_own_name
from brightcore.bike.model import MEASURED, PEDALS, SET, WHENCE, Part, Spec
from brightcore.describing.compare import compare
from brightcore.describing.join_words import free_ports, join_words
from brightcore.describing.labels import field_label
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.specs import show_spec_value, shown_unit
from brightcore.errors import BrightError, FormatError
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import PartKind

SUMMARY_FIELDS = 4


@dataclass(frozen=True)
class DescribePage(Shown):
    """What describing a bike shows."""

    bike: Bike
    revision: Revision
    line: str
    info: dict[str, str]
    pedals: tuple[tuple[str, str], ...]
    rows: list[dict[str, object]]
    joins: list[dict[str, object]]
    errors: dict[str, str]
    free: tuple[tuple[str, str], ...]
    notes: list[str]
    shelf: list[StockItem]
    library: list[tuple[str, list[tuple[str, str]]]]
    typed: dict[str, str]


@dataclass(frozen=True)
class PartPage(Shown):
    """What describing one part shows."""

    bike: Bike
    revision: Revision
    part: Part[Spec]
    kind: PartKind[Any]
    errors: dict[str, str]
    name: str
    rows: list[SpecRow]
    library: list[tuple[str, list[tuple[str, str]]]]
    all_library: list[tuple[str, list[tuple[str, str]]]]
    card: PartCard
    mark: str
    shelf: list[StockItem]
    whence: list[tuple[str, str]]


def new_bike(request: HttpRequest) -> HttpResponse:
    """Begin a description from a pattern or from another bike."""
    errors: dict[str, str] = {}
    if request.method == "POST":
        label, start = request.POST.get("label", "").strip()[:120], request.POST.get("start", "")
        if not label:
            errors["label"] = "Give the bike a name: what the shop calls it."
        if not start:
            errors["start"] = "Choose what it is most like."
        if not errors:
            try:
                core = _start(start, label)
                revision = store_bike(actor=actor(request), bike=core).revision
                return redirect("describe", revision.bike.uuid)
            except BrightError as error:
                errors["start"] = str(error)
    patterns = []
    for k, (title, make) in PATTERNS.items():
        patterns.append({"id": k, "title": title, "text": (make.__doc__ or "").strip()})
    if "copy" in request.GET:
        copied = f"bike:{request.GET['copy']}"
    else:
        copied = ""
    begun = request.POST.get("start", "") or copied
    context = {
        "patterns": patterns,
        "bikes": [bike for bike, _ in offered(chosen=begun.removeprefix("bike:"))],
        "errors": errors,
        "label": request.POST.get("label", ""),
        "start": begun,
    }
    return render(request, "bikes/new.html", context, status=status_of(errors))


def _start(start: str, label: str) -> Any:
    kind, _, name = start.partition(":")
    if kind == "pattern":
        return make_pattern(name, label)
    try:
        source = Bike.objects.get(uuid=uuid.UUID(name))
    except (ValueError, Bike.DoesNotExist):
        raise Http404("There is no such bike.") from None
    core = core_bike(latest_revision(source))
    info = replace(core.info, label=label, frame_number="")
    return replace(core, uuid=str(uuid.uuid4()), info=info, measured=())


def describe(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Show and change what a bike is made of; every change adds a revision."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    errors: dict[str, str] = {}
    if request.method == "POST":
        try:
            done = edit(
                core_bike(latest_revision(bike)), request.POST.get("action", ""), request.POST
            )
            _keep(request, bike, done)
            return redirect("describe", bike.uuid)
        except Refused as error:
            errors = error.errors
        except (ValidationError, FormatError) as error:
            errors = {
                "action": error.messages[0] if isinstance(error, ValidationError) else str(error)
            }
    return _describe_page(request, bike, errors)


def _keep(request: HttpRequest, bike: Bike, done: Edited) -> None:
    base = request.POST.get("base", "")
    edit_bike(
        actor=actor(request),
        bike=bike,
        core=done.bike,
        base=whole_number(base, 0),
        what=done.what,
        from_shelf=request.POST.get("stock", ""),
    )
    messages.success(request, f"{done.what}.")
    for lost in done.lost:
        messages.warning(request, f"No longer connected: {lost}. Connect it again below.")


def _describe_page(request: HttpRequest, bike: Bike, errors: dict[str, str]) -> HttpResponse:
    revision = latest_revision(bike)
    core = core_bike(revision)
    typed = as_typed(request, errors)
    info = {}
    for name in (
        "label",
        "description",
        "frame_number",
        "bike_mass_kg",
        "load_mass_kg",
        "place",
        "driven_wheel",
        "pedals",
        "speed_limit_kmh",
    ):
        info[name] = typed.get(name, show_spec_value(getattr(core.info, name)))
    info["tyre"] = typed.get("tyre", f"{core.info.tyre_width_mm:g}-{core.info.bead_seat_mm:g}")
    rows = []
    for p in core.parts:
        rows.append(
            {
                "part": p,
                "kind": REGISTRY[p.kind].title,
                "summary": _summary(p.spec),
                "loose": not any(core.joins_of(p.id)),
            }
        )
    joins = []
    for j in core.joins:
        joins.append(
            {
                "id": j.id,
                "words": join_words(core, j),
                "pins": len(j.pairs),
                "wire": f"{j.wire.area_mm2:g} mm², {j.wire.length_m:g} m"
                if j.wire.area_mm2
                else "",
            }
        )
    context = DescribePage(
        bike=bike,
        revision=revision,
        line=bare_line(core),
        info=info,
        pedals=tuple(PEDALS.items()),
        rows=rows,
        joins=joins,
        errors=errors,
        free=free_ports(core),
        notes=edit_notes(bike),
        shelf=_shelf(bike),
        library=_library_choices(),
        typed=typed,
    ).context()
    return render(request, "bikes/describe.html", context, status=status_of(errors))


def _small(words: str) -> str:
    """Return a label as it stands within a line: BMS and the like keep their capitals."""
    if words[:2].isupper():
        return words
    return words[:1].lower() + words[1:]


def _summary(spec: Any) -> str:
    names = [n for n in spec.__dataclass_fields__ if n != "conductors"][:SUMMARY_FIELDS]
    return ", ".join(
        (
            f"{_small(field_label(n, spec.__dataclass_fields__[n].metadata.get('label', '')))} "
            f"{show_spec_value(getattr(spec, n))} {shown_unit(n)}"
        ).rstrip()
        for n in names
    )


def _library_choices(kind: str = "") -> list[tuple[str, list[tuple[str, str]]]]:
    found: dict[str, list[tuple[str, str]]] = {}
    for p in library_parts(kind):
        found.setdefault(
            REGISTRY[p.kind].title if p.kind in REGISTRY.names() else p.kind, []
        ).append((p.slug, p.name))
    return list(found.items())


def _shelf(bike: Bike) -> list[StockItem]:
    """Return what is on the shelf, where a job is open whose bill it can go on."""
    if edit_notes(bike):
        return list(on_shelf())
    return []


def describe_part(request: HttpRequest, bike_uuid: uuid.UUID, part_id: str) -> HttpResponse:
    """Show and change one part of a bike, or swap it for one of the library."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    revision = latest_revision(bike)
    core = core_bike(revision)
    try:
        part = core.part(part_id)
    except BrightError:
        raise Http404("There is no such part on this bike.") from None
    errors: dict[str, str] = {}
    if request.method == "POST":
        try:
            swap = request.POST.get("action") == "swap"
            if swap:
                done = edit(core, "swap", {**request.POST.dict(), "part": part_id})
            else:
                done = edit_spec(core, part_id, request.POST)
            _keep(request, bike, done)
            return redirect("describe", bike.uuid)
        except Refused as error:
            errors = error.errors
        except (ValidationError, FormatError) as error:
            if request.POST.get("action") == "swap":
                place = "swap"
            else:
                place = "name"
            errors = {
                place: error.messages[0] if isinstance(error, ValidationError) else str(error)
            }
    kind = REGISTRY[part.kind]
    if errors and request.POST.get("action") != "swap":
        typed = request.POST
    else:
        typed = None
    context = PartPage(
        bike=bike,
        revision=revision,
        part=part,
        kind=kind,
        errors=errors,
        name=typed.get("name", "") if typed else part.name,
        rows=spec_rows(kind, part.spec, typed, errors, part),
        mark=typed.get("mark", "") if typed else part.mark,
        shelf=_shelf(bike),
        whence=[(key, words) for key, words in WHENCE.items() if key not in (MEASURED, SET)],
        library=_library_choices(part.kind),
        all_library=_library_choices(),
        card=part_card(core, drawing_of(core).circuit.nets, part),
    ).context()
    return render(request, "bikes/part.html", context, status=status_of(errors))


def compare_page(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Show what two revisions of a bike differ in."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    revisions = list(bike.revisions.select_related("created_by"))
    numbers = [r.number for r in revisions]

    def chosen(name: str, default: int) -> Revision:
        text = request.GET.get(name, "")
        if whole_number(text, -1) in numbers:
            number = whole_number(text, -1)
        else:
            number = default
        return next(r for r in revisions if r.number == number)

    old, new = chosen("old", numbers[min(1, len(numbers) - 1)]), chosen("new", numbers[0])
    lines = compare(core_bike(old), core_bike(new), REGISTRY)
    return render(
        request,
        "bikes/compare.html",
        {"bike": bike, "revisions": revisions, "old": old, "new": new, "lines": lines},
    )


def label(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Show the label to print: name, frame number and a QR code that opens the bike's page."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    address = request.build_absolute_uri(reverse("bike", args=(bike.uuid,)))
    code = segno.make(address, error="m").svg_inline(scale=5, dark="#17202e", omitsize=True)
    context = {
        "bike": bike,
        "code": code,
        "address": address,
        "only_here": is_own_name(request.get_host()),
    }
    return render(request, "bikes/label.html", context)


@require_POST
def contact(request: HttpRequest, bike_uuid: uuid.UUID) -> HttpResponse:
    """Keep or erase how to reach the rider."""
    bike = get_object_or_404(Bike, uuid=bike_uuid)
    posted = Posted(request)
    if posted.text("action") == "erase":
        set_contact(actor=posted.who, bike=bike, name="", reach="", note="")
        messages.success(request, "Erased.")
    else:
        set_contact(
            actor=posted.who,
            bike=bike,
            name=posted.text("name")[:120],
            reach=posted.text("reach")[:200],
            note=posted.text("note")[:500],
        )
        messages.success(request, "Saved, apart from the bike and out of every export.")
    return redirect("bike", bike.uuid)
