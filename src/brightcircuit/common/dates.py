"""Dates and times as the reader writes them: a template tag, known to every template."""

from datetime import datetime

from django import template
from django.utils import timezone
from django.utils.formats import date_format

from brightcircuit.common.shown import Context

register = template.Library()

FORMS = {"words": "j M Y", "iso": "Y-m-d", "dots": "d.m.Y", "month": "M j, Y"}
"""Django's date format by a person's choice."""


@register.simple_tag(takes_context=True)
def moment(context: Context, when: datetime | None) -> str:
    """Return a date and time in the shop's time zone, "" for none."""
    if when:
        return f"{day(context, when)}, {timezone.localtime(when):%H:%M}"
    return ""


@register.simple_tag(takes_context=True)
def day(context: Context, when: datetime | None) -> str:
    """Return a date in the shop's time zone, "" for none."""
    if when is None:
        return ""
    chosen = getattr(context.get("user"), "dates", "words")
    return date_format(timezone.localtime(when), FORMS.get(chosen, FORMS["words"]))
