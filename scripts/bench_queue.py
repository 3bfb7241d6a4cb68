"""Several bikes opened at once: when each has its first proposal. Run by bench.py with own data."""

import os
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"
POLL_S = 1.0
MOST_S = 240.0
MANY = 40
AFTER_S = 1.0
FIVE = ("hub-conversion", "mid-conversion", "two-packs", "two-motor-cart", "folding")


def jobs_of(bikes: dict[str, object]) -> dict[str, object]:
    """Return an open job on every bike."""
    from brightcircuit.bikes.services import store_bike
    from brightcircuit.shop.models import Person
    from brightcircuit.stations.opening import open_job

    actor = Person.objects.get(username="quill")
    made = {}
    for name, bike in bikes.items():
        revision = store_bike(actor=actor, bike=bike).revision  # type: ignore[arg-type]
        made[name] = open_job(actor=actor, revision=revision, complaint="Dead")
    return made


def first_proposals(jobs: dict[str, object]) -> dict[str, float]:
    """Return seconds until each job has its first proposal, all of them asked for every second."""
    from django.db import close_old_connections

    from brightcircuit.engines.belief import job_trace

    begun = time.perf_counter()
    found: dict[str, float] = {}

    def wait(name: str) -> None:
        while time.perf_counter() - begun < MOST_S:
            if job_trace(jobs[name]).trace is not None:  # type: ignore[arg-type]
                found[name] = time.perf_counter() - begun
                break
            time.sleep(POLL_S / 5)
        close_old_connections()

    waiting = [threading.Thread(target=wait, args=(name,)) for name in jobs]
    for thread in waiting:
        thread.start()
    for thread in waiting:
        thread.join()
    return found


def main() -> None:
    """Print a table."""
    import uuid
    from dataclasses import replace

    import django

    django.setup()
    from django.conf import settings
    from django.core.management import call_command
    from tests.bikes import generated_bike

    from brightcircuit.demo.load import load_demo
    from brightcircuit.engines.holders import forget_engines, wait_until_idle
    from brightcore.describing.patterns import make_pattern

    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    load_demo()
    settings.PREPARE_PREDICTIONS = True
    five = {name: replace(make_pattern(name, name), uuid=str(uuid.uuid4())) for name in FIVE}
    large = {"117 parts": replace(generated_bike(7, 117), uuid=str(uuid.uuid4()))}
    print("| opened together | first proposals, in s | last |\n| --- | --- | --- |")
    for title, bikes in (
        ("five bikes", five),
        ("the same five again, from disk", five),
        (
            "five others beside one of 117 parts",
            {f"{n} 2": replace(b, uuid=str(uuid.uuid4())) for n, b in five.items()},
        ),
    ):
        jobs = jobs_of(bikes)
        beside = jobs_of(large) if "117" in title else {}
        if beside:
            found = first_proposals({**beside, **jobs})
            slow = found.pop("117 parts", float("inf"))
            print(f"| {title} | {_words(found, jobs)} | {max(found.values()):.1f} |")
            print(f"| the one of 117 parts among them | | {slow:.1f} |")
        else:
            found = first_proposals(jobs)
            print(
                f"| {title} | {_words(found, jobs)} | {max(found.values(), default=MOST_S):.1f} |",
                flush=True,
            )
            wait_until_idle()
            forget_engines()
    wait_until_idle()
    one_of_many()
    beside_predictions()


def beside_predictions() -> None:
    """Print what takes seconds on a bike of 40 parts, while the predictions of one of 117 are
    worked out."""
    from dataclasses import replace
    from uuid import uuid4

    from django.test import Client
    from tests.bikes import generated_bike

    from brightcircuit.engines.belief import description_now
    from brightcircuit.engines.holders import holder_for
    from brightcircuit.shop.models import Person
    from brightcore.analysis.bike import analysis_of

    bikes = {f"{n} parts": replace(generated_bike(n, n), uuid=str(uuid4())) for n in (40, 118)}
    jobs = jobs_of(bikes)  # type: ignore[arg-type]
    holder_for(description_now(jobs["118 parts"]))  # type: ignore[attr-defined]
    client = Client(SERVER_NAME="localhost")
    client.force_login(Person.objects.get(username="quill"))
    for what, page in (
        ("first power-up", "first-power-up"),
        ("sheet", "sheet"),
        ("PDF, 5 s after the sheet", "sheet.pdf"),
    ):
        time.sleep(5.0 if "PDF" in what else 0.0)
        analysis_of.cache_clear()
        begun = time.perf_counter()
        path = f"/jobs/{jobs['40 parts'].uuid}/wire/{page}"  # type: ignore[attr-defined]
        answer = client.get(path if "." in path else path + "/")
        assert answer.status_code == 200, answer.status_code
        took = time.perf_counter() - begun
        print(f"| {what} of 40 parts, beside predictions of 118 (target 3) | | {took:.1f} |")


def one_of_many() -> None:
    """Print how long one bike takes while many other jobs are open, all of them looked at a moment
    ago."""
    from dataclasses import replace
    from uuid import uuid4

    from tests.bikes import generated_bike

    from brightcircuit.engines.belief import job_trace
    from brightcircuit.engines.holders import forget_engines, wait_until_idle

    bikes = {f"{n}": replace(generated_bike(n, 12), uuid=str(uuid4())) for n in range(MANY)}
    jobs = jobs_of(bikes)  # type: ignore[arg-type]
    wait_until_idle()
    forget_engines()
    for job in jobs.values():
        job_trace(job)  # type: ignore[arg-type]
    asked = {"0": jobs["0"]}
    time.sleep(AFTER_S)
    found = first_proposals(asked)
    print(
        f"| one of {MANY} open jobs, all opened {AFTER_S:.0f} s before | | {_words(found, asked)} |"
    )


def _words(found: dict[str, float], jobs: dict[str, object]) -> str:
    """Return every time, the missing ones as such."""
    return ", ".join(f"{found[name]:.1f}" if name in found else "none" for name in jobs)


if __name__ == "__main__":
    main()
