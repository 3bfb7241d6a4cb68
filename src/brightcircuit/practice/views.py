"""Practice: choosing a case, the bench, the debrief."""

import uuid
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone

from brightcircuit.bikes.drawings import drawing_of
from brightcircuit.bikes.models import Bike
from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import Posted, as_typed, status_of
from brightcircuit.common.shown import Context, Shown
from brightcircuit.practice import queries, services
from brightcircuit.practice.models import Round
from brightcircuit.practice.translate import (
    OF_SHOP,
    case_of,
    read_debrief,
    shipped,
    state_of,
)
from brightcircuit.practice.working import progress_of
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike as CoreBike
from brightcore.circuit.conditions import describe
from brightcore.practice.acts import ACTS, Play
from brightcore.practice.graded import GUIDED, graded
from brightcore.practice.guided import HINTS, hint_of
from brightcore.practice.play import play_of
from brightcore.practice.sorts import SORTS
from brightcore.practice.state import METER_MODES, State

MOST_BIKES = 60
OWN_PLACE = ("leads", "measure", "bridge", "repair")
"""Acts that the page shows at a place of their own."""

AT_METER = ("leads", "measure", "bridge", "hold")
"""Acts after which the page comes back to the meter."""

Errors = dict[str, list[str]]


OPEN_GROUPS = 2
"""Groups of acts that are open from the start: how the bike stands, and looking at it."""


@dataclass(frozen=True, slots=True)
class Button:
    """One act as a button: what is posted, and its words."""

    value: str
    words: str


@dataclass(frozen=True, slots=True)
class Group:
    """Buttons under one heading; `name` is its place on the page."""

    name: str
    title: str
    parts: list[tuple[str, list[Button]]]
    open: bool

    @property
    def count(self) -> int:
        """How many buttons there are."""
        return sum(len(buttons) for _, buttons in self.parts)


def home(request: HttpRequest) -> HttpResponse:
    """Show what there is to practise, and begin a case."""
    person, errors = actor(request), Errors()
    if request.method == "POST":
        try:
            row = _begin(request, person)
            return redirect("practice-round", row.uuid)
        except ValidationError as error:
            if hasattr(error, "error_dict"):
                errors = error.message_dict
            else:
                errors = {"": error.messages}
    today = timezone.localdate()
    rounds = queries.rounds_of(person)
    context = {
        "bikes": shipped().items(),
        "own": [] if person.is_learner else _shop_bikes(),
        "sorts": SORTS,
        "graded": queries.graded_of(rounds),
        "guided": GUIDED.key,
        "guided_done": any(row.graded == GUIDED.key and row.ended for row in rounds),
        "going": [row for row in rounds if not row.ended][:6],
        "due": [row for row in queries.topics_of(person, today) if row.due],
        "homework": queries.homework_of(person, today),
        "typed": as_typed(request, errors),
        "errors": errors,
    }
    return render(request, "practice/home.html", context, status=status_of(errors))


def _shop_bikes() -> list[tuple[str, str]]:
    """Return (key, label) of the bikes of the shop."""
    bikes = Bike.objects.order_by("label")[:MOST_BIKES]
    return [(f"{OF_SHOP}{bike.uuid.hex}", bike.label) for bike in bikes]


def _begin(request: HttpRequest, person: Person) -> Round:
    """Begin a round: a graded case, one by its code, or one that is drawn for a bike."""
    posted = Posted(request)
    if posted.has("graded"):
        return services.begin_graded(actor=person, key=posted.text("graded"))
    if posted.text("do") == "code":
        return services.begin_by_code(actor=person, text=posted.text("code"))
    return services.begin(actor=person, bike=posted.text("bike"), sort=posted.text("sort"))


def _own(request: HttpRequest, round_uuid: uuid.UUID) -> Round:
    """Return a round of who asks; a shop lead may look at those of others."""
    return get_object_or_404(queries.visible_rounds(actor(request)), uuid=round_uuid)


def bench_page(request: HttpRequest, round_uuid: uuid.UUID) -> HttpResponse:
    """Show the bench and do one act."""
    row, error = _own(request, round_uuid), ""
    if row.ended:
        return redirect("practice-debrief", row.uuid)
    if request.method == "POST":
        try:
            return redirect(_act(request, row))
        except ValidationError as refused:
            error = refused.messages[0]
            row.refresh_from_db()
    play, state = play_of(case_of(row)), state_of(row)
    picked = request.POST.get("plug") or request.GET.get("plug") or (state.red.split(".")[0])
    context = {
        "row": row,
        "state": state,
        "stands": describe(play.circuit, state.condition),
        "groups": list(groups_of(play, state)),
        "repairs": next(_parts(act, play, state) for act in ACTS if act.key == "repair"),
        "causes": sorted({r.root_cause for r in play.engine.hypotheses.repairs if r.root_cause}),
        "log": list(reversed(row.acts)),
        "error": error,
        "hint": hint_of(state, _keys(row)) if row.graded == GUIDED.key else None,
        "hints": len(HINTS),
        **_meter(play, state, picked).context(),
        "line": _line(play, state, row),
        "bike": play.bike,
    }
    return render(request, "practice/bench.html", context, status=status_of(error))


def _keys(row: Round) -> list[tuple[str, str]]:
    return [(raw["key"], raw["said"]) for raw in row.acts]


def groups_of(play: Play, state: State) -> Iterator[Group]:
    """Yield the acts that can be done now, by their heading."""
    found: dict[str, list[tuple[str, list[Button]]]] = {}
    for act in ACTS:
        if act.key not in OWN_PLACE:
            found.setdefault(act.group, []).extend(_parts(act, play, state))
    for n, (title, parts) in enumerate(found.items()):
        if parts:
            yield Group(f"acts-{n}", title, parts, n < OPEN_GROUPS)


def _parts(act: Any, play: Play, state: State) -> list[tuple[str, list[Button]]]:
    """Return the ways to do an act as (heading, buttons)."""
    found: dict[str, list[Button]] = {}
    for choice in act.choices(play, state):
        value = "|".join([act.key, *(f"{name}={said}" for name, said in choice.said)])
        found.setdefault(choice.group, []).append(Button(value, choice.words))
    return list(found.items())


def _line(play: Play, state: State, row: Round) -> str:
    """Return the Line of the bike, its leads marked, each part leading to its pins."""
    drawing = drawing_of(play.bike)
    here = reverse("practice-round", args=(row.uuid,))
    links = {}
    for shape in drawing.layout.shapes:
        if shape.id.startswith("part:"):
            links[shape.id] = f"{here}?plug={shape.id.split(':')[1]}#meter"
    return drawing.line(drawing.lights(None), state.red, state.black, links)


@dataclass(frozen=True, slots=True)
class PinRow:
    """A pin and the lead that stands at it."""

    name: str
    number: int
    words: str
    lead: str


@dataclass(frozen=True, slots=True)
class PlugRow:
    """A plug with its pins: whether it is parted, and whether it is shown open."""

    title: str
    pins: list[PinRow]
    apart: bool
    open: bool


@dataclass(frozen=True)
class MeterCard(Shown):
    """What the meter shows, and the pins of the part that was picked for its leads."""

    modes: list[tuple[str, str, bool]]
    red: str
    black: str
    red_at: str
    black_at: str
    ready: bool
    parts: list[tuple[str, str]]
    picked: str
    plugs: list[PlugRow]


def _meter(play: Play, state: State, picked: str) -> MeterCard:
    """Return what the meter shows, and the pins of the part that was picked for its leads."""
    nets = play.circuit.nets
    parts = [(part.id, part.name) for part in play.bike.parts if part.ports]
    known = dict(parts)
    picked = picked if picked in known else parts[0][0]
    return MeterCard(
        modes=[(key, words, key == state.mode) for key, words in METER_MODES.items()],
        red=nets.title(state.red) if state.red else "",
        black=nets.title(state.black) if state.black else "",
        red_at=_place(play.bike, state.red),
        black_at=_place(play.bike, state.black),
        ready=bool(state.red and state.black and state.red != state.black),
        parts=parts,
        picked=picked,
        plugs=_plugs(play, state, picked),
    )


def _place(bike: CoreBike, pin: str) -> str:
    """Return the plug of a pin in words, "" for none."""
    if not pin:
        return ""
    part, port, _ = bike.pin(pin)
    return f"{part.name}, {port.label or port.id}"


def _plugs(play: Play, state: State, picked: str) -> list[PlugRow]:
    """Return the plugs of a part with their pins, and which bears a lead."""
    part = play.bike.part(picked)
    rows = []
    for port in part.ports:
        pins = []
        for number, pin in enumerate(port.pins, 1):
            name = f"{part.id}.{port.id}.{pin.name}"
            if name == state.red:
                lead = "red"
            elif name == state.black:
                lead = "black"
            else:
                lead = ""
            pins.append(
                PinRow(
                    name=name,
                    number=number,
                    words=play.circuit.nets.title(name),
                    lead=lead,
                )
            )
        apart = any(join.id in state.unplugged for join in play.bike.joins_of(part.id, port.id))
        rows.append(
            PlugRow(
                title=port.label or port.id,
                pins=pins,
                apart=apart,
                open=any(pin.lead for pin in pins),
            )
        )
    if not any(row.open for row in rows):
        rows[0] = replace(rows[0], open=True)
    return rows


def _act(request: HttpRequest, row: Round) -> str:
    """Do one posted act; returns where to go."""
    data, who = request.POST, actor(request)
    here = reverse("practice-round", args=(row.uuid,))
    if data.get("end"):
        services.end(actor=who, row=row, how=data["end"], cause=data.get("cause", ""))
        return reverse("practice-debrief", args=(row.uuid,))
    key, *told = data.get("do", "").split("|")
    said = dict(item.partition("=")[::2] for item in told)
    version = whole_number(data.get("version"), -1)
    done = services.do_act(actor=who, row=row, key=key, said=said, version=version)
    if done.hazard:
        messages.error(request, done.words)
    plug = data.get("plug", "")
    if plug and key in AT_METER:
        query = f"?plug={plug}"
    else:
        query = ""
    return f"{here}{query}{'#meter' if key in AT_METER else '#seen'}"


def debrief_page(request: HttpRequest, round_uuid: uuid.UUID) -> HttpResponse:
    """Show what it was, and what each act told; play it again."""
    row = _own(request, round_uuid)
    if not row.ended:
        return redirect("practice-round", row.uuid)
    if request.method == "POST":
        again = services.begin_by_code(actor=actor(request), text=row.code)
        return redirect("practice-round", again.uuid)
    percent = progress_of(row)
    row.refresh_from_db()
    context: Context = {"row": row, "percent": percent}
    if row.debrief:
        found = read_debrief(row.debrief)
        context |= {
            "told": found,
            "cause_right": bool(row.cause) and row.cause in found.causes,
            "teaches": graded(row.graded).teaches if row.graded else "",
            "gave_up": state_of(row).ended == "gave-up",
        }
    return render(request, "practice/debrief.html", context)


def debrief_progress(request: HttpRequest, round_uuid: uuid.UUID) -> JsonResponse:
    """Return how far a debrief is, in percent, and whether it is there."""
    row = _own(request, round_uuid)
    percent = progress_of(row) if row.ended else 0
    return JsonResponse({"percent": percent, "first": percent == 100})
