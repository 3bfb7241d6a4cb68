"""The frame from its right side as a map: numbered places, stretches as thick as the bundle on them, joints, and ways that are refused."""

import math
from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

from brightcore.bike.model import Bike
from brightcore.drawing.plug_cards import FONT, INK, PAPER
from brightcore.drawing.sheet_svg import HUES
from brightcore.wiring.frames import FramePattern, Stretch
from brightcore.wiring.routes import frame_of, guess_frame, place_of, runs_of, used

WIDTH, HEIGHT, NODE, BADGE = 640.0, 330.0, 13.0, 10.0
QUIET, RED = "#8a8577", HUES["red"]
Point = tuple[float, float]

BICYCLE: dict[str, Point] = {
    "rear_axle": (120, 240), "bracket": (290, 262), "seat": (252, 112), "rack": (118, 118), "down_tube": (390, 178), "head": (444, 98), "bar": (486, 24),
    "fork": (516, 176), "front_axle": (545, 240), "fork_crown": (454, 158), "rear_tyre": (205, 206), "chain_side": (205, 292),
}  # fmt: skip
PLACES_AT: dict[str, dict[str, Point]] = {
    "longtail": BICYCLE | {"rear_axle": (100, 240), "rack": (96, 128), "bracket": (320, 262), "seat": (286, 108), "rear_tyre": (210, 206), "chain_side": (210, 292)},
    "tandem": BICYCLE | {"rear_axle": (100, 240), "seat": (190, 108), "rack": (84, 122), "bracket": (240, 262), "rear_tyre": (172, 206), "chain_side": (168, 292)},
    "front-loader": BICYCLE | {"rear_axle": (104, 240), "bracket": (236, 262), "seat": (206, 112), "rack": (90, 122), "head": (360, 84), "bar": (330, 28), "down_tube": (306, 186),
                               "fork_crown": (392, 136), "fork": (500, 168), "front_axle": (552, 240), "rear_tyre": (170, 206), "chain_side": (166, 292)},
    "cart": {"bar": (320, 40), "frame": (320, 170), "left_axle": (150, 250), "right_axle": (490, 250), "left_tyre": (170, 130), "right_tyre": (470, 130)},
    "clip-on": {"bar": (250, 50), "column": (300, 130), "clip": (130, 190), "fork": (400, 160), "front_axle": (450, 245), "fork_crown": (350, 205)},
}  # fmt: skip
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
    """Return the places of the bike's frame that cables may reach, numbered in the order of the frame."""
    frame, at = frame_of(bike), spots(bike)
    sits: dict[str, list[str]] = {}
    for part in bike.parts:
        if part.kind != "cable":
            sits.setdefault(place_of(bike, frame, part), []).append(part.name)
    return tuple(
        MapPlace(n, p, w, tuple(sits.get(p, ())), at[p]) for n, (p, w) in enumerate(frame.open_places(), 1)
    )


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
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {HEIGHT:.0f}" role="img" aria-label={quoteattr(f"{frame.title}: ways of the cables")} '
        f'font-family={quoteattr(FONT)} fill="{INK}"><rect width="{WIDTH:.0f}" height="{HEIGHT:.0f}" fill="{PAPER}"/>'
    ]
    out += [
        f'<circle cx="{at[p][0]:g}" cy="{at[p][1]:g}" r="{r:g}" fill="none" stroke="{QUIET}" stroke-width="1" stroke-dasharray="1 5"/>'
        for p, r in WHEELS.items()
        if p in at
    ]
    for stretch in sorted(frame.stretches, key=lambda s: busy.get(s, 0)):
        out += _stretch(frame, stretch, at, busy.get(stretch, 0))
    for item in map_places(bike):
        x, y = item.at
        fill, ink = (INK, PAPER) if item.parts else (PAPER, INK)
        out.append(
            f'<g><title>{escape(item.words)}</title><circle cx="{x:g}" cy="{y:g}" r="{NODE:g}" fill="{fill}" stroke="{INK}" stroke-width="2"/>'
            f'<text x="{x:g}" y="{y + 5:g}" font-size="15" font-weight="700" text-anchor="middle" fill="{ink}">{item.number}</text></g>'
        )
    return "".join([*out, "</svg>"])


def _stretch(frame: FramePattern, stretch: Stretch, at: dict[str, Point], count: int) -> list[str]:
    (x0, y0), (x1, y1) = at[stretch.a], at[stretch.b]
    words = f"{frame.stretch_words(stretch)}, {stretch.along}" + (
        f": {stretch.refused}" if stretch.refused else f", {count} cable{'s' if count != 1 else ''}"
    )
    line = f'<line x1="{x0:g}" y1="{y0:g}" x2="{x1:g}" y2="{y1:g}"'
    x, y = middle(stretch, at)
    if stretch.refused:
        cross = f'<path d="M{x - 5:.1f} {y - 5:.1f} L{x + 5:.1f} {y + 5:.1f} M{x + 5:.1f} {y - 5:.1f} L{x - 5:.1f} {y + 5:.1f}" stroke="{RED}" stroke-width="2.4"/>'
        shape = f'{line} stroke="{RED}" stroke-width="1.4" stroke-dasharray="3 4"/>{cross}'
    elif not count:
        shape = f'{line} stroke="{QUIET}" stroke-width="2"/>'
    else:
        shape = (
            f'{line} stroke="{INK}" stroke-width="{3 + 1.6 * min(count, 7):g}" stroke-linecap="round"/>'
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{BADGE:g}" fill="{PAPER}" stroke="{INK}" stroke-width="1.4"/>'
            f'<text x="{x:.1f}" y="{y + 4.5:.1f}" font-size="13" font-weight="700" text-anchor="middle">{count}</text>'
        )
    if stretch.joint and not stretch.refused:
        shape += _joint(stretch, at)
    return [f'<g data-stretch="{stretch.id}"><title>{escape(words)}</title>{shape}</g>']


def _joint(stretch: Stretch, at: dict[str, Point]) -> str:
    """Return the mark of a joint that moves: a wave across the way."""
    (x0, y0), (x1, y1) = at[stretch.a], at[stretch.b]
    x, y = middle(stretch, at, 0.74)
    length = math.hypot(x1 - x0, y1 - y0)
    ux, uy = -(y1 - y0) / length, (x1 - x0) / length
    points = " ".join(
        f"{x + ux * 4.5 * k + (uy if k % 2 else -uy) * 3:.1f},{y + uy * 4.5 * k - (ux if k % 2 else -ux) * 3:.1f}"
        for k in range(-3, 4)
    )
    return f'<polyline points="{points}" fill="none" stroke="{PAPER}" stroke-width="5"/><polyline points="{points}" fill="none" stroke="{INK}" stroke-width="2"/>'
