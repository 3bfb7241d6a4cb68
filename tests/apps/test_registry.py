"""A new station is a folder and one line: rail, pages, next thing, blocks, job file and record know
it."""

import re
import tomllib
from pathlib import Path

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase, override_settings
from django.urls import reverse

from brightcircuit.engines.holders import forget_engines
from brightcircuit.jobs.safety import blocks
from brightcircuit.stations.files import export_job, import_job
from brightcircuit.stations.registry import log_words, stations
from brightcircuit.stations.summary import refresh_summary
from brightcircuit.trace.services import Blocked
from brightcore.errors import FormatError
from brightcore.formats.bike_writing import canonical_json
from tests.apps.base import LIT, ShopTest
from tests.apps.dummy.models import Weight
from tests.apps.dummy.queries import weight_of
from tests.apps.dummy.services import weigh

WITH_DUMMY = override_settings(
    STATIONS=[*settings.STATIONS, "tests.apps.dummy"],
    INSTALLED_APPS=[*settings.INSTALLED_APPS, "tests.apps.dummy"],
    ROOT_URLCONF="tests.apps.dummy.addresses",
)
SOURCES = Path(settings.ROOT) / "src" / "brightcircuit"


@WITH_DUMMY
class NewStationTest(ShopTest):
    @classmethod
    def setUpClass(cls) -> None:
        # A station of the application has migrations; this one has its table for these tests only.
        with connection.schema_editor() as editor:
            editor.create_model(Weight)
        super().setUpClass()

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        with connection.schema_editor() as editor:
            editor.delete_model(Weight)

    def setUp(self) -> None:
        super().setUp()
        # What other tests left waiting would crowd out the engine that a page here asks for.
        forget_engines()

    def weigh(self, kg: float) -> None:
        weigh(actor=self.technician, job=self.job, kg=kg)

    def test_its_page_weighs_and_keeps_what_was_typed_wrong(self) -> None:
        page = f"/jobs/{self.job_uuid}/dummy/"
        for typed, status, words in (
            ("heavy", 422, "is not a weight"),
            ("400.1", 422, "at most 400 kg"),
            ("31,5", 302, ""),
        ):
            sent = {"do": "weigh", "kg": typed, "based_on": self.job.version}
            answer = self.client.post(page, sent)
            self.assertContains(answer, words, status_code=status)
            if words:
                self.assertContains(answer, f'value="{typed}"', status_code=status)
        self.assertContains(self.client.get(page), "31.5 kg")

    def test_it_stands_on_the_rail_with_its_pages_and_its_key(self) -> None:
        text = self.client.get(f"/jobs/{self.job_uuid}/dummy/why/").content.decode()
        self.assertIn('aria-current="page"', text)
        self.assertRegex(text, r'data-key="g"[^>]*>\s*Weigh')
        self.assertRegex(text, r'why/"\s+aria-current="page">\s*Why')
        self.weigh(20.0)
        text = self.client.get(f"/jobs/{self.job_uuid}/match/").content.decode()
        self.assertIn("(done)", text[text.index("Weigh") :])

    def test_its_next_thing_stands_on_the_bench(self) -> None:
        refresh_summary(self.job)
        self.assertEqual(self.job.summary["next"], "Look at the pack")
        self.safe()
        for kg, words, where in (
            (0.0, "Weigh the bike", "Weigh"),
            (20.0, "Working out what to measure", "Trace"),
        ):
            if kg:
                self.weigh(kg)
            refresh_summary(self.job)
            self.assertEqual(self.job.summary["next"], words)
            page = self.client.get(f"/jobs/{self.job_uuid}/match/")
            self.assertContains(page, words)
            self.assertContains(page, f"Go to {where}")

    def test_what_it_holds_stands_before_powered_acts(self) -> None:
        self.safe()
        for kg, kinds in ((80.0, []), (80.1, ["weight"])):
            self.weigh(kg)
            self.assertEqual([block.kind for block in blocks(self.job)], kinds)
        with self.assertRaisesMessage(Blocked, "Too heavy for the stand."):
            self.add(LIT)

    def test_its_part_goes_into_the_job_file_and_comes_back(self) -> None:
        self.weigh(31.5)
        text = canonical_json(export_job(self.job))
        self.let_go(self.job)
        job, outcome = import_job(actor=self.technician, text=text)
        self.assertEqual((outcome, weight_of(job).kg), ("copy", 31.5))
        for old, new, path in (
            ("31.5", "-1", "$.job.stations.dummy.weight_kg"),
            ("weight_kg", "weight_lb", "$.job.stations.dummy"),
            ('"dummy"', '"nowhere"', "$.job.stations.nowhere"),
        ):
            with self.subTest(new), self.assertRaisesMessage(FormatError, path):
                import_job(actor=self.technician, text=text.replace(old, new))

    def test_its_lines_stand_on_the_record(self) -> None:
        self.weigh(31.5)
        self.assertContains(self.client.get(f"/jobs/{self.job_uuid}/record/"), "31.5 kg")


class RegistryTest(ShopTest):
    def test_every_station_has_a_name_and_key_of_its_own(self) -> None:
        for what in ("key", "name", "shortcut"):
            found = [getattr(station, what) for station in stations()]
            self.assertEqual(
                len(found), len(set(found)), f"two stations have the same {what}: {found}"
            )

    def test_every_word_of_the_log_is_told_what_it_means(self) -> None:
        text = "\n".join(path.read_text() for path in SOURCES.rglob("*.py"))
        written = set(re.findall(r'log\.write\(\s*[\w.]+,\s*\w+,\s*"([a-z-]+)"', text))
        self.assertGreater(len(written), 12)
        self.assertEqual(
            written - set(log_words()),
            set(),
            "no station declares these words: add them to log_words in its station.py",
        )

    def test_every_page_of_every_station_opens(self) -> None:
        for station in stations():
            for url_name in dict.fromkeys(
                (station.key, *(section.url_name for section in station.sections))
            ):
                with self.subTest(url_name):
                    answer = self.client.get(reverse(url_name, args=(self.job_uuid,)))
                    self.assertEqual(answer.status_code, 200)


class ContractTest(SimpleTestCase):
    def test_the_import_contract_knows_every_station(self) -> None:
        contracts = tomllib.loads((Path(settings.ROOT) / "pyproject.toml").read_text())
        layers = contracts["tool"]["importlinter"]["contracts"][2]["layers"]
        (line,) = [layer for layer in layers if "brightcircuit.arrive" in layer]
        known = {name.strip() for name in line.split("|")}
        self.assertEqual(
            {*settings.STATIONS} - known,
            set(),
            "pyproject.toml: add these stations to the line of stations in the layers of the "
            "application, so that no other station may import them",
        )


DOCS = Path(settings.ROOT) / "docs" / "architecture.md"
OTHERWISE = {
    "set/finishing.py": "what is measured is kept beside the description, which is the plan's",
    "program/keeping.py": "a live value that is kept is a reading, of the bike as it stands",
    "trace/line_services.py": "what is found on a line is described",
}
"""Files that look at the other description as well, and why."""


class DescriptionTest(ShopTest):
    def test_every_station_works_on_the_description_that_the_docs_name(self) -> None:
        """Against docs/architecture.md, "Which description a station works on"."""
        text = DOCS.read_text().partition("## Which description a station works on")[2]
        rows = dict(re.findall(r"^\| (\w+) \| (plan|stands)", text, re.M))
        self.assertEqual(
            set(rows),
            {station.name for station in stations()},
            "docs/architecture.md: the table of descriptions lacks a station, or has one too many",
        )
        for station in stations():
            wanted = rows[station.name]
            other = {"plan": "stands_of", "stands": "plan_of"}[wanted]
            for source in sorted((SOURCES / station.key).glob("*.py")):
                code = source.read_text()
                with self.subTest(source.name, station=station.key):
                    self.assertNotIn(
                        "core_bike(job.revision)",
                        code,
                        "ask jobs/way.py which description is meant",
                    )
                    if f"{station.key}/{source.name}" not in OTHERWISE:
                        self.assertNotRegex(
                            code, rf"\b{other}\(", f"{station.name} works on: {wanted}"
                        )
