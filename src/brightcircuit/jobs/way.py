"""The way of a job: how its bike arrived, how it stands now, how it shall be, and what lies
between.

Every station asks here for the description it works on. Trace, Set and readings speak of the bike
as it stands; Match, Wire and the wanted values of Program of the bike as it shall be; the order of
work leads from one to the other; Prove and Record tell what was done. Nothing is worked out at a
tick: a description is made when a page asks.
"""

import hashlib
import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.evidence import EvidenceRow, core_evidence
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.shop.models import Person
from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike
from brightcore.formats.bike_file import read_pieces
from brightcore.formats.bike_writing import dump_bike, join_document, part_document
from brightcore.formats.plain import JsonObject
from brightcore.kinds import REGISTRY
from brightcore.procedure.stands import (
    Change,
    Done,
    bare,
    change_words,
    changes_to,
    done_of,
    stands,
    touched_by,
)
from brightcore.tracing.rounds import outlives

FOUND = ChangeDone.How.FOUND


@dataclass(frozen=True)
class Way:
    """A job's bike in its three descriptions.

    `arrival`: as described on arrival, with what was found to be so already. `stands`: now. `plan`:
    as it shall be. `rows`: the changes done, oldest first.
    """

    arrival: Bike
    stands: Bike
    plan: Bike
    rows: tuple[ChangeDone, ...]

    @cached_property
    def left(self) -> tuple[Change, ...]:
        """What is still to be done."""
        return changes_to(self.stands, self.plan)

    @cached_property
    def changes(self) -> bool:
        """Whether this job changes anything; otherwise there is one description, and nobody sees
        two."""
        return bool(self.left or changes_to(self.arrival, self.stands))

    @property
    def stands_as_planned(self) -> bool:
        """Whether nothing of the plan is left to be done."""
        return self.stands == self.plan

    @property
    def is_whole(self) -> bool:
        """Whether the bike as it stands has all that makes a circuit: a pack and a controller at
        least."""
        kinds = {part.kind for part in self.stands.parts}
        return all(kind.name in kinds for kind in REGISTRY if kind.needed)


def way_of(job: Job) -> Way:
    """Return the way of a job, worked out once a request."""
    known = job.way_known
    # A page asks for the way a hundred times. It is kept on the job itself, which lives as long as
    # the request, and made anew once the plan is another revision.
    if isinstance(known, tuple) and known[0] == job.revision_id:
        way: Way = known[1]
        return way
    way = _way(job)
    job.way_known = (job.revision_id, way)
    return way


def forget_way(job: Job) -> None:
    """Have the way of a job worked out anew: something was done or undone."""
    job.way_known = None


def stands_of(job: Job) -> Bike:
    """Return the bike of a job as it stands."""
    return way_of(job).stands


def plan_of(job: Job) -> Bike:
    """Return the bike of a job as it shall be."""
    return way_of(job).plan


def name_of(job: Job, subject: str) -> str:
    """Return what a part, or the part of a plug `part.port`, is called now; "" for the bike as a
    whole."""
    owner = subject.partition(".")[0]
    way = way_of(job)
    for bike in (way.stands, way.plan):
        for part in bike.parts:
            if part.id == owner:
                return part.name
    return ""


def drawn_of(job: Job) -> Bike:
    """Return the bike that is drawn on top of a job: as it stands, or the plan while there is no
    whole circuit."""
    way = way_of(job)
    if way.is_whole:
        return way.stands
    return way.plan


def worked_stands(job: Job) -> Bike:
    """Return the bike as it stands with measured values in place of described ones."""
    return as_measured(stands_of(job))


def key_of(job: Job) -> str:
    """Return the key of what is foretold of the bike as it stands: the hash of its description.

    Where nothing is left to be done, it is the hash of the revision itself.
    """
    way = way_of(job)
    if way.stands_as_planned:
        return job.revision.sha256
    return _hash(way.stands)


@lru_cache(maxsize=128)
def _hash(bike: Bike) -> str:
    return hashlib.sha256(dump_bike(bike).encode()).hexdigest()


def _way(job: Job) -> Way:
    plan = core_bike(job.revision)
    if job.arrived is not None:
        came = core_bike(job.arrived)
    else:
        came = plan
    if not job.follows:
        # Opened before a job told what is done from what is described: what it describes counts as
        # done.
        return Way(came, plan, plan, ())
    if job.begins == Job.Begins.BARE:
        came = bare(came)
    else:
        came = came
    rows = tuple(row for row in job.changes_done.filter(undone=False).order_by("pk"))
    if not rows and came == plan:
        return Way(plan, plan, plan, ())
    # What was found to be so on arrival is no change that this job made: it belongs to the bike as
    # it came.
    found = tuple(core_done(row) for row in rows if row.how == FOUND)
    every = tuple(core_done(row) for row in rows)
    return Way(stands(came, found, plan), stands(came, every, plan), plan, rows)


def core_done(row: ChangeDone) -> Done:
    """Return a change done as the core knows it."""
    return _read(row.change, _frozen(row.piece))


def _frozen(piece: JsonObject) -> str:
    return json.dumps(piece, sort_keys=True)


@lru_cache(maxsize=1024)
def _read(change: str, piece: str) -> Done:
    raw = json.loads(piece)
    parts, joins = read_pieces(raw.get("parts", []), raw.get("joins", []))
    return Done(change, parts, joins[0] if joins else None)


def piece_of(done: Done) -> JsonObject:
    """Return what a change brought, as a bike file writes it."""
    said: JsonObject = {}
    if done.parts:
        said["parts"] = [part_document(part) for part in done.parts]
    if done.join is not None:
        said["joins"] = [join_document(done.join)]
    return said


def words_of(changes: Iterable[Change], now: Bike, plan: Bike) -> dict[str, str]:
    """Return what changes are in words, by their ids: the words that are kept with them once they
    are done."""
    return {change.id: change_words(done_of(change, now, plan), now) for change in changes}


def keep_done(
    *,
    actor: Person,
    job: Job,
    changes: Iterable[Change],
    how: str,
    words: dict[str, str] | None = None,
) -> list[ChangeDone]:
    """Store changes as done, each with what it brings or takes away as that is described now;
    returns the rows.

    `words`: what was done, by the id of the change, where it is not worked out here.
    """
    way = way_of(job)
    wanted = list(changes)
    if words is not None:
        said = words
    else:
        said = words_of(wanted, way.stands, way.plan)
    rows = []
    for change in wanted:
        row = ChangeDone(
            job=job,
            change=change.id,
            how=how,
            words=said.get(change.id, change.id)[:300],
            piece=piece_of(done_of(change, way.stands, way.plan)),
            at=now(),
            by=actor,
            by_name=str(actor),
        )
        rows.append(row)
    made = ChangeDone.objects.bulk_create(rows)
    forget_way(job)
    return list(made)


def is_past(way: Way, row: EvidenceRow) -> bool:
    """Return whether evidence is of the bike as it was before something at its place was changed.

    What was told, tried or found on arrival stands whatever is changed; a look is made again after
    any change.
    """
    item = core_evidence(row)
    if outlives(item):
        return False
    ends = [end for end in (item.red, item.black) if end]
    there = {part.id for part in way.stands.parts}
    if any(end.partition(".")[0] not in there for end in ends):
        return True
    since = [
        core_done(change) for change in way.rows if change.how != FOUND and change.at >= row.at
    ]
    # A look has no place: whatever was changed may have changed what is seen.
    if since and not ends:
        return True
    for change in since:
        parts, plugs = touched_by(change)
        for end in ends:
            if end.partition(".")[0] in parts or end.rpartition(".")[0] in plugs:
                return True
    return False


def undo_done(job: Job, rows: Sequence[ChangeDone]) -> None:
    """Undo changes: the bike stands without them again."""
    ChangeDone.objects.filter(pk__in=[row.pk for row in rows]).update(undone=True)
    forget_way(job)
