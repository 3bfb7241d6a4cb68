"""What stands between a job and its powered tests."""

from dataclasses import dataclass

from django.utils import timezone

from brightcircuit.arrive.models import Arrival
from brightcircuit.bikes.translate import core_bike
from brightcircuit.jobs.models import Job
from brightcore.findings import Finding, hint, render
from brightcore.matching.chain import match_findings
from brightcore.wiring.rules import check_bike


@dataclass(frozen=True, slots=True)
class Block:
    """One reason why powered and pack tests are refused."""

    kind: str
    text: str


@dataclass(frozen=True, slots=True)
class ShownFinding:
    """A finding in words, with the reason of its waiver where it has one."""

    finding: Finding
    text: str
    hint: str
    waived: str


def findings_of(job: Job) -> list[ShownFinding]:
    """Return the findings of the job's bike with their waivers."""
    waivers = dict(job.waivers.values_list("key", "reason"))
    core = core_bike(job.revision)
    found = (*check_bike(core, timezone.localdate()), *(f for f in match_findings(core) if f.severity == "danger"))
    return [ShownFinding(f, render(f), hint(f), waivers.get(f.key, "")) for f in found]


def blocks(job: Job) -> list[Block]:
    """Return every reason that stands before powered and pack tests, gravest first."""
    arrival = Arrival.objects.get(job=job)
    found = []
    if arrival.is_quarantined:
        found.append(Block("quarantine", "The pack is in quarantine: no powered or pack test until a lead lifts it on Arrive."))
    elif not arrival.is_complete:
        found.append(Block("triage", "Look at the pack first: answer the six questions on Arrive."))
    for item in findings_of(job):
        if item.finding.severity == "danger" and not item.waived:
            found.append(Block("finding", f"{item.finding.code}: {item.text} {item.hint}"))
    return found
