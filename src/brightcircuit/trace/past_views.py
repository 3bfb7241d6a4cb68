"""How right past proposals were, and what this shop's own cases do to the priors."""

import uuid
from dataclasses import dataclass

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.shown import Shown
from brightcircuit.engines.holders import forget_engines
from brightcircuit.jobs.models import Repair
from brightcircuit.jobs.queries import proofs_by_belief
from brightcircuit.jobs.repairs import confirmed_counts, forget_counts
from brightcircuit.jobs.stale import changing
from brightcircuit.stations.frame import job_frame
from brightcore.tracing.hypotheses import LEAST_COUNT

BANDS = ((0.0, 0.8), (0.8, 0.95), (0.95, 0.99), (0.99, 1.01))
"""Bands of belief that are told apart."""


@dataclass(frozen=True, slots=True)
class Band:
    """How often repairs of which Trace was so sure have passed and failed their proof."""

    words: str
    passed: int
    failed: int


@dataclass(frozen=True, slots=True)
class Counted:
    """How often this shop confirmed faults of a class, and whether that moves the prior."""

    fault_class: str
    confirmed: int
    moves: bool


@dataclass(frozen=True)
class ProposalsPage(Shown):
    """What the page shows."""

    bands: list[Band]
    by_hand: Band
    counted: list[Counted]
    least: int


def proposals_page(request: HttpRequest, job_uuid: uuid.UUID) -> HttpResponse:
    """Show how right past proposals were; a shop lead can reset what a class of fault has added."""
    job = changing(request, job_uuid, adds=True)
    if request.method == "POST":
        try:
            gone = forget_counts(
                actor=actor(request), fault_class=request.POST.get("fault_class", "")
            )
            forget_engines()
            messages.success(
                request, f"{gone} cases no longer move the ranking. They stay in the record."
            )
        except PermissionDenied as problem:
            messages.error(request, str(problem))
        return redirect("trace-proposals", job.uuid)
    rows = proofs_by_belief()
    bands = []
    for low, high in BANDS:
        bands.append(
            _band(
                f"{low:.0%} to {min(high, 1.0):.0%} sure",
                [r for r in rows if r[0] is not None and low <= r[0] < high],
            )
        )
    counts = sorted(confirmed_counts().items(), key=lambda item: (-item[1], item[0]))
    page = ProposalsPage(
        bands,
        _band("not told by Trace", [r for r in rows if r[0] is None]),
        [Counted(name, n, n >= LEAST_COUNT) for name, n in counts],
        LEAST_COUNT,
    )
    return render(request, "trace/proposals.html", {**job_frame(job, "trace"), **page.context()})


def _band(words: str, rows: list[tuple[float | None, str, int]]) -> Band:
    passed = sum(n for _, proof, n in rows if proof == Repair.Proof.PASSED)
    return Band(words, passed, sum(n for _, _, n in rows) - passed)
