"""Dangers that were read or seen: they stop powered acts on every station until read well or let
go.

A reading that is taken back does not end one: it may have been right. Only a good reading at the
same place does, or a shop lead with a reason.
"""

import uuid as uuids
from collections.abc import Iterable
from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.common.looking import once_a_look
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.shop.models import Person

MOST_WORDS = 500


@dataclass(frozen=True, slots=True)
class ReadDanger:
    """A danger as a station found it: a permanent code, what was read, and what to do now."""

    code: str
    words: str
    do: str


def standing_dangers(job: Job) -> list[Danger]:
    """Return the dangers that stand at the bike of a job, whichever of its jobs they were read
    in."""
    bike = job.revision.bike_id
    rows = once_a_look(
        ("dangers", bike), lambda: list(Danger.objects.filter(bike=bike, ended=None))
    )
    return list(rows)


def note_dangers(
    actor: Person, job: Job, station: str, place: str, found: Iterable[ReadDanger]
) -> list[Danger]:
    """Store the dangers found at a place, each once while it stands; returns what is new."""
    known = {(row.place, row.code) for row in standing_dangers(job)}
    made = []
    for danger in found:
        if (place, danger.code) in known:
            continue
        known.add((place, danger.code))
        row = Danger.objects.create(
            bike=job.revision.bike,
            job=job,
            place=place,
            station=station,
            code=danger.code,
            words=danger.words[:MOST_WORDS],
            do=danger.do[:MOST_WORDS],
            at=now(),
            by=actor,
            by_name=str(actor),
        )
        log.write(job, actor, "danger", f"Danger: {row.words}")
        made.append(row)
    return made


def read_well(actor: Person, job: Job, place: str) -> int:
    """End what stands at a place, because it was read again and is good; returns how many."""
    rows = [row for row in standing_dangers(job) if row.place == place]
    for row in rows:
        _end(actor, row, Danger.How.READ_WELL, "")
        log.write(job, actor, "danger", f"Read well again: {row.words}")
    return len(rows)


@transaction.atomic
def let_danger_go(*, actor: Person, job: Job, uuid: str, reason: str) -> Danger:
    """Let a danger go; only a shop lead, only with a reason, which the rider is told."""
    require_open(job, actor)
    require_lead(actor)
    if not reason.strip():
        raise ValidationError("Give the reason: what was checked, and how.")
    row = next((item for item in standing_dangers(job) if _is(item, uuid)), None)
    if row is None:
        raise ValidationError("That danger does not stand any more.")
    _end(actor, row, Danger.How.LET_GO, reason.strip())
    log.write(job, actor, "danger", f"Let go, {row.words}: {reason.strip()}")
    return row


def _is(row: Danger, uuid: str) -> bool:
    try:
        return row.uuid == uuids.UUID(uuid)
    except ValueError:
        return False


def _end(actor: Person, row: Danger, how: str, reason: str) -> None:
    row.ended, row.how, row.reason = now(), how, reason[:MOST_WORDS]
    row.ended_by_name = str(actor)
    row.save(update_fields=["ended", "how", "reason", "ended_by_name"])
