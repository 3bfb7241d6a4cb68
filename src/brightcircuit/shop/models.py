"""People of the shop."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Role(models.TextChoices):
    """What a person may do. A lead may lift a quarantine and waive a danger finding."""

    TECHNICIAN = "technician", "Technician"
    LEAD = "lead", "Lead"


class Meter(models.Model):
    """A meter of the shop, as `circuit.instruments` knows it. A reading keeps its figures by `name`."""

    title = models.CharField(max_length=60, unique=True)
    name = models.CharField(max_length=160)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("title",)

    def __str__(self) -> str:
        return self.title


class Receipt(models.Model):
    """A form that came in and was done: its id, whose it was, and where it led. It is not done again."""

    client = models.CharField(max_length=64, unique=True)
    person = models.ForeignKey("Person", on_delete=models.CASCADE, related_name="+")
    to = models.CharField(max_length=500)
    at = models.DateTimeField(db_index=True)

    def __str__(self) -> str:
        return self.client


class Pace(models.Model):
    """How long a kind of test takes in this shop against the usual minutes, and whether it is done at all."""

    kind = models.CharField(max_length=20, unique=True)
    factor = models.FloatField(default=1.0)
    done_here = models.BooleanField(default=True)

    class Meta:
        ordering = ("kind",)

    def __str__(self) -> str:
        return self.kind


class Person(AbstractUser):
    """A person who signs in."""

    role = models.CharField(max_length=20, choices=Role.choices, default=Role.TECHNICIAN)
    meter = models.ForeignKey(Meter, on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    single_key_shortcuts = models.BooleanField("Single-key shortcuts", default=True)

    def __str__(self) -> str:
        return self.get_full_name() or self.username

    @property
    def is_lead(self) -> bool:
        """Whether the person has the lead role."""
        return self.role == Role.LEAD
