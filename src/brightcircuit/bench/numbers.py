"""The shop's numbers: from its own closed jobs alone."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from brightcircuit.bench.queries import closed_jobs
from brightcircuit.jobs.models import Job, Repair
from brightcore.procedure.numbers import ClosedJob, Done, numbers
from brightcore.procedure.purpose import purposes_of

PASSED = {Repair.Proof.PASSED: True, Repair.Proof.FAILED: False}


def numbers_page(request: HttpRequest) -> HttpResponse:
    """Show what the closed jobs of this shop tell; jobs from files are not among them."""
    jobs = closed_jobs()
    told = numbers(_closed(job) for job in jobs)
    kinds = []
    for key, count, minutes in told.kinds:
        kinds.append((purposes_of([key])[0].title, count, minutes))
    context = {
        "told": told,
        "jobs": len(jobs),
        "kinds": kinds,
    }
    return render(request, "bench/numbers.html", context)


def _closed(job: Job) -> ClosedJob:
    return ClosedJob(
        job.revision.bike_id,
        tuple(purpose.key for purpose in purposes_of(job.purposes)),
        timezone.localdate(job.opened),
        timezone.localdate(job.closed),
        job.minutes or 0.0,  # type: ignore[attr-defined]
        tuple(_done(row) for row in job.repairs.all()),
    )


def _done(row: Repair) -> Done:
    passed = PASSED.get(row.proof)  # type: ignore[call-overload]
    return Done(row.fault_class, row.action, passed)
