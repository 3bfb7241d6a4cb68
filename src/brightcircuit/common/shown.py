"""What a page shows: one typed dataclass for each page, so that view and template agree on its
names."""

from dataclasses import dataclass, fields
from typing import Any

Context = dict[str, Any]
"""What a template is given: the fields of one typed page, or of several put together."""


@dataclass(frozen=True)
class Shown:
    """Base of what a page shows. Subclasses are frozen dataclasses; a template reads their fields
    by name."""

    def context(self) -> Context:
        """Return the fields for a template."""
        return {item.name: getattr(self, item.name) for item in fields(self)}
