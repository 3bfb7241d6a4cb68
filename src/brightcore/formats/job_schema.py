"""JSON Schema of a job file: a bike with its work, money, evidence and log."""

from brightcore.formats.plain import JsonObject
from brightcore.formats.schema import JOB_FORMAT, bike_schema, evidence_schema
from brightcore.formats.schema_pieces import (
    DIALECT,
    ID,
    LONG,
    MOST_NUMBER,
    MOST_TEETH,
    NAME,
    ROUND,
    SHORT,
    TEXT,
    UUID,
    record,
)
from brightcore.kinds.base import Registry
from brightcore.matching.drive import DRAG_AREA_M2, TYRES
from brightcore.matching.ranges import ROUTES

DANGER_STATIONS = ("arrive", "set", "program", "prove", "trace")
"""Stations at which a danger is read."""

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


def _match_schema() -> JsonObject:
    """Return the schema of what a job's Match was asked; all of it may be left out."""

    def number(low: float, high: float) -> JsonObject:
        return {"type": "number", "minimum": low, "maximum": high}

    def number_or_none(low: float, high: float) -> JsonObject:
        return {"type": ["number", "null"], "minimum": low, "maximum": high}

    teeth = {"type": "integer", "minimum": 8, "maximum": 700}
    variant = record(
        {"name": SHORT}
        | dict.fromkeys(("pack", "controller", "motor", "second_pack"), ID)
        | {"chain_ring": teeth, "wheel_seat": teeth},
        ["name"],
    )
    money = {"type": "object", "additionalProperties": number(0, 1e6), "maxProperties": 120}
    return record(
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
            "resistance": record({"ohm": number(0, 100), "words": TEXT}, ["ohm", "words"]),
            "log": record({"words": TEXT, "worn": {"type": "boolean"}}, ["words"]),
        },
        [],
    )


def _conclusion_schema() -> JsonObject:
    """Return the schema of what was frozen when a repair was done."""
    share = {"type": "number", "minimum": 0, "maximum": 1}
    ranked = record({"title": TEXT, "probability": share}, ["title", "probability"])
    reason = record({"title": TEXT, "value": TEXT}, ["title", "value"])
    return record(
        {
            "engine": SHORT,
            "fault": TEXT,
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
    offer = record(
        {
            "title": {"type": "string", "minLength": 1, "maxLength": 200},
            "parts_cost": amount,
            "minutes": {"type": "integer", "minimum": 0, "maximum": 100_000},
            "rate": {"type": "string", "pattern": r"^[0-9]{1,6}(\.[0-9]{1,2})?$"},
            "available": {"enum": ["", "universal", "maker", "gone"]},
            "note": {"type": "string", "maxLength": 300},
            "chosen": {"type": "boolean"},
            "at": stamp,
            "by": TEXT,
        },
        ["title", "parts_cost", "minutes", "rate", "at"],
    )
    line = record(
        {
            "kind": {"enum": ["part", "labour", "other"]},
            "words": {"type": "string", "minLength": 1, "maxLength": 200},
            "count": {"type": "string", "pattern": r"^[0-9]{1,6}(\.[0-9]{1,2})?$"},
            "each": amount,
            "at": stamp,
            "by": TEXT,
        },
        ["kind", "words", "count", "each", "at"],
    )
    return {
        "offers": {"type": "array", "items": offer, "maxItems": 40},
        "costs": {"type": "array", "items": line, "maxItems": 400},
        "warranty": record({"words": {"type": "string", "maxLength": 500}, "until": day}, []),
    }


def _way_schema(stamp: JsonObject) -> JsonObject:
    """Return the schema of how a bike arrived, what was done to it, and the steps of the work on
    it.

    Arrival and pieces are a bike, parts and connections as a bike file writes them; they are read
    by its rules.
    """
    pieces = {"type": "array", "items": {"type": "object"}, "maxItems": 4}
    flag = {"type": "boolean"}
    done = record(
        {
            "change": {"type": "string", "maxLength": 100},
            "how": {"enum": ["step", "repair", "found"]},
            "words": {"type": "string", "maxLength": 300},
            "parts": pieces,
            "joins": pieces,
            "undone": flag,
            "at": stamp,
            "by": TEXT,
        },
        ["change", "how", "words", "at"],
    )
    mark = record(
        {
            "step": {"type": "string", "maxLength": 160},
            "what": {"enum": ["done", "given", "found"]},
            "text": {"type": "string", "maxLength": 300},
            "words": {"type": "string", "maxLength": 500},
            "undone": flag,
            "at": stamp,
            "by": TEXT,
        },
        ["step", "what", "words", "at"],
    )
    return record(
        {
            "begins": {"enum": ["described", "bare"]},
            "plans": flag,
            "arrival": {
                "type": "object",
                "description": "a bike file: the bike as it was described on arrival",
            },
            "opens": {"type": "array", "items": ID, "maxItems": 40},
            "done": {"type": "array", "items": done, "maxItems": 2000},
            "marks": {"type": "array", "items": mark, "maxItems": 5000},
        },
        ["begins"],
    )


def job_schema(registry: Registry) -> JsonObject:
    """Return the JSON Schema of a job file: a bike, its job, its evidence and its log."""
    bike = {}
    for k, v in bike_schema(registry).items():
        if k not in ("$schema", "title"):
            bike[k] = v
    stamp = {"type": "string", "maxLength": 40}
    evidence = evidence_schema()
    evidence["properties"] |= {
        "uuid": UUID,
        "round": ROUND,
        "at": stamp,
        "by": TEXT,
        "undone": {"type": "boolean"},
        "questioned": TEXT,
        "words": {"type": "string", "maxLength": 300},
        "minutes": {"type": "number", "minimum": 0, "maximum": 100_000},
    }
    entry = record(
        {"at": stamp, "by": TEXT, "what": ID, "text": LONG}, ["at", "by", "what", "text"]
    )
    repair = record(
        {
            "round": ROUND,
            "proof": {"enum": ["", "passed", "failed"]},
            "at": stamp,
            "by": TEXT,
        }
        | dict.fromkeys(REPAIR_TEXTS, TEXT),
        ["round", "action", "proof", "at"],
    )
    attachment = record(
        {
            "name": TEXT,
            "size": {"type": "integer", "minimum": 0, "maximum": 100_000_000},
            "sha256": TEXT,
            "caption": TEXT,
            "place": TEXT,
        },
        ["name", "size", "sha256"],
    )
    waiver = record(
        {
            "key": TEXT,
            "reason": TEXT,
            "words": {"type": "string", "maxLength": 500},
            "at": stamp,
            "by": TEXT,
        },
        ["key", "reason", "at"],
    )
    said = {"type": "string", "maxLength": 500}
    danger = record(
        {
            "place": {"type": "string", "maxLength": 300},
            "station": {"enum": list(DANGER_STATIONS)},
            "code": {"type": "string", "maxLength": 40},
            "words": said,
            "do": said,
            "at": stamp,
            "by": TEXT,
            "ended": stamp,
            "how": {"enum": ["read", "let-go"]},
            "reason": said,
            "ended_by": TEXT,
        },
        ["place", "station", "code", "words", "do", "at"],
    )
    triage = {"type": "object", "additionalProperties": {"type": ["boolean", "null"]}}
    job = record(
        {
            "uuid": UUID,
            "number": {"type": "integer", "minimum": 1, "maximum": MOST_NUMBER},
            "status": {"enum": ["open", "closed"]},
            "complaint": TEXT,
            "arrival_note": LONG,
            "plan": record(
                {
                    "purposes": {"type": "array", "items": ID, "maxItems": 12},
                    "promised": TEXT,
                    "worker": TEXT,
                    "waiting": TEXT,
                    "place": TEXT,
                    "decided": TEXT,
                },
                [],
            ),
            "way": _way_schema(stamp),
            "dangers": {"type": "array", "items": danger, "maxItems": 200},
            "opened": stamp,
            "closed": {"type": ["string", "null"], "maxLength": 40},
            "round": ROUND,
            "triage": triage,
            "quarantine_lifted": TEXT,
            "quarantine_lifted_by": TEXT,
            "repairs": {"type": "array", "items": repair, "maxItems": 100},
            "circumstances": {"type": "array", "items": ID, "maxItems": 40},
            "wires": {"type": "array", "items": ID, "maxItems": 40},
            "wire_places": {"type": "object", "additionalProperties": NAME, "maxProperties": 40},
            "match": _match_schema(),
            "contact": record({"name": TEXT, "reach": TEXT, "note": TEXT}, []),
            "attachments": {"type": "array", "items": attachment, "maxItems": 100},
            "waivers": {"type": "array", "items": waiver, "maxItems": 200},
            "skipped_tests": {"type": "array", "items": TEXT, "maxItems": 2000},
            "close_reason": TEXT,
            **_money_schema(stamp),
            "conclusion": _conclusion_schema(),
            "stations": {
                "type": "object",
                "propertyNames": ID,
                "additionalProperties": {"type": "object"},
                "maxProperties": 40,
            },
        },
        ["uuid", "status", "complaint", "opened", "round"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit job file"} | record(
        {
            "format": {"const": JOB_FORMAT},
            "version": {"enum": [1, 2, 3, 4]},
            "bike": bike,
            "job": job,
            "evidence": {"type": "array", "items": evidence, "maxItems": 2000},
            "log": {"type": "array", "items": entry, "maxItems": 20000},
        },
        ["format", "version", "bike", "job", "evidence", "log"],
    )
