"""What a job's Match was asked: rider, hill, variants, pack checks."""

from django.db import models

from brightcircuit.jobs.models import Job


class MatchPlan(models.Model):
    """One job's questions as plain JSON (see `match.plan`)."""

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="match_plan")
    data = models.JSONField(default=dict)

    def __str__(self) -> str:
        return f"Match of {self.job}"
