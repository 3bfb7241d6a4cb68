"""What a job has to prove, and where each of it stands."""

from collections.abc import Sequence
from dataclasses import dataclass

from brightcircuit.bikes.translate import circuit_of
from brightcircuit.jobs.changed import changes_of, repaired_ends, repaired_joins, repaired_parts
from brightcircuit.jobs.hazards import limit_gates
from brightcircuit.jobs.models import Job, Repair
from brightcircuit.jobs.way import stands_of
from brightcircuit.prove.models import Proved
from brightcircuit.stations.registry import worked_parts
from brightcore.procedure.changes import drives_apart
from brightcore.procedure.gates import standing_of
from brightcore.procedure.proofs import proofs_of
from brightcore.procedure.proofs.case import ProofCase, ProofCheck
from brightcore.procedure.purpose import is_whole
from brightcore.procedure.stands import shape_of
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.symptoms import applicable

LATER = "after"
"""The group that is looked at after the bike has gone: it does not hold back."""


@dataclass(frozen=True, slots=True)
class Row:
    """One check, and what was last found: None where nobody has made it.

    `fell`: the bike is another one now than it was when it passed. `by_trace`: Trace proved it,
    with its repair.
    """

    check: ProofCheck
    last: Proved | None
    fell: bool = False
    by_trace: Repair | None = None

    @property
    def state(self) -> str:
        """`open`, `passed`, `failed`, or `fell`: to be made again."""
        if self.last is not None and not self.last.passed:
            return "failed"
        if self.fell:
            return "fell"
        if self.last is None and self.by_trace is None:
            return "open"
        return "passed"


def case_of(job: Job) -> ProofCase:
    """Return what the proofs of a job are worked out from: the bike as it stands, and what was done
    to it."""
    bike = stands_of(job)
    changes = changes_of(job)
    touched = changes.touched | repaired_parts(job) | worked_parts(job)
    return ProofCase(
        bike,
        touched & {part.id for part in bike.parts},
        changes.disturbed(bike) | repaired_ends(job),
        changes.drive_disturbed or drives_apart(bike, repaired_joins(job)),
        is_whole(job.purposes),
        bike.info.speed_limit_kmh or 0.0,
    )


REPAIR = "repair:"
"""How the check that a repair brings begins its id."""


def repair_checks(job: Job) -> list[tuple[ProofCheck, Repair]]:
    """Return Trace's own proofs as checks of the list: one for every repair that stands."""
    found = []
    rows = job.repairs.filter(imported=False).exclude(proof=Repair.Proof.FAILED)
    for row in rows:
        check = ProofCheck(
            f"{REPAIR}{row.round}.{row.pk}",
            "stand",
            row.proof_title or row.action,
            "Do what was complained of again.",
            row.proof_expected or "What was complained of is gone.",
            row.action,
            ("trace", "Find it in Trace; what it looked like counts there. Then prove it again."),
        )
        found.append((check, row))
    return found


def shape_now(job: Job, check: ProofCheck) -> str:
    """Return the shape of the bike on which a check holds; what is programmed counts where a check
    is about that."""
    return shape_of(stands_of(job), settings=check.failed[0] == "program")


def rows_of(job: Job) -> list[Row]:
    """Return every check of a job, in the order in which they are made."""
    newest: dict[str, Proved] = {}
    for row in job.proofs.filter(undone=False, imported=False):
        newest[row.check_id] = row
    rows = []
    for check, repair in repair_checks(job):
        last = newest.get(check.id)
        if repair.proof == Repair.Proof.PASSED and last is None:
            passed = repair
        else:
            passed = None
        rows.append(Row(check, last, _fell(job, check, last or passed), passed))
    for check in proofs_of(case_of(job)):
        last = newest.get(check.id)
        rows.append(Row(check, last, _fell(job, check, last)))
    return rows


def _fell(job: Job, check: ProofCheck, made: Proved | Repair | None) -> bool:
    """Return whether a check was made on another bike than the one that stands now.

    Those of before shapes were kept have none, and stand.
    """
    return bool(made is not None and made.shape and made.shape != shape_now(job, check))


def check_of(job: Job, check_id: str) -> ProofCheck | None:
    """Return one check of a job, None where it does not have it (any more)."""
    return next((row.check for row in rows_of(job) if row.check.id == check_id), None)


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
    return failed or next((row for row in rows if row.state in ("open", "fell")), None)


def gates_of(job: Job, check: ProofCheck) -> tuple[str, ...]:
    """Return the cautions of a check on a job: after a hazard the first power goes through a
    limit."""
    if check.gates:
        return (*check.gates, *limit_gates(job))
    return ()


def acknowledged(job: Job, check: ProofCheck) -> set[str]:
    """Return the cautions of a check that stand: ticked with the checks before it, while the bike
    stood as it does.

    They lapse when it is ridden instead of on its stand or the other way round, and with every step
    of the work.
    """
    wanted = standing_of("on", check.gates)
    last_step = job.step_marks.order_by("-at").values_list("at", flat=True).first()
    found: set[str] = set()
    for row in job.proofs.filter(imported=False).order_by("-pk")[:MOST_LOOKED_BACK]:
        if (
            not row.gates
            or standing_of("on", row.gates) != wanted
            or (last_step and last_step > row.at)
        ):
            break
        if (
            row.shape
            and row.shape != shape_now(job, check)
            and row.shape != shape_of(stands_of(job))
        ):
            break
        found |= set(row.gates)
    return found & set(check.gates)


MOST_LOOKED_BACK = 40
"""Checks among which cautions that stand are looked for."""
