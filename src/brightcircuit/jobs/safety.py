"""What stands between a job and its powered acts, and who may accept a finding.

Services ask here, not views.
"""

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from datetime import date
from functools import lru_cache

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.guard import require_open
from brightcircuit.common.looking import once_a_look
from brightcircuit.common.permissions import require_lead
from brightcircuit.jobs import log
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.jobs.quarantine import standing_quarantines
from brightcircuit.jobs.way import plan_of, way_of
from brightcircuit.shop.models import Person
from brightcore.bike.measured import as_measured
from brightcore.bike.model import Bike
from brightcore.findings import Finding, hint, render
from brightcore.matching.rules import match_findings
from brightcore.tracing.hazard import HAZARDS
from brightcore.wiring.rules import check_whole

QUARANTINED = (
    "The pack is in quarantine: no powered or pack test until a shop lead lifts it on Arrive."
)
UNANSWERED = "Look at the pack first: answer the six questions on Arrive."


OF_THE_PACK = frozenset(
    {"S071", "S072", "S079", "S125", "S142", "cell-low", "cell-high", "pack-high", *HAZARDS}
)
"""Codes of dangers that are of the pack itself, or of something burnt, wet or shorted."""


@dataclass(frozen=True, slots=True)
class Block:
    """One reason why powered and pack tests are refused. `uuid`: of the danger that was read, ""
    otherwise; `station`: where it is read again."""

    kind: str
    text: str
    uuid: str = ""
    station: str = ""


@dataclass(frozen=True, slots=True)
class ShownFinding:
    """A finding in words, with the reason of its waiver where it has one.

    `elsewhere`: who accepted it in another shop, and why; that does not count here.
    """

    finding: Finding
    text: str
    hint: str
    waived: str
    elsewhere: str = ""

    @property
    def stands_first(self) -> bool:
        """Whether it is more than advice and nobody has accepted it: the first of these is
        opened."""
        return self.finding.severity != "advice" and not self.waived


def findings_of(job: Job) -> list[ShownFinding]:
    """Return the findings of the job's bike as it shall be, with their waivers."""
    return _shown(job, _found(plan_of(job)))


def dangers_of(job: Job) -> list[ShownFinding]:
    """Return the danger findings of the bike as it stands and as it shall be, those that were
    accepted among them.

    A plan that puts a danger right does not take it off the bike: it stays until that is done.
    """
    way = way_of(job)
    found = {finding.key: finding for finding in _found(way.plan)}
    # A bike without pack or controller makes no circuit to judge; its dangers are those of the plan
    # until it stands.
    if way.is_whole and not way.stands_as_planned:
        found |= {finding.key: finding for finding in _found(way.stands)}
    return _shown(job, [finding for finding in found.values() if finding.severity == "danger"])


def open_dangers(job: Job) -> list[ShownFinding]:
    """Return the danger findings that nobody has accepted."""
    every = once_a_look(("findings", job.pk), lambda: dangers_of(job))
    return [item for item in every if not item.waived]


def _found(bike: Bike) -> tuple[Finding, ...]:
    """Return what the rules find on a bike as it is worked with."""
    return _found_on(as_measured(bike), timezone.localdate())


@lru_cache(maxsize=32)
def _found_on(core: Bike, today: date) -> tuple[Finding, ...]:
    dangers = (finding for finding in match_findings(core) if finding.severity == "danger")
    return (*check_whole(core, today), *dangers)


def _shown(job: Job, found: Iterable[Finding]) -> list[ShownFinding]:
    """Return findings in words, with the reasons for which they were accepted."""
    waivers = dict(job.waivers.filter(imported=False).values_list("key", "reason"))
    elsewhere = {w.key: f"{w.by_name}: {w.reason}" for w in job.waivers.filter(imported=True)}
    shown = []
    for finding in found:
        accepted, there = waivers.get(finding.key, ""), elsewhere.get(finding.key, "")
        shown.append(ShownFinding(finding, render(finding), hint(finding), accepted, there))
    return shown


Asked = Callable[[Job], list[Block]]
_asked: list[Asked] = []


def ask_also(what: Asked) -> None:
    """Ask something else too for what stands before powered and pack acts."""
    # Stations register when the application starts, and once more in tests: asked twice, a reason
    # would be told twice.
    if what not in _asked:
        _asked.append(what)


def blocks(job: Job, again: Collection[str] = ()) -> list[Block]:
    """Return every reason that stands before powered and pack acts, gravest first; then those of
    stations.

    `again`: places that are read again just now. What was read there does not stand in its own way,
    or nobody could ever read it well; and two dangers do not keep each other from being read,
    unless one is of the pack or of something burnt: that is seen to before anything is powered.
    """
    key = ("blocks", job.pk, frozenset(again))
    return list(once_a_look(key, lambda: _blocks(job, again)))


def _blocks(job: Job, again: Collection[str]) -> list[Block]:
    arrival = job.arrival
    # Another tab may have answered the questions since this page was made. What stands before power
    # is never taken from a copy.
    arrival.refresh_from_db()
    arrival.job = job  # forgotten by that, and with it everything worked out of the job
    found = []
    if standing_quarantines(job):
        found.append(Block("quarantine", QUARANTINED))
    elif not arrival.is_complete:
        found.append(Block("triage", UNANSWERED))
    for danger in _in_the_way(job, again):
        text = f"{danger.words.rstrip('.')}. {danger.do}"
        found.append(Block("reading", text, str(danger.uuid), danger.station))
    for item in open_dangers(job):
        found.append(Block("finding", f"{item.finding.code}: {item.text} {item.hint}"))
    for ask in _asked:
        found += ask(job)
    return found


def shown_blocks(job: Job, again: Collection[str] = ()) -> list[Block]:
    """Return what a page says stands before its acts; a closed job asks for no act, and shows
    none."""
    if job.is_open:
        return blocks(job, again)
    return []


def _in_the_way(job: Job, again: Collection[str]) -> list[Danger]:
    """Return the dangers that were read and stand before a powered act."""
    rows = standing_dangers(job)
    if not _reads_again(rows, again):
        return rows
    # Reading one danger again must not wait for another, or two could never be read at all. What is
    # of the pack or of something burnt comes before anything is powered, also for a reading.
    return [row for row in rows if row.place not in again and row.code in OF_THE_PACK]


def _reads_again(rows: Iterable[Danger], again: Collection[str]) -> bool:
    return any(row.place in again for row in rows)


def pack_blocks(job: Job, again: Collection[str] = ()) -> list[Block]:
    """Return what stands before anything that a pack feeds: a quarantine, that nobody has looked at
    it, or a danger that was read, unless just that is read again."""
    kinds = {"quarantine", "triage"}
    if not _reads_again(standing_dangers(job), again):
        kinds.add("reading")
    return [block for block in blocks(job, again) if block.kind in kinds]


def require_safe(job: Job, again: Collection[str] = ()) -> None:
    """Raise ValidationError with the gravest reason that stands before powered and pack acts."""
    found = blocks(job, again)
    if found:
        raise ValidationError(found[0].text)


def require_pack_safe(job: Job, again: Collection[str] = ()) -> None:
    """Raise ValidationError while the pack is in quarantine, nobody has looked at it, or a danger
    stands."""
    found = pack_blocks(job, again)
    if found:
        raise ValidationError(found[0].text)


def require_looked_at(job: Job) -> None:
    """Raise ValidationError while the pack is in quarantine, or nobody has looked at it; before
    dead work."""
    found = [block for block in blocks(job) if block.kind in ("quarantine", "triage")]
    if found:
        raise ValidationError(found[0].text)


@transaction.atomic
def waive_finding(*, actor: Person, job: Job, key: str, reason: str) -> None:
    """Accept a finding with a reason that stays on the job; danger findings need a shop lead."""
    require_open(job, actor)
    every = (*findings_of(job), *dangers_of(job))
    item = next((f for f in every if f.finding.key == key), None)
    if item is None:
        raise ValidationError("That finding is not there any more.")
    if item.finding.severity == "danger":
        require_lead(actor)
    if not reason.strip():
        raise ValidationError("Give the reason why this is accepted.")
    who = {"by": actor, "by_name": str(actor), "at": timezone.now()}
    words = f"{item.finding.code} {item.text}"[:500]
    fresh = {"reason": reason.strip(), "words": words, "imported": False, **who}
    job.waivers.update_or_create(key=key, defaults=fresh)
    log.write(job, actor, "waiver", f"{item.finding.code} accepted: {reason.strip()}")
