"""Acts over a line: connecting, reading, writing what was confirmed, saving, learning. Each step is
short."""

import time
from collections.abc import Sequence
from dataclasses import asdict

from django.core.exceptions import ValidationError

from brightcircuit.common.guard import require_open
from brightcircuit.jobs import log
from brightcircuit.jobs.dangers import ReadDanger, note_dangers, read_well
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.quarantine import standing_quarantines
from brightcircuit.jobs.safety import QUARANTINED, require_pack_safe
from brightcircuit.jobs.way import worked_stands
from brightcircuit.link.lines import let_go, port_of
from brightcircuit.link.reach import reached
from brightcircuit.link.transport import Address, AddressError, read_address
from brightcircuit.program.lines import address_of, capital, line_of, profile_of
from brightcircuit.program.models import Line, Run
from brightcircuit.program.queries import Device
from brightcircuit.program.run_services import (
    begin_read,
    begin_run,
    require_may,
    require_no_other,
)
from brightcircuit.program.services import device_of, snapshot_of
from brightcircuit.shop.models import Person
from brightcore.bands import HEAT, IMPOSSIBLE, PACK, bands_of
from brightcore.linking.layout import COMMAND, DONE, FAILED, REASON, STATUS, identify, live, results
from brightcore.linking.learning import Learnt, Stage, failed, stage
from brightcore.linking.port import LineDroppedError, LinkError, Port
from brightcore.linking.transfer import require_identity, require_rest

STAGE_WAITS_S, LOOKS_S = 6.0, 0.1


def connect(*, actor: Person, job: Job, part: str, text: str) -> Line:
    """Reach a device and ask what it is; refuses another one than its profile says."""
    require_open(job, actor)
    require_pack_safe(job)
    device = device_of(job, part)
    profile = profile_of(device)
    try:
        address = reached(read_address(text))
    except AddressError as error:
        raise ValidationError({"address": [capital(str(error))]}) from None
    try:
        with port_of(address, job.pk, str(actor)) as port:
            require_identity(port, profile)
            found = identify(port)
    except LinkError as error:
        # Nobody is kept from a line on which nothing came of it. What this job had there stays.
        if not _has_line_at(job, address):
            let_go(address, job.pk)
        raise ValidationError({"address": [capital(str(error))]}) from None
    defaults = {"address": str(address), "firmware": found.firmware_words}
    line, _ = Line.objects.update_or_create(job=job, part=part, defaults=defaults)
    words = f"{device.part.name}: connected at {address}, {profile.title}, firmware {line.firmware}"
    log.write(job, actor, "program", words)
    return line


def _has_line_at(job: Job, address: Address) -> bool:
    """Return whether a job has a device at a line already."""
    return any(read_address(line.address).held_as == address.held_as for line in job.lines.all())


def disconnect(*, actor: Person, job: Job, part: str) -> None:
    """Let a line go."""
    require_open(job, actor)
    line = line_of(job, part)
    let_go(address_of(line), job.pk)
    line.delete()


def look_live(*, actor: Person, job: Job, part: str) -> dict[str, float]:
    """Return the live values of a device; raises ValidationError in words."""
    line = line_of(job, part)
    if standing_quarantines(job):
        raise ValidationError(QUARANTINED)
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            found = live(port)
    except LinkError as error:
        raise ValidationError(capital(str(error))) from None
    for name in LIVE_POINTS:
        _note_live(actor, job, part, name, found[name])
    return found


LIVE_POINTS = {"volts": PACK, "motor_c": HEAT}
"""Live values that have bands, by the kind of point that they are read at."""


def live_place(part: str, name: str) -> str:
    """Return the place at which a device reads a live value, as dangers name it."""
    return f"program:{name}:{part}"


def _note_live(actor: Person, job: Job, part: str, name: str, value: float) -> str:
    """Keep a live value that is a danger, end what stood there where it is none; returns what to
    say."""
    bands = bands_of(worked_stands(job), LIVE_POINTS[name])
    if bands is None or bands.of(value) == IMPOSSIBLE:
        return ""
    hazard, place = bands.hazard(value), live_place(part, name)
    if hazard is None:
        read_well(actor, job, place)
        return ""
    words = hazard.text.format(value=f"{value:g} {bands.unit}", usual=bands.usual_words)
    note_dangers(actor, job, "program", place, [ReadDanger(hazard.code, words, hazard.do)])
    return f"{words}. {hazard.do}"


def learn(*, actor: Person, job: Job, part: str, key: str, ticked: Sequence[str]) -> Run:
    """Run one stage of a learning run and say what its numbers mean; the device's values are read
    again."""
    require_open(job, actor)
    found = stage(key)
    if found is None:
        raise ValidationError("There is no such stage.")
    require_may(job, ticked, (live_place(part, "volts"),))
    line, device = line_of(job, part), device_of(job, part)
    profile = profile_of(device)
    require_no_other(job, part)
    snapshot_of(actor=actor, job=job, device=device, title=f"Before: {found.title}")
    run = begin_run(actor, job, part, "learn", "going", [])
    state, words, items = "done", "", []
    try:
        with port_of(address_of(line), job.pk, str(actor)) as port:
            require_identity(port, profile)
            require_rest(port)
            _look_at_volts(actor, job, device, live(port)["volts"])
            # From here on the motor may turn, whatever becomes of this line or this server.
            Run.objects.filter(pk=run.pk).update(items=[{"stage": key, "begun": True}])
            values, learnt = _stage(port, found, job, device)
            items = [{"stage": key, "values": values, "learnt": [asdict(i) for i in learnt]}]
    except ValidationError as error:
        state, words = "stopped", error.messages[0]
    except LineDroppedError as error:
        state, words = "paused", capital(str(error))
    except LinkError as error:
        state, words = "stopped", capital(str(error))
    Run.objects.filter(pk=run.pk, state="going").update(state=state, words=words)
    if items:
        Run.objects.filter(pk=run.pk).update(items=items)
    run.refresh_from_db()
    if run.state == "done":
        job.lines.filter(part=part).update(saved=False)
        said = ", ".join(f"{name} {value:g}" for name, value in values.items()) or "nothing found"
        log.write(job, actor, "program", f"{device.part.name}: {found.title}: {said}"[:300])
        begin_read(actor=actor, job=job, part=part)
    return run


def _look_at_volts(actor: Person, job: Job, device: Device, volt: float) -> None:
    """Raise ValidationError where the pack's volts are a danger, or lie under what the device cuts
    out at.

    A danger is kept; under the cut-off the device would only say that it has too few volts.
    """
    danger = _note_live(actor, job, device.part.id, "volts", volt)
    if danger:
        raise ValidationError(danger)
    row = next((row for row in device.rows if row.parameter.role == "low_cutoff_v"), None)
    if row is None or row.has is None:
        return
    cuts_at = row.parameter.to_role(row.has)
    if volt < cuts_at:
        if row.wanted_words:
            write = f" Write {row.wanted_words} first"
        else:
            write = " Write a lower cut-off first"
        raise ValidationError(
            f"The pack has {volt:g} V, {device.part.name} cuts out under {cuts_at:g} V: the run "
            f"would end at once.{write}; or charge the pack."
        )


def _stage(
    port: Port, found: Stage, job: Job, device: Device
) -> tuple[dict[str, float], list[Learnt]]:
    port.write(COMMAND, found.command)
    ends = time.monotonic() + STAGE_WAITS_S
    while time.monotonic() < ends:
        time.sleep(LOOKS_S)
        status, reason = port.read(STATUS, REASON - STATUS + 1)
        if status == FAILED:
            return {}, [failed(found, reason)]
        if status == DONE:
            values = {name: value for name, value in results(port).items() if name in found.results}
            bike = worked_stands(job)
            return values, found.judge(bike, device.part, values)
    return {}, [failed(found, 0)]
