"""The tables of a shop as JSON: which there are, and their rows out and in, all or nothing."""

import json
from collections.abc import Iterator
from datetime import date
from typing import Any

from django.apps import apps
from django.core import serializers
from django.core.serializers.base import DeserializationError
from django.db import DatabaseError, connection, models, transaction

from brightcircuit.shop.models import Person, Receipt
from brightcore.errors import FormatError, Problem
from brightcore.formats.plain import JsonObject

OURS = "brightcircuit."
LEFT_OUT = (Receipt,)
"""What says nothing of the shop's work: forms that came in."""

SECRET: JsonObject = {
    "password": "!",
    "last_login": None,
    "groups": [],
    "user_permissions": [],
    "must_change": True,
}
"""What never leaves a shop with a person, and what stands instead: nobody can sign in with it."""


def tables() -> list[type[models.Model]]:
    """Return the models of the shop, those that others point to first."""
    every = []
    for config in apps.get_app_configs():
        if config.name.startswith(OURS):
            for model in config.get_models():
                if model not in LEFT_OUT:
                    every.append(model)
    return serializers.sort_dependencies([(None, every)])


def name_of(model: type[models.Model]) -> str:
    """Return the name of a table in the archive."""
    return f"tables/{model._meta.label_lower}.json"


def rows_of(model: type[models.Model]) -> list[JsonObject]:
    """Return the rows of a table in their order, passwords left out."""
    found = serializers.serialize("python", model._default_manager.order_by("pk"))
    rows: list[JsonObject] = json.loads(json.dumps(found, default=_plain))
    if model is Person:
        for row in rows:
            row["fields"] |= SECRET
    return rows


def _plain(value: Any) -> str:
    """Return a value that JSON does not have as text: times to the microsecond, amounts as typed,
    UUIDs."""
    if isinstance(value, date):
        return value.isoformat()
    return str(value)


def is_empty() -> bool:
    """Return whether nobody has worked with this copy: no people, no bikes, no jobs."""
    names = ("shop.person", "bikes.bike", "jobs.job")
    return not any(apps.get_model(name)._default_manager.exists() for name in names)


def _restored(name: str, rows: Any) -> Iterator[Any]:
    """Yield the rows of one table as objects; raises FormatError naming the table."""
    try:
        yield from serializers.deserialize("python", rows)
    except (DeserializationError, TypeError, ValueError, KeyError, AttributeError) as error:
        raise FormatError((Problem(name, f"a row cannot be read: {error}"),)) from None


def _save(name: str, row: Any) -> None:
    """Store one row; raises FormatError where the table does not take it."""
    try:
        row.save()
    except (DatabaseError, TypeError, ValueError, OverflowError) as error:
        raise FormatError((Problem(name, f"a row cannot be stored: {error}"),)) from None


@transaction.atomic
def put_in(found: dict[str, Any]) -> int:
    """Store the rows of every table, as they were; returns how many. Raises FormatError, changing
    nothing."""
    for model in reversed(tables()):
        model._default_manager.all().delete()
    count = 0
    for model in tables():
        name = name_of(model)
        rows = found.get(name, [])
        if not isinstance(rows, list):
            raise FormatError((Problem(name, "is no list of rows"),))
        for row in _restored(name, rows):
            if type(row.object) is not model:
                raise FormatError((Problem(name, "holds rows of another table"),))
            _save(name, row)
            count += 1
    try:
        connection.check_constraints()
    except Exception as error:
        raise FormatError(
            (Problem("tables", f"rows point to what is not there: {error}"),)
        ) from None
    return count
