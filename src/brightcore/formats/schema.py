"""JSON Schemas of the open formats, made from the kinds so that they never fall behind."""

import typing

from brightcore.bike.model import PEDALS, USUAL, WHENCE, BikeInfo
from brightcore.bike.roles import ROLES
from brightcore.bike.space import SHAPES, Size
from brightcore.circuit.instruments import LIMITS, METERS, OWN, Multimeter
from brightcore.formats.plain import JsonObject
from brightcore.formats.schema_pieces import (
    DIALECT,
    END,
    ID,
    ID_PATTERN,
    MOST_MM,
    MOST_PARTS,
    MOST_ROOMS,
    MOST_TEETH,
    NAME,
    OBSERVABLE,
    PIN,
    SHORT,
    TEXT,
    UUID,
    record,
)
from brightcore.kinds.base import Registry, spec_fields
from brightcore.tracing.states import STATES
from brightcore.tracing.tests import EVIDENCE_KINDS

BIKE_FORMAT = "bright-circuit/bike"
CASE_FORMAT = "bright-circuit/case"
JOB_FORMAT = "bright-circuit/job"
PARTS_FORMAT = "bright-circuit/parts"
VERSION = 1
LATEST = {BIKE_FORMAT: 3, JOB_FORMAT: 4}
"""Newest version of each format that has more than one; a file is written in the oldest that can
say it."""


def spec_schema(spec_type: type) -> JsonObject:
    """Return the schema of a spec dataclass."""
    properties: JsonObject = {}
    for field in spec_fields(spec_type):
        hint = field.hint
        if hint is bool:
            item: JsonObject = {"type": "boolean"}
        elif hint in (int, float):
            item = {"type": "integer" if hint is int else "number"}
            if field.low is not None:
                item |= {"minimum": field.low, "maximum": field.high}
        elif hint is str:
            item = {"type": "string", "maxLength": 120}
        elif hint == tuple[int, ...]:
            item = {
                "type": "array",
                "items": {"type": "integer", "minimum": 1, "maximum": MOST_TEETH},
                "minItems": 1,
                "maxItems": 16,
            }
        else:
            pair = {"type": "array", "items": END, "minItems": 2, "maxItems": 2}
            item = {"type": "array", "items": pair, "maxItems": 200}
        properties[field.name] = item | {"description": field.doc}
    return record(properties, [])


def _port_schema() -> JsonObject:
    role = {"enum": [role.name for role in ROLES]}
    pin = record({"name": ID, "role": role, "label": TEXT, "colour": TEXT}, ["name"]) | {
        "type": ["string", "object"],
        "pattern": ID_PATTERN,
    }
    return record(
        {
            "id": ID,
            "label": TEXT,
            "family": TEXT,
            "required": {"type": "boolean"},
            "rewireable": {"type": "boolean"},
            "access_min": {"type": "number", "minimum": 0, "maximum": 120},
            "gender": {"enum": ["pins", "sockets"]},
            "key": {"type": "string", "maxLength": 40},
            "rows": {"type": "integer", "minimum": 1, "maximum": 6},
            "pins": {"type": "array", "items": pin, "minItems": 1, "maxItems": 40},
        },
        ["id", "pins"],
    )


def parts_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a part file. Spec values may be texts with a unit, such as `18
    AWG`."""
    part = record(
        {
            "id": ID,
            "kind": {"enum": list(registry.names())},
            "name": NAME,
            "note": TEXT,
            "spec": {"type": ["object", "null"]},
            "ports": {"type": "array", "items": _port_schema(), "maxItems": 40},
        },
        ["id", "kind", "name"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit part file"} | record(
        {
            "format": {"const": PARTS_FORMAT},
            "version": {"const": VERSION},
            "parts": {"type": "array", "items": part, "minItems": 1, "maxItems": MOST_PARTS},
        },
        ["format", "version", "parts"],
    )


def bike_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a bike file."""
    port = _port_schema()
    allOf = []
    for kind in registry:
        allOf.append(
            {
                "if": {"properties": {"kind": {"const": kind.name}}},
                "then": {"properties": {"spec": spec_schema(kind.spec_type)}},
            }
        )
    part = record(
        {
            "id": ID,
            "kind": {"enum": list(registry.names())},
            "name": NAME,
            "spec": {"type": "object"},
            "ports": {"type": "array", "items": port, "maxItems": 40},
            "mark": SHORT,
            "replaces": ID,
            "known": {
                "type": "object",
                "additionalProperties": {"enum": [key for key in WHENCE if key != USUAL]},
                "maxProperties": 60,
            },
        },
        ["id", "kind", "name"],
    ) | {"allOf": allOf}
    pair = {"type": "array", "items": ID, "minItems": 2, "maxItems": 2}
    mates = {"type": "array", "items": pair, "maxItems": 40}
    positive = {"type": "number", "exclusiveMinimum": 0, "maximum": 100}
    wire = record({"area_mm2": positive, "length_m": positive}, []) | {"minProperties": 1}
    frame = record(
        {
            "pattern": ID,
            "lengths_m": {
                "type": "object",
                "additionalProperties": {"type": "number", "exclusiveMinimum": 0, "maximum": 20},
            },
            "places": {"type": "object", "additionalProperties": ID},
            "via": {"type": "object", "additionalProperties": ID},
            "wrapped": {"type": "boolean"},
        },
        [],
    )
    length = {"type": "number", "minimum": 0, "maximum": MOST_MM}
    size = record({name: length for name in typing.get_type_hints(Size) if name != "part"}, [])
    room = record(
        {"id": ID, "name": SHORT, "shape": {"enum": list(SHAPES)}}
        | dict.fromkeys(("a_mm", "b_mm", "c_mm", "depth_mm"), length)
        | {"parts": {"type": "array", "items": ID, "maxItems": 40}},
        ["id", "name", "shape"],
    )
    space = record(
        {
            "sizes": {"type": "object", "additionalProperties": size, "maxProperties": 120},
            "rooms": {"type": "array", "items": room, "maxItems": MOST_ROOMS},
        },
        [],
    )
    measured = record(
        {
            "part": {"type": "string", "maxLength": 40},
            "name": {"type": "string", "pattern": "^[a-z][a-z0-9_]{0,39}$"},
            "value": {"type": "number", "minimum": -1e9, "maximum": 1e9},
            "unit": {"type": "string", "maxLength": 20},
            "words": TEXT,
            "on": {"type": "string", "pattern": "^[0-9]{4}-[0-9]{2}-[0-9]{2}$"},
            "of": {"type": "string", "maxLength": 64},
        },
        ["part", "name", "value", "unit", "on", "of"],
    )
    join = record(
        {"id": ID, "from": END, "to": END, "map": mates, "wire": wire}, ["id", "from", "to"]
    )
    info: JsonObject = {}
    for name, hint in typing.get_type_hints(BikeInfo).items():
        info[name] = TEXT if hint is str else {"type": "number", "minimum": 0, "maximum": 2000}
    info["pedals"] = {"enum": list(PEDALS)}
    setting = record(
        {"part": ID, "role": ID, "value": {"type": "number", "minimum": -1e6, "maximum": 1e6}},
        ["part", "role", "value"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit bike file"} | record(
        {
            "format": {"const": BIKE_FORMAT},
            "version": {"enum": [1, 2, 3]},
            "uuid": UUID,
            "bike": record(info, ["label"]),
            "parts": {"type": "array", "items": part, "minItems": 1, "maxItems": 120},
            "joins": {"type": "array", "items": join, "maxItems": 240},
            "settings": {"type": "array", "items": setting, "maxItems": 400},
            "frame": frame,
            "space": space,
            "measured": {"type": "array", "items": measured, "maxItems": 400},
            "profiles": {"type": "object", "additionalProperties": ID, "maxProperties": 120},
        },
        ["format", "version", "bike", "parts", "joins"],
    )


def evidence_schema() -> JsonObject:
    """Return the schema of one piece of evidence."""
    enum = []
    for i, item in METERS.items():
        if isinstance(item, Multimeter):
            enum.append(i)
    return record(
        {
            "kind": {"enum": list(EVIDENCE_KINDS)},
            "condition": TEXT,
            "red": PIN,
            "black": PIN,
            "value": {"type": "string", "minLength": 1, "maxLength": 40},
            "scene": NAME,
            "observable": OBSERVABLE,
            "meter": {
                "anyOf": [
                    {"enum": enum},
                    {
                        "type": "string",
                        "pattern": f"^{OWN}[^|:]+([|][0-9.e+]+){{{len(LIMITS)}}}$",
                        "maxLength": 160,
                    },
                ]
            },
            "subject": NAME,
            "sometimes": {"type": "boolean"},
            "told": {"type": "boolean"},
            "state": {"enum": [state.id for state in STATES]},
        },
        ["kind", "value"],
    )


def case_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a case file: a bike and evidence."""
    bike = {}
    for k, v in bike_schema(registry).items():
        if k not in ("$schema", "title"):
            bike[k] = v
    return {"$schema": DIALECT, "title": "Bright Circuit case file"} | record(
        {
            "format": {"const": CASE_FORMAT},
            "version": {"const": VERSION},
            "bike": bike,
            "complaint": TEXT,
            "evidence": {"type": "array", "items": evidence_schema(), "maxItems": 500},
        },
        ["format", "version", "bike"],
    )
