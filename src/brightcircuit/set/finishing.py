"""The end of a calibration: what goes into the bike, the evidence and the log, and how it is taken
back."""

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.bikes.queries import latest_revision
from brightcircuit.bikes.translate import circuit_of
from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.descriptions import keep_description
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.models import ChangeDone, Job
from brightcircuit.jobs.way import name_of, plan_of, stands_of
from brightcircuit.set.models import Calibration, Sheet
from brightcircuit.set.queries import (
    measured_by,
    options_of,
    sheet_of,
    standing_calibrations,
)
from brightcircuit.set.verdicts import MINUTES_EACH, instrument_on, verdict
from brightcircuit.shop.models import Person
from brightcore.bike.measured import mark_of, with_measured
from brightcore.errors import BrightError, FormatError
from brightcore.formats.case_file import check_evidence
from brightcore.setting import instrument
from brightcore.setting.contract import Instrument, read_all
from brightcore.setting.repin import repinned
from brightcore.setting.ways import WaysByTrial, trials_of, words_of
from brightcore.simulation.table import Row, Table
from brightcore.tracing.evidence import Evidence


@transaction.atomic
def finish(*, actor: Person, job: Job, key: str, subject: str) -> Calibration:
    """Make a calibration of a sheet; raises ValidationError while readings are missing."""
    require_open(job, actor)
    found = instrument_on(job, key, subject)
    sheet = sheet_of(job, key, subject)
    result = verdict(job, found, sheet)
    if result.state == "open":
        raise ValidationError(f"Not finished yet: {result.title}.")
    if result.state == "good":
        _describe(actor, job, found, sheet)
    findings = []
    for f in result.findings:
        findings.append(
            {"code": f.code, "severity": f.severity, "text": f.text, "change": f.change}
        )
    own_values = []
    for v in result.values:
        own_values.append({"name": v.name, "value": v.value, "unit": v.unit, "words": v.words})
    made = Calibration.objects.create(
        job=job,
        instrument=key,
        subject=subject,
        about=name_of(job, subject),
        of=mark_of(stands_of(job), subject),
        typed=sheet.typed,
        options=options_of(sheet),
        state=result.state,
        title=result.title,
        findings=findings,
        values=own_values,
        meter=actor.meter.name if actor.meter else "",
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    _as_evidence(actor, job, found, made)
    if sheet.pk:
        sheet.delete()
    log.write(job, actor, "set", f"{found.title} set: {result.title}")
    _into_bike(actor, job, made, f"Measured: {found.title}")
    return made


def _is_planned(job: Job, subject: str) -> bool:
    """Return whether what was measured stays on the bike; a part that leaves takes its values
    along."""
    owner = subject.partition(".")[0]
    return not owner or owner not in {part.id for part in stands_of(job).parts} - {
        part.id for part in plan_of(job).parts
    }


def _describe(actor: Person, job: Job, found: Instrument, sheet: Sheet) -> None:
    """Put what a sheet says of the description into the bike, where the job uses its newest one."""
    bike = plan_of(job)
    if not _is_planned(job, sheet.subject):
        return
    reading = read_all(
        found.fields(bike, sheet.subject, sheet.typed | options_of(sheet)), sheet.typed
    )
    changed = found.described(bike, sheet.subject, reading)
    if changed != bike and latest_revision(job.revision.bike).pk == job.revision_id:
        keep_description(
            actor=actor, job=job, core=changed, station="set", what=f"As found: {found.title}"
        )


def _into_bike(actor: Person, job: Job, made: Calibration, what: str) -> None:
    """Put what was measured beside what is described, as a new revision; the newest good values
    stand.

    A job on an older description leaves the bike as it is, and says so in its log.
    """
    stand = standing_calibrations(job, made.instrument, made.subject).filter(state="good").last()
    values = measured_by(stand) if stand else []
    gone = {(made.subject, value["name"]) for value in made.values} - {
        (v.part, v.name) for v in values
    }
    core = plan_of(job)
    changed = with_measured(core, values, gone)
    if changed == core or not _is_planned(job, made.subject):
        return
    if latest_revision(job.revision.bike).pk != job.revision_id:
        log.write(
            job, actor, "set", "Not put into the bike: this job uses an older description of it."
        )
        return
    keep_description(actor=actor, job=job, core=changed, station="set", what=what)


def _mark(made: Calibration) -> str:
    """Return how evidence says of which calibration it is."""
    return f"set-{made.uuid}"


def _as_evidence(actor: Person, job: Job, found: Instrument, made: Calibration) -> None:
    """Let Trace know what was read between two pins; undone with the calibration."""
    bike = stands_of(job)
    reading = read_all(found.fields(bike, made.subject, made.typed | made.options), made.typed)
    table = Table(circuit_of(bike), [Row()])
    for at in found.readings(bike, made.subject):
        if at.field not in reading.values:
            continue
        item = Evidence(
            "volts", made.typed[at.field], at.condition, at.red, at.black, meter=made.meter
        )
        try:
            check_evidence(table, (item,))
        except FormatError:
            continue  # what this bike's circuit does not have is kept here alone
        new_entry(job, actor, item, at=made.at, client=_mark(made), minutes=MINUTES_EACH)


@transaction.atomic
def repin(*, actor: Person, job: Job, uuid: str) -> str:
    """Put the way that ran into the bike's description, as a new revision; returns what was done in
    words."""
    require_open(job, actor)
    made = job.calibrations.filter(
        uuid=uuid, instrument=WaysByTrial.key, state="good", undone=False
    ).first()
    if made:
        ran = next((way for way, seen in trials_of(made.typed) if seen == "smooth"), "")
    else:
        ran = ""
    if made is None or not ran:
        raise ValidationError("No way has run yet.")
    try:
        core = repinned(plan_of(job), made.subject, ran)
    except BrightError as error:
        raise ValidationError(str(error)) from None
    what = f"Phases and halls as they ran: {words_of(ran)}"
    # They ran so: the pins have been moved already, whatever the job takes its edits for.
    if job.plans:
        how = ChangeDone.How.STEP
    else:
        how = ChangeDone.How.FOUND
    keep_description(actor=actor, job=job, core=core, station="set", what=what, how=how)
    made.of = mark_of(core, made.subject)
    made.save(update_fields=["of"])
    _into_bike(actor, job, made, "Measured: crossing of phases and halls")
    return what


@transaction.atomic
def undo_calibration(*, actor: Person, job: Job, uuid: str) -> None:
    """Mark a calibration of this job as undone; it stays to be read."""
    require_open(job, actor)
    found = job.calibrations.filter(uuid=uuid, undone=False).first()
    if found is None:
        raise ValidationError("That calibration is not there any more.")
    found.undone = True
    found.save(update_fields=["undone"])
    job.evidence.filter(client=_mark(found)).update(undone=True)
    log.write(job, actor, "set", f"Undone: {found.title}")
    _into_bike(actor, job, found, f"No longer measured: {instrument(found.instrument).title}")
