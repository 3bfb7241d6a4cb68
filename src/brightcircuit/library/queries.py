"""Reading the library."""

from typing import Any

from django.db.models import QuerySet

from brightcircuit.library.models import LibraryPart


def parts(kind: str = "", words: str = "", retired: bool = False) -> QuerySet[LibraryPart]:
    """Return the descriptions of a kind (or all) that hold some words."""
    found = LibraryPart.objects.filter(retired=retired)
    if kind:
        found = found.filter(kind=kind)
    if words:
        found = found.filter(name__icontains=words)
    return found


def documents() -> list[Any]:
    """Return the documents of every description that is offered, oldest first."""
    return list(parts().order_by("pk").values_list("document", flat=True))
