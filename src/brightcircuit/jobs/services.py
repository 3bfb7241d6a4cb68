"""Opening jobs, their symptoms, and the description they use."""

from collections.abc import Mapping

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.evidence import core_evidence, entry_fields
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike
from brightcore.errors import BrightError
from brightcore.simulation.table import Row, Table
from brightcore.tracing.symptoms import BY_ID, symptom_evidence
from brightcore.tracing.tests import validate

MOST_LOST = 4
"""Pieces of evidence that would lose their place, named at most."""


def next_number() -> int:
    """Return the number of the next job."""
    return (Job.objects.aggregate(Max("number"))["number__max"] or 0) + 1


@transaction.atomic
def create_job(*, actor: Person, revision: Revision, complaint: str, symptoms: Mapping[str, bool]) -> Job:
    """Create a job without what its stations begin with; `stations.opening.open_job` does both."""
    require_active(actor)
    job = Job.objects.create(
        number=next_number(), revision=revision, complaint=complaint, opened=timezone.now(), opened_by=actor
    )
    log.write(job, actor, "opened", f"Job opened for {revision.bike.label}: {complaint}")
    add_symptoms(job, actor, symptoms)
    return job


def add_symptoms(job: Job, actor: Person, symptoms: Mapping[str, bool]) -> None:
    """Store confirmed symptoms as looks; what this bike's model does not have is logged."""
    scenes = Table(circuit_of(core_bike(job.revision)), [Row()]).scenes
    for symptom_id, sometimes in symptoms.items():
        items = symptom_evidence(symptom_id, scenes, sometimes)
        words = BY_ID[symptom_id].words + (", sometimes" if sometimes else "")
        if not items:
            log.write(job, actor, "symptom", f"Confirmed, but not modelled on this bike: {words}")
            continue
        for item in items:
            job.evidence.create(
                round=job.round, at=timezone.now(), by=actor, by_name=str(actor), **entry_fields(item)
            )
        log.write(job, actor, "symptom", f"Confirmed: {words}")


@transaction.atomic
def confirm_symptoms(*, actor: Person, job: Job, symptoms: Mapping[str, bool]) -> None:
    """Add symptoms confirmed after the job was opened."""
    require_open(job, actor)
    add_symptoms(job, actor, symptoms)


def ready_core(job: Job, actor: Person) -> Bike:
    """Return the core bike of a job whose description may be changed; raises what stands in the way."""
    require_open(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk != job.revision_id:
        raise ValidationError(
            "The bike has a newer description than this job stands on: use the newest on Arrive first."
        )
    return core_bike(newest)


@transaction.atomic
def keep_description(*, actor: Person, job: Job, core: Bike, station: str, what: str) -> None:
    """Store a changed description as the next revision of the bike and move the job onto it."""
    ready_core(job, actor)
    add_revision(actor=actor, bike=job.revision.bike, core=core, base=job.revision.number, what=what)
    log.write(job, actor, station, what[:300])
    use_newest_revision(actor=actor, job=job)


def _lost_evidence(job: Job, newest: Revision) -> list[str]:
    """Return the evidence of a job that names what a description does not have, in words."""
    entries = list(job.evidence.filter(undone=False))
    if not entries:
        return []
    table = Table(circuit_of(core_bike(newest)), [Row()])
    lost = []
    for entry in entries:
        try:
            validate(table, core_evidence(entry))
        except BrightError as error:
            lost.append(f"{entry}: {error}")
    return lost


@transaction.atomic
def use_newest_revision(*, actor: Person, job: Job) -> None:
    """Let the job stand on the newest description of its bike.

    Raises ValidationError where evidence of this job names what the new description no longer has.
    """
    require_open(job, actor)
    newest = latest_revision(job.revision.bike)
    if newest.pk == job.revision_id:
        raise ValidationError("The job stands on the newest description already.")
    lost = _lost_evidence(job, newest)
    if lost:
        words = "; ".join(lost[:MOST_LOST])
        raise ValidationError(f"Evidence of this job would lose its place; undo it first: {words}")
    old = job.revision.number
    job.revision = newest
    job.save(update_fields=["revision"])
    log.write(job, actor, "revision", f"Stands on revision {newest.number} of the bike now (was {old})")
