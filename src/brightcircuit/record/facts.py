"""What a job can tell: facts from which the sheets, the quote and the visits of a bike are
worded."""

from dataclasses import dataclass

from brightcircuit.jobs.changed import changes_of, repaired_parts
from brightcircuit.jobs.models import Danger, Job, Repair
from brightcircuit.jobs.safety import ShownFinding, dangers_of, findings_of
from brightcircuit.jobs.way import stands_of, way_of
from brightcircuit.record.models import LetGo
from brightcircuit.stations.registry import proven_of, stations, worked_parts
from brightcircuit.stations.whats_open import reading_key
from brightcore.bike.model import Bike
from brightcore.kinds.select import is_cable, packs
from brightcore.procedure.rider import RiderFacts


def rider_facts(job: Job) -> RiderFacts:
    """Return what a job tells its rider."""
    changes, proven = changes_of(job), proven_of(job)
    closing = LetGo.objects.filter(job=job)
    let_go = [(row.words, row.reason) for row in closing]
    said = {row.key for row in closing}
    for danger in job.dangers.filter(how=Danger.How.LET_GO):
        if reading_key(danger) not in said:
            let_go.append((danger.words, danger.reason))
    let_go += [(item.text.rstrip("."), item.waived) for item in _accepted(job)]
    later: list[str] = []
    for station in stations():
        later += station.later(job)
    return RiderFacts(
        done=done_words(job),
        touched=frozenset(changes.touched | repaired_parts(job) | worked_parts(job)),
        proven=[title for _, title, passed in proven if passed],
        unproven=frozenset(key for key, _, passed in proven if not passed),
        let_go=let_go,
        later=later,
        range_km=_range_km(job),
    )


def done_words(job: Job) -> list[str]:
    """Return what was done to a bike: built or changed, repaired, set, programmed."""
    built, changes = _built(job), changes_of(job)
    if built:
        lines = [built, *changes.settings]
    else:
        lines = list(changes.words)
    for row in job.repairs.exclude(proof=Repair.Proof.FAILED):
        if not row.made:
            lines.append(f"Repaired: {row.action[:1].lower()}{row.action[1:]}")
    for station in stations():
        lines += station.tells(job)
    return lines


def _built(job: Job) -> str:
    """Return that a bike was built and from what, "" where it was not built in this job."""
    way = way_of(job)
    if job.begins != Job.Begins.BARE or way.arrival.parts:
        return ""
    names = [part.name for part in way.stands.parts if not is_cable(part)]
    if names:
        return f"Built: {', '.join(names)}"
    return ""


def _accepted(job: Job) -> list[ShownFinding]:
    """Return the findings that were accepted with a reason, in words."""
    found = {}
    for item in (*findings_of(job), *dangers_of(job)):
        if item.waived:
            found[item.finding.key] = item
    return list(found.values())


def _range_km(job: Job) -> float:
    """Return how far the packs go by the newest ride of this bike that tells, 0 where none does."""
    bike: Bike = stands_of(job)
    held_wh = sum(pack.spec.capacity_ah * pack.spec.nominal_v() for pack in packs(bike))
    for station in stations():
        used = station.wh_per_km(job)
        if used > 0:
            return held_wh / used
    return 0.0


@dataclass(frozen=True, slots=True)
class Accepted:
    """A finding that was accepted: in words, why, by whom, and whether that was in another shop."""

    words: str
    reason: str
    by_name: str
    imported: bool


def accepted_in(job: Job) -> list[Accepted]:
    """Return the findings that were accepted in a job, in the words of that day; old rows have none
    and get theirs from the present finding, or their code alone."""
    now = {}
    for item in (*findings_of(job), *dangers_of(job)):
        now[item.finding.key] = f"{item.finding.code} {item.text}"
    rows = []
    for row in job.waivers.order_by("pk"):
        words = row.words or now.get(row.key) or row.key.partition("|")[0]
        rows.append(Accepted(words, row.reason, row.by_name, row.imported))
    return rows
