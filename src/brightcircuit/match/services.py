"""Changes to a job's Match plan."""

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.match.models import MatchPlan
from brightcircuit.match.plan import MOST_VARIANTS, Exchanged, Numbers
from brightcircuit.shop.models import Person


def _plan(job: Job, actor: Person) -> MatchPlan:
    require_open(job, actor)
    return MatchPlan.objects.select_for_update().get_or_create(job=job)[0]


@transaction.atomic
def ask(*, actor: Person, job: Job, values: Numbers) -> None:
    """Store what is asked about riding, place and cost."""
    plan = _plan(job, actor)
    plan.data = {**plan.data, **values}
    plan.save()
    log.write(
        job,
        actor,
        "match",
        "Match asked: "
        + ", ".join(f"{k.replace('_', ' ')} {v}" for k, v in values.items() if v not in (None, "")),
    )


@transaction.atomic
def add_variant(*, actor: Person, job: Job, variant: Exchanged) -> None:
    """Add a variant to compare; three beside the bike as it is."""
    plan = _plan(job, actor)
    variants = plan.data.get("variants", [])
    if len(variants) >= MOST_VARIANTS:
        raise ValidationError(
            "Three variants beside the bike as it is are the most. Take one away first."
        )
    plan.data = {**plan.data, "variants": [*variants, variant]}
    plan.save()
    log.write(job, actor, "match", f"Variant to compare: {variant['name']}")


@transaction.atomic
def drop_variant(*, actor: Person, job: Job, index: int) -> None:
    """Take a variant away."""
    plan = _plan(job, actor)
    variants = list(plan.data.get("variants", []))
    if not 0 <= index < len(variants):
        raise ValidationError("That variant is not there any more.")
    gone = variants.pop(index)
    plan.data = {**plan.data, "variants": variants}
    plan.save()
    log.write(job, actor, "match", f"Variant taken away: {gone['name']}")
