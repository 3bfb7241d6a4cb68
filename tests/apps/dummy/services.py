"""Changes of Weigh: who may is asked here, not in a view."""

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from tests.apps.dummy.models import Weight

MOST_KG = 400.0
"""A loaded cargo bike with its rider weighs less (common practice)."""


@transaction.atomic
def weigh(*, actor: Person, job: Job, kg: float) -> Weight:
    """Keep what a bike weighs; raises ValidationError for what no bike weighs."""
    require_open(job, actor)
    if not 0 < kg <= MOST_KG:
        raise ValidationError({"kg": [f"A bike weighs more than 0 and at most {MOST_KG:g} kg."]})
    made, _ = Weight.objects.update_or_create(job=job, defaults={"kg": kg})
    log.write(job, actor, "weight", f"Weighs {made}")
    return made
