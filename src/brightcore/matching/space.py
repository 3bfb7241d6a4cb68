"""Whether the parts of a bike go where they are to go, and what has to be measured to say so."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from brightcore.bike.model import Bike
from brightcore.bike.space import MEASURES, WORDS, Room, Size
from brightcore.physics.packing import bundle_mm, in_box, in_triangle, sorted_largest, triangle_of

CLAMP_MM = 0.6
"""A clamp may be this much wider than its bar, with its shims (common practice)."""

SIDES = {"1": "the down tube", "2": "the seat tube", "3": "the top tube"}
"""Sides of a frame triangle, in the order they are measured."""


@dataclass(frozen=True, slots=True)
class Verdict:
    """What is to be said of one room: it fits, it does not, or something has to be measured first.

    `fits` is None where it is not known. `way`: how each part lies, `missing`: what to measure,
    `why`: what is too large.
    """

    room: Room
    fits: bool | None
    way: tuple[str, ...]
    missing: tuple[str, ...]
    why: str


def space_verdicts(bike: Bike) -> tuple[Verdict, ...]:
    """Return what is to be said of every room that something is to go into."""
    found = []
    for room in bike.space.rooms:
        if room.parts:
            found.append(_verdict(bike, room))
    return tuple(found)


def _verdict(bike: Bike, room: Room) -> Verdict:
    sizes = []
    for part in room.parts:
        if part in {p.id for p in bike.parts}:
            sizes.append(bike.space.size(part))
    missing = []
    for field, words in zip(MEASURES[room.shape], WORDS[room.shape], strict=True):
        if not getattr(room, field):
            missing.append(f"{room.name}: {words}")
    for size in sizes:
        name = bike.part(size.part).name
        missing += [
            f"{name}: {words}" for field, words in ASKED[room.shape] if not getattr(size, field)
        ]
    if missing:
        return Verdict(room, None, (), tuple(missing), "")
    names = [bike.part(size.part).name for size in sizes]
    fits, way, why = JUDGES[room.shape](room, sizes, names)
    return Verdict(room, fits, way, (), why)


Judged = tuple[bool, tuple[str, ...], str]


def _triangle(room: Room, sizes: Sequence[Size], names: Sequence[str]) -> Judged:
    try:
        corner = triangle_of(room.a_mm, room.b_mm, room.c_mm)
    except ValueError:
        return False, (), "the three lengths do not make a triangle: measure again"
    flat = []
    for size, name in zip(sizes, names, strict=True):
        thick, height, length = sorted((size.length_mm, size.width_mm, size.height_mm))
        if thick > room.depth_mm:
            return (
                False,
                (),
                f"{name} is {thick:g} mm thick, there are {room.depth_mm:g} mm between the legs",
            )
        flat.append((length + size.slide_mm, height))
    found = in_triangle(corner, flat)
    if found is None:
        return False, (), f"{_and(names)} {_with_slide(sizes)} have no place in it"
    largest = sorted_largest(flat)[0]
    ways = []
    for k, (words, name, size) in enumerate(zip(found, names, sizes, strict=True)):
        how, _, side = words.partition(" ")
        if k == largest:
            where = f"on {SIDES[side]}"
        else:
            where = "in what is left beside it"
        if size.slide_mm:
            slide = f", with {size.slide_mm:g} mm to slide out"
        else:
            slide = ""
        ways.append(f"{name} {how} {where}{slide}")
    return True, tuple(ways), ""


def _with_slide(sizes: Sequence[Size]) -> str:
    if any(size.slide_mm for size in sizes):
        return "with the way to slide out"
    return "together"


def _box(room: Room, sizes: Sequence[Size], names: Sequence[str]) -> Judged:
    things = []
    for s in sizes:
        things.append((s.length_mm + s.slide_mm, s.width_mm, s.height_mm))
    found = in_box((room.a_mm, room.b_mm, room.c_mm), things)
    if found is None:
        room_words = f"{room.a_mm:g} × {room.b_mm:g} × {room.c_mm:g} mm"
        return False, (), f"{_and(names)} {_with_slide(sizes)} have no place in {room_words}"
    ways = (
        f"{name}: {box[0]:g} mm along, {box[1]:g} mm across, {box[2]:g} mm up"
        for name, box in zip(names, found, strict=True)
    )
    return True, tuple(ways), ""


def _hole(room: Room, sizes: Sequence[Size], names: Sequence[str]) -> Judged:
    for size, name in zip(sizes, names, strict=True):
        if size.plug_mm > room.a_mm:
            return (
                False,
                (),
                f"the plug of {name} is {size.plug_mm:g} mm, the hole {room.a_mm:g} mm",
            )
    needed = bundle_mm([size.cable_mm for size in sizes])
    if needed > room.a_mm:
        return False, (), f"the bundle needs about {needed:.0f} mm, the hole has {room.a_mm:g} mm"
    return True, (f"the bundle is about {needed:.0f} mm; plugs go through one after the other",), ""


def _bar(room: Room, sizes: Sequence[Size], names: Sequence[str]) -> Judged:
    for size, name in zip(sizes, names, strict=True):
        if not room.a_mm <= size.clamp_mm <= room.a_mm + CLAMP_MM:
            return (
                False,
                (),
                f"the clamp of {name} is for {size.clamp_mm:g} mm, the bar is {room.a_mm:g} mm",
            )
    needed = sum(size.width_mm for size in sizes)
    if needed > room.b_mm:
        return False, (), f"{_and(names)} need {needed:g} mm of bar, {room.b_mm:g} mm are free"
    return True, (f"{room.b_mm - needed:g} mm of bar are left",), ""


def _and(names: Sequence[str]) -> str:
    return " and ".join(names)


JUDGES: dict[str, Callable[[Room, Sequence[Size], Sequence[str]], Judged]] = {
    "triangle": _triangle,
    "box": _box,
    "cover": _box,
    "hole": _hole,
    "bar": _bar,
}
"""How each shape is judged."""

_OUTSIDE = (("length_mm", "length"), ("width_mm", "width"), ("height_mm", "height"))
ASKED: dict[str, tuple[tuple[str, str], ...]] = {
    "triangle": _OUTSIDE,
    "box": _OUTSIDE,
    "cover": _OUTSIDE,
    "hole": (("cable_mm", "cable across"), ("plug_mm", "thickest plug")),
    "bar": (("width_mm", "width on the bar"), ("clamp_mm", "bar its clamp suits")),
}
"""What has to be known of a part in each shape of room."""
