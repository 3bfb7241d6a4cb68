"""The frame from its right side as a map: numbered places, stretches as thick as the bundle on
them, joints, and ways that are refused."""

import math
from dataclasses import dataclass

from brightcore.bike.model import Bike
from brightcore.drawing.element import (
    Markup,
    Point,
    circle,
    element,
    label,
    line,
    on_ground,
    points,
)
from brightcore.drawing.inks import HUES, INK, PAPER, QUIET
from brightcore.wiring.frames import FramePattern, Stretch
from brightcore.wiring.routes import frame_of, guess_frame, place_of, runs_of, used

WIDTH, HEIGHT, NODE, BADGE = 640.0, 330.0, 13.0, 10.0
RED = HUES["red"]

BICYCLE: dict[str, Point] = {
    "rear_axle": (120, 240),
    "bracket": (290, 262),
    "seat": (252, 112),
    "rack": (118, 118),
    "down_tube": (390, 178),
    "head": (444, 98),
    "bar": (486, 24),
    "fork": (516, 176),
    "front_axle": (545, 240),
    "fork_crown": (454, 158),
    "rear_tyre": (205, 206),
    "chain_side": (205, 292),
}
PLACES_AT: dict[str, dict[str, Point]] = {
    "longtail": BICYCLE
    | {
        "rear_axle": (100, 240),
        "rack": (96, 128),
        "bracket": (320, 262),
        "seat": (286, 108),
        "rear_tyre": (210, 206),
        "chain_side": (210, 292),
    },
    "tandem": BICYCLE
    | {
        "rear_axle": (100, 240),
        "seat": (190, 108),
        "rack": (84, 122),
        "bracket": (240, 262),
        "rear_tyre": (172, 206),
        "chain_side": (168, 292),
    },
    "front-loader": BICYCLE
    | {
        "rear_axle": (104, 240),
        "bracket": (236, 262),
        "seat": (206, 112),
        "rack": (90, 122),
        "head": (360, 84),
        "bar": (330, 28),
        "down_tube": (306, 186),
        "fork_crown": (392, 136),
        "fork": (500, 168),
        "front_axle": (552, 240),
        "rear_tyre": (170, 206),
        "chain_side": (166, 292),
    },
    "cart": {
        "bar": (320, 40),
        "frame": (320, 170),
        "left_axle": (150, 250),
        "right_axle": (490, 250),
        "left_tyre": (170, 130),
        "right_tyre": (470, 130),
    },
    "clip-on": {
        "bar": (250, 50),
        "column": (300, 130),
        "clip": (130, 190),
        "fork": (400, 160),
        "front_axle": (450, 245),
        "fork_crown": (350, 205),
    },
}
"""Where places stand on the map; frames not named here are drawn as a bicycle."""

WHEELS = {"rear_axle": 80.0, "front_axle": 80.0, "left_axle": 64.0, "right_axle": 64.0}


@dataclass(frozen=True, slots=True)
class MapPlace:
    """A place of the map: its number, words, what sits there, and where it is drawn."""

    number: int
    place: str
    words: str
    parts: tuple[str, ...]
    at: Point


def map_places(bike: Bike) -> tuple[MapPlace, ...]:
    """Return the places of the bike's frame that cables may reach, numbered in the order of the
    frame."""
    frame, at = frame_of(bike), spots(bike)
    sits: dict[str, list[str]] = {}
    for part in bike.parts:
        if part.kind != "cable":
            sits.setdefault(place_of(bike, frame, part), []).append(part.name)
    found = []
    for n, (p, w) in enumerate(frame.open_places(), 1):
        found.append(MapPlace(n, p, w, tuple(sits.get(p, ())), at[p]))
    return tuple(found)


def spots(bike: Bike) -> dict[str, Point]:
    """Return where every place of the bike's frame is drawn."""
    return PLACES_AT.get(bike.frame.pattern or guess_frame(bike), BICYCLE)


def middle(stretch: Stretch, at: dict[str, Point], share: float = 0.5) -> Point:
    """Return a point on the straight line of a stretch."""
    (x0, y0), (x1, y1) = at[stretch.a], at[stretch.b]
    return x0 + (x1 - x0) * share, y0 + (y1 - y0) * share


def frame_map_svg(bike: Bike) -> str:
    """Return the map as one standalone SVG document; the same bike gives the same drawing."""
    frame, at, busy = frame_of(bike), spots(bike), dict(used(runs_of(bike)))
    wheels = ((at[place], radius) for place, radius in WHEELS.items() if place in at)
    quiet_first = sorted(frame.stretches, key=lambda stretch: busy.get(stretch, 0))
    return on_ground(
        WIDTH,
        HEIGHT,
        PAPER,
        *(
            circle(where, radius, fill="none", stroke=QUIET, stroke_width=1, stroke_dasharray="1 5")
            for where, radius in wheels
        ),
        *(_stretch(frame, stretch, at, busy.get(stretch, 0)) for stretch in quiet_first),
        *(_place(item) for item in map_places(bike)),
        role="img",
        aria_label=f"{frame.title}: ways of the cables",
        fill=INK,
    )


def _place(item: MapPlace) -> Markup:
    x, y = item.at
    fill, ink = (INK, PAPER) if item.parts else (PAPER, INK)
    return element(
        "g",
        element("title", item.words),
        circle(item.at, NODE, fill=fill, stroke=INK, stroke_width=2),
        label((x, y + 5), str(item.number), 15, "middle", bold=True, fill=ink),
    )


def _stretch(frame: FramePattern, stretch: Stretch, at: dict[str, Point], count: int) -> Markup:
    words = f"{frame.stretch_words(stretch)}, {stretch.along}"
    if stretch.refused:
        words += f": {stretch.refused}"
        shape = _refused(stretch, at)
    else:
        words += f", {count} cable{'s' if count != 1 else ''}"
        shape = _open(stretch, at, count)
    return element("g", element("title", words), *shape, data_stretch=stretch.id)


def _refused(stretch: Stretch, at: dict[str, Point]) -> list[Markup]:
    """Return a way that no cable may take: thin, dashed, crossed out."""
    x, y = middle(stretch, at)
    cross = (
        f"M{x - 5:.1f} {y - 5:.1f} L{x + 5:.1f} {y + 5:.1f} M{x + 5:.1f} {y - 5:.1f} "
        f"L{x - 5:.1f} {y + 5:.1f}"
    )
    return [
        line(at[stretch.a], at[stretch.b], stroke=RED, stroke_width=1.4, stroke_dasharray="3 4"),
        element("path", d=cross, stroke=RED, stroke_width=2.4),
    ]


def _open(stretch: Stretch, at: dict[str, Point], count: int) -> list[Markup]:
    """Return a way as thick as what lies on it, with their number, and its joint."""
    ends = at[stretch.a], at[stretch.b]
    joint = _joint(stretch, at) if stretch.joint else []
    if not count:
        return [line(*ends, stroke=QUIET, stroke_width=2), *joint]
    x, y = middle(stretch, at)
    width = 3 + 1.6 * min(count, 7)
    return [
        line(*ends, stroke=INK, stroke_width=width, stroke_linecap="round"),
        circle((x, y), BADGE, fill=PAPER, stroke=INK, stroke_width=1.4),
        label((x, y + 4.5), str(count), 14, "middle", bold=True),
        *joint,
    ]


def _joint(stretch: Stretch, at: dict[str, Point]) -> list[Markup]:
    """Return the mark of a joint that moves: a wave across the way."""
    (x0, y0), (x1, y1) = at[stretch.a], at[stretch.b]
    x, y = middle(stretch, at, 0.74)
    length = math.hypot(x1 - x0, y1 - y0)
    ux, uy = -(y1 - y0) / length, (x1 - x0) / length
    wave = []
    for k in range(-3, 4):
        side = 3 if k % 2 else -3
        wave.append((x + ux * 4.5 * k + uy * side, y + uy * 4.5 * k - ux * side))
    path = points(wave)
    return [
        element("polyline", points=path, fill="none", stroke=PAPER, stroke_width=5),
        element("polyline", points=path, fill="none", stroke=INK, stroke_width=2),
    ]
