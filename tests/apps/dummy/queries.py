"""What Weigh shows."""

from brightcircuit.jobs.models import Job
from tests.apps.dummy.models import Weight


def weight_of(job: Job) -> Weight | None:
    """Return what a job's bike weighs, None where nobody has weighed it."""
    return Weight.objects.filter(job=job).first()
