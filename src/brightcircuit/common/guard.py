"""The guard of an open job: every change of a job passes here first."""

from typing import Protocol

from django.core.exceptions import PermissionDenied

from brightcircuit.common.permissions import require_active
from brightcircuit.shop.models import Person


class Closable(Protocol):
    """What can be closed."""

    @property
    def is_open(self) -> bool:
        """Whether it takes changes."""


def require_open(job: Closable, actor: Person) -> None:
    """Raise PermissionDenied unless the actor is active and the job is open."""
    require_active(actor)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")
