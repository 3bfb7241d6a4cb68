"""Jobs and their log."""

import uuid

from django.conf import settings
from django.db import models
from django.utils.formats import date_format

from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.jobs.rows import Signed, Standing
from brightcore.procedure.purpose import WAITS, purposes_of


class Job(models.Model):
    """One visit of one bike. `version` counts changes, so that a stale form is noticed.

    `based_on` is not stored: the version that a change in hand was based on. `spares`: ids of the
    parts for which a known good one is to hand, None where nobody has said; `donor`: another bike
    of the shop that lends halves. `purposes`: keys of what it is for; `promised`: to be ready on;
    `worker`: who has it in hand; `waiting`: what it waits for; `place`: where the bike is;
    `decided`: what the customer decided; `arrived`: the description when the bike came in, None
    where that is not known. `turn`: its place in somebody's list as it was put by hand, on the day
    `turn_on`.

    `revision` is the bike as it shall be. `begins`: whether the bike arrived as `arrived` describes
    it, or bare with its parts in a box. `plans`: whether editing the description plans a change, or
    only describes better what stands. `follows`: whether it tells what is done from what is
    described; jobs opened before that could be told do not, and what they describe counts as done.
    `opens`: parts that this job opens.

    `way_known` is not stored: the way of the job as worked out in this request (`jobs/way.py`).
    """

    based_on: int | None = None
    way_known: object = None

    class Status(models.TextChoices):
        OPEN = "open", "Open"
        CLOSED = "closed", "Closed"

    class Begins(models.TextChoices):
        DESCRIBED = "described", "As it was described"
        BARE = "bare", "Bare, its parts in a box"

    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    number = models.PositiveIntegerField(unique=True)
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="jobs")
    complaint = models.TextField(max_length=2000)
    status = models.CharField(max_length=10, choices=Status.choices, default=Status.OPEN)
    round = models.PositiveIntegerField(default=1)
    version = models.PositiveIntegerField(default=1)
    opened = models.DateTimeField()
    opened_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+"
    )
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
        settings.AUTH_USER_MODEL,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="works_on",
    )
    waiting = models.CharField(max_length=20, blank=True)
    place = models.CharField(max_length=80, blank=True)
    decided = models.TextField(max_length=1000, blank=True)
    turn = models.PositiveSmallIntegerField(null=True, blank=True)
    turn_on = models.DateField(null=True, blank=True)
    arrived = models.ForeignKey(
        Revision, on_delete=models.PROTECT, null=True, blank=True, related_name="arrivals"
    )

    begins = models.CharField(max_length=10, choices=Begins.choices, default=Begins.DESCRIBED)
    plans = models.BooleanField(default=False)
    follows = models.BooleanField(default=False)
    opens = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ("-number",)
        indexes = (
            models.Index(fields=("status", "-number"), name="job_by_status"),
            models.Index(
                fields=("-number", "complaint", "revision", "status"), name="job_by_words"
            ),
        )
        constraints = (
            models.CheckConstraint(
                condition=models.Q(status__in=("open", "closed")), name="job_status_known"
            ),
            # A closed job says when: the day's numbers and its warranty are reckoned from there.
            models.CheckConstraint(
                condition=models.Q(status="open") | models.Q(closed__isnull=False),
                name="job_closed_has_its_time",
            ),
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
        if self.promised:
            return f"promised {date_format(self.promised, 'D j M')}"
        return ""

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


class ChangeDone(Standing):
    """A change of the bike that was done: never changed afterwards, undo marks it.

    `change`: its id, such as `connect:j7`. `how`: by whose hands it was done, or that it was so
    already when the bike came in. `words`: what was done, in the words of that day. `piece`: the
    parts and the connection that it brought, as a bike file writes them.
    """

    class How(models.TextChoices):
        STEP = "step", "Step done"
        REPAIR = "repair", "Part of a repair"
        FOUND = "found", "Was so already"

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="changes_done")
    change = models.CharField(max_length=100)
    how = models.CharField(max_length=10, choices=How.choices)
    words = models.CharField(max_length=300)
    piece = models.JSONField(default=dict, blank=True)

    def __str__(self) -> str:
        return self.words


class StepMark(Standing):
    """What is said of a step of the order of work: that it was done, whose it is, or what was found
    at it.

    `text`: the person it was given to, or what was found. `words`: the step in the words of that
    day.
    """

    class What(models.TextChoices):
        DONE = "done", "Done"
        GIVEN = "given", "Given to"
        FOUND = "found", "Found"

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="step_marks")
    step = models.CharField(max_length=160)
    what = models.CharField(max_length=10, choices=What.choices)
    text = models.CharField(max_length=300, blank=True)
    words = models.CharField(max_length=500)

    def __str__(self) -> str:
        return self.words


class Edit(models.Model):
    """One edit of the description that a station made for a job: the revision that came of it.

    `words`: what was changed, in the words of that day; `undoes`: the edit that it took back.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="edits")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="edits")
    station = models.CharField(max_length=20)
    words = models.CharField(max_length=300)
    undoes = models.ForeignKey("self", on_delete=models.PROTECT, null=True, blank=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return self.words


class Quarantine(models.Model):
    """A pack that nobody charges, powers or tests. It ends only when a shop lead lifts it, with a
    reason.

    It holds for every job on the bike while one of its `packs` is on it, and for every bike with a
    pack of one of its `marks`.
    """

    bike = models.ForeignKey(Bike, on_delete=models.PROTECT, related_name="quarantines")
    packs = models.JSONField(default=list, blank=True)
    """Ids of the packs of the bike; every pack of it where there is none."""

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


class Danger(Signed):
    """A danger that was read or seen at a bike: it stops powered acts until it is read well or let
    go.

    It holds for every open job on the bike. `place`: where it was read, so that a good reading
    there ends it; `station`: whose reading it was. `words` and `do`: what was read and what to do,
    in the words of that day. `ended`, `how`, `reason`, `ended_by_name`: when it ended, by what, and
    who let it go and why. `imported`: it came with a file. `limited`: when the bike was first
    powered after it, through a limit.
    """

    class How(models.TextChoices):
        STANDS = "", "Stands"
        READ_WELL = "read", "Read well"
        LET_GO = "let-go", "Let go"

    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    bike = models.ForeignKey(Bike, on_delete=models.PROTECT, related_name="dangers")
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="dangers")
    place = models.CharField(max_length=300)
    station = models.CharField(max_length=20)
    code = models.CharField(max_length=40)
    words = models.CharField(max_length=500)
    do = models.CharField(max_length=500)
    ended = models.DateTimeField(null=True, blank=True)
    how = models.CharField(max_length=10, choices=How.choices, blank=True, default="")
    reason = models.CharField(max_length=500, blank=True)
    ended_by_name = models.CharField(max_length=150, blank=True)
    imported = models.BooleanField(default=False)
    limited = models.DateTimeField(null=True, blank=True)

    class Meta(Signed.Meta):
        indexes = (models.Index(fields=("bike", "ended"), name="danger_by_bike"),)

    def __str__(self) -> str:
        return self.words


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
    `probability`: how sure Trace was of it then. `counted`: it moves this shop's priors. `made`: id
    of the thing that came in the place of the one that was replaced; `before` and `after`: the
    descriptions around that. `shape`: hash of what was on the bike when its proof passed, and how
    it was connected. `minutes`: what it usually takes.
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
    minutes = models.FloatField(default=0.0)
    made = models.CharField(max_length=60, blank=True)
    shape = models.CharField(max_length=64, blank=True)
    before = models.ForeignKey(
        Revision, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )
    after = models.ForeignKey(
        Revision, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )
    proof = models.CharField(max_length=10, choices=Proof.choices, blank=True, default="")
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    imported = models.BooleanField(default=False)

    class Meta:
        db_table = "record_repair"
        ordering = ("round", "id")
        constraints = (
            models.CheckConstraint(
                condition=models.Q(proof__in=("", "passed", "failed")), name="repair_proof_known"
            ),
        )

    def __str__(self) -> str:
        return self.action


class Photo(models.Model):
    """A picture of a job. The file lies in the media folder under its UUID.

    `place`: what it shows, as `kind:id` of a plug, a step or a finding; "" for the bike as it came
    in. `gone`: when the picture was deleted; its row stays.
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
