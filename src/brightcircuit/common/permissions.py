"""Permissions that services check first."""

from django.core.exceptions import PermissionDenied

from brightcircuit.shop.models import Person


def require_signed_in(actor: Person) -> None:
    """Raise PermissionDenied unless the actor is a signed-in, active person, a learner too."""
    if not (actor.is_authenticated and actor.is_active):
        raise PermissionDenied("Sign in first.")


def require_active(actor: Person) -> None:
    """Raise PermissionDenied unless the actor is a signed-in, active person who works in the
    shop."""
    require_signed_in(actor)
    if actor.is_learner:
        raise PermissionDenied("A learner practises only: ask a shop lead for more.")


def require_lead(actor: Person) -> None:
    """Raise PermissionDenied unless the actor is a shop lead."""
    require_active(actor)
    if not actor.is_lead:
        raise PermissionDenied("Only a shop lead may do this.")
