"""What a device was found with, as evidence: a setting that is clearly right or wrong is told to
Trace."""

from brightcircuit.jobs import log
from brightcircuit.jobs.entries import new_entry
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import plan_of, way_of
from brightcircuit.program.models import Told
from brightcircuit.program.queries import Device, Row
from brightcircuit.shop.models import Person
from brightcore.programming.suspects import GOOD, NAMES, Shown, judged, setting_repairs
from brightcore.tracing.evidence import Evidence

AS_FOUND = ("seen", "read")
"""How a value is known that nobody has changed."""

MARK = "program-"
"""How evidence says that Program read it; the device's part follows."""


def keep_found(actor: Person, job: Job, device: Device) -> None:
    """Let the evidence hold what the settings of a device say, as it was found.

    What was entered or written since is a change and no news of how the bike came in.
    """
    # What is wanted is worked out for the bike as it shall be: it says nothing of another one, and
    # what was told before stands.
    if not way_of(job).stands_as_planned:
        return
    mark = MARK + device.part.id
    wanted = _said(job, device)
    standing = job.evidence.filter(round=job.round, client=mark, undone=False)
    for row in standing:
        if wanted.get(row.subject) == row.value:
            wanted.pop(row.subject)
            continue
        row.undone = True
        row.save(update_fields=["undone"])
    for repair, value in sorted(wanted.items()):
        new_entry(job, actor, Evidence("setting", value, subject=repair), client=mark)
        setting = NAMES[repair.rpartition(":")[2]]
        said = "not the fault" if value == GOOD else "may be the fault"
        log.write(job, actor, "evidence", f"{device.part.name}, {setting} as found: {said}")


def _said(job: Job, device: Device) -> dict[str, str]:
    """Return what the values found say, by the id of the repair that would set them."""
    first = _as_found(job, device.part.id)
    shown = []
    held = []
    for row in device.rows:
        role = row.parameter.role
        if not role:
            continue
        held.append(role)
        value = first.get(row.parameter.code)
        if value is not None and row.derived is not None:
            shown.append(_shown(row, role, value, row.derived))
    said = {}
    for what, repair in setting_repairs(plan_of(job), device.part.id).items():
        found = judged(what, held, shown)
        if found:
            said[repair] = found
    return said


def _shown(row: Row, role: str, value: float, wanted: float) -> Shown:
    item = row.parameter
    return Shown(role, item.to_role(value), item.to_role(wanted))


def _as_found(job: Job, part: str) -> dict[str, float]:
    """Return the newest value of each code that was read before anything was put into it."""
    found: dict[str, float] = {}
    changed: set[str] = set()
    for told in Told.objects.filter(job=job, part=part, undone=False).order_by("pk"):
        if told.how not in AS_FOUND:
            changed.add(told.code)
        elif told.code not in changed:
            found[told.code] = told.value
    return found
