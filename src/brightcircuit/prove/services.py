"""Checks made, and taken back."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.hazards import note_limited
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.rows import row_of
from brightcircuit.jobs.safety import require_safe
from brightcircuit.jobs.services import Symptoms, add_symptoms
from brightcircuit.prove.models import Proved
from brightcircuit.prove.queries import acknowledged, check_of, gates_of, shape_now, symptoms_of
from brightcircuit.shop.models import Person
from brightcircuit.stations.registry import live_of
from brightcore.errors import BrightError
from brightcore.procedure.gates import GATES
from brightcore.procedure.proofs.case import ProofCheck

LONGEST = 500
ANSWERS = {"yes": True, "no": False}


def _judge(check: ProofCheck, text: str, answer: str) -> bool:
    """Return whether a check passed; raises ValidationError by field where that cannot be told."""
    if check.reading is not None:
        try:
            return check.reading.judge(text)[1]
        except BrightError as error:
            raise ValidationError({"value": [str(error)]}) from None
    if answer not in ANSWERS:
        raise ValidationError({"value": ["Say whether it is so."]})
    return ANSWERS[answer]


def _with_link(job: Job, actor: Person, check: ProofCheck, passed: bool, note: str) -> str:
    """Return a note with what the controller reads; raises ValidationError where it cannot be
    asked, or where it reports an error while all is said to be well."""
    read = live_of(job, actor, check.live)
    if not read:
        raise ValidationError(
            {"link": ["No device of this job is on a link. Connect it on Program."]}
        )
    words = "; ".join(found.words for found in read)
    if passed and any(found.tells_a_fault for found in read):
        raise ValidationError({"link": [f"The controller says otherwise: {words}."]})
    return "; ".join(filter(None, (note.strip(), f"over the link {words}")))


@transaction.atomic
def enter(
    *,
    actor: Person,
    job: Job,
    check_id: str,
    text: str = "",
    answer: str = "",
    note: str = "",
    symptom: str = "",
    link: bool = False,
    ticked: Sequence[str] = (),
) -> Proved:
    """Store what a check has shown; a symptom that was seen then counts in Trace. `link`: with what
    the controller reads at that moment, which then stands in the note.

    Raises ValidationError before its cautions are ticked, or it is safe.
    """
    require_open(job, actor)
    check = check_of(job, check_id)
    if check is None:
        raise ValidationError("That does not belong to this job any more. Look again.")
    if check.gates:
        require_safe(job)
    standing = acknowledged(job, check)
    gates = gates_of(job, check)
    missing = [GATES[gate] for gate in gates if gate not in ticked and gate not in standing]
    if missing:
        raise ValidationError({"gate": [f"Tick first: {words}" for words in missing]})
    passed = _judge(check, text, answer)
    if link:
        note = _with_link(job, actor, check, passed, note)
    if not passed and not note.strip():
        raise ValidationError({"note": ["Say what was seen; whoever looks for it needs it."]})
    if symptom and symptom not in dict(symptoms_of(job)):
        raise ValidationError({"symptom": ["Choose one of the list."]})
    made = Proved.objects.create(
        job=job,
        check_id=check.id,
        title=check.title,
        typed=text.strip()[:60],
        passed=passed,
        note=note.strip()[:LONGEST],
        # What the proof was made on. Once that is changed the proof falls by itself, without
        # anybody having to think of it.
        shape=shape_now(job, check),
        gates=list(gates),
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    for gate in gates:
        if gate in standing:
            continue
        log.write(job, actor, "caution", f"Acknowledged: {GATES[gate]}")
    note_limited(job, gates)
    said = f" ({made.typed})" if made.typed else ""
    seen = f": {made.note}" if made.note else ""
    log.write(job, actor, "prove", f"{made}{said}{seen}")
    if symptom and not passed:
        add_symptoms(job, actor, Symptoms(seen=(symptom,)))
    return made


@transaction.atomic
def undo(*, actor: Person, job: Job, uuid: str) -> None:
    """Take back what a check has shown; it stays in the log."""
    require_open(job, actor)
    made = row_of(job.proofs.filter(undone=False), uuid, "There is nothing to undo.")
    made.undone = True
    made.save(update_fields=["undone"])
    log.write(job, actor, "prove", f"Undone: {made}")
