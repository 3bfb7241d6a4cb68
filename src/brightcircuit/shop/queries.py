"""Reading what the shop has."""

from django.db.models import QuerySet

from brightcircuit.shop.models import Meter, Pace


def meters_in_use() -> "QuerySet[Meter]":
    """Return the meters in use."""
    return Meter.objects.filter(retired=False)


def paces() -> dict[str, Pace]:
    """Return the pace of every kind of test that this shop has said something about."""
    return {pace.kind: pace for pace in Pace.objects.all()}


def meter_choices() -> list[tuple[int, str]]:
    """Return (id, title) of the meters in use."""
    return list(meters_in_use().values_list("id", "title"))
