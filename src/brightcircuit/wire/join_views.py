"""The page of one join: both faces, colours, which pin meets which, the wire between; and the ways
of the cables along the frame."""

import uuid
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.bikes.describe import Refused
from brightcircuit.common.posted import Posted, as_typed, status_of
from brightcircuit.common.shown import Shown
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.stale import changing
from brightcircuit.jobs.way import plan_of
from brightcircuit.stations.frame import job_frame
from brightcircuit.wire.acts import edited
from brightcircuit.wire.edit import GENDERS
from brightcore.bike.model import Bike, Join, Part, Pin, Port
from brightcore.describing.join_words import join_words
from brightcore.drawing.frame_map import frame_map_svg, map_places
from brightcore.drawing.plug_cards import CODES
from brightcore.errors import BrightError
from brightcore.units import length_words
from brightcore.wiring.cut_list import CUT_STEP_M, Cut, cut_list, up
from brightcore.wiring.frames import FRAMES, JOINT_WORDS, Stretch
from brightcore.wiring.routes import (
    Run,
    crossings,
    frame_of,
    guess_frame,
    place_of,
    runs_of,
    shortcut,
    tie_count,
    ties,
    used,
    way_words,
)

VERDICTS = {
    "fits": "fits",
    "short": "too short",
    "long": "too long",
    "unknown": "measure it",
    "refused": "no way",
}
ORDER = ("refused", "short", "unknown", "long", "fits")
"""What needs doing first."""


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a join as it is, or as it was typed."""

    letter: str
    part: Part
    port: Port
    typed: dict[str, str]
    pins: list[tuple[Pin, str]]


@dataclass(frozen=True)
class JoinPage(Shown):
    """What one join shows."""

    join: Join
    words: str
    sides: list[Side]
    pairs: list[tuple[Any, str]]
    wire: dict[str, str]
    error: str
    more: str
    genders: tuple[str, str]
    colours: list[str]


@dataclass(frozen=True, slots=True)
class StretchRow:
    """A stretch of the frame: as measured, and what runs along it."""

    s: Stretch
    words: str
    shown: str
    changed: bool
    runs: int
    ties: int


@dataclass(frozen=True, slots=True)
class PlacedPart:
    """A part, where it is taken to be, and where it was said to be."""

    p: Part
    at: str
    said: str


@dataclass(frozen=True, slots=True)
class RouteRow:
    """The way of one cable, what it needs and what it has."""

    r: Run
    via: str
    verdict: str
    way: str
    wanted: str
    has: str
    short: str
    made_of: str
    measurable: bool
    shortcut: str
    joints: list[str]


@dataclass(frozen=True)
class RoutesPage(Shown):
    """What the ways of the cables show."""

    frames: list[tuple[str, str]]
    frame_name: str
    rows: list[RouteRow]
    stretches: list[StretchRow]
    parts: list[PlacedPart]
    places: tuple[tuple[str, str], ...]
    open_places: tuple[tuple[str, str], ...]
    refused: list[Stretch]
    wrapped: bool
    guessed: bool
    bad: int
    unknown: int


def join_page(request: HttpRequest, job_uuid: uuid.UUID, join_id: str) -> HttpResponse:
    """Show one join pin by pin and take what was found on it."""
    job = changing(request, job_uuid)
    bike = plan_of(job)
    error = ""
    try:
        join = bike.join(join_id)
    except BrightError:
        raise Http404("There is no such join on this bike.") from None
    if request.method == "POST":
        error, answer = _try(request, job, ("found", "unjoin", "extend"))
        if answer:
            if request.POST.get("action") == "found":
                return redirect("wire-join", job.uuid, join_id)
            return redirect("wire", job.uuid)
    if error:
        action = request.POST.get("action", "")
    else:
        action = ""
    data = request.POST if action == "found" else None
    sides: list[Side] = []
    for letter, (part_id, port_id) in zip("ab", join.sides(), strict=True):
        part, port = bike.part(part_id), bike.part(part_id).port(port_id)
        typed = {}
        for f in ("gender", "key", "rows", "family"):
            typed[f] = data.get(f"{letter}_{f}", "") if data else getattr(port, f) or ""
        colours = []
        for p in port.pins:
            colours.append((p, data.get(f"{letter}_colour_{p.name}", "") if data else p.colour))
        sides.append(
            Side(
                letter=letter,
                part=part,
                port=port,
                typed=typed,
                pins=colours,
            )
        )
    mates = dict(join.pairs)
    pairs = []
    for pin in sides[0].port.pins:
        pairs.append((pin, data.get(f"mate_{pin.name}", "") if data else mates.get(pin.name, "")))
    wire = {}
    for n, v, u in (("area", join.wire.area_mm2, "mm²"), ("length", join.wire.length_m, "m")):
        wire[n] = data.get(n, "") if data else f"{v:g} {u}" if v else ""
    context = JoinPage(
        join=join,
        words=join_words(bike, join),
        sides=sides,
        pairs=pairs,
        wire=wire,
        error=error,
        more=request.POST.get("length", "") if action == "extend" else "0.3",
        genders=GENDERS,
        colours=list(CODES),
    ).context()
    return render(
        request,
        "wire/join.html",
        {**job_frame(job, "wire"), **context},
        status=status_of(error),
    )


def _try(request: HttpRequest, job: Job, allowed: tuple[str, ...]) -> tuple[str, bool]:
    """Do what was posted; return (what stands in the way, whether it was done)."""
    action = request.POST.get("action", "")
    try:
        said = edited(Posted(request), job, action if action in allowed else "")
        messages.success(request, said)
    except ValidationError as refused:
        return refused.messages[0], False
    except Refused as refused:
        return "; ".join(refused.errors.values()), False
    return "", True


def routes_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show the way of every cable, what it needs and has, and what to cut; measure the frame, move
    parts, lead cables otherwise."""
    job = changing(request, job_uuid)
    error = ""
    if request.method == "POST":
        error, done = _try(request, job, ("frame", "via", "extend", "measure"))
        if done:
            return redirect("wire-routes", job.uuid)
    context = {
        **job_frame(job, "wire"),
        **_routes(plan_of(job)).context(),
        **frame_context(plan_of(job)).context(),
        "error": error,
        "typed": as_typed(request, error),
    }
    return render(request, "wire/routes.html", context, status=status_of(error))


def _routes(bike: Bike) -> RoutesPage:
    frame, runs = frame_of(bike), runs_of(bike)
    name = bike.frame.pattern or guess_frame(bike)
    led = dict(bike.frame.via)
    usual = {s.id: s.length_m for s in FRAMES[name].stretches}
    busy = dict(used(runs))
    rows = [
        RouteRow(
            r=r,
            via=led.get(r.id, ""),
            verdict=VERDICTS[r.verdict],
            way=way_words(frame, r),
            wanted=f"{r.wanted_m:.2f} m",
            has=f"{r.has_m:.2f} m" if r.has_m else "not known",
            short=f"{up(max(r.wanted_m - r.has_m, CUT_STEP_M)):.2f}",
            made_of=_made_of(r),
            measurable=not r.cables and r.verdict != "refused",
            shortcut=_shortcut(frame, r),
            joints=[JOINT_WORDS[j] for j in dict.fromkeys(r.joints)],
        )
        for r in sorted(runs, key=lambda r: ORDER.index(r.verdict))
    ]
    stretches = []
    for s in frame.stretches:
        if not s.refused:
            stretches.append(
                StretchRow(
                    s=s,
                    words=frame.stretch_words(s),
                    shown=f"{s.length_m:g}",
                    changed=abs(usual[s.id] - s.length_m) > 0.0005,
                    runs=busy.get(s, 0),
                    ties=tie_count(s) if s in busy else 0,
                )
            )
    parts = []
    for p in bike.parts:
        if p.kind != "cable":
            parts.append(
                PlacedPart(
                    p=p,
                    at=place_of(bike, frame, p),
                    said=dict(bike.frame.places).get(p.id, ""),
                )
            )
    return RoutesPage(
        frames=[(k, f.title) for k, f in FRAMES.items()],
        frame_name=name,
        rows=rows,
        stretches=stretches,
        parts=parts,
        places=frame.places,
        open_places=frame.open_places(),
        refused=[s for s in frame.stretches if s.refused],
        wrapped=bike.frame.wrapped,
        guessed=not bike.frame.pattern,
        bad=sum(1 for r in runs if r.verdict in ("short", "refused")),
        unknown=sum(1 for r in runs if r.verdict == "unknown"),
    )


@dataclass(frozen=True)
class TieRows(Shown):
    """What crosses a moving joint, and where to tie."""

    crossings: list[tuple[str, list[str]]]
    ties: Any


def tie_rows(bike: Bike) -> TieRows:
    """Return what crosses a moving joint, and where to tie."""
    own_crossings = []
    for j, found in crossings(bike).items():
        own_crossings.append((JOINT_WORDS[j], [r.title for r in found]))
    return TieRows(
        crossings=own_crossings,
        ties=ties(bike),
    )


@dataclass(frozen=True)
class FrameMap(Shown):
    """The map of the frame and its numbered places."""

    frame_map: str
    map_places: Any


def frame_context(bike: Bike) -> FrameMap:
    """Return the map of the frame and its numbered places."""
    return FrameMap(
        frame_map=frame_map_svg(bike),
        map_places=map_places(bike),
    )


def _made_of(run: Run) -> str:
    """Return what the needed length is made of."""
    if run.slack_m:
        slack = f", slack {run.slack_m:.2f}"
    else:
        slack = ""
    return f"way {run.along_m:.2f}{slack}, loops {run.wanted_m - run.along_m - run.slack_m:.2f}"


def _shortcut(frame: Any, run: Run) -> str:
    reason, saved = shortcut(frame, run) if run.path else ("", 0.0)
    if reason:
        return f"{100 * saved:.0f} cm shorter is refused: {reason}"
    return ""


@dataclass(frozen=True, slots=True)
class CutRow:
    """A line of the cut list in words."""

    c: Cut
    area: str
    length: str


def cut_rows(bike: Bike) -> list[CutRow]:
    """Return the cut list as shown: area in mm² and gauge, length, note."""
    found: list[CutRow] = []
    for c in cut_list(bike):
        found.append(
            CutRow(
                c=c,
                area=f"{c.area_mm2:g} mm², about {c.gauge}" if c.area_mm2 else "",
                length=length_words(c.length_m) if c.length_m else "",
            )
        )
    return found
