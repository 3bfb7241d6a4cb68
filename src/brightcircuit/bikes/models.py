"""Bikes: a small projection for search, and a chain of immutable revisions."""

import uuid

from django.conf import settings
from django.db import models


class Bike(models.Model):
    """A bike of the shop. `small`: its small Line, as described last, without lights."""

    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    origin = models.UUIDField(null=True, editable=False)
    """Of a bike that a file brought once more, the one that was here already."""

    label = models.CharField(max_length=120)
    description = models.CharField(max_length=300, blank=True)
    frame_number = models.CharField(max_length=80, blank=True, db_index=True)
    small = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("label", "id")
        indexes = (models.Index(fields=("label", "id"), name="bike_by_label"),)

    def __str__(self) -> str:
        return self.label

    @property
    def uuid_text(self) -> str:
        """The UUID as text, for templates."""
        return str(self.uuid)


class Revision(models.Model):
    """One immutable description of a bike: the bike document with its hash."""

    bike = models.ForeignKey(Bike, on_delete=models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.TextField()
    sha256 = models.CharField(max_length=64, db_index=True)
    what = models.CharField(max_length=300, blank=True)
    format_version = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)

    class Meta:
        ordering = ("-number",)
        constraints = (
            models.UniqueConstraint(fields=("bike", "number"), name="one_revision_number"),
        )

    def __str__(self) -> str:
        return f"{self.bike} r{self.number}"


class RiderContact(models.Model):
    """How to reach the rider: optional, kept apart, erasable, left out of exports unless asked
    for."""

    bike = models.OneToOneField(Bike, on_delete=models.CASCADE, related_name="contact")
    name = models.CharField(max_length=120, blank=True)
    reach = models.CharField("Phone or email", max_length=200, blank=True)
    note = models.CharField(max_length=500, blank=True)

    def __str__(self) -> str:
        return self.name
