"""The quarantine of a pack: it begins with any yes, and ends only when a shop lead lifts it with a
reason."""

import unicodedata
from collections.abc import Collection, Sequence

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.bikes.models import Bike, Revision
from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.common.looking import once_a_look
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.models import Job, Quarantine
from brightcircuit.jobs.way import way_of
from brightcircuit.shop.models import Person
from brightcore.bike.model import Bike as CoreBike
from brightcore.bike.model import Part
from brightcore.kinds.pack import PackSpec
from brightcore.kinds.select import packs


def plain_mark(mark: str) -> str:
    """Return a mark by its letters and digits alone: `P 17`, `P–17` and `p17` are one mark."""
    return "".join(c for c in unicodedata.normalize("NFKC", mark).casefold() if c.isalnum())


def marks_of(revision: Revision, of: Collection[str] = ()) -> set[str]:
    """Return what is marked on the packs of a bike as described; `of`: only those ids, all where it
    is empty."""
    return _marks(core_bike(revision), of)


def _marks(bike: CoreBike, of: Collection[str] = ()) -> set[str]:
    found: set[str] = set()
    for pack in packs(bike):
        if not of or pack.id in of:
            found |= _marks_on(pack)
    return found


def _marks_on(pack: Part[PackSpec]) -> set[str]:
    """Return the marks of one pack: its number, and what the shop wrote on it."""
    return {plain_mark(pack.mark), plain_mark(pack.spec.mark)} - {""}


def standing_quarantines(job: Job) -> list[Quarantine]:
    """Return the quarantines that hold for a job: of a pack of its bike, or of a pack by its mark.

    A mark counts that was on the pack when the quarantine began, or was written down since. A pack
    that is no longer on the bike as it stands takes its quarantine with it.
    """
    active = _active()
    if not active:
        return []
    way = way_of(job)
    there = tuple(packs(way.stands)) or tuple(packs(way.plan))
    ids = {pack.id for pack in there}
    bike = job.revision.bike
    # Also what was written on them since, in a newer description than the job uses.
    marks = marks_of(latest_revision(bike), ids) if ids else set()
    for pack in there:
        marks |= _marks_on(pack)
    return [row for row in active if _holds(row, bike, ids, marks)]


def _active() -> list[Quarantine]:
    rows = Quarantine.objects.filter(lifted=None).select_related("bike", "job")
    return once_a_look("quarantines", lambda: list(rows))


def _holds(row: Quarantine, bike: Bike, ids: set[str], marks: set[str]) -> bool:
    """Return whether a quarantine holds for a bike with packs of some ids and marks."""
    # A bike that came in by file once more is the same bike with the same packs.
    same_bike = row.bike_id == bike.pk or row.bike.uuid == bike.origin
    if same_bike and (not row.packs or ids & set(row.packs)):
        return True
    known = {plain_mark(mark) for mark in row.marks}
    return bool(marks & (known | marks_of(latest_revision(row.bike), row.packs)))


def begin(job: Job, actor: Person, why: Sequence[str], of: Sequence[Part[PackSpec]] = ()) -> None:
    """Begin a quarantine of some packs, or add to the one that this job began."""
    ids = sorted({pack.id for pack in of} - {""})
    marks: set[str] = set()
    for pack in of:
        marks |= _marks_on(pack)
    known = next((row for row in standing_quarantines(job) if row.job_id == job.pk), None)
    if known is None:
        Quarantine.objects.create(
            bike=job.revision.bike,
            packs=ids,
            marks=sorted(marks or marks_of(job.revision)),
            job=job,
            why=list(why),
            begun=now(),
            begun_by_name=str(actor),
        )
        return
    known.why = list(dict.fromkeys((*known.why, *why)))
    if known.packs and ids:
        known.packs = sorted({*known.packs, *ids})
    known.marks = sorted({*known.marks, *marks})
    known.save(update_fields=["why", "packs", "marks"])


def guard_marks(actor: Person, bike: Bike, core: CoreBike) -> None:
    """Raise ValidationError where the mark of a pack in quarantine would be changed by somebody who
    is no shop lead: the mark is what the quarantine follows."""
    if actor.is_lead:
        return
    active = _active()
    if not active:
        return
    old = core_bike(latest_revision(bike))
    fresh = {pack.id: _marks_on(pack) for pack in packs(core)}
    for pack in packs(old):
        marks = _marks_on(pack)
        # More may be written on it. What stands there stays.
        if marks <= fresh.get(pack.id, marks):
            continue
        if any(_holds(row, bike, {pack.id}, marks) for row in active):
            raise ValidationError(
                f"{pack.name} is in quarantine: only a shop lead changes its mark."
            )


@transaction.atomic
def lift(*, actor: Person, job: Job, reason: str) -> None:
    """Lift every quarantine that holds for a job; only a shop lead, only with a reason."""
    require_lead(actor)
    require_open(job, actor)
    if not reason.strip():
        raise ValidationError("Give the reason: what was checked, and how.")
    rows = standing_quarantines(job)
    if not rows:
        raise ValidationError("There is no quarantine any more.")
    for row in rows:
        row.lifted, row.lifted_reason, row.lifted_by_name = (
            now(),
            reason.strip(),
            str(actor),
        )
        row.save(update_fields=["lifted", "lifted_reason", "lifted_by_name"])
    log.write(job, actor, "quarantine", f"Quarantine lifted: {reason.strip()}")
