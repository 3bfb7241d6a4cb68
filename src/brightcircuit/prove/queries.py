"""What a job has to prove, and where each of it stands."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcircuit.bikes.translate import circuit_of
from brightcircuit.jobs.changed import changes_of, repaired_parts
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcircuit.prove.models import Proved
from brightcircuit.stations.registry import worked_parts
from brightcore.procedure.proofs import proofs_of
from brightcore.procedure.proofs.case import ProofCase, ProofCheck
from brightcore.procedure.purpose import is_whole
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.symptoms import applicable

LATER = "after"
"""The group that is looked at after the bike has gone: it does not hold back."""


@dataclass(frozen=True, slots=True)
class Row:
    """One check, and what was last found: None where nobody has made it."""

    check: ProofCheck
    last: Proved | None

    @property
    def state(self) -> str:
        """`open`, `passed` or `failed`."""
        if self.last is None:
            return "open"
        return "passed" if self.last.passed else "failed"


def case_of(job: Job) -> ProofCase:
    """Return what the proofs of a job are worked out from."""
    bike = stands_of(job)
    changes = changes_of(job)
    touched = changes.touched | repaired_parts(job) | worked_parts(job)
    return ProofCase(
        bike,
        touched & {part.id for part in bike.parts},
        changes.disturbed(bike),
        is_whole(job.purposes),
        bike.info.speed_limit_kmh or 0.0,
    )


def rows_of(job: Job) -> list[Row]:
    """Return every check of a job, in the order in which they are made."""
    newest: dict[str, Proved] = {}
    for row in job.proofs.filter(undone=False, imported=False):
        newest[row.check_id] = row
    return [Row(check, newest.get(check.id)) for check in proofs_of(case_of(job))]


def has_link(job: Job) -> bool:
    """Return whether a device of a job is on a link."""
    return job.lines.exists()


def symptoms_of(job: Job) -> list[tuple[str, str]]:
    """Return (id, words) of what this bike can show when it is not well."""
    scenes = {scene.id: scene for scene in scenes_of(circuit_of(stands_of(job)))}
    return [(symptom.id, symptom.words) for symptom in applicable(scenes)]


def holding(rows: Sequence[Row]) -> list[Row]:
    """Return the checks that stand before the bike is handed over and have not passed."""
    return [row for row in rows if row.state != "passed" and row.check.group != LATER]


def next_row(rows: Sequence[Row]) -> Row | None:
    """Return what comes next: what failed first, then what nobody has made."""
    failed = next((row for row in rows if row.state == "failed"), None)
    return failed or next((row for row in rows if row.state == "open"), None)
