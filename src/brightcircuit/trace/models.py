"""Evidence of jobs."""

import uuid

from django.conf import settings
from django.db import models

from brightcircuit.jobs.models import Job


class Entry(models.Model):
    """One thing measured, seen or told. Never deleted: undo sets `undone`.

    `questioned` says why it cannot be: it is kept as typed, and counts only once that is cleared.
    `words`: what it is, as the bike was described then; `of`: the hash of that description.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="evidence")
    uuid = models.UUIDField(default=uuid.uuid4, editable=False)
    client = models.CharField(max_length=80, blank=True)
    round = models.PositiveIntegerField(default=1)
    kind = models.CharField(max_length=10)
    value = models.CharField(max_length=60)
    condition = models.CharField(max_length=300, blank=True)
    red = models.CharField(max_length=130, blank=True)
    black = models.CharField(max_length=130, blank=True)
    scene = models.CharField(max_length=120, blank=True)
    observable = models.CharField(max_length=80, blank=True)
    meter = models.CharField(max_length=160, blank=True)
    subject = models.CharField(max_length=120, blank=True)
    sometimes = models.BooleanField(default=False)
    told = models.BooleanField(default=False)
    state = models.CharField(max_length=20, blank=True)
    questioned = models.CharField(max_length=200, blank=True)
    words = models.CharField(max_length=300, blank=True)
    of = models.CharField(max_length=64, blank=True)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    minutes = models.FloatField(default=0.0)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
        indexes = (models.Index(fields=("job", "round", "undone")),)
        constraints = (
            models.CheckConstraint(
                condition=models.Q(minutes__gte=0.0), name="entry_minutes_not_negative"
            ),
        )

    def __str__(self) -> str:
        return f"{self.kind} {self.value}"


class Submission(models.Model):
    """A form's client id, accepted once: a repeat after a lost connection changes nothing."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT)
    client = models.CharField(max_length=80)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("job", "client"), name="submission_once"),)

    def __str__(self) -> str:
        return self.client


class ErrorCode(models.Model):
    """What a code means that displays of one name show, as this shop has learnt it."""

    display = models.CharField(max_length=120)
    code = models.CharField(max_length=12)
    meaning = models.CharField(max_length=20)
    at = models.DateTimeField()
    by_name = models.CharField(max_length=150)

    class Meta:
        ordering = ("display", "code")
        constraints = (
            models.UniqueConstraint(fields=("display", "code"), name="one_meaning_per_code"),
        )

    def __str__(self) -> str:
        return f"{self.display} {self.code}"


class Acknowledgement(models.Model):
    """A caution ticked before a test, kept with who and when; `power` says how the bike stood."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="acknowledgements")
    gate = models.CharField(max_length=40)
    power = models.CharField(max_length=10)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)

    def __str__(self) -> str:
        return self.gate
