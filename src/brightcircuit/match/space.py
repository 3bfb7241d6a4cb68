"""The Space page: sizes of parts, rooms, and whether one goes into the other."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import NamedTuple

from brightcircuit.common.shown import Shown
from brightcore.bike.model import Bike, Part
from brightcore.bike.space import MEASURES, SHAPES, WORDS, Room, Size, Space
from brightcore.describing.specs import parse_measure
from brightcore.errors import BrightError
from brightcore.formats.schema_pieces import MOST_MM, MOST_ROOMS
from brightcore.matching.space import Verdict, space_verdicts

MEASURED = (
    ("length_mm", "Length"),
    ("width_mm", "Width"),
    ("height_mm", "Height"),
    ("slide_mm", "Slides out"),
    ("cable_mm", "Cable"),
    ("plug_mm", "Plug"),
    ("clamp_mm", "Clamp for"),
)
"""What is measured of a part, with its heading."""


class Changed(NamedTuple):
    """The space after a change, what was done in words, and errors by field."""

    space: Space
    what: str
    errors: dict[str, str]


@dataclass(frozen=True, slots=True)
class Measure:
    """One measure to type, with what is wrong with it."""

    name: str
    label: str
    value: str
    error: str


@dataclass(frozen=True, slots=True)
class SizeRow:
    """A part and its measures."""

    part: Part
    fields: list[Measure]


@dataclass(frozen=True, slots=True)
class RoomCard:
    """One room: its shape, its verdict, its measures and what goes into it."""

    room: Room
    shape: str
    verdict: Verdict | None
    fields: list[Measure]
    parts: list[tuple[str, str, bool]]


@dataclass(frozen=True)
class SpacePage(Shown):
    """What the Space page shows."""

    rooms: list[RoomCard]
    sizes: list[SizeRow]
    headings: list[str]
    shapes: list[tuple[str, str]]
    errors: dict[str, str]
    typed: Mapping[str, str]


def space_context(bike: Bike, errors: dict[str, str], typed: Mapping[str, str]) -> SpacePage:
    """Return everything the Space page needs; what was typed stays where a form came back."""
    verdicts = {verdict.room.id: verdict for verdict in space_verdicts(bike)}
    sizes = []
    for part in bike.parts:
        fields = []
        for field, label in MEASURED:
            fields.append(
                Measure(
                    name=f"{part.id}-{field}",
                    label=f"{part.name}, {label.lower()}",
                    value=_shown(
                        typed, f"{part.id}-{field}", getattr(bike.space.size(part.id), field)
                    ),
                    error=errors.get(f"{part.id}-{field}", ""),
                )
            )
        sizes.append(
            SizeRow(
                part=part,
                fields=fields,
            )
        )
    own_rooms = []
    for room in bike.space.rooms:
        own_rooms.append(_room_card(bike, room, verdicts.get(room.id), errors, typed))
    return SpacePage(
        rooms=own_rooms,
        sizes=sizes,
        headings=[label for _, label in MEASURED],
        shapes=list(SHAPES.items()),
        errors=errors,
        typed=typed,
    )


def _room_card(
    bike: Bike,
    room: Room,
    verdict: Verdict | None,
    errors: dict[str, str],
    typed: Mapping[str, str],
) -> RoomCard:
    own_fields = []
    for field, words in zip(MEASURES[room.shape], WORDS[room.shape], strict=True):
        own_fields.append(
            Measure(
                name=f"{room.id}-{field}",
                label=words,
                value=_shown(typed, f"{room.id}-{field}", getattr(room, field)),
                error=errors.get(f"{room.id}-{field}", ""),
            )
        )
    return RoomCard(
        room=room,
        shape=SHAPES[room.shape],
        verdict=verdict,
        fields=own_fields,
        parts=[(part.id, part.name, part.id in room.parts) for part in bike.parts],
    )


def _shown(typed: Mapping[str, str], name: str, value: float) -> str:
    if name in typed:
        return typed[name]
    if value:
        return f"{value:g}"
    return ""


def changed_space(bike: Bike, data: Mapping[str, str], chosen: list[str]) -> Changed:
    """Return what a posted form changes; `chosen` are part ids."""
    change = CHANGES.get(data.get("action", ""), _room_kept)
    return change(bike, data, chosen)


def _sizes_kept(bike: Bike, data: Mapping[str, str], chosen: list[str]) -> Changed:
    errors: dict[str, str] = {}
    sizes = [_size(part.id, data, errors) for part in bike.parts]
    measured = tuple(size for size in sizes if size != Size(size.part))
    return Changed(replace(bike.space, sizes=measured), "Parts measured", errors)


def _room_named(space: Space, data: Mapping[str, str]) -> Room | None:
    return next((room for room in space.rooms if room.id == data.get("room")), None)


def _no_such_room(space: Space) -> Changed:
    return Changed(space, "", {"room": "That room is not there any more. Look again."})


def _room_dropped(bike: Bike, data: Mapping[str, str], chosen: list[str]) -> Changed:
    space = bike.space
    room = _room_named(space, data)
    if room is None:
        return _no_such_room(space)
    others = tuple(other for other in space.rooms if other is not room)
    return Changed(replace(space, rooms=others), f"Room removed: {room.name}", {})


def _room_kept(bike: Bike, data: Mapping[str, str], chosen: list[str]) -> Changed:
    space = bike.space
    room = _room_named(space, data)
    if room is None:
        return _no_such_room(space)
    errors: dict[str, str] = {}
    values = {field: _measure(data, f"{room.id}-{field}", errors) for field in MEASURES[room.shape]}
    parts = tuple(part.id for part in bike.parts if part.id in chosen)
    fresh = replace(room, **values, parts=parts)  # type: ignore[arg-type]
    rooms = tuple(fresh if other is room else other for other in space.rooms)
    return Changed(replace(space, rooms=rooms), f"Room measured: {room.name}", errors)


def _room_added(bike: Bike, data: Mapping[str, str], chosen: list[str]) -> Changed:
    space = bike.space
    name, shape = data.get("name", "").strip()[:60], data.get("shape", "")
    errors: dict[str, str] = {}
    if shape not in SHAPES:
        errors["shape"] = "Choose what it is."
    if not name:
        errors["name"] = "Give it a name, such as Frame bag."
    if len(space.rooms) >= MOST_ROOMS:
        errors["name"] = f"{MOST_ROOMS} rooms are the most. Take one away first."
    if errors:
        return Changed(space, "", errors)
    taken = {room.id for room in space.rooms}
    free = next(f"room-{n}" for n in range(1, MOST_ROOMS + 2) if f"room-{n}" not in taken)
    rooms = (*space.rooms, Room(free, name, shape))
    return Changed(replace(space, rooms=rooms), f"Room added: {name}", errors)


CHANGES: dict[str, Callable[[Bike, Mapping[str, str], list[str]], Changed]] = {
    "sizes": _sizes_kept,
    "add-room": _room_added,
    "drop-room": _room_dropped,
    "keep-room": _room_kept,
}
"""What the buttons of the page ask for. A form without a word measures the room it names: that is
what Enter in one of its fields sends."""


def _size(part_id: str, data: Mapping[str, str], errors: dict[str, str]) -> Size:
    values = {field: _measure(data, f"{part_id}-{field}", errors) for field, _ in MEASURED}
    return Size(part_id, **values)


def _measure(data: Mapping[str, str], name: str, errors: dict[str, str]) -> float:
    """Return a typed measure in mm, 0 where nothing was typed; notes what is wrong."""
    text = str(data.get(name, "")).strip()
    if not text:
        return 0.0
    try:
        value = parse_measure(text, "mm")
    except BrightError as error:
        errors[name] = str(error)
        return 0.0
    if not 0 < value <= MOST_MM:
        errors[name] = f"More than 0, at most {MOST_MM:g} mm."
    return value
