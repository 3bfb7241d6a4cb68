"""What was found at arrival."""

from django.conf import settings
from django.db import models

from brightcircuit.arrive.questions import questions
from brightcircuit.jobs.models import Job
from brightcore.tracing.context import AT_PLUGS, BEFORE, words_of

CIRCUMSTANCES, WIRES = words_of(BEFORE), words_of(AT_PLUGS)
"""What is asked at arrival, each (id, words): what went before, and how wires and plugs look."""


class Arrival(models.Model):
    """Pack triage and notes of one job.

    Any yes begins a quarantine of the pack. `lifted_reason` and `lifted_by` are history: what
    counts is the `Quarantine` itself.
    """

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="arrival")
    triage = models.JSONField(default=dict)
    triage_pack = models.CharField(max_length=60, default="", blank=True)
    """Id of the pack that answers without a pack's name are about."""

    elsewhere = models.JSONField(default=dict, blank=True)
    """Answers that came with a file: history. Here every pack is looked at again."""

    note = models.TextField(blank=True)
    circumstances = models.JSONField(default=list, blank=True)
    wires = models.JSONField(default=list, blank=True)
    wire_places = models.JSONField(default=dict, blank=True)
    lifted_reason = models.TextField(blank=True)
    lifted_by = models.CharField(max_length=150, blank=True)

    def __str__(self) -> str:
        return f"Arrival of {self.job}"

    @property
    def is_complete(self) -> bool:
        """Whether every question about every pack has an answer."""
        answers = self.triage if self.job.is_open else self.said
        return all(answers.get(question.key) is not None for question in questions(self.job))

    @property
    def said(self) -> dict[str, bool | None]:
        """Every answer, those of another shop among them; what was answered here stands before
        them."""
        here = {key: answer for key, answer in self.triage.items() if answer is not None}
        found: dict[str, bool | None] = {**self.triage, **self.elsewhere, **here}
        return found

    @property
    def dangers(self) -> list[str]:
        """Questions answered with yes."""
        asked = {question.key: question.words for question in questions(self.job)}
        return [words for key, words in asked.items() if self.triage.get(key)]


class Waiver(models.Model):
    """A finding accepted with a reason (danger: by a shop lead).

    `words`: the finding in the words of that day. `by_name` is who, also on another copy. Lapses
    when the finding's values change. An `imported` one counts only once somebody of this shop
    accepts it too.
    """

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="waivers")
    key = models.CharField(max_length=500)
    words = models.CharField(max_length=500, blank=True)
    reason = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)
    at = models.DateTimeField()
    imported = models.BooleanField(default=False)

    class Meta:
        constraints = (
            models.UniqueConstraint(fields=("job", "key"), name="one_waiver_per_finding"),
        )

    def __str__(self) -> str:
        return self.reason
