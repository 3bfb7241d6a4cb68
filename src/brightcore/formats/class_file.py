"""The table of legal classes: one YAML file that ships, and one that a shop may add."""

from functools import cache
from importlib.resources import files

import jsonschema

from brightcore.errors import FormatError
from brightcore.formats.bike_file import schema_problems
from brightcore.formats.plain import Json
from brightcore.formats.yaml_text import read_yaml
from brightcore.matching.law import LegalClass

_ROW = {
    "type": "object",
    "additionalProperties": False,
    "required": ["id", "place", "name", "rated_w", "assist_kmh", "throttle", "throttle_kmh"],
    "properties": {
        "id": {"type": "string", "pattern": "^[a-z0-9-]{1,40}$"},
        "place": {"type": "string", "minLength": 1, "maxLength": 60},
        "name": {"type": "string", "minLength": 1, "maxLength": 80},
        "rated_w": {"type": "number", "minimum": 0, "maximum": 20000},
        "assist_kmh": {"type": "number", "minimum": 0, "maximum": 100},
        "throttle": {"enum": ["any", "limited", "none"]},
        "throttle_kmh": {"type": "number", "minimum": 0, "maximum": 100},
        "note": {"type": "string", "maxLength": 300},
        "source": {"type": "string", "maxLength": 200},
    },
}


@cache
def _validator() -> Json:
    return jsonschema.Draft202012Validator({"type": "array", "items": _ROW, "maxItems": 500})


def load_classes(text: str | bytes) -> tuple[LegalClass, ...]:
    """Return the classes of a YAML table; raises FormatError listing every problem."""
    rows = read_yaml(text)
    problems = schema_problems(_validator(), rows)
    if problems:
        raise FormatError(tuple(problems))
    found = []
    for row in rows:
        found.append(LegalClass(**{"note": "", "source": "the shop's own table"} | row))
    return tuple(found)


@cache
def shipped_classes() -> tuple[LegalClass, ...]:
    """Return the classes that ship with the app."""
    return load_classes(
        files("brightcore.formats").joinpath("classes.yaml").read_text(encoding="utf-8")
    )
