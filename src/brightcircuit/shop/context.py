"""What every template may need."""

from django.conf import settings
from django.http import HttpRequest

from brightcircuit.common.shown import Context
from brightcircuit.shop.people import the_shop


def installation(request: HttpRequest) -> Context:
    """Return whether this is the demo, and what this installation is called."""
    return {"is_demo": settings.DEMO, "shop": the_shop()}
