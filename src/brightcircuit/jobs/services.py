"""Opening jobs."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from brightcircuit.arrive.models import TRIAGE, Arrival
from brightcircuit.bikes.models import Revision
from brightcircuit.bikes.translate import circuit_of, core_bike
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active
from brightcircuit.trace.models import Entry
from brightcircuit.trace.translate import entry_fields
from brightcore.tracing.symptoms import BY_ID, symptom_evidence
from brightcore.tracing.table import Row, Table


def next_number() -> int:
    """Return the number of the next job."""
    return (Job.objects.aggregate(Max("number"))["number__max"] or 0) + 1


@transaction.atomic
def open_job(*, actor: Person, revision: Revision, complaint: str, symptoms: Mapping[str, bool]) -> Job:
    """Open a job; confirmed symptoms (id → only sometimes) become evidence."""
    require_active(actor)
    job = Job.objects.create(number=next_number(), revision=revision, complaint=complaint, opened=timezone.now(), opened_by=actor)
    Arrival.objects.create(job=job, triage=dict.fromkeys((name for name, _ in TRIAGE), None))
    log.write(job, actor, "opened", f"Job opened for {revision.bike.label}: {complaint}")
    add_symptoms(job, actor, symptoms)
    return job


def add_symptoms(job: Job, actor: Person, symptoms: Mapping[str, bool]) -> None:
    """Store confirmed symptoms as looks; what this bike's model does not have is logged."""
    table = Table(circuit_of(core_bike(job.revision)), [Row()])
    for symptom_id, sometimes in symptoms.items():
        items = symptom_evidence(symptom_id, table.scenes, sometimes)
        words = BY_ID[symptom_id].words + (", sometimes" if sometimes else "")
        if not items:
            log.write(job, actor, "symptom", f"Confirmed, but not modelled on this bike: {words}")
            continue
        for item in items:
            Entry.objects.create(job=job, round=job.round, at=timezone.now(), by=actor, by_name=str(actor), **entry_fields(item))
        log.write(job, actor, "symptom", f"Confirmed: {words}")
