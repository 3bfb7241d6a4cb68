"""Sizes of parts and the room there is for them, as far as somebody measured. 0 is "not
measured"."""

from dataclasses import dataclass

SHAPES = {
    "triangle": "frame triangle",
    "box": "compartment or bag",
    "cover": "under a cover",
    "hole": "hole or channel",
    "bar": "handlebar",
}
"""Shapes of room, in words."""

MEASURES = {
    "triangle": ("a_mm", "b_mm", "c_mm", "depth_mm"),
    "box": ("a_mm", "b_mm", "c_mm"),
    "cover": ("a_mm", "b_mm", "c_mm"),
    "hole": ("a_mm",),
    "bar": ("a_mm", "b_mm"),
}
"""What is measured of each shape, in mm."""

WORDS = {
    "triangle": (
        "along the down tube",
        "along the seat tube",
        "along the top tube",
        "wide, between the legs",
    ),
    "box": ("long", "wide", "high"),
    "cover": ("long", "wide", "high"),
    "hole": ("across",),
    "bar": ("across", "straight and free"),
}
"""What those measures are, in words."""


@dataclass(frozen=True, slots=True)
class Size:
    """Outside measures of a part in mm.

    `slide_mm`: what it slides along its length to come out; `plug_mm`: its thickest plug,
    `cable_mm`: its cable across; `clamp_mm`: the bar its clamp suits.
    """

    part: str
    length_mm: float = 0.0
    width_mm: float = 0.0
    height_mm: float = 0.0
    slide_mm: float = 0.0
    plug_mm: float = 0.0
    cable_mm: float = 0.0
    clamp_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class Room:
    """Room for some parts: a shape, its measures in mm as MEASURES says, and what is to go
    there."""

    id: str
    name: str
    shape: str
    a_mm: float = 0.0
    b_mm: float = 0.0
    c_mm: float = 0.0
    depth_mm: float = 0.0
    parts: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Space:
    """Everything measured of a bike."""

    sizes: tuple[Size, ...] = ()
    rooms: tuple[Room, ...] = ()

    def size(self, part_id: str) -> Size:
        """Return the size of a part, with nothing measured where nobody did."""
        return next((size for size in self.sizes if size.part == part_id), Size(part_id))


NOTHING_MEASURED = Space()
"""What is known of a bike that nobody has measured."""
