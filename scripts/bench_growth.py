"""Pages of a shop that has grown, and of bikes that have. Run by bench.py with a data folder of its
own."""

import os
import sys
import time
import uuid
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"

SIZES = ((500, 400, 150), (5_000, 400, 200), (20_000, 4_000, 300))
"""Jobs, bikes, and what 95 % of the pages must stay under, in ms."""

PARTS = (10, 40, 120)
LOOKED_AT_S = 5.0
"""What somebody looks at the sheet for before asking for the PDF."""

LOG_LINES = 8
REPEATS = 12
CHUNK = 2_000
COMPLAINTS = (
    "Dead after rain",
    "Cuts out uphill",
    "No assist",
    "Stutters from a stop",
    "Error on the display",
)


def fill(jobs: int, bikes: int) -> None:
    """Copy the bikes and jobs of the demo until there are enough, with arrival, log and
    evidence."""
    from brightcircuit.bikes.models import Bike, Revision
    from brightcircuit.jobs.models import Job

    models = list(Revision.objects.order_by("id")[:5])
    have = Bike.objects.count()
    labels = [f"{models[n % len(models)].bike.label} {n}" for n in range(have, bikes)]
    made = Bike.objects.bulk_create(
        [
            Bike(label=label, uuid=uuid.uuid4(), frame_number=f"LY{n:06d}")
            for n, label in enumerate(labels, have)
        ],
        batch_size=CHUNK,
    )
    Revision.objects.bulk_create(
        [_revision_of(bike, models[n % len(models)]) for n, bike in enumerate(made, have)],
        batch_size=CHUNK,
    )
    revisions = list(Revision.objects.defer("document").order_by("id"))
    for begin in range(Job.objects.count(), jobs, CHUNK):
        _fill_jobs(revisions, min(CHUNK, jobs - begin))


def _revision_of(bike: Any, model: Any) -> Any:
    from brightcircuit.bikes.models import Revision
    from brightcircuit.bikes.translate import core_bike, document_hash
    from brightcore.formats.bike_writing import dump_bike

    core = core_bike(model)
    core = replace(core, uuid=str(bike.uuid), info=replace(core.info, label=bike.label))
    text = dump_bike(core)
    return Revision(
        bike=bike,
        number=1,
        document=text,
        sha256=document_hash(text),
        created_by_id=model.created_by_id,
    )


def _fill_jobs(revisions: list[Any], count: int) -> None:
    """Add that many jobs: one in ten still open, with what a job of a week has."""
    from django.utils import timezone

    from brightcircuit.arrive.models import TRIAGE, Arrival
    from brightcircuit.jobs.models import Job, LogEntry, Repair
    from brightcircuit.shop.models import Person
    from brightcircuit.trace.models import Entry

    actor, now = Person.objects.get(username="quill"), timezone.now()
    first = Job.objects.earliest("number")
    begin = Job.objects.latest("number").number + 1
    who = {"by": actor, "by_name": str(actor)}
    jobs = Job.objects.bulk_create(
        [
            Job(
                number=n,
                revision=revisions[n % len(revisions)],
                complaint=f"{COMPLAINTS[n % len(COMPLAINTS)]}, {n}",
                status="open" if n % 10 == 0 else "closed",
                opened=now,
                opened_by=actor,
                summary=first.summary,
            )
            for n in range(begin, begin + count)
        ]
    )
    answers = {name: False for name, _ in TRIAGE}
    Arrival.objects.bulk_create([Arrival(job=job, triage=answers) for job in jobs])
    LogEntry.objects.bulk_create(
        [
            LogEntry(job=job, at=now, by=str(actor), what="evidence", text=f"Reading {k}: 4.9 V")
            for job in jobs
            for k in range(LOG_LINES)
        ]
    )
    Entry.objects.bulk_create(
        [
            Entry(
                job=job,
                at=now,
                kind="look",
                value="dark",
                scene="switch_on",
                observable="display",
                **who,
            )
            for job in jobs
        ]
    )
    Repair.objects.bulk_create(
        [
            Repair(
                job=job,
                round=1,
                repair="part:controller",
                action="Exchange",
                at=now,
                proof="passed",
                **who,
            )
            for job in jobs
            if not job.is_open
        ]
    )


def page_times(client: Any) -> list[tuple[str, float, float]]:
    """Return (page, median, 95 % under) in ms of the pages that grow with the shop."""
    from brightcircuit.jobs.models import Job

    job = Job.objects.filter(status="closed").order_by("?").select_related("revision__bike").first()
    assert job is not None
    bike = job.revision.bike.uuid
    pages = {
        "Bench": "/",
        "Bench, all, last page": "/?status=all&page=99999",
        "Bench, search": f"/?q={job.complaint.split(',')[0]}&status=all",
        "Bench, search in vain": "/?q=nothing+like+this&status=all",
        "New job": "/jobs/new/",
        "Bikes": "/bikes/",
        "Bikes, last page": "/bikes/?page=99999",
        "Bikes, search": "/bikes/?q=fern+2",
        "Bike": f"/bikes/{bike}/",
        "Arrive": f"/jobs/{job.uuid}/arrive/",
        "Record": f"/jobs/{job.uuid}/record/",
        "Parts": "/parts/",
    }
    return [(name, *times_of(client, url)) for name, url in pages.items()]


def times_of(client: Any, url: str, repeats: int = REPEATS) -> tuple[float, float]:
    """Return the median and what 95 % are under, in ms; the first answer is left out."""
    seconds = []
    for k in range(repeats + 1):
        begun = time.perf_counter()
        response = client.get(url)
        assert response.status_code == 200, (url, response.status_code)
        if k:
            seconds.append(1e3 * (time.perf_counter() - begun))
    return float(np.median(seconds)), float(np.quantile(seconds, 0.95))


def of_bikes(client: Any) -> None:
    """Print the pages of one bike by its parts."""
    from tests.bikes import generated_bike

    from brightcircuit.bikes.services import store_bike
    from brightcircuit.shop.models import Person
    from brightcircuit.stations.opening import open_job
    from brightcore.analysis.bike import analysis_of

    actor = Person.objects.get(username="quill")
    urls = (
        "wire/",
        "match/",
        "wire/first-power-up/",
        "wire/order/",
        "wire/sheet/",
        "wire/sheet.pdf",
    )
    print(
        "\n| parts of the bike | Wire | Match | first power-up | order of work | sheet | "
        "sheet as PDF |"
    )
    print("| --- | --- | --- | --- | --- | --- | --- |")
    for count in PARTS:
        revision = store_bike(actor=actor, bike=generated_bike(1, count)).revision
        job = open_job(actor=actor, revision=revision, complaint="Build it")
        cells = []
        for url in urls:
            analysis_of.cache_clear()
            time.sleep(LOOKED_AT_S if url.endswith(".pdf") else 0.0)
            begun = time.perf_counter()
            response = client.get(f"/jobs/{job.uuid}/{url}")
            assert response.status_code == 200, (url, response.status_code)
            b"".join(response) if response.streaming else response.content
            cells.append(f"{time.perf_counter() - begun:.2f} s")
        print(f"| {count} | {' | '.join(cells)} |", flush=True)
    print(
        "\nEach from nothing, no predictions worked out beside it; up to twice as long while "
        "some are."
    )
    print(f"The PDF {LOOKED_AT_S:.0f} s after the sheet, whose page starts what lays it out.")
    print("Targets: first power-up and PDF of 40 parts under 3 s.")


def main() -> None:
    """Print the Markdown of this section."""
    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command
    from django.test import Client

    from brightcircuit.demo.load import load_demo
    from brightcircuit.shop.models import Person

    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    load_demo()
    settings.ALLOWED_HOSTS.append("testserver")
    settings.PREPARE_PREDICTIONS = False
    client = Client()
    person = Person.objects.get(username="quill")
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    found: dict[str, list[str]] = {}
    for jobs, bikes, _ in SIZES:
        fill(jobs, bikes)
        for name, median, high in page_times(client):
            found.setdefault(name, []).append(f"{median:.0f} / {high:.0f}")
    heads = [f"{jobs:,} jobs, {bikes:,} bikes (target {most} ms)" for jobs, bikes, most in SIZES]
    print("Median / 95 % under, in ms.\n")
    print(f"| page | {' | '.join(heads)} |\n| --- | {' | '.join('---' for _ in heads)} |")
    for name, cells in found.items():
        print(f"| {name} | {' | '.join(cells)} |")
    of_bikes(client)
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    main()
