"""Changes of Set: readings into a sheet, a sheet into a calibration, waivers, timers."""

from collections.abc import Mapping, Sequence
from datetime import timedelta
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.dangers import ReadDanger, note_dangers, read_well
from brightcircuit.jobs.hazards import limit_gates, note_limited
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_looked_at, require_pack_safe, require_safe
from brightcircuit.jobs.way import name_of, stands_of
from brightcircuit.set.models import Calibration, Sheet, Timer
from brightcircuit.set.queries import (
    options_of,
    sheet_of,
)
from brightcircuit.set.verdicts import instrument_on, verdict
from brightcircuit.shop.models import Person
from brightcircuit.shop.people import set_choice
from brightcore.bike.measured import mark_of
from brightcore.bike.model import Bike
from brightcore.errors import BrightError
from brightcore.formats.discharge_log import read_log
from brightcore.procedure.gates import GATES, is_high
from brightcore.setting.contract import Instrument, Step, next_step, read_all
from brightcore.touching import DEAD, PACK, POWERED

LONGEST, MOST_MINUTES = 200, 24 * 60


def cautions_of(bike: Bike, step: Step) -> tuple[str, ...]:
    """Return the cautions of a step on a bike: over 60 V there is one more before anything
    powered."""
    high = "pack_safe" in step.cautions and is_high(bike)
    if high:
        return (*step.cautions, "high_volts")
    return step.cautions


def cautions_on(job: Job, step: Step) -> tuple[str, ...]:
    """Return the cautions of a step on a job: after a hazard the first power goes through a
    limit."""
    if step.touched == POWERED:
        limits = limit_gates(job)
    else:
        limits = ()
    return (*cautions_of(stands_of(job), step), *limits)


def place_of(key: str, subject: str) -> str:
    """Return the place at which an instrument reads, as dangers name it."""
    return f"set:{key}:{subject}"


def _require_may(
    job: Job, place: str, step: Step, cautions: Sequence[str], ticked: Sequence[str]
) -> None:
    """Raise ValidationError where something stands before a step, or a caution of it is not
    acknowledged."""
    if step.touched == POWERED:
        require_safe(job, (place,))
    elif step.touched == PACK:
        require_pack_safe(job, (place,))
    elif step.touched == DEAD:
        require_looked_at(job)
    missing = [GATES[gate] for gate in cautions if gate not in ticked]
    if missing:
        raise ValidationError(f"First acknowledge: {missing[0]}.")


@transaction.atomic
def take_reading(
    *,
    actor: Person,
    job: Job,
    key: str,
    subject: str,
    step_id: str,
    typed: Mapping[str, str],
    ticked: Sequence[str] = (),
    minutes: float | None = None,
) -> None:
    """Store what was read at one step, as typed. Raises ValidationError by field where it cannot be
    read.

    Something that sets is looked at again after `minutes`, the step's own where None, as long as
    there is another look to take.
    """
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    sheet = sheet_of(job, key, subject)
    bike = stands_of(job)
    step = next(
        (s for s in found.steps(bike, subject, sheet.typed | options_of(sheet)) if s.id == step_id),
        None,
    )
    if step is None:
        raise ValidationError("That step is not there any more. Look again.")
    cautions = cautions_on(job, step)
    sheet.ticked = sorted({*sheet.ticked, *(gate for gate in ticked if gate in cautions)})
    place = place_of(key, subject)
    _require_may(job, place, step, cautions, ticked if step.afresh else sheet.ticked)
    own = {item.id: str(typed.get(item.id, "")).strip()[:LONGEST] for item in step.fields}
    reading = read_all(step.fields, own)
    if reading.unread:
        raise ValidationError({name: [words] for name, words in reading.unread.items()})
    if not any(own.values()):
        raise ValidationError({step.fields[0].id: ["Type the reading."]})
    sheet.typed = sheet.typed | own
    sheet.at = now()
    sheet.save()
    for gate in ticked:
        if gate in cautions:
            log.write(job, actor, "caution", f"Acknowledged: {GATES[gate]}")
    note_limited(job, cautions)
    words = ", ".join(f"{item.label} {own[item.id]}" for item in step.fields if own[item.id])
    log.write(job, actor, "set", f"{found.title}: {words}")
    _note_dangers(actor, job, found, sheet)
    if step.timer_min:
        _time_again(actor, job, found, sheet, step, minutes)


def _note_dangers(actor: Person, job: Job, found: Instrument, sheet: Sheet) -> None:
    """Keep the dangers that a sheet tells; what stood there ends once all of it is read and none is
    left.

    A sheet that is only begun ends nothing: what was a danger may not have been read again yet.
    """
    result = verdict(job, found, sheet)
    place = place_of(found.key, sheet.subject)
    grave = [item for item in result.findings if item.severity == "danger"]
    of = name_of(job, sheet.subject) or found.title
    note_dangers(
        actor, job, "set", place, (ReadDanger(f.code, f"{of}: {f.text}", f.change) for f in grave)
    )
    if not grave and result.state in ("good", "mend"):
        read_well(actor, job, place)


def _time_again(
    actor: Person, job: Job, found: Instrument, sheet: Sheet, step: Step, minutes: float | None
) -> None:
    """Start the timer of a step while another look is to come, stop it where none is."""
    steps = found.steps(stands_of(job), sheet.subject, sheet.typed | options_of(sheet))
    reading = read_all([item for other in steps for item in other.fields], sheet.typed)
    following = next_step(steps, reading)
    where: dict[str, Any] = {"actor": actor, "job": job, "key": found.key, "subject": sheet.subject}
    if following is not None and following.timer_min:
        start_timer(**where, minutes=step.timer_min if minutes is None else minutes)
    elif job.timers.filter(instrument=found.key, subject=sheet.subject, done=False).exists():
        stop_timer(**where)


def take_log(
    *, actor: Person, job: Job, key: str, subject: str, content: bytes, ticked: Sequence[str]
) -> None:
    """Take the readings of a discharge log as if they were typed; raises ValidationError where it
    is none."""
    found = instrument_on(job, key, subject)
    if not found.takes_log:
        raise ValidationError("This instrument takes no file.")
    bike = stands_of(job)
    try:
        typed = found.from_log(bike, subject, read_log(content))
    except BrightError as error:
        raise ValidationError({"log": [str(error)]}) from None
    step = found.steps(bike, subject)[0]
    take_reading(
        actor=actor, job=job, key=key, subject=subject, step_id=step.id, typed=typed, ticked=ticked
    )


@transaction.atomic
def choose(*, actor: Person, job: Job, key: str, subject: str, options: Mapping[str, str]) -> None:
    """Keep how an instrument is to judge, such as the school of a cut-off."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    sheet = sheet_of(job, key, subject)
    for name, _, choices in found.options:
        if options.get(name) in dict(choices):
            sheet.options = sheet.options | {name: options[name]}
    sheet.save()


@transaction.atomic
def choose_for_shop(*, actor: Person, job: Job, key: str, subject: str) -> None:
    """Let every job judge as this one does, where it does not say otherwise; a shop lead's act."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    options = options_of(sheet_of(job, key, subject))
    chosen = {name: options.get(name, choices[0][0]) for name, _, choices in found.options}
    set_choice(actor=actor, instrument=key, options=chosen)
    log.write(job, actor, "set", f"{found.title}: chosen for every job")


@transaction.atomic
def begin_again(*, actor: Person, job: Job, key: str, subject: str) -> None:
    """Put the readings of a sheet away; what was typed stays in the log."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    job.sheets.filter(instrument=key, subject=subject).delete()
    log.write(job, actor, "set", f"{found.title}: begun again")


@transaction.atomic
def waive(*, actor: Person, job: Job, key: str, subject: str, reason: str) -> None:
    """Leave an instrument out with a reason that stays on the job sheet."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    if not reason.strip():
        raise ValidationError({"reason": ["Give the reason; it stays on the job sheet."]})
    Calibration.objects.create(
        job=job,
        instrument=key,
        subject=subject,
        about=name_of(job, subject),
        of=mark_of(stands_of(job), subject),
        state="waived",
        title=reason.strip()[:LONGEST],
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    log.write(job, actor, "set", f"{found.title} waived: {reason.strip()}")


@transaction.atomic
def start_timer(*, actor: Person, job: Job, key: str, subject: str, minutes: float) -> Timer:
    """Look again after some minutes: glue is setting, or a pack rests."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    if not 1 <= minutes <= MOST_MINUTES:
        raise ValidationError({"minutes": [f"From 1 to {MOST_MINUTES} minutes."]})
    job.timers.filter(instrument=key, subject=subject, done=False).update(done=True)
    title = next(item.title for item in found.subjects(stands_of(job)) if item.id == subject)
    made = Timer.objects.create(
        job=job,
        instrument=key,
        subject=subject,
        words=f"Check again: {found.title}, {title}",
        due=timezone.now() + timedelta(minutes=minutes),
    )
    log.write(job, actor, "set", f"{found.title}: look again in {minutes:g} min")
    return made


@transaction.atomic
def stop_timer(*, actor: Person, job: Job, key: str, subject: str) -> None:
    """The look has been taken."""
    require_open(job, actor)
    job.timers.filter(instrument=key, subject=subject, done=False).update(done=True)
    log.write(job, actor, "set", "Looked at again")
