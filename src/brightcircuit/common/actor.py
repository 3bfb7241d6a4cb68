"""Who acts."""

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest

from brightcircuit.shop.models import Person


def actor(request: HttpRequest) -> Person:
    """Return the signed-in person of a request; raises PermissionDenied where there is none."""
    if not isinstance(request.user, Person):
        raise PermissionDenied("Sign in first.")
    return request.user
