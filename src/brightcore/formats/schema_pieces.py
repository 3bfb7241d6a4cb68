"""What the schemas of the open formats are put together from: texts, names, pins, records, and
limits."""

from brightcore.formats.plain import JsonObject

ID_PATTERN = "^[a-z0-9][a-z0-9_-]{0,39}$"
DIALECT = "https://json-schema.org/draft/2020-12/schema"

ID = {"type": "string", "pattern": ID_PATTERN}
OBSERVABLE = {"type": "string", "pattern": "^[a-z][a-z_]{0,29}(-[a-z0-9][a-z0-9_-]{0,39})?$"}
"""What is seen, of one part where there are several."""

TEXT = {"type": "string", "maxLength": 2000}
LONG = {"type": "string", "maxLength": 8000}
MOST_PARTS, MOST_ROUNDS, MOST_NUMBER = 2000, 1000, 10_000_000
"""Parts in a part file, rounds of a job, numbers of jobs."""

MOST_MM, MOST_ROOMS = 5000.0, 20
"""The largest measure of a part or room in mm, and the most rooms of a bike."""

MOST_TEETH = 200
"""Teeth of the largest sprocket."""

ROUND = {"type": "integer", "minimum": 1, "maximum": MOST_ROUNDS}
UUID = {"type": "string", "pattern": "^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$"}
NAME = {"type": "string", "minLength": 1, "maxLength": 120}
SHORT = {"type": "string", "minLength": 1, "maxLength": 60}
END = {"type": "string", "pattern": r"^[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}$"}
PIN = {"type": "string", "pattern": r"^[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}\.[a-z0-9_-]{1,40}$"}


def record(properties: JsonObject, required: list[str]) -> JsonObject:
    """Return the schema of an object with these properties and no others."""
    return {
        "type": "object",
        "properties": properties,
        "required": required,
        "additionalProperties": False,
    }
