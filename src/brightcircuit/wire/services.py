"""Joining plugs from a job: the bike gets a revision, and the job moves onto it."""

from collections.abc import Sequence

from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction

from brightcircuit.arrive.services import use_newest_revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.services import add_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs import log
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from brightcircuit.shop.services import require_active
from brightcore.bike.model import Bike
from brightcore.wiring.propose import accept, propose_joins


def _ready(job: Job, actor: Person) -> Bike:
    """Return the core bike of a job that may be wired; raises what stands in the way."""
    require_active(actor)
    if not job.is_open:
        raise PermissionDenied("The job is closed. Reopen it first.")
    newest = latest_revision(job.revision.bike)
    if newest.pk != job.revision_id:
        raise ValidationError("The bike has a newer description than this job stands on: use the newest on Arrive first.")
    return core_bike(newest)


@transaction.atomic
def keep_wiring(*, actor: Person, job: Job, core: Bike, what: str) -> None:
    """Store a changed wiring as the next revision of the bike and move the job onto it."""
    _ready(job, actor)
    add_revision(actor=actor, bike=job.revision.bike, core=core, base=job.revision.number, what=what)
    log.write(job, actor, "wire", what)
    use_newest_revision(actor=actor, job=job)


def accept_proposals(*, actor: Person, job: Job, wanted: Sequence[str]) -> int:
    """Join what was proposed, all of it or the pairs named `one|two`; returns how many joins were made."""
    core = _ready(job, actor)
    chosen = tuple(p for p in propose_joins(core) if not wanted or f"{p.one}|{p.two}" in wanted)
    if not chosen:
        raise ValidationError("That proposal does not stand any more. Look again.")
    keep_wiring(actor=actor, job=job, core=accept(core, chosen), what=f"Joined as proposed: {'; '.join(p.words for p in chosen)}"[:300])
    return len(chosen)
