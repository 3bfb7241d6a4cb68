"""What may be offered to a customer: the repair that Trace names, and the usual ways to replace or
rescue."""

from dataclasses import replace
from decimal import Decimal

from brightcircuit.engines.belief import PAGE, job_trace
from brightcircuit.jobs.models import Job
from brightcircuit.jobs.way import stands_of
from brightcore.kinds.select import packs
from brightcore.matching.cost import usual_options
from brightcore.procedure.costing import CENT, Proposal, repair_proposal
from brightcore.tracing.endings import conclude

NAMED = ("repair",)
"""Endings that name a repair."""

FROM_MAKER = ("rebuild", "controller", "pack")
"""Ways of a locked system whose parts come from its maker alone, if at all."""


def proposals_of(job: Job) -> list[Proposal]:
    """Return what may be offered, the repair first: figures of Match where it has any, else usual
    ones."""
    bike = stands_of(job)
    plan = getattr(job, "match_plan", None)
    asked = plan.data if plan else {}
    locked = bool(asked.get("locked")) or "rescue" in job.purposes
    own = asked.get("options", {})
    held = sum(pack.spec.capacity_ah * pack.spec.series_count * 3.6 for pack in packs(bike))
    found = _repair(job, locked)
    for usual in usual_options(held, locked):
        option = replace(usual, **own.get(usual.id, {}))
        if option.loses:
            lost = f"loses {option.loses}"
        else:
            lost = ""
        if option.keeps:
            kept = f"keeps {option.keeps}"
        else:
            kept = ""
        if locked and option.id in FROM_MAKER:
            available = "maker"
        else:
            available = "universal"
        cost = Decimal(str(round(option.parts_cost))).quantize(CENT)
        note = "; ".join(filter(None, (kept, lost)))
        found.append(Proposal(option.title, cost, round(option.minutes), available, note))
    return found


def _repair(job: Job, locked: bool) -> list[Proposal]:
    """Return the repair that Trace names now or has named, none where it names none."""
    found = job_trace(job, who=PAGE)
    if found.trace is not None:
        with found.holder.lock:
            conclusion = conclude(found.trace)
        if conclusion.repair:
            repair = conclusion.repair
            made = repair_proposal(repair.action, repair.cost_level, repair.minutes, "", locked)
            if conclusion.status in NAMED:
                return [made]
            # What leads is told with how sure it is: a customer hears what may still change.
            share = round(100 * conclusion.probability)
            return [replace(made, note=f"not certain yet: about {share} %")]
    done = job.repairs.last()
    if done is None:
        return []
    minutes, level = (
        float(job.conclusion.get("minutes", 20.0)),
        int(job.conclusion.get("cost_level", 1)),
    )
    return [repair_proposal(done.action, level, minutes, "", locked)]
