"""Two people on one job: what one sends on what the other has changed meanwhile is shown, not
stored."""

import re
from pathlib import Path
from typing import Any

from django.urls import reverse

import brightcircuit
from brightcircuit.jobs import log
from brightcircuit.trace.models import Entry
from tests.apps.base import ALL_NO, DARK_TEST, LIT, ShopTest

SOURCE = Path(brightcircuit.__file__).parent
STATIONS = ("arrive", "match", "record", "trace", "wire")
FORM = re.compile(r"<form[^>]*method=\"post\".*?</form>", re.S)

OVERWRITES: tuple[tuple[str, dict[str, Any]], ...] = (
    ("arrive", {"action": "triage", **dict.fromkeys(ALL_NO, "no")}),
    ("arrive", {"action": "found", "wires": ["cut"]}),
    ("arrive", {"action": "waive", "key": "any", "reason": "Checked by hand"}),
    ("arrive", {"action": "lift", "reason": "Looked at"}),
    ("match", {"action": "drop", "index": "0"}),
    ("record", {"action": "close", "reason": "Rider took it"}),
    ("trace-undo", {"entry": "1"}),
    ("trace-skip", {"test": DARK_TEST}),
    ("trace-skip", {"all": "1"}),
    ("trace-proof", {"result": "passed"}),
    ("trace-repair", {"withdraw": "1"}),
    ("wire", {"action": "undo"}),
    ("wire", {"action": "unjoin", "join": "j-halls-m"}),
    ("wire-routes", {"action": "frame", "pattern": "step-through"}),
)
"""Posts that overwrite or take back what somebody else may have just done."""


class StaleTest(ShopTest):
    with_engine = True

    def test_a_change_based_on_an_older_page_is_shown_with_what_happened_since(self) -> None:
        self.safe()
        self.add(LIT)
        self.client.force_login(self.lead)
        for name, fields in OVERWRITES:
            with self.subTest(name, **fields):
                job = self.job
                log.write(job, self.lead, "arrival", "Noted: handlebar bent")
                before = (
                    self.job.version,
                    self.job.status,
                    Entry.objects.filter(undone=True).count(),
                )
                url = reverse(name, args=(job.uuid,))
                answer = self.client.post(url, {**fields, "version": job.version - 1})
                self.assertEqual(answer.status_code, 409)
                page = answer.content.decode()
                for words in (
                    "handlebar bent",
                    "boss",
                    f'value="{job.version}"',
                    *map(str, fields.values()),
                ):
                    if words not in ("['cut']",):
                        self.assertIn(words, page)
                after = (
                    self.job.version,
                    self.job.status,
                    Entry.objects.filter(undone=True).count(),
                )
                self.assertEqual(before, after)

    def test_sent_again_from_the_page_that_shows_both_it_counts(self) -> None:
        self.add_looks()
        job = self.job
        entry = job.evidence.get()
        url = reverse("trace-undo", args=(job.uuid,))
        self.assertEqual(self.client.post(url, {"entry": entry.pk, "version": 1}).status_code, 409)
        self.assertEqual(
            self.client.post(url, {"entry": entry.pk, "version": self.job.version}).status_code, 302
        )
        self.assertTrue(job.evidence.get().undone)

    def add_looks(self) -> None:
        """One piece of evidence, on a pack that was looked at."""
        self.safe()
        self.add(LIT)

    def test_what_only_adds_counts_whatever_has_happened(self) -> None:
        for fields in ({"action": "note", "note": "Wet", "was": ""}, {"action": "symptoms"}):
            with self.subTest(**fields):
                url = reverse("arrive", args=(self.job.uuid,))
                self.assertEqual(self.client.post(url, {**fields, "version": 0}).status_code, 302)

    def test_every_form_of_every_station_says_what_it_was_based_on(self) -> None:
        bare = [
            f"{path.name}: {form[:60]}"
            for station in STATIONS
            for path in (SOURCE / station).rglob("*.html")
            for form in FORM.findall(path.read_text())
            if "parts/based_on.html" not in form
        ]
        self.assertEqual(bare, [])
