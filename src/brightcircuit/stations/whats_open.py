"""What is open on a job: one list, for Record, for the service that closes, for the Bench and for
the next thing.

A technician closes a job only when it is empty; a shop lead may let each thing go with a reason of
its own.
"""

from brightcircuit.jobs.changed import changes_of, planned_of
from brightcircuit.jobs.dangers import standing_dangers
from brightcircuit.jobs.models import Danger, Job
from brightcircuit.jobs.quarantine import standing_quarantines
from brightcircuit.jobs.repairs import unanswered_cause
from brightcircuit.jobs.safety import open_dangers
from brightcircuit.jobs.way import way_of
from brightcircuit.stations.registry import OpenItem, stations
from brightcore.kinds.controller_spec import ControllerSpec
from brightcore.kinds.display import DisplaySpec
from brightcore.procedure.purpose import needed_stations

PROGRAMMED = (ControllerSpec, DisplaySpec)
"""Parts that are set to something: whoever brings one needs Set and Program."""


def needed_on(job: Job) -> tuple[str, ...]:
    """Return the stations that a job needs: by its purposes, and by what it has changed or will
    change."""
    needed = list(needed_stations(job.purposes))
    changes = (changes_of(job), planned_of(job))
    fitted = set().union(*(change.fitted for change in changes))
    if any(
        part.id in fitted and isinstance(part.spec, PROGRAMMED) for part in way_of(job).plan.parts
    ):
        needed += ["set", "program"]
    if any(changes):
        needed += ["wire", "prove"]
    order = [station.key for station in stations()]
    return tuple(key for key in order if key in needed)


def reading_key(danger: Danger) -> str:
    """Return the key under which a danger that was read stands in the list."""
    return f"reading:{danger.uuid}"


def whats_open(job: Job) -> list[OpenItem]:
    """Return everything that is open on a job, what can hurt first."""
    found = []
    if standing_quarantines(job):
        found.append(OpenItem("quarantine", "arrive", "The pack is in quarantine"))
    for danger in standing_dangers(job):
        found.append(OpenItem(reading_key(danger), danger.station, f"Danger: {danger.words}"))
    for item in open_dangers(job):
        words = f"{item.finding.code}: {item.text}"
        found.append(OpenItem(f"danger:{item.finding.key}", "wire", words))
    needed = needed_on(job)
    for station in stations():
        found += station.open(job, station.key in needed)
    waiting = unanswered_cause(job)
    if waiting is not None:
        words = f"Say what the root cause was. To look for: {waiting.root_cause}"
        found.append(OpenItem(f"cause:{waiting.round}", "record", words))
    return found
