"""Opening a job: the job itself, and what every station begins with."""

from collections.abc import Sequence

from django.db import transaction

from brightcircuit.bikes.models import Revision
from brightcircuit.jobs.evidence import core_evidence
from brightcircuit.jobs.hazards import note_hazards
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import AS_USUAL, Beginning, Symptoms, create_job
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import stations
from brightcore.tracing.hazard import seen_in, told_in


@transaction.atomic
def open_job(
    *,
    actor: Person,
    revision: Revision,
    complaint: str,
    symptoms: Symptoms | None = None,
    purposes: Sequence[str] = (),
    beginning: Beginning = AS_USUAL,
) -> Job:
    """Open a job; what was told and seen becomes evidence."""
    told = symptoms or Symptoms()
    job = create_job(
        actor=actor,
        revision=revision,
        complaint=complaint,
        symptoms=told,
        purposes=purposes,
        beginning=beginning,
    )
    for station in stations():
        station.opened(job)
    note_hazards(actor, job, told_in(complaint))
    note_hazards(actor, job, seen_in(core_evidence(row) for row in job.evidence.all()))
    return job
