"""What every command takes and gives."""

from pathlib import Path

from brightcore.errors import FormatError, Problem
from brightcore.formats.plain import JsonObject

Out = tuple[JsonObject, list[str]]


def read_text(path: str) -> str:
    """Return a file's text; raises FormatError where it cannot be read."""
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise FormatError((Problem("$", f"cannot read {path}: {error}"),)) from None
