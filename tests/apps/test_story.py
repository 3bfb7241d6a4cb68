"""A shop's first day and its worst one, on the server that a shop runs, behind a proxy.

A first lead, people with their own passwords, ten jobs, a server that is killed twice, a backup, a
new machine, and the same pages there.
"""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from scripts.soak import Server

from tests.amount import ALL
from tests.proxy import HOST, Outside, proxied

ROOT = Path(__file__).parents[2]
LEAD, TECHNICIAN, LEARNER = "ansgard", "brennal", "cordwin"
GIVEN, OWN = "marrow-quay-9", "lantern-shed-44"
BIKES = ("folding", "hub-conversion")
JOBS = 10
KILLED_AFTER = (3, 7) if ALL else (4,)
"""Jobs after which the server is killed."""

CHANGES = re.compile(
    r'name="csrfmiddlewaretoken" value="[^"]*"|nonce="[^"]*"|data-sent="[^"]*"|'
    r'name="client" value="[^"]*"|name="receipt" value="[^"]*"'
)
"""What is new on a page every time it is made."""


class Shop(Server):
    """A shop's own server, without the demo's data and stand-ins."""

    def environment(self) -> dict[str, str]:
        return {
            "BRIGHT_DEMO": "0",
            "BRIGHT_HOSTS": f"{HOST},localhost",
            "BRIGHT_ORIGINS": f"https://{HOST}",
            "BRIGHT_PROXY": "127.0.0.1",
        }

    def command(self, *words: str) -> str:
        """Run a command of the shop's on its data; returns what it said."""
        done = subprocess.run(
            [sys.executable, "manage.py", *words],
            cwd=ROOT,
            env=os.environ | {"BRIGHT_DATA": str(self.folder / "data"), "PYTHONPATH": "src"},
            capture_output=True,
            text=True,
        )
        if done.returncode:
            raise AssertionError(f"{words}: {done.stdout}{done.stderr[-2000:]}")
        return done.stdout


def plain(page: str) -> str:
    """Return a page without what is new every time."""
    return CHANGES.sub("", page)


class StoryTest(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def shop(self, name: str) -> Shop:
        (self.folder / name).mkdir()
        return Shop(self.folder / name)

    def signed_in(self, base: str, name: str, password: str) -> Outside:
        somebody = Outside(base)
        status, address, page = somebody.sign_in(name, password)
        self.assertEqual(status, 200)
        self.assertNotIn("/sign-in/", address, f"{name} was not let in: {page[:300]}")
        return somebody

    def make_lead(self, shop: Shop, base: str) -> Outside:
        first = Outside(base)
        status, address, _ = first.get("/")
        self.assertEqual((status, address.endswith("/start/")), (200, True), address)
        mine = {"name": LEAD, "password": OWN, "again": OWN}
        refused = first.post("/start/", **mine, code="no-such-code")
        self.assertEqual(refused[0], 422)
        code = (shop.folder / "data" / "first-run-code").read_text()
        self.assertEqual(first.post("/start/", **mine, code=code)[0], 200)
        return self.signed_in(base, LEAD, OWN)

    def add_people(self, base: str, lead: Outside) -> Outside:
        """Add two people as a lead does, each of whom chooses a password; returns the
        technician."""
        found = {}
        for name, role in ((TECHNICIAN, "technician"), (LEARNER, "learner")):
            lead.get("/me/people/")
            made = lead.post("/me/people/", do="add", name=name, role=role, password=GIVEN)
            self.assertIn(name, made[2])
            somebody = self.signed_in(base, name, GIVEN)
            self.assertIn("/me/password/", somebody.get("/")[1], "their own password comes first")
            new = {"old": GIVEN, "password": OWN, "again": OWN}
            self.assertEqual(somebody.post("/me/password/", **new)[0], 200)
            found[name] = self.signed_in(base, name, OWN)
        self.assertEqual(found[LEARNER].get("/practice/")[0], 200)
        return found[TECHNICIAN]

    def test_a_day_its_kills_and_the_machine_after_it(self) -> None:
        shop = self.shop("first")
        shop.start()
        self.addCleanup(shop.kill)
        with proxied(shop.port) as base:
            lead = self.make_lead(shop, base)
            technician = self.add_people(base, lead)
            bikes = [technician.new_bike(f"Rowan {n}", name) for n, name in enumerate(BIKES)]
            jobs = []
            for n in range(JOBS):
                job = technician.new_job(bikes[n % len(bikes)], f"Cuts out, number {n}")
                technician.get(f"/jobs/{job}/arrive/found/")
                noted = technician.post(
                    f"/jobs/{job}/arrive/found/", action="note", note=f"seen {n}", was=""
                )
                self.assertEqual(noted[0], 200)
                jobs.append(job)
                if n in KILLED_AFTER:
                    shop.kill()
                    shop.start()
            before = self.pages(technician, jobs, bikes)
            kept = self.folder / "day.zip"
            shop.command("backup", str(kept))
            self.assertIn("ok", shop.command("look_over"))
        shop.kill()

        new = self.shop("second")
        self.assertIn("Nothing was here before", new.command("restore", str(kept)))
        new.start()
        self.addCleanup(new.kill)
        with proxied(new.port) as base:
            technician = self.signed_in(base, TECHNICIAN, OWN)
            after = self.pages(technician, jobs, bikes)
            for path, page in before.items():
                with self.subTest(path=path):
                    self.assertEqual(after[path], page)
            self.assertEqual(Outside(base).sign_in(TECHNICIAN, GIVEN)[1].count("/sign-in/"), 1)

    def pages(self, somebody: Outside, jobs: list[str], bikes: list[str]) -> dict[str, str]:
        """Return what somebody sees of everything that was made."""
        paths = [f"/bikes/{bike}/" for bike in bikes]
        for job in jobs:
            paths += [f"/jobs/{job}/arrive/", f"/jobs/{job}/record/job.json"]
        found = {}
        for path in paths:
            status, _, page = somebody.get(path)
            self.assertEqual(status, 200, path)
            found[path] = plain(page)
        self.assertIn("seen 4", "".join(found.values()))
        return found
