"""Jobs and their log."""

import uuid

from django.conf import settings
from django.db import models
from django.utils.formats import date_format

from brightcircuit.bikes.models import Bike, Revision
from brightcore.procedure.purpose import WAITS, purposes_of


class Job(models.Model):
    """One visit of one bike. `version` counts changes, so that a stale form is noticed.

    `based_on` is not stored: the version that a change in hand was based on. `spares`: ids of the parts for
    which a known good one is to hand, None where nobody has said; `donor`: another bike of the shop that
    lends halves. `purposes`: keys of what it is for; `promised`: to be ready on; `worker`: who has it in
    hand; `waiting`: what it waits for; `place`: where the bike is; `decided`: what the customer decided;
    `arrived`: the description when the bike came in, None where that is not known. `turn`: its place in
    somebody's list as it was put by hand, on the day `turn_on`.
    """

    based_on: int | None = None

    class Status(models.TextChoices):
        OPEN = "open", "Open"
        CLOSED = "closed", "Closed"

    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    number = models.PositiveIntegerField(unique=True)
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="jobs")
    complaint = models.TextField(max_length=2000)
    status = models.CharField(max_length=10, choices=Status.choices, default=Status.OPEN)
    round = models.PositiveIntegerField(default=1)
    version = models.PositiveIntegerField(default=1)
    opened = models.DateTimeField()
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    closed = models.DateTimeField(null=True, blank=True)
    close_reason = models.TextField(blank=True)
    skipped_tests = models.JSONField(default=list, blank=True)
    spares = models.JSONField(null=True, blank=True)
    donor = models.ForeignKey(
        Revision, on_delete=models.PROTECT, null=True, blank=True, related_name="lends_to"
    )
    conclusion = models.JSONField(default=dict, blank=True)
    summary = models.JSONField(default=dict, blank=True)
    purposes = models.JSONField(default=list, blank=True)
    promised = models.DateField(null=True, blank=True)
    worker = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="works_on"
    )
    waiting = models.CharField(max_length=20, blank=True)
    place = models.CharField(max_length=80, blank=True)
    decided = models.TextField(max_length=1000, blank=True)
    turn = models.PositiveSmallIntegerField(null=True, blank=True)
    turn_on = models.DateField(null=True, blank=True)
    arrived = models.ForeignKey(
        Revision, on_delete=models.PROTECT, null=True, blank=True, related_name="arrivals"
    )

    class Meta:
        ordering = ("-number",)
        indexes = (
            models.Index(fields=("status", "-number"), name="job_by_status"),
            models.Index(fields=("-number", "complaint", "revision", "status"), name="job_by_words"),
        )

    def __str__(self) -> str:
        return f"Job {self.number}"

    @property
    def purpose_words(self) -> str:
        """What it is for, in a few words."""
        return ", ".join(purpose.title for purpose in purposes_of(self.purposes))

    @property
    def waiting_words(self) -> str:
        """What it waits for, "" where for nothing."""
        return WAITS.get(self.waiting, "")

    @property
    def promised_words(self) -> str:
        """The day it is promised for, "" where none is."""
        return f"promised {date_format(self.promised, 'D j M')}" if self.promised else ""

    @property
    def plan_words(self) -> str:
        """Purpose, hands, promise and wait in one line; "" where nobody has said anything."""
        pieces = (
            self.purpose_words.lower() if self.purposes else "",
            f"with {self.worker}" if self.worker else "",
            self.promised_words,
            self.waiting_words,
        )
        return ", ".join(filter(None, pieces))

    @property
    def photos(self) -> "models.QuerySet[Photo]":
        """The pictures that are kept."""
        return self.all_photos.filter(gone=None)

    @property
    def is_open(self) -> bool:
        """Whether the job takes evidence."""
        return self.status == self.Status.OPEN


class Quarantine(models.Model):
    """A pack that nobody charges, powers or tests. It ends only when a shop lead lifts it, with a reason.

    It holds for every job on the bike, and for every bike with a pack of one of its `marks`.
    """

    bike = models.ForeignKey(Bike, on_delete=models.PROTECT, related_name="quarantines")
    marks = models.JSONField(default=list, blank=True)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="quarantines")
    why = models.JSONField(default=list)
    begun = models.DateTimeField()
    begun_by_name = models.CharField(max_length=150)
    lifted = models.DateTimeField(null=True, blank=True)
    lifted_reason = models.TextField(blank=True)
    lifted_by_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"Quarantine of the pack of {self.bike}"


class LogEntry(models.Model):
    """One line of a job's history; never changed. `imported` lines came with a file."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="log")
    at = models.DateTimeField()
    by = models.CharField(max_length=150)
    what = models.CharField(max_length=40)
    text = models.TextField()
    imported = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.text


class Repair(models.Model):
    """A repair done in one round, and whether its proof passed. `imported`: done in another shop.

    `root_cause`: what to look for; `cause`: what it was; `decision`: what the customer decided.
    `probability`: how sure Trace was of it then. `counted`: it moves this shop's priors.
    """

    class Proof(models.TextChoices):
        OPEN = "", "Not proved yet"
        PASSED = "passed", "Passed"
        FAILED = "failed", "Failed"

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="repairs")
    round = models.PositiveIntegerField()
    repair = models.CharField(max_length=120)
    action = models.TextField()
    fault = models.CharField(max_length=200, blank=True)
    fault_class = models.CharField(max_length=80, blank=True, db_index=True)
    root_cause = models.TextField(blank=True)
    cause = models.TextField(blank=True)
    decision = models.CharField(max_length=200, blank=True)
    proof_title = models.TextField(blank=True)
    proof_expected = models.TextField(blank=True)
    probability = models.FloatField(null=True, blank=True)
    counted = models.BooleanField(default=True)
    proof = models.CharField(max_length=10, choices=Proof.choices, blank=True, default="")
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    imported = models.BooleanField(default=False)

    class Meta:
        db_table = "record_repair"
        ordering = ("round", "id")

    def __str__(self) -> str:
        return self.action


class Photo(models.Model):
    """A picture of a job. The file lies in the media folder under its UUID.

    `place`: what it shows, as `kind:id` of a plug, a step or a finding; "" for the bike as it came in.
    `gone`: when the picture was deleted; its row stays.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="all_photos")
    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    place = models.CharField(max_length=160, blank=True)
    caption = models.CharField(max_length=200, blank=True)
    size = models.PositiveIntegerField()
    sha256 = models.CharField(max_length=64)
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    gone = models.DateTimeField(null=True, blank=True)

    class Meta:
        db_table = "arrive_photo"
        ordering = ("id",)

    def __str__(self) -> str:
        return self.caption or str(self.uuid)
