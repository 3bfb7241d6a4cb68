"""What stands around the application: upgrades, the first lead, settings."""

import errno
import io
import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import time
import urllib.request
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.hashers import make_password
from django.core.management import CommandError, call_command
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
from django.test import SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from brightcircuit.jobs.models import LogEntry
from brightcircuit.shop.lockout import FREE, LONGEST_WAIT_S
from brightcircuit.shop.models import Person, Role
from brightcircuit.shop.serving import proxy_options
from brightcircuit.shop.soundness import CLOCK_APART, OLDEST_BACKUP, look_over
from brightcircuit.shop.upgrade import bring_up_to_date
from tests.apps.base import ShopTest
from tests.served import served

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
                (backup.call_count, [c.args[0] for c in call.call_args_list]),
                (0, ["collectstatic"]),
            )
            with patch(
                "brightcircuit.shop.upgrade.MigrationExecutor.migration_plan", return_value=["one"]
            ):
                bring_up_to_date(said.append)
            self.assertEqual(
                [c.args[0] for c in call.call_args_list],
                ["collectstatic", "migrate", "collectstatic"],
            )
            self.assertIn("Backed up 3 jobs", said[0])


class BrokenTest(ShopTest):
    """Pages for what should not happen; the client does not raise what the server would have
    answered."""

    def test_a_full_disk_is_told_on_a_page_that_keeps_what_was_typed(self) -> None:
        self.client.raise_request_exception = False
        url = reverse("arrive", args=(self.job_uuid,))
        cases = (
            (sqlite3.OperationalError("database or disk is full"), 507, "disk is full"),
            (sqlite3.OperationalError("disk I/O error"), 507, "disk is full"),
            (OSError(errno.ENOSPC, "No space left on device"), 507, "disk is full"),
            (OSError(errno.ENOENT, "No such file"), 500, "Something went wrong"),
            (sqlite3.OperationalError("no such table"), 500, "Something went wrong"),
        )
        for error, status, words in cases:
            with (
                self.subTest(str(error)),
                self.assertLogs("django.request"),
                patch("brightcircuit.jobs.log.write", side_effect=error),
            ):
                answer = self.client.post(
                    url, {"action": "note", "note": "Wet <b>plug</b>", "was": ""}
                )
                self.assertEqual(answer.status_code, status)
                self.assertContains(answer, words, status_code=status)
                self.assertContains(answer, "Wet &lt;b&gt;plug&lt;/b&gt;", status_code=status)
                self.assertContains(answer, f'action="{url}"', status_code=status)
        self.assertEqual(self.job.arrival.note, "")

    def test_passwords_are_never_shown_again(self) -> None:
        self.client.raise_request_exception = False
        self.client.logout()
        with (
            self.assertLogs("django.request"),
            patch("brightcircuit.shop.lockout.may_try_at", side_effect=ValueError),
        ):
            answer = self.client.post(
                reverse("login"), {"username": "tech", "password": "open sesame"}
            )
        self.assertEqual(answer.status_code, 500)
        self.assertNotContains(answer, "sesame", status_code=500)


HEADERS = (
    ("Cache-Control", "no-store"),
    ("X-Content-Type-Options", "nosniff"),
    ("X-Frame-Options", "DENY"),
    ("Referrer-Policy", "same-origin"),
    ("Cross-Origin-Opener-Policy", "same-origin"),
)


class HeaderTest(ShopTest):
    def test_every_page_says_how_it_may_be_used(self) -> None:
        job = self.job.uuid
        for url in (
            "/",
            "/sign-in/",
            reverse("arrive", args=(job,)),
            reverse("record-job", args=(job,)),
            "/no/",
        ):
            with self.subTest(url):
                answer = self.client.get(url)
                for name, value in HEADERS:
                    self.assertIn(value, answer.headers[name])
                self.assertIn("default-src 'self'", answer.headers["Content-Security-Policy"])
                self.assertNotIn("Access-Control-Allow-Origin", answer.headers)

    def test_cookies_of_a_shop_behind_https_belong_to_its_host_alone(self) -> None:
        script = (
            "import django; django.setup(); from django.conf import settings as s; "
            "print(s.SESSION_COOKIE_NAME, s.CSRF_COOKIE_NAME, s.SESSION_COOKIE_SECURE)"
        )
        for origins, wanted in (
            ("https://bench.example", "__Host-session __Host-csrf True"),
            ("", "sessionid csrftoken False"),
        ):
            with self.subTest(origins), tempfile.TemporaryDirectory() as folder:
                environment = os.environ | {
                    "BRIGHT_DATA": folder,
                    "BRIGHT_ORIGINS": origins,
                    "DJANGO_SETTINGS_MODULE": "brightcircuit.settings",
                }
                told = subprocess.run(
                    [sys.executable, "-c", script],
                    env=environment,
                    capture_output=True,
                    text=True,
                    check=True,
                ).stdout
                self.assertEqual(told.strip(), wanted)


@override_settings(AXES_ENABLED=True)
class GuessingTest(ShopTest):
    """Wrong passwords for many names from one address."""

    def guesses(self, count: int, address: str, age_s: float = 0.0) -> None:
        AccessAttempt.objects.all().delete()
        for number in range(count):
            AccessAttempt.objects.create(
                username=f"name {number}",
                ip_address=address,
                failures_since_start=1,
                user_agent="x",
            )
        AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(seconds=age_s))

    def test_an_address_is_slowed_over_all_names_and_others_are_not(self) -> None:
        for count, address, age_s, status in (
            (FREE - 1, "127.0.0.1", 0.0, 302),
            (FREE, "127.0.0.1", 0.0, 429),
            (FREE, "127.0.0.1", 1.5, 302),
            (FREE + 3, "127.0.0.1", 7.0, 429),
            (FREE + 3, "127.0.0.1", 9.0, 302),
            (FREE + 50, "127.0.0.1", LONGEST_WAIT_S - 5, 429),
            (FREE + 50, "127.0.0.1", LONGEST_WAIT_S + 1, 302),
            (FREE + 50, "10.0.0.9", 0.0, 302),
        ):
            with self.subTest(count=count, address=address, age_s=age_s):
                self.guesses(count, address, age_s)
                self.client.logout()
                answer = self.client.post(
                    reverse("login"), {"username": "tech", "password": "tech"}
                )
                self.assertEqual(answer.status_code, status)
                self.assertEqual("Retry-After" in answer, status == 429)


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
            ("kiln-harbor", "kiln-harbor"),
            ("nila2027", "nila2027"),
            ("marrow-quay-9", "marrow-quay-8"),
        ):
            with self.subTest(passwords), self.assertRaises(CommandError):
                self.make(*passwords)
        self.assertIn("nila can sign in as shop lead", self.make("marrow-quay-9", "marrow-quay-9"))
        self.assertTrue(Person.objects.get(username="nila").is_lead)
        # After an archive nobody has a password: a name that cannot sign in is taken over.
        for change in ({"password": make_password(None)}, {"is_active": False}):
            Person.objects.filter(username="nila").update(role=Role.TECHNICIAN, **change)
            with self.subTest(change):
                self.assertIn("can sign in again", self.make("lantern-reef-7", "lantern-reef-7"))
                taken = Person.objects.get(username="nila")
                self.assertTrue(taken.is_lead and taken.is_active)
                self.assertTrue(taken.check_password("lantern-reef-7"))
        with self.assertRaises(CommandError):
            self.make("marrow-quay-9", "marrow-quay-9")


class AnswerTest(ShopTest):
    def test_a_method_that_is_not_served_gets_a_page_and_changes_nothing(self) -> None:
        answer = self.client.get(reverse("trace-keep", args=(self.job_uuid,)))
        self.assertContains(answer, "That cannot be done this way", status_code=405)
        self.assertEqual(answer["Allow"], "POST")


class LimitTest(ShopTest):
    def test_a_body_is_refused_by_its_length_before_it_is_read(self) -> None:
        address = reverse("job-import")
        for signed_in, most in ((True, settings.MOST_BODY), (False, settings.MOST_BODY_UNKNOWN)):
            if not signed_in:
                self.client.logout()
            for length, refused in (
                (str(most), False),
                (str(most + 1), True),
                ("9" * 40, True),
                ("x", True),
            ):
                with self.subTest(signed_in=signed_in, length=length):
                    answer = self.client.generic("POST", address, b"", CONTENT_LENGTH=length)
                    self.assertEqual(answer.status_code == 413, refused)
        self.assertContains(answer, "too large", status_code=413)


EARLIER = (
    # backup of an earlier revision: jobs, repairs, pieces of evidence, bikes with a quarantined
    # pack
    ("shop-1.zip", 6, 1, 16, ["Teasel"]),
    ("shop-2.zip", 6, 1, 16, []),
)


class EarlierRevisionTest(SimpleTestCase):
    def test_the_data_of_every_earlier_revision_comes_over_whole(self) -> None:
        for name, jobs, repairs, readings, quarantined in EARLIER:
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                environment = os.environ | {
                    "BRIGHT_DATA": folder,
                    "DJANGO_SETTINGS_MODULE": "brightcircuit.settings",
                }
                # As after a dead disk: a new machine, an empty folder, the backup put in.
                put_in = subprocess.run(
                    (sys.executable, "manage.py", "restore", str(FIXTURES / name)),
                    cwd=settings.ROOT,
                    env=environment,
                    capture_output=True,
                    text=True,
                )
                self.assertIn("Nothing was here before", put_in.stdout, put_in.stderr[-3000:])
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
                self.assertEqual(found["unsound"], [])
                counted = (found["jobs"], found["repairs"], found["evidence"])
                self.assertEqual(counted, (jobs, repairs, readings))
                self.assertEqual(found["quarantined"], quarantined)


PROXIED = (
    # the proxy that is named, what scheme and client a request with forwarded headers then has
    ("", ("http", "127.0.0.1")),
    ("192.0.2.1", ("http", "127.0.0.1")),
    ("127.0.0.1", ("https", "198.51.100.7")),
)


class ProxyTest(SimpleTestCase):
    def seen_behind(self, proxy: str) -> tuple[str, str]:
        """Return scheme and client as a real server tells them of a request that claims to be
        forwarded."""
        seen: list[tuple[str, str]] = []

        def application(environ: dict[str, Any], start: Any) -> list[bytes]:
            seen.append((environ["wsgi.url_scheme"], environ["REMOTE_ADDR"]))
            start("200 OK", [("Content-Length", "0")])
            return [b""]

        headers = {"X-Forwarded-Proto": "https", "X-Forwarded-For": "198.51.100.7"}
        with served(application, **proxy_options(proxy)) as address:
            urllib.request.urlopen(urllib.request.Request(address, headers=headers)).close()
        return seen[0]

    def test_scheme_and_client_are_believed_of_the_named_proxy_alone(self) -> None:
        for proxy, expected in PROXIED:
            with self.subTest(proxy):
                self.assertEqual(self.seen_behind(proxy), expected)


MINUTE = timedelta(minutes=1)


class SoundnessTest(ShopTest):
    def told(self) -> dict[str, bool]:
        """Return what is told of the data folder, by its first words."""
        return {words.split(":")[0]: sound for sound, words in look_over()}

    def test_what_is_not_sound_is_told_and_nothing_is_changed(self) -> None:
        with tempfile.TemporaryDirectory() as folder, self.settings(DATA=Path(folder)):
            self.assertEqual(self.told()["Last backup"], False)
            backups, media = Path(folder) / "backups", Path(folder) / "media"
            backups.mkdir()
            media.mkdir()
            (backups / "b.zip").write_bytes(b"x")
            self.assertEqual(set(self.told().values()), {True})
            (media / "0815.jpg").write_bytes(b"x")
            self.assertEqual(self.told()["Photos without a row"], False)
            self.assertTrue((media / "0815.jpg").exists())
            days = OLDEST_BACKUP.total_seconds()
            for age, sound in ((days - 60, True), (days + 60, False)):
                then = time.time() - age
                os.utime(backups / "b.zip", (then, then))
                self.assertEqual(self.told()["Last backup"], sound, age)
            for behind, sound in ((CLOCK_APART - MINUTE, True), (CLOCK_APART + MINUTE, False)):
                LogEntry.objects.create(job=self.job, at=timezone.now() + behind, by="x", what="x")
                self.assertEqual(self.told()["Clock"], sound, behind)
            with self.assertRaises(CommandError):
                call_command("look_over", stdout=io.StringIO())


class FontTest(SimpleTestCase):
    def test_the_licence_of_every_font_stands_beside_it(self) -> None:
        fonts = list((Path(settings.ROOT) / "src/brightcircuit/static/fonts").glob("*.woff2"))
        self.assertEqual(len(fonts), 3)
        for font in fonts:
            text = font.with_name(f"{font.stem}-LICENSE.txt").read_text()
            self.assertIn("Copyright", text, font.name)


class StartTest(TestCase):
    def test_an_empty_secret_is_replaced_and_a_good_one_kept(self) -> None:
        from brightcircuit import settings as module

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "secret"
            with patch.object(module, "TESTING", False), patch.object(module, "DATA", Path(folder)):
                path.write_text(" ")
                made = module._secret()
                self.assertGreaterEqual(len(made), 50)
                self.assertEqual((module._secret(), path.stat().st_mode & 0o777), (made, 0o600))

    def test_data_of_a_newer_copy_are_refused_in_words_and_left_alone(self) -> None:
        MigrationRecorder(connection).record_applied("jobs", "9999_from_the_future")
        with tempfile.TemporaryDirectory() as folder, self.settings(DATA=Path(folder)):
            with self.assertRaisesMessage(
                CommandError, "newer Bright Circuit (jobs 9999_from_the_future)"
            ):
                bring_up_to_date(lambda words: None)
            self.assertEqual(list(Path(folder).iterdir()), [])

    def test_a_folder_that_cannot_be_written_is_told_in_words(self) -> None:
        with (
            self.settings(DATA=Path("/proc/nowhere")),
            self.assertRaisesMessage(CommandError, "Nothing can be written to /proc/nowhere"),
        ):
            bring_up_to_date(lambda words: None)
