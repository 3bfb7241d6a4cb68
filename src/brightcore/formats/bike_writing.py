"""Writing bike files: the canonical document of a bike and of its pieces."""

import json
from dataclasses import asdict, fields

from brightcore.bike.model import (
    Bike,
    Frame,
    Join,
    Part,
    Pin,
    Port,
)
from brightcore.bike.space import Space
from brightcore.formats.plain import Json, JsonObject
from brightcore.formats.schema import BIKE_FORMAT, VERSION

PORT_FIELDS = tuple(f.name for f in fields(Port))


LATER_INFO = ("frame_number", "pedals", "speed_limit_kmh")
"""Particulars that are in a file only where they say something."""


PIN_FIELDS = tuple(f.name for f in fields(Pin))


SINCE_MEASURED, SINCE_THINGS = 2, 3
"""The version of the bike file since which it holds measured values, and what makes a part a
thing."""


def version_of(bike: Bike) -> int:
    """Return the oldest version of the bike file that can say a bike."""
    if any(part.mark or part.replaces or part.known for part in bike.parts):
        return SINCE_THINGS
    if bike.measured or bike.profiles:
        return SINCE_MEASURED
    return VERSION


def part_document(part: Part) -> JsonObject:
    """Return one part of a bike file; what makes it a thing of its own only where it is said."""
    thing: JsonObject = {"mark": part.mark, "replaces": part.replaces, "known": dict(part.known)}
    return {
        "id": part.id,
        "kind": part.kind,
        "name": part.name,
        "spec": spec_document(part.spec),
        "ports": [plain_port(port) for port in part.ports],
    } | {name: value for name, value in thing.items() if value}


def join_document(join: Join) -> JsonObject:
    """Return one connection of a bike file."""
    wire = {}
    for name, value in asdict(join.wire).items():
        if value > 0:
            wire[name] = value
    return {
        "id": join.id,
        "from": f"{join.a_part}.{join.a_port}",
        "to": f"{join.b_part}.{join.b_port}",
        "map": [list(pair) for pair in join.pairs],
    } | ({"wire": wire} if wire else {})


def bike_document(bike: Bike) -> JsonObject:
    """Return the canonical JSON document of a bike: everything written out, in its order."""
    return {
        "format": BIKE_FORMAT,
        "version": version_of(bike),
        "uuid": bike.uuid,
        "bike": {k: v for k, v in asdict(bike.info).items() if v or k not in LATER_INFO},
        "parts": [part_document(part) for part in bike.parts],
        "joins": [join_document(join) for join in bike.joins],
        "settings": [asdict(setting) for setting in bike.settings],
    } | _measured(bike)


def _measured(bike: Bike) -> JsonObject:
    """Return what is said of frame, space, measured values and profiles, where anything is said."""
    said: JsonObject = {"frame": _plain_frame(bike.frame)} if bike.frame != Frame() else {}
    if bike.space != Space():
        sizes = {}
        for size in bike.space.sizes:
            sizes[size.part] = _said(asdict(size), "part")
        said["space"] = {
            "sizes": sizes,
            "rooms": [_said(asdict(room)) for room in bike.space.rooms],
        }
    if bike.measured:
        said["measured"] = [asdict(value) for value in bike.measured]
    if bike.profiles:
        said["profiles"] = dict(bike.profiles)
    return said


def _said(values: JsonObject, *but: str) -> JsonObject:
    """Return what is said of something, without some of its fields; JSON has lists where we have
    tuples."""
    said: JsonObject = {}
    for name, value in values.items():
        if value and name not in but:
            said[name] = list(value) if isinstance(value, tuple) else value
    return said


def _plain_frame(frame: Frame) -> JsonObject:
    """Return what is said of the frame; what is usual is left out."""
    pairs = {"lengths_m": frame.lengths, "places": frame.places, "via": frame.via}
    said: JsonObject = {k: dict(v) for k, v in pairs.items() if v}
    return (
        said
        | ({"pattern": frame.pattern} if frame.pattern else {})
        | ({"wrapped": True} if frame.wrapped else {})
    )


def plain_port(port: Port) -> JsonObject:
    """Return a port as JSON has it; gender, key and rows only where somebody looked."""
    whole: JsonObject = {name: getattr(port, name) for name in PORT_FIELDS}
    whole["pins"] = [_plain_pin(pin) for pin in port.pins]
    found = {}
    for k, v in whole.items():
        if v or k not in ("gender", "key", "rows"):
            found[k] = v
    return found


def _plain_pin(pin: Pin) -> JsonObject:
    return {name: getattr(pin, name) for name in PIN_FIELDS}


def spec_document(spec: Json) -> JsonObject:
    """Return a spec as JSON has it; fields that came later only where they say something."""
    found = {}
    for f in fields(spec):
        if not f.metadata.get("later") or getattr(spec, f.name) != f.default:
            found[f.name] = plain_spec(getattr(spec, f.name))
    return found


def plain_spec(value: Json) -> Json:
    """Return a spec value as JSON has it: lists for tuples."""
    if isinstance(value, tuple):
        return [plain_spec(item) for item in value]
    return value


def canonical_json(document: Json) -> str:
    """Return JSON text that is the same for the same content."""
    return (
        json.dumps(document, ensure_ascii=False, indent=2, sort_keys=True, allow_nan=False) + "\n"
    )


def dump_bike(bike: Bike) -> str:
    """Return the text of a bike file."""
    return canonical_json(bike_document(bike))
