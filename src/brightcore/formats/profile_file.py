"""Device profiles as JSON: reading with every problem named, writing back the same, and those that
ship."""

from dataclasses import asdict
from functools import cache
from importlib.resources import files
from pathlib import Path

import jsonschema

from brightcore.errors import FormatError, Problem
from brightcore.formats.bike_file import check_format, parse_json, schema_problems
from brightcore.formats.bike_writing import canonical_json
from brightcore.formats.plain import Json, JsonObject
from brightcore.formats.schema_pieces import DIALECT
from brightcore.programming.profile import DEVICES, MENUS, Menu, Parameter, Profile, Register
from brightcore.programming.roles import ROLES

PROFILE_FORMAT = "bright-circuit/profile"
MOST_PARAMETERS, MOST_STEPS = 400, 100_000

KEYS = ("open", "up", "down", "enter", "back", "next", "previous", "fast_up", "fast_down")

_TEXT = {"type": "string", "maxLength": 60}
_NUMBER = {"type": "number", "minimum": -1e6, "maximum": 1e6}


def _record(properties: JsonObject, required: list[str]) -> JsonObject:
    return {
        "type": "object",
        "properties": properties,
        "required": required,
        "additionalProperties": False,
    }


def profile_schema() -> JsonObject:
    """Return the JSON Schema of a device profile."""
    keys = dict.fromkeys(KEYS, _TEXT)
    menu = _record(
        {"kind": {"enum": list(MENUS)}}
        | keys
        | {"fast": {"type": "integer", "minimum": 2, "maximum": 100}}
        | {"wraps": {"type": "boolean"}, "stores_on_leaving": {"type": "boolean"}},
        ["kind"],
    )
    register = _record(
        {
            "number": {"type": "integer", "minimum": 0, "maximum": 65535},
            "per_unit": {"type": "number", "exclusiveMinimum": 0, "maximum": 10_000},
            "signed": {"type": "boolean"},
            "read_only": {"type": "boolean"},
        },
        ["number"],
    )
    choice = {"type": "array", "prefixItems": [_NUMBER, _TEXT], "minItems": 2, "maxItems": 2}
    parameter = _record(
        {
            "code": {"type": "string", "pattern": "^[A-Za-z0-9]{1,8}$"},
            "name": _TEXT | {"minLength": 1},
            "low": _NUMBER,
            "high": _NUMBER,
            "step": {"type": "number", "exclusiveMinimum": 0, "maximum": 1e6},
            "default": _NUMBER,
            "unit": _TEXT,
            "role": {"enum": [role.name for role in ROLES]},
            "per_role": {"type": "number", "exclusiveMinimum": 0, "maximum": 1e6},
            "choices": {"type": "array", "items": choice, "maxItems": 40},
            "group": _TEXT,
            "register": register,
        },
        ["code", "name", "low", "high", "step", "default"],
    )
    return {"$schema": DIALECT, "title": "Bright Circuit device profile"} | _record(
        {
            "format": {"const": PROFILE_FORMAT},
            "version": {"const": 1},
            "id": {"type": "string", "pattern": "^[a-z0-9][a-z0-9_-]{0,39}$"},
            "title": _TEXT | {"minLength": 1},
            "device": {"enum": list(DEVICES)},
            "note": {"type": "string", "maxLength": 400},
            "identity": {"type": "integer", "minimum": 0, "maximum": 65535},
            "menu": menu,
            "parameters": {
                "type": "array",
                "items": parameter,
                "minItems": 1,
                "maxItems": MOST_PARAMETERS,
            },
        },
        ["format", "version", "id", "title", "device", "menu", "parameters"],
    )


@cache
def _validator() -> Json:
    return jsonschema.Draft202012Validator(profile_schema())


def load_profile(text: str | bytes) -> Profile:
    """Return the profile of a file; raises FormatError listing every problem by its JSON path."""
    document = parse_json(text)
    check_format(document, PROFILE_FORMAT)
    problems = schema_problems(_validator(), document)
    if problems:
        raise FormatError(tuple(problems))
    problems = list(_meaning(document))
    if problems:
        raise FormatError(tuple(problems))
    rows = []
    for raw in document["parameters"]:
        rows.append(
            Parameter(
                **{k: v for k, v in raw.items() if k not in ("choices", "register")},
                choices=tuple((float(value), words) for value, words in raw.get("choices", ())),
                register=Register(**raw["register"]) if "register" in raw else None,
            )
        )
    parameters = tuple(rows)
    return Profile(
        document["id"],
        document["title"],
        document["device"],
        Menu(**document["menu"]),
        parameters,
        document.get("note", ""),
        document.get("identity", 0),
    )


def _meaning(document: JsonObject) -> list[Problem]:
    """Return what the schema cannot say: limits in order, codes and registers once, keys of a
    menu."""
    problems = []
    seen: dict[tuple[str, object], int] = {}
    for i, raw in enumerate(document["parameters"]):
        path = f"$.parameters[{i}]"
        if not raw["low"] < raw["high"]:
            problems.append(Problem(f"{path}.high", "must be above low"))
        elif (raw["high"] - raw["low"]) / raw["step"] > MOST_STEPS:
            problems.append(Problem(f"{path}.step", f"makes more than {MOST_STEPS} steps"))
        if not raw["low"] <= raw["default"] <= raw["high"]:
            problems.append(Problem(f"{path}.default", "lies outside low to high"))
        number = raw.get("register", {}).get("number")
        for name, value in (
            ("code", raw["code"]),
            ("role", raw.get("role")),
            ("register.number", number),
        ):
            if value is not None and (name, value) in seen:
                problems.append(
                    Problem(f"{path}.{name}", f"{value!r} is used at {seen[name, value]} too")
                )
            elif value is not None:
                seen[name, value] = i
    if document["menu"]["kind"] and not document["menu"].get("open"):
        problems.append(Problem("$.menu.open", "a menu needs the keys that open it"))
    return problems


def profile_document(profile: Profile) -> JsonObject:
    """Return the canonical JSON document of a profile; what is usual is left out."""
    parameters = []
    for item in profile.parameters:
        plain = {}
        for k, v in asdict(item).items():
            if k in ("code", "name", "low", "high", "step", "default"):
                plain[k] = v
        said = {k: getattr(item, k) for k in ("unit", "role", "group") if getattr(item, k)}
        if item.per_role != 1.0:
            said["per_role"] = item.per_role
        if item.choices:
            said["choices"] = [[value, words] for value, words in item.choices]
        if item.register is not None:
            usual = asdict(Register(0))
            said["register"] = {
                k: v for k, v in asdict(item.register).items() if k == "number" or v != usual[k]
            }
        parameters.append(plain | said)
    menu = {k: v for k, v in asdict(profile.menu).items() if k == "kind" or v != getattr(Menu(), k)}
    return {
        "format": PROFILE_FORMAT,
        "version": 1,
        "id": profile.id,
        "title": profile.title,
        "device": profile.device,
        "menu": menu,
        "parameters": parameters,
    } | {k: v for k, v in (("note", profile.note), ("identity", profile.identity)) if v}


def dump_profile(profile: Profile) -> str:
    """Return the text of a profile file."""
    return canonical_json(profile_document(profile))


@cache
def shipped_profiles() -> tuple[Profile, ...]:
    """Return the profiles that ship, displays first."""
    folder = files("brightcore.programming") / "profiles"
    found = []
    for entry in folder.iterdir():
        if entry.name.endswith(".json"):
            found.append(load_profile(entry.read_text("utf-8")))
    return tuple(sorted(found, key=lambda profile: (DEVICES.index(profile.device), profile.title)))


def profile_named(name: str) -> Profile:
    """Return a shipped profile by its id, or that of a file by its path; raises FormatError."""
    shipped = {profile.id: profile for profile in shipped_profiles()}
    if name in shipped:
        return shipped[name]
    try:
        return load_profile(Path(name).read_text("utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise FormatError((Problem("$", f"cannot read {name}: {error}"),)) from None
