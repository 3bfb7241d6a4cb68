"""What every template may need."""

from typing import Any

from django.conf import settings
from django.http import HttpRequest

from brightcircuit.shop.people import the_shop


def installation(request: HttpRequest) -> dict[str, Any]:
    """Return whether this is the demo, and what this installation is called."""
    return {"is_demo": settings.DEMO, "shop": the_shop()}
