"""What every template may need."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest


def installation(request: HttpRequest) -> dict[str, Any]:
    """Return whether this is the demo."""
    return {"is_demo": settings.DEMO}
