"""Every page in every state, sampled: no sideways scroll, nothing small, nothing the checker
finds."""

import os
from collections.abc import Callable
from itertools import cycle

from django.utils import timezone

from brightcircuit.arrive.models import Arrival
from brightcircuit.arrive.services import answer_triage
from brightcircuit.bikes.models import Bike
from brightcircuit.jobs.models import Job
from brightcircuit.shop.models import Person
from tests.apps.base import ALL_NO
from tests.browser.base import BrowserTest
from tests.browser.crawl import WIDTHS, accessible, discover, measure

EVERY = bool(os.environ.get("CRAWL_ALL"))
"""All widths of every page in every state; otherwise one width each, another one every time."""

CHECKED_EACH = 16
"""The checker of accessibility looks at every sixteenth page here; each view has its own test of
it."""

LONG = (
    "Long-tailed delivery longtail of the north harbour lending library with the blue box, number "
    "twelve of twelve, second one"
)


def _person(**values: str) -> None:
    Person.objects.update(**values)


def _long() -> None:
    Bike.objects.update(label=LONG[:120], frame_number=LONG[:80])
    Job.objects.update(complaint=f"{LONG} {LONG}" + "x" * 120)


def _quarantined() -> None:
    for job in Job.objects.filter(status="open").select_related("revision__bike", "arrival"):
        answer_triage(
            actor=Person.objects.get(username="lead"), job=job, answers=ALL_NO | {"hot": True}
        )


def _closed() -> None:
    Job.objects.update(status="closed", closed=timezone.now())


def _many() -> None:
    job = (
        Job.objects.select_related("revision__bike", "arrival")
        .filter(status="open")
        .latest("number")
    )
    bikes = [
        Bike(label=f"Rowan {n:03d}", frame_number=f"LY-{n}", small=job.revision.bike.small)
        for n in range(400)
    ]
    Bike.objects.bulk_create(bikes)
    made = Job.objects.bulk_create(
        Job(
            number=1000 + n,
            revision=job.revision,
            complaint=f"Shudders, number {n}",
            opened=job.opened,
            opened_by=job.opened_by,
            summary=job.summary,
            version=job.version,
        )
        for n in range(500)
    )
    Arrival.objects.bulk_create(Arrival(job=row, triage=job.arrival.triage) for row in made)


STATES: tuple[tuple[str, Callable[[], None]], ...] = (
    ("demo", lambda: None),
    ("dark", lambda: _person(theme="dark")),
    ("largest text, both units", lambda: _person(text_size="largest", units="both", decimal=",")),
    ("long names", _long),
    ("quarantined", _quarantined),
    ("400 bikes and 500 jobs", _many),
    ("closed", _closed),
)


SHARE = 2 * len(STATES)
"""Every state but the first is looked at on one of so many of the pages."""


class CrawlTest(BrowserTest):
    def test_every_page_in_every_state_holds(self) -> None:
        self.widths = cycle(WIDTHS)
        known: list[tuple[str, str]] = []
        wrong: list[str] = []
        for n, (state, make) in enumerate(STATES):
            self.page.context.clear_cookies()
            make()
            self.sign_in("lead")
            # The demo is walked by its links, each page measured as it is met; the other states
            # have the same pages, of which each state is looked at on its own share.
            if EVERY:
                wrong += self.looked_over(state, list(discover(self.page)))
            elif not known:
                for found in discover(self.page):
                    wrong += self.measured(f"{state}, {found[0]}", next(self.widths), len(known))
                    known.append(found)
            else:
                wrong += self.looked_over(state, known[n::SHARE])
            if state != "dark":
                Person.objects.update(theme="", text_size="", units="metric", decimal=".")
            self.page.set_viewport_size({"width": 1280, "height": 800})
        self.assertEqual(wrong, [], "\n".join(wrong))

    def looked_over(self, state: str, pages: list[tuple[str, str]]) -> list[str]:
        """Return what is wrong with some pages, each opened at one width, at all where every one is
        asked."""
        wrong = []
        for k, (name, path) in enumerate(pages):
            for width in WIDTHS if EVERY else (next(self.widths),):
                self.page.set_viewport_size({"width": width, "height": 800})
                self.page.goto(path)
                wrong += self.measured(f"{state}, {name}", width, k)
        return wrong

    def measured(self, where: str, width: int, k: int) -> list[str]:
        """Return what is wrong with the page that is open, at a width."""
        self.page.set_viewport_size({"width": width, "height": 800})
        told = measure(self.page)
        told += accessible(self.page) if EVERY or k % CHECKED_EACH == 0 else []
        return [f"{where} at {width}: {words}" for words in told]
