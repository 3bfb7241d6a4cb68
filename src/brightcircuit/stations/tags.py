"""Template tags of every job page, known to every template."""

from django import template

from brightcircuit.common.shown import Context
from brightcircuit.jobs.queries import by_place
from brightcircuit.stations.frame import help_for
from brightcircuit.stations.help import Help
from brightcircuit.stations.other_help import PAGES

register = template.Library()


@register.simple_tag(takes_context=True)
def page_help(context: Context) -> Help | None:
    """Return the help of the page that is shown."""
    job, tabs = context.get("job"), context.get("stations") or []
    current = next((tab.key_of for tab in tabs if tab.current), "")
    if job and current:
        return help_for(job, current, context["request"].path)
    match = context["request"].resolver_match
    return PAGES.get(match.url_name) if match else None


@register.inclusion_tag("parts/photos_at.html", takes_context=True)
def photos_at(context: Context, place: str, what: str) -> Context:
    """Show the photos of a place of the job, and take another; all places of a page are one
    query."""
    request, job = context["request"], context["job"]
    if not hasattr(request, "photos_by_place"):
        request.photos_by_place = by_place(job)
    photos = request.photos_by_place.get(place, [])
    return {
        "job": job,
        "photos": photos,
        "place": place,
        "what": what,
        "here": request.path,
        "csrf_token": context.get("csrf_token"),
    }
