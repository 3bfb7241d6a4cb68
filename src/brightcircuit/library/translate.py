"""Library rows to core entries."""

from brightcircuit.library.models import LibraryPart
from brightcore.formats.part_file import PartEntry, make_entry


def core_entry(row: LibraryPart) -> PartEntry:
    """Return the core entry of a row."""
    return make_entry(row.document)
