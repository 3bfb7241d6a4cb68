"""Reading the library."""

from typing import Any

from django.db.models import Q, QuerySet

from brightcircuit.library.models import LibraryPart, StockItem


def parts(kind: str = "", words: str = "", retired: bool = False) -> QuerySet[LibraryPart]:
    """Return the descriptions of a kind (or all) that hold every one of some words, in name or
    kind."""
    found = LibraryPart.objects.filter(retired=retired)
    if kind:
        found = found.filter(kind=kind)
    for word in words.split():
        found = found.filter(
            Q(name__icontains=word) | Q(slug__icontains=word) | Q(kind__icontains=word)
        )
    return found


def on_shelf() -> QuerySet[StockItem]:
    """Return the items of the stock list of which there are any."""
    return StockItem.objects.filter(retired=False, count__gt=0).order_by("name")


def documents() -> list[Any]:
    """Return the documents of every description that is offered, oldest first."""
    return list(parts().order_by("pk").values_list("document", flat=True))
