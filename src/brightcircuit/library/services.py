"""Changes to the library."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.permissions import require_active
from brightcircuit.library.models import LibraryChange, LibraryPart
from brightcircuit.shop.models import Person
from brightcore.formats.part_file import PartEntry, entry_document, generic_entries


@dataclass(frozen=True, slots=True)
class Taken:
    """What an import of entries did."""

    new: int
    here: int
    renamed: int


def add_generic() -> int:
    """Add the generic entries that ship with the app and are not here yet; returns how many."""
    known = set(LibraryPart.objects.values_list("slug", flat=True))
    rows = [e for e in generic_entries() if e.id not in known]
    LibraryPart.objects.bulk_create(
        LibraryPart(slug=e.id, kind=e.kind, name=e.name, document=entry_document(e), generic=True)
        for e in rows
    )
    return len(rows)


def free_slug(wanted: str) -> str:
    """Return a slug like `wanted` that is not taken."""
    base = (
        "".join(
            c if c.isascii() and (c.isalnum() or c == "-") else "-" for c in wanted.lower()
        ).strip("-")[:34]
        or "part"
    )
    slug, n = base, 2
    while LibraryPart.objects.filter(slug=slug).exists():
        slug, n = f"{base}-{n}", n + 1
    return slug


def _write(row: LibraryPart, actor: Person, what: str) -> None:
    LibraryChange.objects.create(
        part=row, at=timezone.now(), by=actor, by_name=str(actor), what=what, document=row.document
    )


@transaction.atomic
def add_entry(*, actor: Person, entry: PartEntry, what: str = "Added") -> LibraryPart:
    """Add a description under a free id."""
    require_active(actor)
    entry = replace(entry, id=free_slug(entry.id or entry.name))
    row = LibraryPart.objects.create(
        slug=entry.id, kind=entry.kind, name=entry.name, document=entry_document(entry)
    )
    _write(row, actor, what)
    return row


@transaction.atomic
def change_entry(*, actor: Person, row: LibraryPart, entry: PartEntry, version: int) -> None:
    """Change a description; bikes made from it keep what they have.

    Raises ValidationError where it changed meanwhile.
    """
    require_active(actor)
    now = LibraryPart.objects.select_for_update().get(pk=row.pk)
    if now.version != version:
        raise ValidationError(
            "This description was changed meanwhile; look at it, then keep again. What you typed "
            "is still here."
        )
    now.name, now.document, now.generic = (
        entry.name,
        entry_document(replace(entry, id=now.slug)),
        False,
    )
    now.version += 1
    now.save()
    _write(now, actor, "Changed")


@transaction.atomic
def retire_entry(*, actor: Person, row: LibraryPart, retired: bool) -> None:
    """Take a description out of the lists, or bring it back; nothing is deleted."""
    require_active(actor)
    row.retired = retired
    row.save(update_fields=["retired"])
    _write(row, actor, "Retired" if retired else "Brought back")


@transaction.atomic
def take_in(*, actor: Person, entries: Iterable[PartEntry]) -> Taken:
    """Take entries of a file in: known ones are recognised, others of the same id get a new id.

    Nothing is overwritten.
    """
    require_active(actor)
    new = here = renamed = 0
    for entry in entries:
        row = LibraryPart.objects.filter(slug=entry.id).first()
        if row is not None and row.document == entry_document(entry):
            here += 1
            continue
        renamed += row is not None
        new += 1
        add_entry(actor=actor, entry=entry, what="Taken in from a file")
    return Taken(new, here, renamed)
