"""JSON Schemas of the open formats, made from the kinds so that they never fall behind."""

import typing

from brightcore.bike.model import PEDALS, BikeInfo
from brightcore.bike.roles import ROLES
from brightcore.bike.space import SHAPES, Size
from brightcore.circuit.instruments import INSTRUMENTS, LIMITS, OWN, Multimeter
from brightcore.formats.plain import JsonObject
from brightcore.kinds.base import Registry, spec_fields
from brightcore.matching.drive import DRAG_AREA_M2, TYRES
from brightcore.matching.riding import ROUTES
from brightcore.tracing.states import STATES
from brightcore.tracing.tests import EVIDENCE_KINDS

BIKE_FORMAT = "bright-circuit/bike"
CASE_FORMAT = "bright-circuit/case"
JOB_FORMAT = "bright-circuit/job"
PARTS_FORMAT = "bright-circuit/parts"
VERSION = 1
LATEST = {BIKE_FORMAT: 2, JOB_FORMAT: 3}
"""Newest version of each format that has more than one; a file is written in the oldest that can say it."""

ID_PATTERN = "^[a-z0-9][a-z0-9_-]{0,39}$"
REPAIR_TEXTS = (
    "repair",
    "action",
    "fault",
    "fault_class",
    "root_cause",
    "cause",
    "decision",
    "proof_title",
    "proof_expected",
)
"""Text fields of a repair, in the job file and in the application alike."""

DIALECT = "https://json-schema.org/draft/2020-12/schema"

_ID = {"type": "string", "pattern": ID_PATTERN}
_OBSERVABLE = {"type": "string", "pattern": "^[a-z][a-z_]{0,29}(-[a-z0-9][a-z0-9_-]{0,39})?$"}
"""What is seen, of one part where there are several."""

_TEXT = {"type": "string", "maxLength": 2000}
_LONG = {"type": "string", "maxLength": 8000}
MOST_PARTS, MOST_ROUNDS, MOST_NUMBER = 2000, 1000, 10_000_000
"""Parts in a part file, rounds of a job, numbers of jobs."""

MOST_MM, MOST_ROOMS = 5000.0, 20
"""The largest measure of a part or room in mm, and the most rooms of a bike."""

MOST_TEETH = 200
"""Teeth of the largest sprocket."""

_ROUND = {"type": "integer", "minimum": 1, "maximum": MOST_ROUNDS}
_UUID = {"type": "string", "pattern": "^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$"}
_NAME = {"type": "string", "minLength": 1, "maxLength": 120}
_SHORT = {"type": "string", "minLength": 1, "maxLength": 60}
_END = {"type": "string", "pattern": r"^[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}$"}
_PIN = {"type": "string", "pattern": r"^[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}$"}


def _record(properties: JsonObject, required: list[str]) -> JsonObject:
    return {"type": "object", "properties": properties, "required": required, "additionalProperties": False}


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
            pair = {"type": "array", "items": _END, "minItems": 2, "maxItems": 2}
            item = {"type": "array", "items": pair, "maxItems": 200}
        properties[field.name] = item | {"description": field.doc}
    return _record(properties, [])


def _port_schema() -> JsonObject:
    role = {"enum": [role.name for role in ROLES]}
    pin = _record({"name": _ID, "role": role, "label": _TEXT, "colour": _TEXT}, ["name"]) | {
        "type": ["string", "object"],
        "pattern": ID_PATTERN,
    }
    return _record(
        {
            "id": _ID,
            "label": _TEXT,
            "family": _TEXT,
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
    """Return the JSON Schema of a part file. Spec values may be texts with a unit, such as `18 AWG`."""
    part = _record(
        {
            "id": _ID,
            "kind": {"enum": list(registry.names())},
            "name": _NAME,
            "note": _TEXT,
            "spec": {"type": ["object", "null"]},
            "ports": {"type": "array", "items": _port_schema(), "maxItems": 40},
        },
        ["id", "kind", "name"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit part file"} | _record(
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
    part = _record(
        {
            "id": _ID,
            "kind": {"enum": list(registry.names())},
            "name": _NAME,
            "spec": {"type": "object"},
            "ports": {"type": "array", "items": port, "maxItems": 40},
        },
        ["id", "kind", "name"],
    ) | {
        "allOf": [
            {
                "if": {"properties": {"kind": {"const": kind.name}}},
                "then": {"properties": {"spec": spec_schema(kind.spec_type)}},
            }
            for kind in registry
        ]
    }
    pair = {"type": "array", "items": _ID, "minItems": 2, "maxItems": 2}
    mates = {"type": "array", "items": pair, "maxItems": 40}
    positive = {"type": "number", "exclusiveMinimum": 0, "maximum": 100}
    wire = _record({"area_mm2": positive, "length_m": positive}, []) | {"minProperties": 1}
    frame = _record(
        {
            "pattern": _ID,
            "lengths_m": {
                "type": "object",
                "additionalProperties": {"type": "number", "exclusiveMinimum": 0, "maximum": 20},
            },
            "places": {"type": "object", "additionalProperties": _ID},
            "via": {"type": "object", "additionalProperties": _ID},
            "wrapped": {"type": "boolean"},
        },
        [],
    )
    length = {"type": "number", "minimum": 0, "maximum": MOST_MM}
    size = _record({name: length for name in typing.get_type_hints(Size) if name != "part"}, [])
    room = _record(
        {"id": _ID, "name": _SHORT, "shape": {"enum": list(SHAPES)}}
        | dict.fromkeys(("a_mm", "b_mm", "c_mm", "depth_mm"), length)
        | {"parts": {"type": "array", "items": _ID, "maxItems": 40}},
        ["id", "name", "shape"],
    )
    space = _record(
        {
            "sizes": {"type": "object", "additionalProperties": size, "maxProperties": 120},
            "rooms": {"type": "array", "items": room, "maxItems": MOST_ROOMS},
        },
        [],
    )
    measured = _record(
        {
            "part": {"type": "string", "maxLength": 40},
            "name": {"type": "string", "pattern": "^[a-z][a-z0-9_]{0,39}$"},
            "value": {"type": "number", "minimum": -1e9, "maximum": 1e9},
            "unit": {"type": "string", "maxLength": 20},
            "words": _TEXT,
            "on": {"type": "string", "pattern": "^[0-9]{4}-[0-9]{2}-[0-9]{2}$"},
            "of": {"type": "string", "maxLength": 64},
        },
        ["part", "name", "value", "unit", "on", "of"],
    )
    join = _record({"id": _ID, "from": _END, "to": _END, "map": mates, "wire": wire}, ["id", "from", "to"])
    info: JsonObject = {}
    for name, hint in typing.get_type_hints(BikeInfo).items():
        info[name] = _TEXT if hint is str else {"type": "number", "minimum": 0, "maximum": 2000}
    info["pedals"] = {"enum": list(PEDALS)}
    setting = _record(
        {"part": _ID, "role": _ID, "value": {"type": "number", "minimum": -1e6, "maximum": 1e6}},
        ["part", "role", "value"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit bike file"} | _record(
        {
            "format": {"const": BIKE_FORMAT},
            "version": {"enum": [1, 2]},
            "uuid": _UUID,
            "bike": _record(info, ["label"]),
            "parts": {"type": "array", "items": part, "minItems": 1, "maxItems": 120},
            "joins": {"type": "array", "items": join, "maxItems": 240},
            "settings": {"type": "array", "items": setting, "maxItems": 400},
            "frame": frame,
            "space": space,
            "measured": {"type": "array", "items": measured, "maxItems": 400},
            "profiles": {"type": "object", "additionalProperties": _ID, "maxProperties": 120},
        },
        ["format", "version", "bike", "parts", "joins"],
    )


def evidence_schema() -> JsonObject:
    """Return the schema of one piece of evidence."""
    return _record(
        {
            "kind": {"enum": list(EVIDENCE_KINDS)},
            "condition": _TEXT,
            "red": _PIN,
            "black": _PIN,
            "value": {"type": "string", "minLength": 1, "maxLength": 40},
            "scene": _NAME,
            "observable": _OBSERVABLE,
            "meter": {
                "anyOf": [
                    {"enum": [i for i, item in INSTRUMENTS.items() if isinstance(item, Multimeter)]},
                    {
                        "type": "string",
                        "pattern": f"^{OWN}[^|:]+([|][0-9.e+]+){{{len(LIMITS)}}}$",
                        "maxLength": 160,
                    },
                ]
            },
            "subject": _NAME,
            "sometimes": {"type": "boolean"},
            "told": {"type": "boolean"},
            "state": {"enum": [state.id for state in STATES]},
        },
        ["kind", "value"],
    )


def case_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a case file: a bike and evidence."""
    bike = {k: v for k, v in bike_schema(registry).items() if k not in ("$schema", "title")}
    return {"$schema": DIALECT, "title": "Bright Circuit case file"} | _record(
        {
            "format": {"const": CASE_FORMAT},
            "version": {"const": VERSION},
            "bike": bike,
            "complaint": _TEXT,
            "evidence": {"type": "array", "items": evidence_schema(), "maxItems": 500},
        },
        ["format", "version", "bike"],
    )


def _match_schema() -> JsonObject:
    """Return the schema of what a job's Match was asked; all of it may be left out."""

    def number(low: float, high: float) -> JsonObject:
        return {"type": "number", "minimum": low, "maximum": high}

    def number_or_none(low: float, high: float) -> JsonObject:
        return {"type": ["number", "null"], "minimum": low, "maximum": high}

    teeth = {"type": "integer", "minimum": 8, "maximum": 700}
    variant = _record(
        {"name": _SHORT}
        | dict.fromkeys(("pack", "controller", "motor", "second_pack"), _ID)
        | {"chain_ring": teeth, "wheel_seat": teeth},
        ["name"],
    )
    money = {"type": "object", "additionalProperties": number(0, 1e6), "maxProperties": 120}
    return _record(
        {
            "load_mass_kg": number(1, 1000),
            "rider_w": number(0, 600),
            "hill_percent": number(0, 35),
            "hill_min": number(0.1, 600),
            "wind_kmh": number(-80, 80),
            "air_c": number(-30, 55),
            "cruise_kmh": number(5, 60),
            "sprocket": number(0, MOST_TEETH),
            "charger_a": number(0.1, 100),
            "body": {"enum": list(DRAG_AREA_M2)},
            "tyre": {"enum": list(TYRES)},
            "route": {"enum": list(ROUTES)},
            "place": {"type": "string", "maxLength": 60},
            "labour_per_hour": number(0, 10000),
            "locked": {"type": "boolean"},
            "variants": {"type": "array", "items": variant, "maxItems": 3},
            "log_km": number_or_none(0.1, 10000),
            "log_ah": number_or_none(0.01, 1000),
            "log_from_km": number_or_none(0, 1e6),
            "log_to_km": number_or_none(0, 1e6),
            "log_percent": number_or_none(0.1, 100),
            "log_from_v": number_or_none(1, 150),
            "log_to_v": number_or_none(1, 150),
            "options": {"type": "object", "additionalProperties": money, "maxProperties": 20},
            "tally": money,
            "tally_min": number(0, 1e6),
            "resistance": _record({"ohm": number(0, 100), "words": _TEXT}, ["ohm", "words"]),
            "log": _record({"words": _TEXT, "worn": {"type": "boolean"}}, ["words"]),
        },
        [],
    )


def _conclusion_schema() -> JsonObject:
    """Return the schema of what was frozen when a repair was done."""
    share = {"type": "number", "minimum": 0, "maximum": 1}
    ranked = _record({"title": _TEXT, "probability": share}, ["title", "probability"])
    reason = _record({"title": _TEXT, "value": _TEXT}, ["title", "value"])
    return _record(
        {
            "engine": _SHORT,
            "fault": _TEXT,
            "minutes": {"type": "number", "minimum": 0, "maximum": 10000},
            "cost_level": {"type": "integer", "minimum": 0, "maximum": 4},
            "probability": share,
            "ranking": {"type": "array", "items": ranked, "maxItems": 40},
            "reasons": {"type": "array", "items": reason, "maxItems": 2000},
        },
        [],
    )


def _money_schema(stamp: JsonObject) -> JsonObject:
    """Return the schemas of offers, costs and warranty; amounts are decimal texts."""
    amount = {"type": "string", "pattern": r"^[0-9]{1,8}(\.[0-9]{1,2})?$"}
    day = {"type": "string", "pattern": "^([0-9]{4}-[0-9]{2}-[0-9]{2})?$"}
    offer = _record(
        {
            "title": {"type": "string", "minLength": 1, "maxLength": 200},
            "parts_cost": amount,
            "minutes": {"type": "integer", "minimum": 0, "maximum": 100_000},
            "rate": {"type": "string", "pattern": r"^[0-9]{1,6}(\.[0-9]{1,2})?$"},
            "available": {"enum": ["", "universal", "maker", "gone"]},
            "note": {"type": "string", "maxLength": 300},
            "chosen": {"type": "boolean"},
            "at": stamp,
            "by": _TEXT,
        },
        ["title", "parts_cost", "minutes", "rate", "at"],
    )
    line = _record(
        {
            "kind": {"enum": ["part", "labour", "other"]},
            "words": {"type": "string", "minLength": 1, "maxLength": 200},
            "count": {"type": "string", "pattern": r"^[0-9]{1,6}(\.[0-9]{1,2})?$"},
            "each": amount,
            "at": stamp,
            "by": _TEXT,
        },
        ["kind", "words", "count", "each", "at"],
    )
    return {
        "offers": {"type": "array", "items": offer, "maxItems": 40},
        "costs": {"type": "array", "items": line, "maxItems": 400},
        "warranty": _record({"words": {"type": "string", "maxLength": 500}, "until": day}, []),
    }


def job_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a job file: a bike, its job, its evidence and its log."""
    bike = {k: v for k, v in bike_schema(registry).items() if k not in ("$schema", "title")}
    stamp = {"type": "string", "maxLength": 40}
    evidence = evidence_schema()
    evidence["properties"] |= {
        "uuid": _UUID,
        "round": _ROUND,
        "at": stamp,
        "by": _TEXT,
        "undone": {"type": "boolean"},
        "questioned": _TEXT,
        "minutes": {"type": "number", "minimum": 0, "maximum": 100_000},
    }
    entry = _record({"at": stamp, "by": _TEXT, "what": _ID, "text": _LONG}, ["at", "by", "what", "text"])
    repair = _record(
        {
            "round": _ROUND,
            "proof": {"enum": ["", "passed", "failed"]},
            "at": stamp,
            "by": _TEXT,
        }
        | dict.fromkeys(REPAIR_TEXTS, _TEXT),
        ["round", "action", "proof", "at"],
    )
    attachment = _record(
        {
            "name": _TEXT,
            "size": {"type": "integer", "minimum": 0, "maximum": 100_000_000},
            "sha256": _TEXT,
            "caption": _TEXT,
            "place": _TEXT,
        },
        ["name", "size", "sha256"],
    )
    waiver = _record({"key": _TEXT, "reason": _TEXT, "at": stamp, "by": _TEXT}, ["key", "reason", "at"])
    triage = {"type": "object", "additionalProperties": {"type": ["boolean", "null"]}}
    job = _record(
        {
            "uuid": _UUID,
            "number": {"type": "integer", "minimum": 1, "maximum": MOST_NUMBER},
            "status": {"enum": ["open", "closed"]},
            "complaint": _TEXT,
            "arrival_note": _LONG,
            "plan": _record(
                {
                    "purposes": {"type": "array", "items": _ID, "maxItems": 12},
                    "promised": _TEXT,
                    "worker": _TEXT,
                    "waiting": _TEXT,
                    "place": _TEXT,
                    "decided": _TEXT,
                },
                [],
            ),
            "opened": stamp,
            "closed": {"type": ["string", "null"], "maxLength": 40},
            "round": _ROUND,
            "triage": triage,
            "quarantine_lifted": _TEXT,
            "quarantine_lifted_by": _TEXT,
            "repairs": {"type": "array", "items": repair, "maxItems": 100},
            "circumstances": {"type": "array", "items": _ID, "maxItems": 40},
            "wires": {"type": "array", "items": _ID, "maxItems": 40},
            "wire_places": {"type": "object", "additionalProperties": _NAME, "maxProperties": 40},
            "match": _match_schema(),
            "contact": _record({"name": _TEXT, "reach": _TEXT, "note": _TEXT}, []),
            "attachments": {"type": "array", "items": attachment, "maxItems": 100},
            "waivers": {"type": "array", "items": waiver, "maxItems": 200},
            "skipped_tests": {"type": "array", "items": _TEXT, "maxItems": 2000},
            "close_reason": _TEXT,
            **_money_schema(stamp),
            "conclusion": _conclusion_schema(),
            "stations": {
                "type": "object",
                "propertyNames": _ID,
                "additionalProperties": {"type": "object"},
                "maxProperties": 40,
            },
        },
        ["uuid", "status", "complaint", "opened", "round"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit job file"} | _record(
        {
            "format": {"const": JOB_FORMAT},
            "version": {"enum": [1, 2, 3]},
            "bike": bike,
            "job": job,
            "evidence": {"type": "array", "items": evidence, "maxItems": 2000},
            "log": {"type": "array", "items": entry, "maxItems": 20000},
        },
        ["format", "version", "bike", "job", "evidence", "log"],
    )
