"""Runs over a link: reading and writing step by step.

What a step finds is stored before it returns.
"""

import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, replace

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.clock import now
from brightcircuit.jobs.hazards import limit_gates, note_limited
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.safety import require_pack_safe, require_safe
from brightcircuit.link.lines import LineBusyError, port_of
from brightcircuit.program.found import keep_found
from brightcircuit.program.lines import address_of, capital, line_of, linked, profile_of
from brightcircuit.program.models import Line, Run, Told
from brightcircuit.program.queries import Device, Row
from brightcircuit.program.services import device_of, snapshot_of
from brightcircuit.shop.models import Person
from brightcore.linking.port import LinkError, Port, WrongDeviceError
from brightcore.linking.transfer import (
    OTHER,
    READ,
    REFUSED,
    UNKNOWN,
    WAITING,
    WRITTEN,
    Item,
    read_on,
    require_rest,
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
    require_no_other(job, part)
    rows = []
    for row in linked(device_of(job, part)):
        if row.parameter.code in codes and row.wanted is not None:
            rows.append(row)
    if not rows:
        raise ValidationError("Choose at least one value to write.")
    unread = [row.parameter.code for row in rows if row.at is None or row.has is None]
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
    device = device_of(job, run.part)
    with transaction.atomic():
        # Two people may confirm one list side by side: the first one has it.
        if not _moved(run, ("asked",), "going"):
            raise ValidationError("That was confirmed before, or left as it is.")
        # Taken before the first byte goes out, so that there is something to go back to whatever
        # the line does then.
        snapshot_of(actor=actor, job=job, device=device, title="Before writing")
        job.lines.filter(part=run.part).update(saved=False)
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
    if run.kind == "learn":
        raise ValidationError("A learning stage is not gone on with: begin it again.")
    if run.kind == "write":
        require_safe(job)
    else:
        require_pack_safe(job)
    if not _moved(run, ("paused", "going"), "going"):
        raise ValidationError("There is nothing to go on with.")
    return go_on(actor=actor, job=job, run=run)


def stop(*, actor: Person, job: Job, run: Run) -> None:
    """Leave a run as it is, also while a step is under way: nothing more goes out after the value
    that is on its way. What is known of every value stays."""
    require_open(job, actor)
    _moved(run, ("asked", "going", "paused"), "stopped")


def end_learning(*, actor: Person, job: Job, run: Run, ticked: Sequence[str]) -> Run:
    """End a learning stage that broke off, once somebody has seen that nothing turns; the device is
    read again."""
    require_open(job, actor)
    require_pack_safe(job)
    if run.kind != "learn":
        raise ValidationError("That is no learning stage.")
    if STANDS_STILL not in ticked:
        words = GATES[STANDS_STILL]
        raise ValidationError({"gate": [f"Tick first: {words}"]})
    if not _moved(run, BROKEN_OFF, "stopped"):
        raise ValidationError("That stage has ended.")
    log.write(job, actor, "program", f"Learning stage ended by hand: {GATES[STANDS_STILL]}")
    return begin_read(actor=actor, job=job, part=run.part)


STANDS_STILL = "stands_still"
"""The caution before anything goes on after a learning stage that broke off."""

BROKEN_OFF = ("going", "paused")
"""States of a learning run in which a stage may still run in the device."""


def _moved(run: Run, states: Sequence[str], to: str) -> bool:
    """Move a run from one of some states to another, as one act; returns whether it was in one."""
    found = Run.objects.filter(pk=run.pk, state__in=states).update(state=to)
    run.refresh_from_db()
    return bool(found)


def require_no_other(job: Job, part: str) -> None:
    """Raise ValidationError while something else of a device is under way: written values would be
    compared with what was known before."""
    others = job.runs.filter(part=part, state__in=BROKEN_OFF)
    if others.filter(kind="learn").exists():
        raise ValidationError(
            "A learning stage broke off: the motor may still turn. See to it first."
        )
    if others.filter(kind="write").exists():
        raise ValidationError("A write run is not ended: go on with it, or leave it as it is.")


def go_on(*, actor: Person, job: Job, run: Run) -> Run:
    """Do the next step of a run; what it finds is stored before this returns.

    The line comes first: whoever holds it reads the run again, and only then knows what is left.
    """
    device = device_of(job, run.part)
    line = line_of(job, run.part)
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            run.refresh_from_db()
            if run.state == "going":
                Journal(actor, job, device, line, run).take_step(port)
    except LineBusyError as error:
        # Another page is at this very run, or another job has the line: nothing of it changes.
        raise ValidationError(capital(str(error))) from None
    return run


class Journal:
    """One step of a run, kept item by item: before a value is sent it stands as not known, and what
    came back is stored before the next one."""

    def __init__(self, actor: Person, job: Job, device: Device, line: Line, run: Run) -> None:
        self.actor, self.job, self.device, self.line, self.run = actor, job, device, line, run
        self.items = [Item(**raw) for raw in run.items]
        self._kept = self._now()

    def _now(self) -> list[tuple[str, float | None]]:
        return [(item.state, item.shown) for item in self.items]

    def take_step(self, port: Port) -> None:
        """Read or write for a while, and keep how it ended."""
        profile = profile_of(self.device)
        ends = time.monotonic() + BUDGET_S
        step: Callable[..., bool] = read_on if self.run.kind == "read" else write_on
        state, words = "going", ""
        try:
            if step(port, profile, self.items, lambda: ends - time.monotonic(), self.begins):
                state = "done"
        except WrongDeviceError as error:
            state, words = "paused", f"{capital(str(error))}. Nothing was written to it."
        except LinkError as error:
            state, words = "paused", capital(str(error))
        with transaction.atomic():
            self.keep()
            # A stop that came meanwhile stays a stop.
            Run.objects.filter(pk=self.run.pk, state="going").update(state=state, words=words)
            self.run.refresh_from_db()
            if self.run.state == "done":
                _finish(self.actor, self.job, self.device, self.run, self.items)
            elif self.run.state in ("paused", "stopped"):
                _note_broken_off(self.actor, self.job, self.device, self.run, self.items)

    def begins(self, item: Item) -> bool:
        """Store what is known so far, and that this item is about to be touched; returns False
        where somebody has stopped the run."""
        with transaction.atomic():
            self.keep()
            if not Run.objects.filter(pk=self.run.pk, state="going").exists():
                return False
            if self.run.kind == "write":
                self._keep_items(item)
                self._tell_sent(item)
        return True

    def keep(self) -> None:
        """Store what the items show now, and the values that are news."""
        fresh = []
        for item, was in zip(self.items, self._kept, strict=True):
            if (item.state, item.shown) != was:
                fresh.append(item)
        self._keep_items(None)
        _store(self.actor, self.job, self.device, self.line, self.run, fresh)
        self._kept = self._now()

    def _keep_items(self, touched: Item | None) -> None:
        """Store the items; what is about to be touched stands as not known until it was read."""
        rows = []
        for item in self.items:
            rows.append(asdict(replace(item, state=UNKNOWN) if item is touched else item))
        Run.objects.filter(pk=self.run.pk).update(items=rows)

    def _tell_sent(self, item: Item) -> None:
        """Keep that a value is on its way: what the device has is not known until it was read."""
        if item.wanted is None:
            return
        Told.objects.create(
            job=self.job,
            part=self.run.part,
            code=item.code,
            value=item.wanted,
            before=item.before,
            wanted=item.wanted,
            how="sent",
            firmware=self.line.firmware,
            at=now(),
            by=self.actor,
            by_name=str(self.actor),
        )


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
        # changed. What was sent is news until it was read back.
        known_already = row.at is not None and row.has == item.shown
        if item.state == READ and run.kind == "read" and known_already:
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
                at=now(),
                by=actor,
                by_name=str(actor),
            )
        )
    Told.objects.bulk_create(rows)
    if any(row.how == "read" for row in rows):
        keep_found(actor, job, device)


def _note_broken_off(actor: Person, job: Job, device: Device, run: Run, items: list[Item]) -> None:
    """Write into the log what is known of a run that broke off: done, not begun, not known."""
    done = [item.code for item in items if item.state in (READ, WRITTEN)]
    unknown = [item.code for item in items if item.state == UNKNOWN]
    waiting = sum(item.state == WAITING for item in items)
    why = run.words or "Left as it is"
    words = (
        f"{device.part.name}: {run.kind} broke off. {why}. {len(done)} done, {waiting} not begun"
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
    require_no_other(job, part)
    line, device = line_of(job, part), device_of(job, part)
    profile = profile_of(device)
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            require_rest(port)
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
        at=now(),
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
