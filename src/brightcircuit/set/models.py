"""Sheets being filled in, calibrations that stand, and timers of what has to set."""

import uuid

from django.db import models

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import Standing


class Sheet(models.Model):
    """Readings of one instrument being taken: as typed, by field; `ticked`: cautions
    acknowledged."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="sheets")
    instrument = models.CharField(max_length=30)
    subject = models.CharField(max_length=120, blank=True)
    typed = models.JSONField(default=dict)
    options = models.JSONField(default=dict)
    ticked = models.JSONField(default=list)
    at = models.DateTimeField()

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("job", "instrument", "subject"), name="one_sheet_each"),
        )

    def __str__(self) -> str:
        return f"{self.instrument} {self.subject}"


class Calibration(Standing):
    """A calibration: who, when, with what, readings as typed, verdict, values. Never changed; undo
    marks it.

    `about`: what it was set on was called so then; `of`: its hash, as described then. A waiver is
    one of state `waived` with its reason.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="calibrations")
    uuid = models.UUIDField(default=uuid.uuid4, editable=False)
    instrument = models.CharField(max_length=30)
    subject = models.CharField(max_length=120, blank=True)
    about = models.CharField(max_length=120, blank=True)
    of = models.CharField(max_length=64, blank=True)
    typed = models.JSONField(default=dict)
    options = models.JSONField(default=dict)
    state = models.CharField(max_length=10)
    title = models.TextField()
    findings = models.JSONField(default=list)
    values = models.JSONField(default=list)
    meter = models.CharField(max_length=160, blank=True)

    def __str__(self) -> str:
        return self.title


class Timer(models.Model):
    """Something that sets: what to look at again, and when. It survives a reload and shows on the
    Bench."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="timers")
    instrument = models.CharField(max_length=30)
    subject = models.CharField(max_length=120, blank=True)
    words = models.CharField(max_length=200)
    due = models.DateTimeField()
    done = models.BooleanField(default=False)

    class Meta:
        ordering = ("due",)

    def __str__(self) -> str:
        return self.words
