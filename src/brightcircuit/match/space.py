"""The Space page: sizes of parts, rooms, and whether one goes into the other."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from brightcircuit.common.shown import Shown
from brightcore.bike.model import Bike
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


Changed = tuple[Space, str, dict[str, str]]
"""The space after a change, what was done in words, and errors by field."""


@dataclass(frozen=True)
class SpacePage(Shown):
    """What the Space page shows."""

    rooms: list[dict[str, Any]]
    sizes: list[dict[str, Any]]
    headings: list[str]
    shapes: list[tuple[str, str]]
    errors: dict[str, str]
    typed: Mapping[str, str]


def space_context(bike: Bike, errors: dict[str, str], typed: Mapping[str, str]) -> dict[str, Any]:
    """Return everything the Space page needs; what was typed stays where a form came back."""
    verdicts = {verdict.room.id: verdict for verdict in space_verdicts(bike)}
    sizes = []
    for part in bike.parts:
        fields = []
        for field, label in MEASURED:
            fields.append(
                {
                    "name": f"{part.id}-{field}",
                    "label": f"{part.name}, {label.lower()}",
                    "value": _shown(
                        typed, f"{part.id}-{field}", getattr(bike.space.size(part.id), field)
                    ),
                    "error": errors.get(f"{part.id}-{field}", ""),
                }
            )
        sizes.append(
            {
                "part": part,
                "fields": fields,
            }
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
    ).context()


def _room_card(
    bike: Bike,
    room: Room,
    verdict: Verdict | None,
    errors: dict[str, str],
    typed: Mapping[str, str],
) -> dict[str, Any]:
    own_fields = []
    for field, words in zip(MEASURES[room.shape], WORDS[room.shape], strict=True):
        own_fields.append(
            {
                "name": f"{room.id}-{field}",
                "label": words,
                "value": _shown(typed, f"{room.id}-{field}", getattr(room, field)),
                "error": errors.get(f"{room.id}-{field}", ""),
            }
        )
    return {
        "room": room,
        "shape": SHAPES[room.shape],
        "verdict": verdict,
        "fields": own_fields,
        "parts": [(part.id, part.name, part.id in room.parts) for part in bike.parts],
    }


def _shown(typed: Mapping[str, str], name: str, value: float) -> str:
    if name in typed:
        return typed[name]
    if value:
        return f"{value:g}"
    return ""


def changed_space(bike: Bike, data: Mapping[str, Any], chosen: list[str]) -> Changed:
    """Return (space, what was done in words, errors by field) of a posted form; `chosen` are part
    ids."""
    action, space = data.get("action", ""), bike.space
    errors: dict[str, str] = {}
    if action == "sizes":
        sizes = [_size(part.id, data, errors) for part in bike.parts]
        return (
            replace(space, sizes=tuple(s for s in sizes if s != Size(s.part))),
            "Parts measured",
            errors,
        )
    if action == "add-room":
        return _added(space, data, errors)
    room = next((room for room in space.rooms if room.id == data.get("room")), None)
    if room is None:
        return space, "", {"room": "That room is not there any more. Look again."}
    if action == "drop-room":
        rooms = tuple(other for other in space.rooms if other is not room)
        return replace(space, rooms=rooms), f"Room removed: {room.name}", errors
    values = {field: _measure(data, f"{room.id}-{field}", errors) for field in MEASURES[room.shape]}
    known = tuple(part.id for part in bike.parts if part.id in chosen)
    fresh = replace(room, **values, parts=known)  # type: ignore[arg-type]
    rooms = tuple(fresh if other is room else other for other in space.rooms)
    return replace(space, rooms=rooms), f"Room measured: {room.name}", errors


def _added(space: Space, data: Mapping[str, Any], errors: dict[str, str]) -> Changed:
    name, shape = str(data.get("name", "")).strip()[:60], data.get("shape", "")
    if shape not in SHAPES:
        errors["shape"] = "Choose what it is."
    if not name:
        errors["name"] = "Give it a name, such as Frame bag."
    if len(space.rooms) >= MOST_ROOMS:
        errors["name"] = f"{MOST_ROOMS} rooms are the most. Take one away first."
    if errors:
        return space, "", errors
    taken = {room.id for room in space.rooms}
    free = next(f"room-{n}" for n in range(1, MOST_ROOMS + 2) if f"room-{n}" not in taken)
    return (
        replace(space, rooms=(*space.rooms, Room(free, name, shape))),
        f"Room added: {name}",
        errors,
    )


def _size(part_id: str, data: Mapping[str, Any], errors: dict[str, str]) -> Size:
    values = {field: _measure(data, f"{part_id}-{field}", errors) for field, _ in MEASURED}
    return Size(part_id, **values)


def _measure(data: Mapping[str, Any], name: str, errors: dict[str, str]) -> float:
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
