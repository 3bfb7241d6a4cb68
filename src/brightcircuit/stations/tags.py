"""Template tags of every job page, known to every template."""

from typing import Any

from django import template

from brightcircuit.stations.frame import help_for
from brightcircuit.stations.help import Help

register = template.Library()


@register.simple_tag(takes_context=True)
def page_help(context: dict[str, Any]) -> Help | None:
    """Return the help of the page that is shown."""
    job, tabs = context.get("job"), context.get("stations") or []
    current = next((tab.key_of for tab in tabs if tab.current), "")
    return help_for(job, current, context["request"].path) if job else None
