"""What stands around the application: upgrades, the first lead, settings."""

import io
import json
import os
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path
from unittest.mock import patch

from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from brightcircuit.shop.models import Person
from brightcircuit.shop.upgrade import bring_up_to_date
from tests.apps.base import ShopTest

FIXTURES = Path(__file__).parent.parent / "fixtures"


class UpgradeTest(TestCase):
    def test_an_upgrade_backs_up_before_it_migrates_and_only_then(self) -> None:
        said: list[str] = []
        with (
            patch("brightcircuit.shop.upgrade.call_command") as call,
            patch("brightcircuit.shop.upgrade.write_backup") as backup,
        ):
            backup.return_value = ("here", 3)
            bring_up_to_date(said.append)
            self.assertEqual(
                (backup.call_count, [c.args[0] for c in call.call_args_list]), (0, ["collectstatic"])
            )
            with patch("brightcircuit.shop.upgrade.MigrationExecutor.migration_plan", return_value=["one"]):
                bring_up_to_date(said.append)
            self.assertEqual(
                [c.args[0] for c in call.call_args_list], ["collectstatic", "migrate", "collectstatic"]
            )
            self.assertIn("Backed up 3 jobs", said[0])


class FirstLeadTest(TestCase):
    def make(self, *passwords: str) -> str:
        out = io.StringIO()
        with (
            patch("getpass.getpass", side_effect=passwords),
            patch("brightcircuit.shop.management.commands.create_lead.bring_up_to_date"),
        ):
            call_command("create_lead", "nila", stdout=out)
        return out.getvalue()

    def test_the_first_lead_is_made_with_a_good_password_only(self) -> None:
        for passwords in (
            ("short", "short"),
            ("password1234", "password1234"),
            ("marrow-quay-9", "marrow-quay-8"),
        ):
            with self.subTest(passwords), self.assertRaises(CommandError):
                self.make(*passwords)
        self.assertIn("nila can sign in as lead", self.make("marrow-quay-9", "marrow-quay-9"))
        self.assertTrue(Person.objects.get(username="nila").is_lead)
        with self.assertRaises(CommandError):
            self.make("marrow-quay-9", "marrow-quay-9")


class LimitTest(ShopTest):
    def test_a_body_is_refused_by_its_length_before_it_is_read(self) -> None:
        address = reverse("job-import")
        for signed_in, most in ((True, settings.MOST_BODY), (False, settings.MOST_BODY_UNKNOWN)):
            if not signed_in:
                self.client.logout()
            for length, refused in ((str(most), False), (str(most + 1), True), ("9" * 40, True), ("x", True)):
                with self.subTest(signed_in=signed_in, length=length):
                    answer = self.client.generic("POST", address, b"", CONTENT_LENGTH=length)
                    self.assertEqual(answer.status_code == 413, refused)
        self.assertContains(answer, "too large", status_code=413)


EARLIER = (
    # backup of an earlier revision: jobs, repairs, pieces of evidence, bikes with a quarantined pack
    ("shop-1.zip", 6, 1, 16, ["Teasel"]),
)


class EarlierRevisionTest(SimpleTestCase):
    def test_the_data_of_every_earlier_revision_comes_over_whole(self) -> None:
        for name, jobs, repairs, readings, quarantined in EARLIER:
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                with zipfile.ZipFile(FIXTURES / name) as archive:
                    archive.extractall(folder)
                environment = os.environ | {
                    "BRIGHT_DATA": folder,
                    "DJANGO_SETTINGS_MODULE": "brightcircuit.settings",
                }
                done = subprocess.run(
                    (sys.executable, "-m", "tests.apps.upgraded"),
                    cwd=settings.ROOT,
                    env=environment,
                    capture_output=True,
                    text=True,
                )
                self.assertEqual(done.returncode, 0, done.stderr[-3000:])
                found = json.loads(done.stdout)
                self.assertEqual((found["backed_up"], found["wrong"]), (True, []))
                counted = (found["jobs"], found["repairs"], found["evidence"])
                self.assertEqual(counted, (jobs, repairs, readings))
                self.assertEqual(found["quarantined"], quarantined)
