"""Opening a job: the job itself, and what every station begins with."""

from collections.abc import Mapping

from django.db import transaction

from brightcircuit.bikes.models import Revision
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.services import create_job
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import stations


@transaction.atomic
def open_job(*, actor: Person, revision: Revision, complaint: str, symptoms: Mapping[str, bool]) -> Job:
    """Open a job; confirmed symptoms (id → only sometimes) become evidence."""
    job = create_job(actor=actor, revision=revision, complaint=complaint, symptoms=symptoms)
    for station in stations():
        station.opened(job)
    return job
