"""What was proven, and what was not."""

import uuid

from django.db import models

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import Standing


class Proved(Standing):
    """One check as it was made: never changed; undo marks it, a newer one stands before it.

    `shape`: hash of what was on the bike then and how it was connected; once that is another, the
    check falls. `gates`: the cautions that stood when it was made.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="proofs")
    uuid = models.UUIDField(default=uuid.uuid4, editable=False)
    check_id = models.CharField(max_length=80)
    title = models.CharField(max_length=200)
    typed = models.CharField(max_length=60, blank=True)
    passed = models.BooleanField()
    note = models.TextField(blank=True)
    shape = models.CharField(max_length=64, blank=True)
    gates = models.JSONField(default=list, blank=True)

    def __str__(self) -> str:
        return f"{self.title}: {'passed' if self.passed else 'failed'}"


class RideRow(Standing):
    """A ride read from a log: what it told, and a few of its moments for the charts. The file is
    not kept."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="rides")
    uuid = models.UUIDField(default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    began = models.DateTimeField(null=True)
    told = models.JSONField(default=dict)
    flags = models.JSONField(default=list)
    series = models.JSONField(default=dict)

    def __str__(self) -> str:
        return self.name
