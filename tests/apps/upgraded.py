"""Run on a data folder of an earlier revision: brings it up to date and opens every page of every
job."""

import json
import sys

import django

django.setup()

from django.conf import settings  # noqa: E402
from django.test import Client  # noqa: E402
from django.urls import reverse  # noqa: E402

from brightcircuit.jobs.models import Job, Repair  # noqa: E402
from brightcircuit.jobs.quarantine import standing_quarantines  # noqa: E402
from brightcircuit.shop.models import Person  # noqa: E402
from brightcircuit.shop.soundness import look_over  # noqa: E402
from brightcircuit.shop.upgrade import bring_up_to_date  # noqa: E402
from brightcircuit.stations.registry import stations  # noqa: E402
from tests.amount import sampled  # noqa: E402

EACH = 6


def main() -> None:
    """Print what was said, which pages did not open, and what came over."""
    said: list[str] = []
    bring_up_to_date(lambda words: said.append(str(words)))
    settings.ALLOWED_HOSTS.append("testserver")
    settings.PREPARE_PREDICTIONS = False  # pages open without; what engines say is tested elsewhere
    client = Client(raise_request_exception=False)
    client.force_login(
        Person.objects.get(username="lead"), backend="django.contrib.auth.backends.ModelBackend"
    )
    wrong = []
    names = []
    for station in stations():
        names += dict.fromkeys((station.key, *(section.url_name for section in station.sections)))
    for place, job in enumerate(Job.objects.all()):
        # Every page is opened for some of the jobs, every job on some of the pages.
        for name in sampled(names[place % EACH :], EACH):
            answer = client.get(reverse(name, args=(job.uuid,)))
            if answer.status_code != 200:
                wrong.append(f"{job} {name}: {answer.status_code}")
    found = {
        "backed_up": any("Backed up" in words for words in said),
        "wrong": wrong,
        "unsound": [words for sound, words in look_over() if not sound],
        "jobs": Job.objects.count(),
        "repairs": Repair.objects.count(),
        "evidence": sum(job.evidence.count() for job in Job.objects.all()),
        "quarantined": [
            job.revision.bike.label
            for job in Job.objects.select_related("revision__bike")
            if standing_quarantines(job)
        ],
    }
    json.dump(found, sys.stdout)


if __name__ == "__main__":
    main()
