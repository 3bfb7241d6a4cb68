"""What rows of a job share: who wrote them and when, whether they stand; and how one is found."""

import uuid as uuids
from typing import TypeVar

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models

Row = TypeVar("Row", bound=models.Model)


class Signed(models.Model):
    """A row that says who wrote it and when; the name stays though the person goes."""

    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)

    class Meta:
        abstract = True
        ordering = ("id",)


class Standing(Signed):
    """A row that is never changed: undo marks it. `imported`: it came with a file."""

    undone = models.BooleanField(default=False)
    imported = models.BooleanField(default=False)

    class Meta(Signed.Meta):
        abstract = True


def row_of(rows: "models.QuerySet[Row]", uuid: str, missing: str) -> Row:
    """Return the row of a uuid as posted. Raises ValidationError with `missing` where there is
    none."""
    try:
        found = rows.filter(uuid=uuids.UUID(uuid)).first()
    except ValueError:
        found = None
    if found is None:
        raise ValidationError(missing)
    return found
