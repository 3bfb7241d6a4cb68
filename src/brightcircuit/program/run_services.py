"""Runs over a link: reading and writing step by step.

What a step finds is stored before it returns.
"""

import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.hazards import limit_gates, note_limited
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_pack_safe, require_safe
from brightcircuit.link.lines import port_of
from brightcircuit.program.lines import address_of, capital, line_of, linked, profile_of
from brightcircuit.program.models import Line, Run, Told
from brightcircuit.program.queries import Device, Row
from brightcircuit.program.services import device_of, snapshot_of
from brightcircuit.shop.models import Person
from brightcore.linking.port import LinkError, WrongDeviceError
from brightcore.linking.transfer import (
    OTHER,
    READ,
    REFUSED,
    UNKNOWN,
    WAITING,
    WRITTEN,
    Item,
    read_on,
    save_on_device,
    write_on,
)
from brightcore.procedure.gates import GATES
from brightcore.programming.profile import Parameter, Profile

BUDGET_S = 1.5
"""A step of a run ends after this; the page goes on with the next."""


WRITE_GATES = ("pack_safe", "wheel_up")


def write_gates(job: Job) -> tuple[str, ...]:
    """Return the cautions before anything is written or learnt: after a hazard the first power is
    limited."""
    return (*WRITE_GATES, *limit_gates(job))


"""Cautions before anything is written: a value may let the motor turn."""


def begin_read(*, actor: Person, job: Job, part: str) -> Run:
    """Read every parameter of a device."""
    require_open(job, actor)
    require_pack_safe(job)
    line_of(job, part)
    device = device_of(job, part)
    items = [Item(row.parameter.code, before=row.has) for row in linked(device)]
    run = begin_run(actor, job, part, "read", "going", items)
    return go_on(actor=actor, job=job, run=run)


def choose(*, actor: Person, job: Job, part: str, codes: Sequence[str]) -> Run:
    """Choose what is to be written; nothing is written before it is confirmed."""
    require_open(job, actor)
    line_of(job, part)
    rows = []
    for row in linked(device_of(job, part)):
        if row.parameter.code in codes and row.wanted is not None:
            rows.append(row)
    if not rows:
        raise ValidationError("Choose at least one value to write.")
    unread = [row.parameter.code for row in rows if row.at is None]
    if unread:
        raise ValidationError(f"Read it first, so that it can be put back: {', '.join(unread)}.")
    # One list waits to be confirmed at a time: a second choice replaces the first, it does not
    # stand beside it.
    job.runs.filter(part=part, kind="write", state="asked").update(state="stopped")
    items = [Item(row.parameter.code, before=row.has, wanted=row.wanted) for row in rows]
    return begin_run(actor, job, part, "write", "asked", items)


def confirm(*, actor: Person, job: Job, run: Run, ticked: Sequence[str]) -> Run:
    """Write what was chosen: the cautions ticked, nothing dangerous open, a snapshot taken."""
    require_open(job, actor)
    require_may(job, ticked)
    if run.state != "asked":
        raise ValidationError("That was confirmed before.")
    device = device_of(job, run.part)
    with transaction.atomic():
        # Taken before the first byte goes out, so that there is something to go back to whatever
        # the line does then.
        snapshot_of(actor=actor, job=job, device=device, title="Before writing")
        job.lines.filter(part=run.part).update(saved=False)
        run.state = "going"
        run.save(update_fields=["state"])
        changes = ", ".join(_change(profile_of(device), Item(**raw)) for raw in run.items)
        log.write(
            job,
            actor,
            "program",
            f"{device.part.name}: to be written over the link: {changes}"[:300],
        )
    return go_on(actor=actor, job=job, run=run)


def resume(*, actor: Person, job: Job, run: Run) -> Run:
    """Go on with a run that paused; what was being written when the line dropped is read first."""
    require_open(job, actor)
    if run.kind == "write":
        require_safe(job)
    if run.state not in ("paused", "going"):
        raise ValidationError("There is nothing to go on with.")
    run.state = "going"
    return go_on(actor=actor, job=job, run=run)


def stop(*, actor: Person, job: Job, run: Run) -> None:
    """Leave a run as it is; what is known of every value stays."""
    require_open(job, actor)
    run.state = "stopped"
    run.save(update_fields=["state"])


def go_on(*, actor: Person, job: Job, run: Run) -> Run:
    """Do the next step of a run; what it finds is stored before this returns."""
    device = device_of(job, run.part)
    profile, line = profile_of(device), line_of(job, run.part)
    items = [Item(**raw) for raw in run.items]
    ends = time.monotonic() + BUDGET_S
    step: Callable[..., bool] = read_on if run.kind == "read" else write_on
    before = [(item.state, item.shown) for item in items]
    run.words = ""
    if run.kind == "write":
        # What may be written in this step is stored as not known before it is sent. If the server
        # dies in the middle, the page says so instead of claiming nothing happened.
        _note_begun(run, items)
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            finished = step(port, profile, items, lambda: ends - time.monotonic())
        run.state = "done" if finished else "going"
    except WrongDeviceError as error:
        run.state, run.words = "paused", f"{capital(str(error))}. Nothing was written to it."
    except LinkError as error:
        run.state, run.words = "paused", capital(str(error))
    fresh = []
    for item, was in zip(items, before, strict=True):
        if (item.state, item.shown) != was:
            fresh.append(item)
    with transaction.atomic():
        run.items = [asdict(item) for item in items]
        run.save()
        _store(actor, job, device, line, run, fresh)
        if run.state == "done":
            _finish(actor, job, device, run, items)
        elif run.state == "paused":
            _note_paused(actor, job, device, run, items)
    return run


def _note_begun(run: Run, items: list[Item]) -> None:
    """Store what this step may write as not known, so that it is said if the server stops in the
    middle."""
    begun = [replace(item, state=UNKNOWN) if item.state == WAITING else item for item in items]
    run.items = [asdict(item) for item in begun]
    run.save(update_fields=["items", "state"])


def _store(
    actor: Person, job: Job, device: Device, line: Line, run: Run, fresh: list[Item]
) -> None:
    """Store what was read or read back, where it is not what is known already."""
    known = {row.parameter.code: row for row in device.rows}
    rows = []
    for item in fresh:
        if item.shown is None or item.state not in (READ, WRITTEN, OTHER, REFUSED):
            continue
        row = known[item.code]
        # A value that reads as it was known is no news: a row for each would bury the few that
        # changed.
        if item.state == READ and row.at is not None and row.has == item.shown:
            continue
        rows.append(
            Told(
                job=job,
                part=run.part,
                code=item.code,
                value=item.shown,
                before=row.has,
                wanted=row.wanted,
                how="written" if item.state == WRITTEN else "read",
                why=row.own_reason or row.reason,
                firmware=line.firmware,
                at=timezone.now(),
                by=actor,
                by_name=str(actor),
            )
        )
    Told.objects.bulk_create(rows)


def _note_paused(actor: Person, job: Job, device: Device, run: Run, items: list[Item]) -> None:
    """Write into the log what is known of a run that broke off: done, not begun, not known."""
    done = [item.code for item in items if item.state in (READ, WRITTEN)]
    unknown = [item.code for item in items if item.state == UNKNOWN]
    waiting = sum(item.state == WAITING for item in items)
    words = (
        f"{device.part.name}: {run.kind} broke off. {run.words}. {len(done)} done, "
        f"{waiting} not begun"
    )
    log.write(job, actor, "program", f"{words}, not known: {', '.join(unknown) or 'none'}"[:300])


def _finish(actor: Person, job: Job, device: Device, run: Run, items: list[Item]) -> None:
    line = line_of(job, run.part)
    done = [item for item in items if item.state in (READ, WRITTEN)]
    words = f"{device.part.name}: {len(done)} of {len(items)} values {run.kind} over the link"
    if run.kind == "write":
        profile = profile_of(device)
        words += ": " + ", ".join(_change(profile, item) for item in done)
        snapshot_of(actor=actor, job=job, device=device_of(job, run.part), title="After writing")
    log.write(job, actor, "program", f"{words} (firmware {line.firmware})"[:300])


def save_device(*, actor: Person, job: Job, part: str) -> Run:
    """Have a device keep its values when switched off, then read all of them again."""
    require_open(job, actor)
    require_safe(job)
    line, device = line_of(job, part), device_of(job, part)
    profile = profile_of(device)
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            kept = save_on_device(port, profile, time.sleep)
    except LinkError as error:
        words = f"{capital(str(error))}. Whether it has saved is not known: read all again."
        raise ValidationError(words) from None
    run = begin_read(actor=actor, job=job, part=part)
    # Some devices answer "saved" and forget. Only reading everything again tells.
    lost = [row.parameter.code for row in linked(device_of(job, part)) if _was_lost(device, row)]
    line.saved = kept and run.state == "done" and not lost
    line.save(update_fields=["saved"])
    if not line.saved:
        if lost:
            what = f"; other than before: {', '.join(lost)}"
        else:
            what = ""
        raise ValidationError(
            f"The device has not said that it saved{what}. Everything was read again."
        )
    log.write(job, actor, "program", f"{device.part.name}: saved on the device")
    return run


def _was_lost(before: Device, row: Row) -> bool:
    old = next(other for other in before.rows if other.parameter.code == row.parameter.code)
    return old.has is not None and row.has != old.has


def require_may(job: Job, ticked: Sequence[str], again: Sequence[str] = ()) -> None:
    """Refuse to go on where the pack is not safe or a caution is not ticked; raises Blocked or
    ValidationError."""
    require_safe(job, again)
    gates = write_gates(job)
    missing = [GATES[gate] for gate in gates if gate not in ticked]
    if missing:
        raise ValidationError({"gate": [f"Tick first: {words}" for words in missing]})
    note_limited(job, gates)


def begin_run(actor: Person, job: Job, part: str, kind: str, state: str, items: list[Item]) -> Run:
    """Store a run that begins, with what it is to do."""
    return Run.objects.create(
        job=job,
        part=part,
        kind=kind,
        state=state,
        items=[asdict(item) for item in items],
        at=timezone.now(),
        by=actor,
        by_name=str(actor),
    )


def _change(profile: Profile, item: Item) -> str:
    parameter: Parameter = profile.parameter(item.code)
    if item.before is None:
        before = "?"
    else:
        before = parameter.words(item.before)
    if item.wanted is None:
        after = "?"
    else:
        after = parameter.words(item.wanted)
    return f"{item.code} {before} → {after}"
