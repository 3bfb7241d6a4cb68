"""Cases played, drills answered, homework. None of it is read by anything but practice."""

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from brightcircuit.bikes.models import Revision
from brightcore.practice.sorts import BY_KEY as SORT


class Homework(models.Model):
    """Cases and drills that a shop lead gives to learners, to be done by a day."""

    title = models.CharField(max_length=120)
    codes = models.JSONField(default=list, blank=True)
    topics = models.JSONField(default=list, blank=True)
    due = models.DateField()
    people = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="homework")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    gone = models.BooleanField(default=False)

    class Meta:
        ordering = ("due", "id")

    def __str__(self) -> str:
        return self.title


class Round(models.Model):
    """One case as somebody plays it. `state` and `acts` are of the core; `version` counts what was
    done.

    `bike`: key of the bike; `revision`: its description where it is one of the shop's; `graded`:
    key of a graded case; `cause`: the root cause that was named; `debrief`: once it was worked out.
    """

    uuid = models.UUIDField(default=uuid.uuid4, unique=True, editable=False)
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="rounds"
    )
    bike = models.CharField(max_length=40)
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, null=True, blank=True)
    sort = models.CharField(max_length=12)
    seed = models.CharField(max_length=12)
    graded = models.CharField(max_length=4, blank=True)
    complaint = models.TextField(blank=True)
    state = models.JSONField(default=dict)
    acts = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=0)
    cause = models.CharField(max_length=300, blank=True)
    debrief = models.JSONField(default=dict, blank=True)
    begun = models.DateTimeField(default=timezone.now)
    ended = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-id",)
        indexes = (models.Index(fields=("person", "ended"), name="round_by_person"),)

    def __str__(self) -> str:
        return self.code

    @property
    def code(self) -> str:
        """What the same case is played by again, anywhere."""
        if self.graded:
            return f"graded.{self.graded}"
        return f"{self.bike}.{self.sort}.{self.seed}"

    @property
    def sort_words(self) -> str:
        """What may be wrong, in words."""
        if self.sort in SORT:
            return SORT[self.sort].title
        return self.sort


class Answer(models.Model):
    """One answer to a drill."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="answers"
    )
    topic = models.CharField(max_length=20)
    seed = models.CharField(max_length=20)
    right = models.BooleanField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("id",)
        constraints = (
            models.UniqueConstraint(fields=("person", "topic", "seed"), name="one_answer_each"),
        )

    def __str__(self) -> str:
        return f"{self.topic} {self.seed}"


class Topic(models.Model):
    """Where a topic stands for somebody: its box, and the day it comes again."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="topics"
    )
    topic = models.CharField(max_length=20)
    box = models.PositiveSmallIntegerField(default=0)
    due = models.DateField(null=True, blank=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("person", "topic"), name="one_topic_each"),)

    def __str__(self) -> str:
        return f"{self.topic}, box {self.box}"
