"""Changes to people, and the permission that services of all apps check first."""

from django.core.exceptions import PermissionDenied
from django.db import transaction

from brightcircuit.shop.models import Person


def require_active(actor: Person) -> None:
    """Raise PermissionDenied unless the actor is a signed-in, active person."""
    if not (actor.is_authenticated and actor.is_active):
        raise PermissionDenied("Sign in first.")


def require_lead(actor: Person) -> None:
    """Raise PermissionDenied unless the actor is a lead."""
    require_active(actor)
    if not actor.is_lead:
        raise PermissionDenied("Only a lead may do this.")


@transaction.atomic
def set_preferences(*, actor: Person, single_key_shortcuts: bool) -> None:
    """Store a person's own preferences."""
    require_active(actor)
    actor.single_key_shortcuts = single_key_shortcuts
    actor.save(update_fields=["single_key_shortcuts"])
