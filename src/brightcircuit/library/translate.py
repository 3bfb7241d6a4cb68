"""Library rows to core entries."""

import json
from functools import lru_cache

from brightcircuit.library.models import LibraryPart
from brightcircuit.library.queries import documents
from brightcore.bike.model import Part
from brightcore.formats.part_file import PartEntry, make_entry


def core_entry(row: LibraryPart) -> PartEntry:
    """Return the core entry of a row."""
    return make_entry(row.document)


@lru_cache(maxsize=1024)
def _part(text: str) -> Part:
    entry = make_entry(json.loads(text))
    return Part(entry.id, entry.kind, entry.name, entry.spec, entry.ports)


def shelf() -> tuple[Part, ...]:
    """Return every part of the library that is not retired, as core parts."""
    return tuple(_part(json.dumps(document, sort_keys=True)) for document in documents())
