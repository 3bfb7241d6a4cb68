"""What every job page shows: the Line, the rail of stations, and what is known about a shape."""

from dataclasses import dataclass

from django.urls import reverse

from brightcircuit.bikes.drawings import PartCard, drawing_of, part_card
from brightcircuit.bikes.models import Bike
from brightcircuit.bikes.queries import has_newer
from brightcircuit.common.shown import Context, Shown
from brightcircuit.engines.belief import PAGE, JobTrace, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import Block, blocks
from brightcircuit.jobs.way import drawn_of, plan_of, stands_of
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import workers
from brightcircuit.stations.help import Help
from brightcircuit.stations.proven_line import proven_lights
from brightcircuit.stations.registry import stations
from brightcircuit.stations.summary import stored_next
from brightcore.bike.model import Bike as CoreBike
from brightcore.describing.measured import MeasuredWords, worked_with
from brightcore.drawing.lights import Light
from brightcore.kinds.select import as_cable
from brightcore.procedure.next_thing import NextThing
from brightcore.tracing.advice import evidence_title, evidence_value

WHOLE_LINE = ("trace",)
"""Stations that show the whole Line to begin with; elsewhere it is slim until somebody opens it."""

SHOW_THEMSELVES = ("arrive",)
"""Stations on which what stands before powered work is answered, and so stands in full already."""


@dataclass(frozen=True, slots=True)
class Tab:
    """One tab of the rail."""

    name: str
    url: str
    current: bool
    done: bool
    key: str
    key_of: str


def tabs(job: Job, current: str) -> list[Tab]:
    """Return the rail: every station, with what is done underlined."""
    found: list[Tab] = []
    for station in stations():
        found.append(
            Tab(
                station.name,
                reverse(station.key, args=(job.uuid,)),
                station.key == current,
                station.done(job),
                station.shortcut,
                station.key,
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class Page:
    """One page of a station; `slow`: what is said while it is worked out."""

    name: str
    url: str
    slow: str


def pages(job: Job, current: str) -> list[Page]:
    """Return the pages of the current station; none where it has only one."""
    found = next((station for station in stations() if station.key == current), None)
    if found is None:
        return []
    rows: list[Page] = []
    for item in found.sections:
        rows.append(Page(item.name, reverse(item.url_name, args=(job.uuid,)), item.slow))
    return rows


def help_for(job: Job, current: str, path: str) -> Help | None:
    """Return the help of the page at a path of the current station, None where it has none.

    A page below another, as that of one instrument, has the help of the one it lies below.
    """
    found = next((station for station in stations() if station.key == current), None)
    best, longest = None, 0
    for name, words in found.help.items() if found else ():
        url = reverse(name, args=(job.uuid,))
        if path.startswith(url) and len(url) > longest:
            best, longest = words, len(url)
    return best


@dataclass(frozen=True, slots=True)
class ShapeRow:
    """A shape of the Line in the list beside it."""

    title: str
    url: str
    light: Light
    percent: str


@dataclass(frozen=True)
class JobFrame(Shown):
    """The dark panel and the rail of every job page."""

    job: Job
    bike: Bike
    stations: list[Tab]
    sections: list[Page]
    line: str
    slim_line: str
    worst: tuple[str, str]
    line_open: bool
    hazards: list[Block]
    next: NextThing
    next_tab: Tab | None
    shape_rows: list[ShapeRow]
    minutes_so_far: int
    engine_percent: int
    engine_ready: bool
    engine_failure: str
    worked_with: tuple[MeasuredWords, ...]
    newer: bool
    in_hands: Person
    workers: list[Person]


def job_frame(
    job: Job, current: str, found: JobTrace | None = None, red: str = "", black: str = ""
) -> Context:
    """Return the context of the dark panel and the rail."""
    found = found or job_trace(job, who=PAGE)
    shown = shown_on(job, current)
    drawing = drawing_of(shown)
    # A closed job shows what was proven, not what was believed: belief is of a bike that is no
    # longer here.
    if job.is_open:
        lit = drawing.lights(found.trace if shown == stands_of(job) else None)
    else:
        lit = proven_lights(job, drawing)
    upcoming = stored_next(job, found)
    rail = tabs(job, current)
    links = {}
    for shape in drawing.layout.shapes:
        links[shape.id] = reverse("job-shape", args=(job.uuid, shape.id))
    own_shape_rows = []
    for s in drawing.layout.shapes:
        own_shape_rows.append(
            ShapeRow(
                title=drawing.titles[s.id],
                url=links[s.id],
                light=lit[s.id],
                percent=percent(lit[s.id].probability),
            )
        )
    return JobFrame(
        job=job,
        bike=job.revision.bike,
        stations=rail,
        sections=pages(job, current),
        line=drawing.line(lit, red, black, links),
        slim_line=drawing.slim(lit),
        worst=drawing.worst(lit),
        line_open=current in WHOLE_LINE,
        hazards=blocks(job) if job.is_open and current not in SHOW_THEMSELVES else [],
        shape_rows=own_shape_rows,
        minutes_so_far=round(sum(e.minutes for e in job.evidence.all() if not e.undone)),
        engine_percent=found.holder.percent,
        engine_ready=found.trace is not None,
        engine_failure=found.holder.failure,
        worked_with=worked_with(shown),
        next=upcoming,
        next_tab=next(
            (tab for tab in rail if tab.key_of == upcoming.station and not tab.current), None
        ),
        newer=job.is_open and has_newer(job.revision),
        in_hands=job.worker or job.opened_by,
        workers=list(workers()) if job.is_open else [],
    ).context()


SHOWS_THE_PLAN = ("match", "wire", "program")
"""Stations that work on the bike as it shall be."""


def shown_on(job: Job, station: str) -> CoreBike:
    """Return the bike that the Line of a station shows: the one that the station works on."""
    if station in SHOWS_THE_PLAN:
        return plan_of(job)
    return drawn_of(job)


def percent(probability: float) -> str:
    """Return a probability in words of percent."""
    if 0 < probability < 0.01:
        return "under 1 %"
    if 0.99 < probability < 1:
        return "over 99 %"
    return f"{100 * probability:.0f} %"


@dataclass(frozen=True, slots=True)
class ShapeSuspect:
    """A suspect at a shape."""

    title: str
    percent: str
    repair: str


@dataclass(frozen=True, slots=True)
class ShapeReading:
    """A reading at a shape."""

    title: str
    value: str


@dataclass(frozen=True)
class KnownShape(Shown):
    """What is known about one shape of the Line."""

    shape_title: str
    light: Light
    light_percent: str
    cards: list[PartCard]
    suspects: list[ShapeSuspect]
    readings: list[ShapeReading]


def known_about(job: Job, shape_id: str) -> KnownShape | None:
    """Return what is known about one shape of the Line, or None where there is none of that id."""
    bike = drawn_of(job)
    drawing = drawing_of(bike)
    shape = drawing.layout.shape(shape_id)
    if shape is None:
        return None
    found = job_trace(job)
    if bike == stands_of(job):
        traced = found.trace
    else:
        traced = None
    light = drawing.lights(traced).get(shape_id, Light("dim", 0.0))
    own = shape_id.split(":")[1]
    if shape_id.startswith("part:"):
        parts = [p for p in bike.parts if p.id == own]
    else:
        parts = []
    joins = []
    for j, run in drawing.layout.join_run.items():
        if shape_id == run or shape_id.startswith(f"{run}:"):
            joins.append(bike.join(j))
    # A run on the drawing is several cables. Each has plugs and colours of its own to show.
    cables = dict.fromkeys(
        p for j in joins for p, _ in j.sides() if as_cable(bike.part(p)) is not None
    )
    parts += [bike.part(p) for p in cables]
    suspects: list[ShapeSuspect] = []
    readings: list[ShapeReading] = []
    if traced is not None:
        members = {i for i, name in enumerate(drawing.members) if name == shape_id}
        here = [s for s in traced.suspects if members & set(s.members)]
        for s in here[:12]:
            suspects.append(
                ShapeSuspect(
                    title=s.title,
                    percent=percent(s.probability),
                    repair=s.repair.action,
                )
            )
        names = {p.id for p in parts} | {p for j in joins for p, _ in j.sides()}
        for item in traced.evidence:
            if {item.red.split(".")[0], item.black.split(".")[0]} & names:
                readings.append(
                    ShapeReading(
                        title=evidence_title(traced.engine, item),
                        value=evidence_value(item),
                    )
                )
    return KnownShape(
        shape_title=drawing.titles[shape_id],
        light=light,
        light_percent=percent(light.probability),
        cards=[part_card(bike, drawing.circuit.nets, part) for part in parts],
        suspects=suspects,
        readings=readings,
    )
