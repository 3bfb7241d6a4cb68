"""Part descriptions of the shop, and the history of their changes."""

from django.conf import settings
from django.db import models


class LibraryPart(models.Model):
    """One part description. `document` is the entry as the part file has it; `version` counts
    changes."""

    slug = models.CharField(max_length=40, unique=True)
    kind = models.CharField(max_length=40, db_index=True)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    generic = models.BooleanField(default=False)
    retired = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("kind", "name")

    def __str__(self) -> str:
        return self.name


class LibraryChange(models.Model):
    """One change of a description: who, when, what, and the description after it."""

    part = models.ForeignKey(LibraryPart, on_delete=models.PROTECT, related_name="changes")
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    what = models.CharField(max_length=200)
    document = models.JSONField()

    class Meta:
        ordering = ("-at", "-id")

    def __str__(self) -> str:
        return self.what


class StockItem(models.Model):
    """Something on the shelf that is put on jobs: how many there are, and what one costs."""

    name = models.CharField(max_length=120, unique=True)
    number = models.CharField(max_length=60, blank=True)
    count = models.IntegerField(default=0)
    least = models.PositiveIntegerField(default=0)
    each = models.DecimalField(max_digits=10, decimal_places=2, default=0)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name

    @property
    def is_short(self) -> bool:
        """Whether fewer are there than should be."""
        return self.count < self.least
