"""What the describing pages do: turn a posted action into a changed core bike, in words."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from brightcircuit.library.forms import read_known, read_spec
from brightcircuit.library.models import LibraryPart
from brightcircuit.library.translate import core_entry
from brightcore.bike.model import PEDALS, Bike, BikeInfo, Wire
from brightcore.describing.edit import add_part, change_part, known_as, marked, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.join_words import join_words
from brightcore.describing.specs import parse_measure, unit_of
from brightcore.describing.swap import swap_part
from brightcore.describing.wheels import parse_tyre
from brightcore.errors import BrightError, ReadingError
from brightcore.kinds import REGISTRY

MOST_LIMIT_KMH = 110.0
"""Highest speed limit that can be described."""


class Refused(Exception):
    """What was posted does not work; `errors` holds words by field."""

    def __init__(self, errors: dict[str, str]) -> None:
        self.errors = errors
        super().__init__("; ".join(errors.values()))


@dataclass(frozen=True)
class Edited:
    """A changed bike, what was done in words, and the joins that no longer fit."""

    bike: Bike
    what: str
    lost: tuple[str, ...] = ()


def library_part(slug: str) -> LibraryPart:
    """Return the library part of a slug; raises Refused."""
    row = LibraryPart.objects.filter(slug=slug, retired=False).first()
    if row is None:
        raise Refused({"library": "Choose a part of the library."})
    return row


def edit_info(bike: Bike, data: Mapping[str, str]) -> Edited:
    """Return the bike with the particulars of a posted form; raises Refused naming every field."""
    errors: dict[str, str] = {}
    values: dict[str, Any] = {
        name: data.get(name, "").strip()
        for name in ("label", "description", "place", "driven_wheel", "frame_number", "pedals")
    }
    if not values["label"]:
        errors["label"] = "Give the bike a name."
    try:
        values["tyre_width_mm"], values["bead_seat_mm"] = parse_tyre(data.get("tyre", ""))
    except ReadingError as error:
        errors["tyre"] = str(error)
    for name in ("bike_mass_kg", "load_mass_kg"):
        try:
            values[name] = parse_measure(data.get(name, ""), unit_of(name))
            if not 1 <= values[name] <= 600:
                errors[name] = "From 1 to 600 kg."
        except ReadingError as error:
            errors[name] = str(error)
    if values["pedals"] not in PEDALS:
        errors["pedals"] = "Choose one of the list."
    try:
        values["speed_limit_kmh"] = parse_measure(data.get("speed_limit_kmh", "") or "0", "kmh")
        if not 0 <= values["speed_limit_kmh"] <= MOST_LIMIT_KMH:
            errors["speed_limit_kmh"] = f"From 0 (none) to {MOST_LIMIT_KMH:g} km/h."
    except ReadingError as error:
        errors["speed_limit_kmh"] = str(error)
    if errors:
        raise Refused(errors)
    limits = {"label": 120, "description": 300, "place": 80, "driven_wheel": 20, "frame_number": 80}
    return Edited(
        replace(
            bike,
            info=BikeInfo(**{k: v[: limits[k]] if k in limits else v for k, v in values.items()}),
        ),
        "Particulars changed",
    )


def edit(bike: Bike, action: str, data: Mapping[str, str]) -> Edited:
    """Return the bike after one posted action. Raises Refused with words for what does not work."""
    try:
        if action == "info":
            return edit_info(bike, data)
        if action == "add":
            entry = core_entry(library_part(data.get("library", "")))
            made = add_part(bike, entry.kind, entry.name, entry.spec, entry.ports)
            return Edited(made, f"Fitted: {made.parts[-1].name}")
        if action == "remove":
            name = bike.part(data.get("part", "")).name
            changed = remove_part(bike, data.get("part", ""))
            return Edited(changed.bike, f"Removed: {name}", changed.lost)
        if action == "swap":
            old = bike.part(data.get("part", ""))
            entry = core_entry(library_part(data.get("library", "")))
            changed = swap_part(bike, old.id, entry.kind, entry.name, entry.spec, entry.ports)
            made = marked(changed.bike, changed.made, data.get("mark", ""))
            what = f"{old.name} replaced by {made.part(changed.made).name}"
            if changed.unset:
                what += f"; not yet set on it: {_settings_words(entry.kind, changed.unset)}"
            return Edited(made, what, changed.lost)
        if action == "join":
            made = add_join(bike, data.get("one", ""), data.get("two", ""), _wire(data))
            return Edited(made, f"Connected: {join_words(made, made.joins[-1])}")
        if action == "unjoin":
            words = join_words(bike, bike.join(data.get("join", "")))
            return Edited(remove_join(bike, data.get("join", "")), f"Disconnected: {words}")
    except BrightError as error:
        raise Refused({action: str(error)}) from None
    raise Refused({"action": "Nothing to do."})


def _settings_words(kind: str, names: Sequence[str]) -> str:
    """Return settings in words, as the kind of part calls them."""
    known = REGISTRY[kind].settings
    return ", ".join(known.get(name, name.replace("_", " ")).lower() for name in names)


def edit_spec(bike: Bike, part_id: str, data: Mapping[str, str]) -> Edited:
    """Return the bike with a part's posted name and spec; raises Refused naming every field."""
    part = bike.part(part_id)
    spec, errors = read_spec(REGISTRY[part.kind], data, part.spec)
    name = data.get("name", "").strip()[:120]
    if not name:
        errors["name"] = "Give it a name."
    if errors or spec is None:
        raise Refused(errors)
    known = read_known(REGISTRY[part.kind], data, part, spec)
    made = known_as(change_part(bike, part_id, name, spec), part_id, known)
    made = marked(made, part_id, data.get("mark", part.mark))
    return Edited(made, f"{part.name}: description changed")


def _wire(data: Mapping[str, str]) -> Wire:
    area, length = data.get("area", "").strip(), data.get("length", "").strip()
    if not area and not length:
        return Wire()
    if not (area and length):
        raise ReadingError("give both the area and the length of the wire, or neither")
    wire = Wire(parse_measure(area, "mm2"), parse_measure(length, "m"))
    if not (0 < wire.area_mm2 <= 100 and 0 < wire.length_m <= 100):
        raise ReadingError("area must lie above 0 to 100 mm², length above 0 to 100 m")
    return wire
