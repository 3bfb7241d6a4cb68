"""A time zone by the name of a city, as people know where they are."""

from functools import cache
from zoneinfo import available_timezones

from django.core.exceptions import ValidationError

MOST_OFFERED = 6


@cache
def zones() -> tuple[str, ...]:
    """Return every zone by its name, those without a city left out."""
    named = (zone for zone in available_timezones() if "/" in zone and not zone.startswith("Etc/"))
    return tuple(sorted(named))


def city_of(zone: str) -> str:
    """Return the city of a zone.

    >>> city_of("America/Argentina/Buenos_Aires")
    'Buenos Aires'
    """
    return zone.rpartition("/")[2].replace("_", " ")


def zone_by(text: str) -> str:
    """Return the zone of what was typed: its name, or a city of it, whole or begun.

    Raises ValidationError where there is none, or more than one: then they are named.

    >>> zone_by("lisbon"), zone_by("Europe/Lisbon"), zone_by(" UTC ")
    ('Europe/Lisbon', 'Europe/Lisbon', 'UTC')
    """
    typed = " ".join(text.split())
    if not typed or typed in available_timezones():
        return typed
    wanted = typed.casefold().replace("_", " ")
    whole = [zone for zone in zones() if wanted in (city_of(zone).casefold(), zone.casefold())]
    found = whole or [zone for zone in zones() if wanted in city_of(zone).casefold()]
    if whole and len({city_of(zone) for zone in whole}) == 1:
        # Older names of one zone stand beside it: the one with its country in it is meant.
        return max(whole, key=lambda zone: zone.count("/"))
    if len(found) == 1:
        return found[0]
    if not found:
        raise ValidationError(
            f"No time zone is named after {typed!r}: type the largest city near by."
        )
    offered = ", ".join(found[:MOST_OFFERED])
    raise ValidationError(f"Several fit {typed!r}: {offered}. Type one of them.")
