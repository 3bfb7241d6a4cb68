"""Changes of Program: profiles named, values told, wanted otherwise, snapshots, settings files."""

from collections.abc import Mapping
from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.common.permissions import require_active
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.descriptions import keep_description
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_pack_safe
from brightcircuit.jobs.way import plan_of
from brightcircuit.program.found import keep_found
from brightcircuit.program.models import Otherwise, Plan, ShopProfile, Snapshot, Told
from brightcircuit.program.queries import Device, Row, devices_of, profiles, snapshots_elsewhere
from brightcircuit.shop.models import Person
from brightcore.bike.model import Setting
from brightcore.errors import BrightError, FormatError
from brightcore.formats.profile_file import dump_profile, load_profile
from brightcore.formats.settings_file import read_settings
from brightcore.programming.case import STYLES
from brightcore.programming.profile import Parameter
from brightcore.units import parse_in

LONGEST = 200
SETTING_ROLES = frozenset(
    {"wheel_circumference_mm", "low_cutoff_v", "current_limit_a", "phase_limit_a"}
)


def device_of(job: Job, part: str) -> Device:
    """Return a device of the job with a profile; raises ValidationError."""
    found = next((device for device in devices_of(job) if device.part.id == part), None)
    if found is None or found.profile is None:
        raise ValidationError("Say first what kind of device it is.")
    return found


def _row(device: Device, code: str) -> Row:
    found = next((row for row in device.rows if row.parameter.code == code), None)
    if found is None:
        raise ValidationError("That parameter is not in its menu.")
    return found


def read_value(item: Parameter, text: str) -> float:
    """Return a typed value of a parameter: a choice by its words, or a number; raises
    ValidationError."""
    try:
        return item.read(text)
    except BrightError as error:
        raise ValidationError({"value": [str(error)]}) from None


@transaction.atomic
def name_profile(*, actor: Person, job: Job, part: str, profile: str) -> None:
    """Say what kind of device a part is; the bike's description keeps it."""
    require_open(job, actor)
    bike = plan_of(job)
    if profile and profile not in profiles():
        raise ValidationError({"profile": ["Choose one of the list."]})
    if part not in {p.id for p in bike.parts}:
        raise ValidationError("That part is not on this bike any more.")
    others = {k: v for k, v in bike.profiles if k != part}
    named = tuple(sorted((others | ({part: profile} if profile else {})).items()))
    if named == bike.profiles:
        return
    what = (
        f"{bike.part(part).name}: programmed as "
        f"{profiles()[profile].title if profile else 'nothing known'}"
    )
    keep_description(
        actor=actor, job=job, core=replace(bike, profiles=named), station="program", what=what
    )


@transaction.atomic
def tell(
    *, actor: Person, job: Job, part: str, code: str, text: str, how: str, why: str = ""
) -> Told:
    """Store what a device shows (`seen`) or what was entered and read back (`entered`)."""
    require_open(job, actor)
    if how != "file":
        require_pack_safe(job)  # a device shows nothing without its pack
    return _tell(actor, job, device_of(job, part), code, text, how, why)


def _tell(
    actor: Person, job: Job, device: Device, code: str, text: str, how: str, why: str
) -> Told:
    """Store one value of a device that was worked out once: a file tells more than a hundred."""
    row, part = _row(device, code), device.part.id
    value = read_value(row.parameter, text)
    # Whoever enters a first value has a way back to what the device brought, without having thought
    # of it.
    if not job.snapshots.filter(part=part).exists() and how == "entered":
        snapshot_of(actor=actor, job=job, device=device, title="Before the first change")
    made = Told.objects.create(
        job=job,
        part=part,
        code=code,
        value=value,
        before=row.has,
        wanted=row.wanted,
        how=how,
        why=why.strip()[:LONGEST],
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    if row.has is not None:
        was = f", was {row.has_words}"
    else:
        was = ""
    words = (
        f"{device.part.name} {code} {row.parameter.name}: {row.parameter.words(value)} {how}{was}"
    )
    log.write(job, actor, "program", words)
    if how == "seen":
        keep_found(actor, job, device)
    return made


@transaction.atomic
def undo_told(*, actor: Person, job: Job, part: str, code: str) -> None:
    """Mark the newest value of a parameter as undone; what was known before stands again."""
    require_open(job, actor)
    newest = job.told.filter(part=part, code=code, undone=False).last()
    if newest is None:
        raise ValidationError("There is nothing to undo.")
    newest.undone = True
    newest.save(update_fields=["undone"])
    log.write(job, actor, "program", f"Undone: {newest}")
    keep_found(actor, job, device_of(job, part))


@transaction.atomic
def want_otherwise(
    *, actor: Person, job: Job, part: str, code: str, text: str, reason: str
) -> None:
    """Want another value than the derived one, with a reason that stays; no text: as derived
    again."""
    require_open(job, actor)
    _want(actor, job, device_of(job, part), code, text, reason)


def _want(actor: Person, job: Job, device: Device, code: str, text: str, reason: str) -> None:
    """Want another value of a device that was worked out once."""
    row, part = _row(device, code), device.part.id
    if not text.strip():
        job.otherwise.filter(part=part, code=code).delete()
        log.write(job, actor, "program", f"{device.part.name} {code}: wanted as derived again")
        return
    value = read_value(row.parameter, text)
    if not reason.strip():
        raise ValidationError({"reason": ["Give the reason; it stays on the job sheet."]})
    Otherwise.objects.update_or_create(
        job=job,
        part=part,
        code=code,
        defaults={
            "value": value,
            "reason": reason.strip()[:LONGEST],
            "by_name": str(actor),
            "at": now(),
        },
    )
    words = row.parameter.words(value)
    log.write(
        job, actor, "program", f"{device.part.name} {code} wanted {words} instead: {reason.strip()}"
    )


@transaction.atomic
def ask(*, actor: Person, job: Job, values: Mapping[str, str]) -> None:
    """Store what the bike is to be; raises ValidationError by field."""
    require_open(job, actor)
    data: dict[str, object] = {}
    text = values.get("limit_kmh", "").strip()
    if text:
        try:
            limit = parse_in(text, "km/h")
        except BrightError as error:
            raise ValidationError({"limit_kmh": [str(error)]}) from None
        if not 3 <= limit <= 120:
            raise ValidationError({"limit_kmh": ["From 3 to 120 km/h."]})
        data |= {"limit_kmh": limit, "limit_why": values.get("limit_why", "").strip()[:LONGEST]}
    if values.get("style") in STYLES:
        data["style"] = values["style"]
    if values.get("throttle") in ("", "walk", "none"):
        data["throttle"] = values["throttle"]
    Plan.objects.update_or_create(job=job, defaults={"data": data})
    log.write(
        job,
        actor,
        "program",
        f"Aim: {', '.join(f'{k} {v}' for k, v in data.items() if v) or 'as usual'}",
    )


@transaction.atomic
def take_snapshot(*, actor: Person, job: Job, part: str, title: str) -> Snapshot:
    """Keep all values of a device as they are known now; those that bikes hold go into the
    description."""
    require_open(job, actor)
    device = device_of(job, part)
    made = snapshot_of(actor=actor, job=job, device=device, title=title.strip()[:120] or "Snapshot")
    _describe(actor, job, device)
    return made


def _describe(actor: Person, job: Job, device: Device) -> None:
    """Let the description of the bike say what was read, of what circuits and rides are worked out
    from."""
    bike = plan_of(job)
    read = {}
    for row in device.rows:
        if row.parameter.role in SETTING_ROLES and row.has is not None:
            read[row.parameter.role] = row.parameter.to_role(row.has)
    kept = tuple(s for s in bike.settings if s.part != device.part.id or s.role not in read)
    fresh = tuple(Setting(device.part.id, name, value) for name, value in sorted(read.items()))
    changed = replace(bike, settings=kept + fresh)
    if set(changed.settings) != set(bike.settings):
        what = f"{device.part.name}: set as read"
        keep_description(actor=actor, job=job, core=changed, station="program", what=what)


def snapshot_of(*, actor: Person, job: Job, device: Device, title: str) -> Snapshot:
    """Keep all values of a device as they are known now."""
    assert device.profile is not None
    made = Snapshot.objects.create(
        job=job,
        part=device.part.id,
        profile=device.profile.id,
        title=title,
        values={row.parameter.code: row.has for row in device.rows if row.has is not None},
        at=now(),
        by=actor,
        by_name=str(actor),
    )
    log.write(job, actor, "program", f"{device.part.name}: snapshot, {title}")
    return made


@transaction.atomic
def restore_snapshot(*, actor: Person, job: Job, uuid: str) -> int:
    """Want every value of a snapshot again; returns how many differ from what the device has
    now."""
    require_open(job, actor)
    found = job.snapshots.filter(uuid=uuid).first()
    if found is None:
        raise ValidationError("That snapshot is not there any more.")
    device = device_of(job, found.part)
    count = 0
    for row in device.rows:
        value = found.values.get(row.parameter.code)
        if value is None or (row.has is not None and abs(row.has - value) < row.parameter.step / 2):
            continue
        count += 1
        text = row.parameter.shown(float(value))
        reason = f"As in the snapshot: {found.title}"
        _want(actor, job, device, row.parameter.code, text, reason)
    return count


@transaction.atomic
def copy_settings(*, actor: Person, job: Job, part: str, uuid: str) -> tuple[int, int]:
    """Want the values of another bike's device; what the two bikes decide unlike is derived for
    this one.

    Returns (wanted as there, derived here). Raises ValidationError where the snapshot is of another
    kind.
    """
    require_open(job, actor)
    device = device_of(job, part)
    source = next((s for s in snapshots_elsewhere(job) if str(s.uuid) == uuid), None)
    if source is None or device.profile is None or source.profile != device.profile.id:
        raise ValidationError("Choose a snapshot of a device of the same kind.")
    label = source.job.revision.bike.label
    sister = next((d for d in devices_of(source.job) if d.part.id == source.part), None)
    there = {row.parameter.code: row.derived for row in (sister.rows if sister else ())}
    copied = derived = 0
    for row in device.rows:
        code = row.parameter.code
        value = source.values.get(code)
        if value is None:
            continue
        if row.derived != there.get(code):
            derived += 1
            continue
        copied += 1
        text = row.parameter.shown(float(value))
        if row.derived is None or row.parameter.shown(row.derived) != text:
            reason = f"As on {label}, job {source.job.number}"
            _want(actor, job, device, code, text, reason)
    return copied, derived


@transaction.atomic
def take_settings(*, actor: Person, job: Job, part: str, content: bytes, name: str) -> int:
    """Take a settings file as what the device has: all of it, or nothing where a line is wrong."""
    require_open(job, actor)
    device = device_of(job, part)
    assert device.profile is not None
    try:
        values = read_settings(content, name, device.profile)
    except FormatError as error:
        raise ValidationError(
            {"file": [f"{p.path}: {p.message}" for p in error.problems[:20]]}
        ) from None
    for code, value in values.items():
        text = device.profile.parameter(code).shown(value)
        _tell(actor, job, device, code, text, "file", name[:LONGEST])
    return len(values)


@transaction.atomic
def add_profile(*, actor: Person, content: bytes) -> str:
    """Add a profile to the shop, or change one of the same id; returns its title."""
    require_active(actor)
    try:
        profile = load_profile(content)
    except FormatError as error:
        raise ValidationError(
            {"profile_file": [f"{p.path}: {p.message}" for p in error.problems[:20]]}
        ) from None
    ShopProfile.objects.update_or_create(
        name=profile.id,
        defaults={
            "text": dump_profile(profile),
            "retired": False,
            "at": now(),
            "by_name": str(actor),
        },
    )
    return profile.title


@transaction.atomic
def retire_profile(*, actor: Person, name: str) -> None:
    """No longer offer a profile of the shop; devices named by it keep their values."""
    require_active(actor)
    if not ShopProfile.objects.filter(name=name, retired=False).update(retired=True):
        raise ValidationError("There is no such profile of this shop.")
