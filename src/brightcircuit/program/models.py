"""What devices are set to, what is wanted otherwise, and snapshots of whole devices."""

import uuid

from django.db import models

from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import Signed, Standing


class Told(Standing):
    """A value of a device as somebody saw or entered it: never changed; undo marks it.

    `how`: `seen` on the device, `entered` and read back, of a `file`, `read` or `written` over the
    link, `sent` over it and not read back: then nobody knows what the device has. `before`: what
    was known then. `firmware`: the device's own word over the link.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="told")
    part = models.CharField(max_length=60)
    code = models.CharField(max_length=10)
    value = models.FloatField()
    before = models.FloatField(null=True)
    wanted = models.FloatField(null=True)
    how = models.CharField(max_length=10)
    why = models.TextField(blank=True)
    firmware = models.CharField(max_length=20, blank=True)

    def __str__(self) -> str:
        return f"{self.part} {self.code} {self.value:g}"


class Otherwise(models.Model):
    """A value that is wanted instead of the derived one, with its reason, which stays on the job
    sheet."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="otherwise")
    part = models.CharField(max_length=60)
    code = models.CharField(max_length=10)
    value = models.FloatField()
    reason = models.CharField(max_length=200)
    by_name = models.CharField(max_length=150)
    at = models.DateTimeField()

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("job", "part", "code"), name="one_otherwise_each"),
        )

    def __str__(self) -> str:
        return f"{self.part} {self.code} {self.value:g}: {self.reason}"


class Plan(models.Model):
    """What the bike is to be, as far as Program asks: limit, style of assist, throttle."""

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="program_plan")
    data = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"aim of job {self.job_id}"


class Snapshot(Signed):
    """All values of a device at a time, by code, in shown units; kept with the job."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="snapshots")
    uuid = models.UUIDField(default=uuid.uuid4, editable=False)
    part = models.CharField(max_length=60)
    profile = models.CharField(max_length=40)
    title = models.CharField(max_length=120)
    values = models.JSONField(default=dict)
    imported = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.title


class ShopProfile(models.Model):
    """A device profile of this shop, as a file; one that is retired is no longer offered."""

    name = models.CharField(max_length=40, unique=True)
    text = models.TextField()
    retired = models.BooleanField(default=False)
    at = models.DateTimeField()
    by_name = models.CharField(max_length=150)

    def __str__(self) -> str:
        return self.name


class Line(models.Model):
    """Where a device of a job was reached, and what it said it is."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="lines")
    part = models.CharField(max_length=60)
    address = models.CharField(max_length=160)
    firmware = models.CharField(max_length=20, blank=True)
    saved = models.BooleanField(default=True)
    """Whether the device keeps what was written when it is switched off."""

    class Meta:
        constraints = (models.UniqueConstraint(fields=("job", "part"), name="one_line_each"),)

    def __str__(self) -> str:
        return f"{self.part} at {self.address}"


class Run(Signed):
    """Something done over a line, step by step: what is known of every value stays here whatever
    breaks.

    `kind`: `read`, `write`, `learn`. `state`: `asked` (not confirmed), `going`, `paused`, `done`,
    `stopped`. `items`: as `linking.transfer.Item`; of a learning run, what each stage has found.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="runs")
    part = models.CharField(max_length=60)
    kind = models.CharField(max_length=10)
    state = models.CharField(max_length=10)
    items = models.JSONField(default=list)
    words = models.TextField(blank=True)

    def __str__(self) -> str:
        return f"{self.kind} {self.part}: {self.state}"
