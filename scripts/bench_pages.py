"""Page times with 500 jobs, page weight and memory. Run by bench.py with a data folder of its
own."""

import gzip
import os
import re
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np
from visitor import Visitor

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
os.environ["DJANGO_SETTINGS_MODULE"] = "brightcircuit.settings"
PORT = 8979
JOBS = 500
WARM = (
    "hub-conversion",
    "mid-conversion",
    "two-packs",
    "two-motor-cart",
    "folding",
    "hub-conversion",
    "two-packs",
    "folding",
)
"""Patterns of the bikes whose engines are in memory when it is measured."""

REPEATS = 15
PASSWORD = "lantern-yard"
CONTEXT = (
    "Demo data plus jobs up to 500; Django's test client through the whole middleware; "
    "engines warm."
)


def fill() -> None:
    """Copy demo jobs until there are enough."""
    from brightcircuit.jobs.models import Job
    from brightcircuit.shop.models import Person
    from brightcircuit.stations.opening import open_job

    actor = Person.objects.get(username="quill")
    models = list(Job.objects.select_related("revision"))
    while Job.objects.count() < JOBS:
        model = models[Job.objects.count() % len(models)]
        job = open_job(actor=actor, revision=model.revision, complaint=model.complaint)
        Job.objects.filter(pk=job.pk).update(summary=model.summary)


def page_times() -> list[tuple[str, float, float]]:
    """Return (page, median, 95 % under) in ms."""
    from django.conf import settings
    from django.test import Client

    from brightcircuit.engines.belief import description_now
    from brightcircuit.engines.holders import holder_for, wait_until_idle
    from brightcircuit.jobs.models import Job
    from brightcircuit.match.services import add_variant
    from brightcircuit.shop.models import Person

    settings.PREPARE_PREDICTIONS = True
    settings.ALLOWED_HOSTS.append("testserver")
    client = Client()
    client.force_login(
        Person.objects.get(username="quill"), backend="django.contrib.auth.backends.ModelBackend"
    )
    job = (
        Job.objects.select_related("revision__bike")
        .filter(revision__bike__label="Fern", status="open")
        .earliest("number")
    )
    holder_for(description_now(job))
    wait_until_idle()
    pages = {
        "Bench": "/",
        "Bench, search": "/?q=wet&status=all",
        "New job": "/jobs/new/",
        "Bikes": "/bikes/",
        "Bike": f"/bikes/{job.revision.bike.uuid}/",
    }
    pages |= {name: f"/jobs/{job.uuid}/{name.lower()}/" for name in ("Arrive", "Trace", "Record")}
    four = Job.objects.filter(revision__bike__label="Juniper").earliest("number")
    add_variant(
        actor=Person.objects.get(username="quill"),
        job=four,
        variant={"name": "second pack", "second_pack": "pack-48v-13s4p"},
    )
    pages |= {
        f"Wire{what}": f"/jobs/{job.uuid}/wire/{path}"
        for what, path in (
            ("", ""),
            (", ways", "routes/"),
            (", fixes", "fixes/"),
            (", sheet", "sheet/"),
        )
    }
    pages |= {
        f"Program{what}": f"/jobs/{job.uuid}/program/{path}"
        for what, path in (("", ""), (", checks", "checks/"), (", snapshots", "snapshots/"))
    }
    pages["Set"] = f"/jobs/{job.uuid}/set/"
    pages["The day"] = "/day/"
    pages["Match, cost"] = f"/jobs/{job.uuid}/match/cost/"
    pages["Match, four variants"] = f"/jobs/{four.uuid}/match/"
    pages |= {"Parts": "/parts/", "Describe": f"/bikes/{four.revision.bike.uuid}/describe/"}
    found, everything = [], []
    for name, url in pages.items():
        seconds = []
        for k in range(REPEATS + 1):
            begun = time.perf_counter()
            response = client.get(url)
            if k:
                seconds.append(1e3 * (time.perf_counter() - begun))
            assert response.status_code == 200, (url, response.status_code)
        everything += seconds
        found.append((name, float(np.median(seconds)), float(np.quantile(seconds, 0.95))))
    return [
        *found,
        ("all pages", float(np.median(everything)), float(np.quantile(everything, 0.95))),
    ]


def change_times() -> tuple[float, float, float]:
    """Return ms of a change of the wiring on the drawing of a 40-part bike, sent and answered:
    median, worst, and of the sending alone."""
    from django.test import Client
    from tests.bikes import generated_bike

    from brightcircuit.bikes.services import store_bike
    from brightcircuit.engines.holders import wait_until_idle
    from brightcircuit.shop.models import Person
    from brightcircuit.stations.opening import open_job

    wait_until_idle()
    actor = Person.objects.get(username="quill")
    core = generated_bike(1, 40)
    job = open_job(
        actor=actor, revision=store_bike(actor=actor, bike=core).revision, complaint="Build it"
    )
    client = Client()
    client.force_login(actor, backend="django.contrib.auth.backends.ModelBackend")
    url, join = f"/jobs/{job.uuid}/wire/", core.joins[0]
    one, two = (".".join(side) for side in join.sides())
    client.get(url)
    whole, sending = [], []
    for k in range(REPEATS + 1):
        data = (
            {"action": "unjoin", "join": join.id}
            if k % 2 == 0
            else {"action": "join", "one": one, "two": two}
        )
        begun = time.perf_counter()
        sent = client.post(url, data)
        middle = time.perf_counter()
        assert sent.status_code == 302 and client.get(url).status_code == 200
        if k % 2:
            join = newest_join(job, one)
        if k > 1:
            whole.append(1e3 * (time.perf_counter() - begun))
            sending.append(1e3 * (middle - begun))
    return float(np.median(whole)), max(whole), float(np.median(sending))


def newest_join(job: Any, plug: str) -> Any:
    """Return the join at a plug of a job's bike as it now is."""
    from brightcircuit.bikes.translate import core_bike

    job.refresh_from_db()
    return next(core_bike(job.revision).joins_of(*plug.split(".")))


def tick_times() -> tuple[float, float, float]:
    """Return ms of a tick in the order of work of a 40-part build: median, worst, and of the page
    it is on.

    The page is asked for once before, as a person does; the trial of the first power-up falls
    there.
    """
    from django.test import Client
    from tests.apps.base import ALL_NO
    from tests.bikes import generated_bike

    from brightcircuit.arrive.services import answer_triage
    from brightcircuit.bikes.services import store_bike
    from brightcircuit.jobs.services import Beginning
    from brightcircuit.shop.models import Person
    from brightcircuit.stations.opening import open_job
    from brightcircuit.wire.queries import work_of

    actor = Person.objects.get(username="quill")
    job = open_job(
        actor=actor,
        revision=store_bike(actor=actor, bike=generated_bike(2, 40)).revision,
        complaint="Build it",
        purposes=["build"],
        beginning=Beginning("shall"),
    )
    answer_triage(actor=actor, job=job, answers=ALL_NO)
    client = Client()
    client.force_login(actor, backend="django.contrib.auth.backends.ModelBackend")
    url = f"/jobs/{job.uuid}/wire/order/"
    client.get(url)
    ticks, pages = [], []
    for step in work_of(job).steps:
        begun = time.perf_counter()
        sent = client.post(url, {"step": step.id, "done": "1"})
        middle = time.perf_counter()
        if sent.status_code == 422:
            continue  # a step with the pack in, refused while a finding of danger stands
        assert client.get(url).status_code == 200
        ticks.append(1e3 * (middle - begun))
        pages.append(1e3 * (time.perf_counter() - middle))
    return float(np.median(ticks)), max(ticks), float(np.median(pages))


def served() -> tuple[float, float]:
    """Return (memory of the server in MB, first load of the sign-in page and its files in kB,
    compressed)."""
    server = subprocess.Popen(
        [sys.executable, "manage.py", "serve", "--port", str(PORT)],
        cwd=ROOT,
        stdout=subprocess.DEVNULL,
    )
    try:
        base = f"http://localhost:{PORT}"
        for _ in range(600):  # a first start loads the demo data
            try:
                html = _bytes(f"{base}/sign-in/")
                break
            except OSError:
                time.sleep(0.2)
        warm_all(base)
        page = gzip.decompress(html).decode() if html[:2] == b"\x1f\x8b" else html.decode()
        total, queue, seen = len(html), re.findall(r'(?:href|src)="(/static/[^"]+)"', page), set()
        while queue:
            address = queue.pop()
            if address in seen:
                continue
            seen.add(address)
            body = _bytes(base + address)
            total += len(body)
            text = (gzip.decompress(body) if body[:2] == b"\x1f\x8b" else body).decode(
                "utf-8", "ignore"
            )
            folder = address.rsplit("/", 1)[0]
            if address.endswith((".js", ".css")):
                names = re.findall(r'from\s*"\./([^"]+)"', text) + re.findall(
                    r"url\(\"?\.\./([^)\"]+)", text
                )
                queue += [
                    f"{folder}/{n}" if address.endswith(".js") else f"/static/{n}" for n in names
                ]
        status = Path(f"/proc/{server.pid}/status").read_text()
        return int(re.search(r"VmRSS:\s+(\d+)", status)[1]) / 1024, total / 1000  # type: ignore[index]
    finally:
        server.terminate()
        server.wait()


def warm_all(base: str) -> None:
    """Have the engines of eight bikes prepared to the end, by asking as their pages do."""
    visitor = Visitor(base)
    visitor.sign_in("quill", PASSWORD)
    jobs = [visitor.new_job(visitor.new_bike(name, name), "Dead") for name in WARM]
    while not all(visitor.json(f"/jobs/{job}/trace/progress/")["all"] for job in jobs):
        time.sleep(1.0)


def _bytes(url: str) -> bytes:
    request = urllib.request.Request(url, headers={"Accept-Encoding": "gzip"})
    with urllib.request.urlopen(request) as response:
        return bytes(response.read())


def main() -> None:
    """Print the Markdown of this section."""
    memory, weight = served()
    import django

    django.setup()
    fill()
    print(CONTEXT + "\n\n| page | median | 95 % under |\n| --- | --- | --- |")
    for name, median, high in page_times():
        print(f"| {name} | {median:.0f} ms | {high:.0f} ms |")
    change, worst, sending = change_times()
    print(
        "\nA join or un-join on the drawing of a 40-part bike, sent and the whole page answered: "
        f"median {change:.0f} ms, worst {worst:.0f} ms; "
        f"the change alone {sending:.0f} ms (target 150 ms)."
    )
    tick, slowest, page = tick_times()
    print(
        "\nA tick in the order of work of a 40-part build, through the whole middleware: median "
        f"{tick:.0f} ms, worst {slowest:.0f} ms (target 50 ms); the page it is on {page:.0f} ms."
    )
    print(
        "\nTargets: median under 60 ms, 95 % under 150 ms; Match with four variants under 150 ms.\n"
    )
    print(
        f"Memory of the server with the engines of eight bikes ready: {memory:.0f} MB (target "
        "under 400 MB)."
    )
    print(
        f"First load, compressed: {weight:.0f} kB (target under 250 kB), all from our own server."
    )
    sys.stdout.flush()
    os._exit(0)  # the worker thread may still prepare another bike


if __name__ == "__main__":
    main()
