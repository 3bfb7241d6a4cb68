"""What a page shows: one typed dataclass for each page, so that view and template agree on its
names."""

from dataclasses import dataclass, fields
from typing import Any


@dataclass(frozen=True)
class Shown:
    """Base of what a page shows. Subclasses are frozen dataclasses; a template reads their fields
    by name."""

    def context(self) -> dict[str, Any]:
        """Return the fields for a template."""
        return {item.name: getattr(self, item.name) for item in fields(self)}
