"""Wire's changes: joining plugs gives the bike a revision and moves the job onto it; steps of the
work are ticked in the job's log."""

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction
from django.template.defaultfilters import pluralize

from brightcircuit.bikes.translate import core_bike
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.descriptions import PLANNED, keep_description, ready_core
from brightcircuit.jobs.models import ChangeDone, Edit, Job, StepMark
from brightcircuit.jobs.safety import findings_of, require_pack_safe, require_safe
from brightcircuit.jobs.way import keep_done, undo_done, way_of
from brightcircuit.library.translate import shelf
from brightcircuit.shop.models import Person
from brightcircuit.wire.queries import WIRE, done_steps, revision_before, undoable, work_of
from brightcore.bike.model import Bike
from brightcore.formats.joins_csv import read_joins_csv
from brightcore.procedure.step import WorkStep, missing, touched_by
from brightcore.touching import PACK, POWERED
from brightcore.wiring.fixes import fixes_for
from brightcore.wiring.offers import offers_of
from brightcore.wiring.propose import accept

MOST_FOUND = 300
"""Letters of what is found at a step."""


def keep_wiring(
    *, actor: Person, job: Job, core: Bike, what: str, how: str = "", undoes: Edit | None = None
) -> None:
    """Store a changed wiring as the next revision of the bike and move the job onto it; `how` it is
    meant.

    `undoes`: the edit that it takes back; what then comes with it was described before.
    """
    keep_description(
        actor=actor,
        job=job,
        core=core,
        station=WIRE,
        what=what,
        how=how,
        same_things=undoes is not None,
        undoes=undoes,
    )


def accept_proposals(*, actor: Person, job: Job, wanted: Sequence[str]) -> int:
    """Join what was proposed: all that is certain, or the pairs named `one|two`; returns how many
    joins were made."""
    core = ready_core(job, actor)
    offers = offers_of(core, shelf())
    chosen = offers.certain
    if wanted:
        chosen = tuple(p for p in offers.proposals if f"{p.one}|{p.two}" in wanted)
    if not chosen:
        raise ValidationError("That proposal does not stand any more. Look again.")
    keep_wiring(
        actor=actor,
        job=job,
        core=accept(core, chosen),
        what=f"Connected as proposed: {'; '.join(p.words for p in chosen)}"[:300],
    )
    return len(chosen)


def _undo_with_the_edit(job: Job) -> None:
    """Undo what an edit said to be so on the bike: its changes were kept in the same breath as its
    revision."""
    since = job.revision.created
    rows = job.changes_done.filter(undone=False, at__gte=since).exclude(how=ChangeDone.How.STEP)
    undo_done(job, list(rows))


def undo_words(edit: Edit) -> str:
    """Return in words what taking an edit back does; taking that back puts it back."""
    first, backwards = edit, False
    while first.undoes is not None:
        first, backwards = first.undoes, not backwards
    return f"{'Done again' if backwards else 'Undone'}: {first.words}"


def undo_wiring(*, actor: Person, job: Job) -> str:
    """Take the newest change of the wiring back: the description before it becomes the newest one;
    returns what was done in words."""
    ready_core(job, actor)
    edit = undoable(job)
    if edit is None:
        raise ValidationError("There is nothing of this job's wiring to undo.")
    words = undo_words(edit)[:300]
    _undo_with_the_edit(job)
    core = core_bike(revision_before(job))
    keep_wiring(actor=actor, job=job, core=core, what=words, undoes=edit)
    return words


def fix_finding(*, actor: Person, job: Job, key: str, remedy: str, done: bool = False) -> str:
    """Change the wiring by the fix of a finding that a remedy of its rule offered; returns what was
    done in words.

    Open danger finding before powered steps: it goes only once its fix is `done` on the bike.
    """
    core = ready_core(job, actor)
    item = next((f for f in findings_of(job) if f.finding.key == key), None)
    if item:
        chosen = next(
            (x for x in fixes_for(core, item.finding, shelf()) if x.remedy == remedy), None
        )
    else:
        chosen = None
    if item is None or chosen is None:
        raise ValidationError("That fix does not stand any more. Look again.")
    danger = item.finding.severity == "danger"
    if danger and not done:
        raise ValidationError(
            "This is a danger finding: do it on the bike first, pack out, then tick that it "
            "is done."
        )
    what = f"{item.finding.code} put right{', done on the bike' if danger else ''}. {chosen.words}"[
        :300
    ]
    # What was done by hand on the bike stands there; a fix that is only planned is a step of the
    # work.
    if done:
        how: str = ChangeDone.How.STEP
    elif job.plans:
        how = PLANNED
    else:
        how = ""
    keep_wiring(actor=actor, job=job, core=chosen.bike, what=what, how=how)
    return what


def take_joins(*, actor: Person, job: Job, text: bytes) -> int:
    """Add the joins of a CSV file; returns how many were new.

    Raises FormatError naming every bad line, nothing is then joined.
    """
    bike, made = read_joins_csv(ready_core(job, actor), text)
    if made:
        keep_wiring(
            actor=actor,
            job=job,
            core=bike,
            what=f"{made} connection{pluralize(made)} from a file",
        )
    return made


def _step(job: Job, step_id: str) -> WorkStep:
    """Return a step of a job's work; raises ValidationError where it is none any more."""
    found = next((step for step in work_of(job).steps if step.id == step_id), None)
    if found is None:
        raise ValidationError(
            "That step is not part of the work on this bike any more. Look again."
        )
    return found


def _mark(job: Job, actor: Person, step: WorkStep, what: str, text: str = "") -> None:
    """Store what is said of a step, in the words of the day."""
    StepMark.objects.create(
        job=job,
        step=step.id,
        what=what,
        text=text,
        words=step.title[:500],
        at=now(),
        by=actor,
        by_name=str(actor),
    )


@transaction.atomic
def give_step(*, actor: Person, job: Job, step_id: str, to: str) -> Person:
    """Give a step to somebody of the shop; raises ValidationError where there is nobody of that
    name."""
    require_open(job, actor)
    step = _step(job, step_id)
    person = Person.objects.filter(username=to, is_active=True).first()
    if person is None:
        raise ValidationError("Choose somebody of the shop.")
    _mark(job, actor, step, StepMark.What.GIVEN, str(person))
    log.write(job, actor, "order", f"Given to {person}: {step.title}")
    return person


@transaction.atomic
def found_at_step(*, actor: Person, job: Job, step_id: str, text: str) -> None:
    """Write down what was found at a step; it stands there and in the record."""
    require_open(job, actor)
    step = _step(job, step_id)
    words = " ".join(text.split())[:MOST_FOUND]
    if not words:
        raise ValidationError("Say what was found.")
    _mark(job, actor, step, StepMark.What.FOUND, words)
    log.write(job, actor, "order", f"Found at {step.title}: {words}")


@transaction.atomic
def tick(*, actor: Person, job: Job, step_id: str, done: bool) -> str:
    """Tick a step off, or undo the tick; returns what going ahead too early may cost, "" otherwise.

    A step that makes a change moves it into the bike as it stands; undone, it moves back. Raises
    ValidationError for a powered step while the pack or a danger finding stands in the way.
    """
    require_open(job, actor)
    order = work_of(job)
    step = _step(job, step_id)
    have = done_steps(job, order)
    if (step_id in have) == done:
        return ""
    if not done:
        _untick(actor, job, step)
        return ""
    way = way_of(job)
    touched = touched_by(step, (way.stands, way.plan))
    if touched == POWERED:
        require_safe(job)
    elif touched == PACK:
        require_pack_safe(job)
    titles = {other.id: other.title for other in order.steps}
    before = [titles[name] for name in missing(step, have)]
    if before:
        early = f"Before it should come: {'; '.join(before)}. {step.early}".strip()
    else:
        early = ""
    _mark(job, actor, step, StepMark.What.DONE)
    change = next((item for item in way_of(job).left if item.id == step_id), None)
    if change is not None:
        keep_done(actor=actor, job=job, changes=[change], how=ChangeDone.How.STEP)
    log.write(job, actor, "order", f"Done: {step.title}" + (" (too early)" if early else ""))
    return early


def _untick(actor: Person, job: Job, step: WorkStep) -> None:
    """Undo a step: its mark, and the change that it made."""
    rows = job.step_marks.filter(step=step.id, what=StepMark.What.DONE, undone=False)
    rows.update(undone=True)
    undo_done(job, list(job.changes_done.filter(change=step.id, undone=False)))
    log.write(job, actor, "order", f"Undone: {step.title}")
