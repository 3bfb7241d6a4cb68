"""The guard of an open job: every change of a job passes here first."""

from collections.abc import Sequence
from typing import Protocol

from django.core.exceptions import PermissionDenied

from brightcircuit.common.permissions import require_active
from brightcircuit.shop.models import Person

DECIDING = ("status", "round", "version", "skipped_tests")
"""What decides about a change; read where the change is made, never as it stood when a page was shown."""


class Closable(Protocol):
    """What can be closed."""

    @property
    def is_open(self) -> bool:
        """Whether it takes changes."""

    def refresh_from_db(self, using: str | None = None, fields: Sequence[str] | None = None) -> None:
        """Read fields anew."""


def require_open(job: Closable, actor: Person) -> None:
    """Raise PermissionDenied unless the actor is active and the job is open."""
    require_active(actor)
    job.refresh_from_db(fields=DECIDING)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")
