"""Reading what Wire keeps in a job's log."""

import re

from brightcircuit.jobs.models import Job

_TICK = re.compile(r"^(Done|Not done) \((\S+)\): ")


def done_steps(job: Job) -> dict[str, str]:
    """Return who did each step of the order of work that stands as done. The job's log is where ticks are kept."""
    done: dict[str, str] = {}
    for entry in job.log.filter(what="order"):
        match = _TICK.match(entry.text)
        if match and match[1] == "Done":
            done[match[2]] = entry.by
        elif match:
            done.pop(match[2], None)
    return done
