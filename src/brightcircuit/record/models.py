"""Repairs and their proofs."""

from django.conf import settings
from django.db import models

from brightcircuit.jobs.models import Job


class Repair(models.Model):
    """A repair done in one round, and whether its proof passed."""

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
    proof_title = models.TextField(blank=True)
    proof_expected = models.TextField(blank=True)
    proof = models.CharField(max_length=10, choices=Proof.choices, blank=True, default="")
    at = models.DateTimeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    by_name = models.CharField(max_length=150)

    class Meta:
        ordering = ("round", "id")

    def __str__(self) -> str:
        return self.action
