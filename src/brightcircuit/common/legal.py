"""Legal classes of bikes: those that ship, and the shop's own."""

from pathlib import Path

from django.conf import settings

from brightcore.formats.class_file import load_classes, shipped_classes
from brightcore.matching.law import LegalClass, places


def all_classes() -> tuple[LegalClass, ...]:
    """Return the shipped legal classes and those of the shop's own `classes.yaml`."""
    own = Path(settings.DATA) / "classes.yaml"
    if not own.exists():
        return shipped_classes()
    return shipped_classes() + load_classes(own.read_text(encoding="utf-8"))


def known_places() -> tuple[str, ...]:
    """Return the places of which there are classes, in their order."""
    return places(all_classes())
