"""The guard of an open job: every change of a job passes here first."""

from collections.abc import Sequence
from typing import Protocol

from django.core.exceptions import PermissionDenied

from brightcircuit.common.permissions import require_active
from brightcircuit.shop.models import Person

DECIDING = ("status", "round", "version", "skipped_tests")
"""What decides about a change; read where the change is made, never as it stood when a page was
shown."""


class Stale(Exception):
    """What a change was based on has changed since: it is shown, not stored."""


class Closable(Protocol):
    """What can be closed.

    `version` counts its changes; `based_on` is the one that the form of a change was made of, None
    where the change overwrites nothing, or has been looked at already.
    """

    version: int
    based_on: int | None

    @property
    def is_open(self) -> bool:
        """Whether it takes changes."""

    def refresh_from_db(
        self, using: str | None = None, fields: Sequence[str] | None = None
    ) -> None:
        """Read fields anew."""


def require_open(job: Closable, actor: Person) -> None:
    """Raise PermissionDenied unless the actor is active and the job is open, Stale where it has
    changed."""
    require_active(actor)
    job.refresh_from_db(fields=DECIDING)
    require_unchanged(job)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")


def require_unchanged(job: Closable) -> None:
    """Raise Stale where a job, as last read, is not at the version that a change was based on.

    Each request is asked once: what it changes itself does not count.
    """
    based_on, job.based_on = job.based_on, None
    if based_on is not None and based_on != job.version:
        raise Stale
