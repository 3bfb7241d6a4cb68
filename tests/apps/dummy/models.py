"""What Weigh keeps."""

from django.db import models

from brightcircuit.jobs.models import Job


class Weight(models.Model):
    """What one job's bike weighs, in kg."""

    job = models.OneToOneField(Job, on_delete=models.PROTECT, related_name="+")
    kg = models.FloatField()

    class Meta:
        app_label = "dummy"
        constraints = (
            models.CheckConstraint(condition=models.Q(kg__gt=0), name="weight_is_something"),
        )

    def __str__(self) -> str:
        return f"{self.kg:g} kg"
