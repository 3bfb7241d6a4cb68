"""Reading jobs."""

import uuid

from django.core.paginator import Page, Paginator
from django.db.models import Count, F, Q, QuerySet

from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job, Photo, Repair
from brightcircuit.shop.models import Person

ON_A_PAGE = 24

HELD = ("quarantine", "pack", "danger")
"""Steps at which something that can hurt stands first."""

SORTS = {
    "newest": ("-number",),
    "oldest": ("number",),
    "bike": ("revision__bike__label", "-number"),
    "promised": (F("promised").asc(nulls_last=True), "number"),
}
"""Orders of the Bench."""


def fitting(words: str) -> QuerySet[Job]:
    """Return the jobs that hold every one of some words: in the bike's name, description or frame
    number, in the complaint, or as the job's number (`6`, `job 6`, `#6`)."""
    found: QuerySet[Job] = Job.objects.all()
    for word in words.split():
        bike = Q(revision__bike__label__icontains=word) | Q(
            revision__bike__frame_number__icontains=word
        )
        fits = bike | Q(revision__bike__description__icontains=word) | Q(complaint__icontains=word)
        number = word.lstrip("#")
        if number.isdecimal() and len(number) < 10:
            fits |= Q(number=int(number))
        if word.lower() in ("job", "jobs"):
            continue
        found = found.filter(fits)
    return found


def shown_as(show: str, person: Person) -> Q:
    """Return which jobs one view of the Bench shows: `open`, `mine`, `held`, `promised`, `waits`,
    `prove`, `closed` or `all`."""
    is_open = Q(status=Job.Status.OPEN)
    return {
        "open": is_open,
        "mine": is_open & (Q(worker=person) | Q(worker=None, opened_by=person)),
        "promised": is_open & Q(promised__isnull=False),
        "waits": is_open & ~Q(waiting=""),
        "held": is_open & Q(summary__step__in=HELD),
        "prove": is_open & Q(summary__step__in=("prove", "close")),
        "closed": Q(status=Job.Status.CLOSED),
    }.get(show, Q())


def bench(show: str, words: str, page: int, person: Person, sort: str = "newest") -> "Page[Job]":
    """Return one page of jobs for the Bench; only stored summaries are read."""
    found = fitting(words).filter(shown_as(show, person))
    found = found.select_related("revision__bike", "opened_by", "worker").defer(
        "revision__document", "conclusion"
    )
    return Paginator(found.order_by(*SORTS.get(sort, SORTS["newest"])), ON_A_PAGE).get_page(page)


def bench_counts(words: str, person: Person) -> dict[str, int]:
    """Return how many of the jobs that fit some words each view of the Bench shows, closed and all
    left out."""
    shows = ("open", "mine", "held", "promised", "waits", "prove")
    counts: dict[str, int] = fitting(words).aggregate(
        **{show: Count("pk", filter=shown_as(show, person)) for show in shows}
    )
    return counts


def open_jobs_on(bike: Bike) -> list[Job]:
    """Return the open jobs on a bike."""
    return list(Job.objects.filter(revision__bike=bike, status=Job.Status.OPEN))


def proofs_by_belief() -> list[tuple[float | None, str, int]]:
    """Return (belief when it was named, None where Trace did not; proof; how many) of this shop's
    repairs."""
    rows = Repair.objects.filter(imported=False).exclude(proof=Repair.Proof.OPEN)
    return list(rows.values_list("probability", "proof").annotate(n=Count("id")))


def whole_job(job_uuid: uuid.UUID) -> QuerySet[Job]:
    """Return the one job with what every station page needs."""
    return Job.objects.filter(uuid=job_uuid).select_related(
        "revision__bike", "arrival", "match_plan", "donor__bike", "worker"
    )


def by_place(job: Job) -> dict[str, list[Photo]]:
    """Return the pictures of a job by what they show."""
    found: dict[str, list[Photo]] = {}
    for photo in job.photos:
        found.setdefault(photo.place, []).append(photo)
    return found
