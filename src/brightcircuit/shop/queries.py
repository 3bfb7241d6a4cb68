"""Reading what the shop has."""

from django.db.models import QuerySet

from brightcircuit.shop.models import Meter


def meters_in_use() -> "QuerySet[Meter]":
    """Return the meters in use."""
    return Meter.objects.filter(retired=False)


def meter_choices() -> list[tuple[int, str]]:
    """Return (id, title) of the meters in use."""
    return list(meters_in_use().values_list("id", "title"))
