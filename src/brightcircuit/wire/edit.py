"""What the pages of Wire do: turn a posted action into a changed core bike, in words."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from brightcircuit.bikes.describe import Edited, Refused
from brightcircuit.common.numbers import whole_number
from brightcore.bike.model import Bike, Frame, Port, Wire
from brightcore.describing.edit import look_at
from brightcore.describing.join_edits import (
    add_join,
    change_wire,
    extend,
    remove_join,
    repin,
    set_pairs,
)
from brightcore.describing.join_words import join_words
from brightcore.describing.specs import parse_measure
from brightcore.drawing.plug_cards import CODES
from brightcore.errors import BikeError, BrightError, ReadingError
from brightcore.wiring.frames import FRAMES
from brightcore.wiring.propose import fits_of
from brightcore.wiring.routes import change_frame, guess_frame, runs_of

GENDERS = ("pins", "sockets")
MOST_ROWS, MOST_WIRE = 6, 100.0

Data = Mapping[str, str]


def edit_wiring(bike: Bike, action: str, data: Data) -> Edited:
    """Return the bike after one posted action of Wire. Raises Refused with words for what does not
    work."""
    if action not in ACTIONS:
        raise Refused({"action": "Nothing to do."})
    try:
        return ACTIONS[action](bike, data)
    except BrightError as error:
        raise Refused({action: str(error)}) from None


def _join(bike: Bike, data: Data) -> Edited:
    one, two = data.get("one", ""), data.get("two", "")
    made = add_join(bike, one, two)
    if two not in fits_of(bike).get(one, ()):
        raise BikeError(
            "these two plugs do not mate: another make of plug. An adapter or a new end can be "
            "described under Parts."
        )
    return Edited(made, f"Connected: {join_words(made, made.joins[-1])}")


def _unjoin(bike: Bike, data: Data) -> Edited:
    words = join_words(bike, bike.join(data.get("join", "")))
    return Edited(remove_join(bike, data.get("join", "")), f"Disconnected: {words}")


def _repin(bike: Bike, data: Data) -> Edited:
    join = bike.join(data.get("join", ""))
    ends = {}
    for end in (data.get("one", ""), data.get("two", "")):
        ends[end.rpartition(".")[0]] = end.rpartition(".")[2]
    try:
        first, second = (ends[".".join(side)] for side in join.sides())
    except KeyError:
        raise BikeError("choose one pin on either plug of the same connection") from None
    made = repin(bike, join.id, first, second)
    if made is bike:
        raise BikeError("these two pins are mated already")
    return Edited(made, f"Re-pinned: {join_words(bike, join)}, {first} to {second}")


def _found(bike: Bike, data: Data) -> Edited:
    """Take what was found on both plugs of a join: faces, colours, which pin meets which, the wire
    between."""
    join = bike.join(data.get("join", ""))
    ports = [bike.part(part).port(port) for part, port in join.sides()]
    made = bike
    for letter, (part_id, port_id), port in zip("ab", join.sides(), ports, strict=True):
        made = look_at(made, part_id, port_id, *_face(letter, port, data))
    rows = []
    for pin in ports[0].pins:
        if data.get(f"mate_{pin.name}"):
            rows.append((pin.name, data[f"mate_{pin.name}"]))
    pairs = tuple(rows)
    if not pairs:
        raise ReadingError("at least one pin must have a mate; to have none, disconnect the plugs")
    made = change_wire(set_pairs(made, join.id, pairs), join.id, read_wire(data))
    return Edited(made, f"Inspected: {join_words(bike, join)}")


def _face(letter: str, port: Port, data: Data) -> tuple[str, str, int, str, dict[str, str]]:
    gender, rows = data.get(f"{letter}_gender", ""), data.get(f"{letter}_rows", "").strip() or "0"
    if gender not in ("", *GENDERS):
        raise ReadingError(f"{gender!r} is neither pins nor sockets")
    if not 0 <= whole_number(rows, -1) <= MOST_ROWS:
        raise ReadingError(f"{rows!r} is not a number of rows of pins, 1 to {MOST_ROWS}")
    colours = {}
    for pin in port.pins:
        colour = data.get(f"{letter}_colour_{pin.name}", pin.colour)
        if colour not in ("", pin.colour, *CODES):
            raise ReadingError(f"{colour!r} is not a colour of the list")
        colours[pin.name] = colour
    return (
        gender,
        data.get(f"{letter}_key", "").strip()[:40],
        int(rows),
        data.get(f"{letter}_family", port.family).strip()[:40],
        colours,
    )


def read_wire(data: Data) -> Wire:
    """Return the wire of posted `area` and `length`, either of which may be empty; raises
    ReadingError."""
    values = []
    for name, unit in (("area", "mm2"), ("length", "m")):
        text = data.get(name, "").strip()
        value = parse_measure(text, unit) if text else 0.0
        if not 0 <= value <= MOST_WIRE:
            raise ReadingError(f"{name} {text!r} is outside 0 to {MOST_WIRE:g}")
        values.append(value)
    return Wire(*values)


def _extend(bike: Bike, data: Data) -> Edited:
    join = bike.join(data.get("join", ""))
    length = parse_measure(data.get("length", ""), "m")
    return Edited(
        extend(bike, join.id, length), f"Extension of {length:g} m in {join_words(bike, join)}"
    )


def _measure(bike: Bike, data: Data) -> Edited:
    """Take the length of a join's own cable as measured; its area stays."""
    join = bike.join(data.get("join", ""))
    wire = replace(join.wire, length_m=read_wire({"length": data.get("length", "")}).length_m)
    return Edited(
        change_wire(bike, join.id, wire), f"Measured: {join_words(bike, join)}, {wire.length_m:g} m"
    )


def _frame(bike: Bike, data: Data) -> Edited:
    """Take the frame as posted: which, measured lengths, places, ways, ties or wrap.

    What is as usual is not kept.
    """
    pattern = data.get("pattern", "") or guess_frame(bike)
    if pattern not in FRAMES:
        raise ReadingError(f"there is no frame {pattern!r}")
    lengths = []
    for stretch in FRAMES[pattern].stretches:
        text = data.get(f"length_{stretch.id}", "").strip()
        if text:
            value = parse_measure(text, "m")
        else:
            value = stretch.length_m
        if abs(value - stretch.length_m) > 0.0005:
            lengths.append((stretch.id, value))
    places = tuple(
        sorted((p.id, data[f"place_{p.id}"]) for p in bike.parts if data.get(f"place_{p.id}"))
    )
    via = tuple(
        sorted((r.id, data[f"via_{r.id}"]) for r in runs_of(bike) if data.get(f"via_{r.id}"))
    )
    if pattern != (bike.frame.pattern or guess_frame(bike)):
        lengths, places, via = [], (), ()  # the places of another frame are others
    frame = Frame(pattern, tuple(sorted(lengths)), places, via, data.get("wrapped") == "1")
    return Edited(
        change_frame(bike, frame), f"Frame and ways of the cables: {FRAMES[pattern].title.lower()}"
    )


def _place(bike: Bike, data: Data) -> Edited:
    """Lead one run by another place, or let it find its way again."""
    run = next((r for r in runs_of(bike) if r.id == data.get("run", "")), None)
    if run is None:
        raise BikeError("that run is not on the bike any more")
    rest = tuple(item for item in bike.frame.via if item[0] != run.id)
    via = tuple(sorted((*rest, *(((run.id, data["via"]),) if data.get("via") else ()))))
    return Edited(change_frame(bike, replace(bike.frame, via=via)), f"Rerouted: {run.title}")


ACTIONS: dict[str, Callable[[Bike, Data], Edited]] = {
    "join": _join,
    "unjoin": _unjoin,
    "repin": _repin,
    "found": _found,
    "extend": _extend,
    "measure": _measure,
    "frame": _frame,
    "via": _place,
}
