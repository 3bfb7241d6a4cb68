"""A headless Chromium on the running app: one browser per process, a fresh context per test."""

import os
import sqlite3
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any, ClassVar

from django.conf import settings
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from django.utils import timezone
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Error,
    Locator,
    Page,
    Request,
    expect,
    sync_playwright,
)

from brightcircuit.demo.load import PASSWORD, load_demo
from brightcircuit.engines import holders as engines
from brightcircuit.jobs.models import Job
from brightcircuit.set.models import Timer
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.simulated import TrueBikes
from tests.amount import PATIENCE_S
from tests.apps.base import prime
from tests.bikes import DEMO_BIKES, engine

PROGRAMS = (
    "/usr/lib/chromium/chromium-headless-shell",
    "/usr/bin/chromium-headless-shell",
    "/usr/bin/chromium",
)
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync"]  # fmt: skip
_browsers: dict[int, Browser] = {}


_demos: dict[int, sqlite3.Connection] = {}
TIMER_LEFT = timedelta(minutes=9)


def demo_world() -> None:
    """Fill the empty database with the demo world: built once in a process, copied from then on.

    What is due by the clock is due as if it had just been begun.
    """
    connection.ensure_connection()
    if os.getpid() not in _demos:
        load_demo()
        _demos[os.getpid()] = sqlite3.connect(":memory:", check_same_thread=False)
        connection.connection.backup(_demos[os.getpid()])
        return
    _demos[os.getpid()].backup(connection.connection)
    Timer.objects.filter(done=False).update(due=timezone.now() + TIMER_LEFT)


def browser() -> Browser:
    """Return this process's browser, started on first use (after the test runner has forked)."""
    if os.getpid() not in _browsers:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        program = next(p for p in PROGRAMS if Path(p).exists())
        _browsers[os.getpid()] = (
            sync_playwright()
            .start()
            .chromium.launch(executable_path=program, args=ARGUMENTS, timeout=PATIENCE_S * 1000)
        )
        expect.set_options(timeout=PATIENCE_S * 1000)
    return _browsers[os.getpid()]


class BrowserTest(StaticLiveServerTestCase):
    """The demo world, and a page of a technician. Any request to another host fails the test."""

    available_apps = (
        settings.INSTALLED_APPS
    )  # so that clearing the tables does not fill content types anew
    context_options: ClassVar[dict[str, Any]] = {}
    with_demo: ClassVar[bool] = True
    primed: ClassVar[tuple[str, ...]] = DEMO_BIKES

    def _callTestMethod(self, method: Callable[[], None]) -> None:
        """Turn the browser's errors into ones that a parallel test run can send home."""
        told = ""
        try:
            super()._callTestMethod(method)  # type: ignore[misc]
        except Error as error:
            told = f"{error.message}\nat {self.page.url}"
        if told:
            raise AssertionError(told)

    def setUp(self) -> None:
        engines.forget_engines()
        self.addCleanup(engines.forget_engines)
        if self.with_demo:
            demo_world()
        for job in Job.objects.select_related("revision__bike"):
            name = job.revision.bike.label.lower()
            if name in self.primed:
                prime(job.revision, engine(name))
        self.strangers: list[str] = []
        self.errors: list[str] = []
        self.page = self.context().new_page()
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))

    def context(self, **more: Any) -> BrowserContext:
        """Return a fresh browser context that notes requests to strangers."""
        options = (
            {
                "base_url": self.live_server_url,
                "viewport": {"width": 1280, "height": 800},
                "reduced_motion": "reduce",
                "service_workers": "block",
                "accept_downloads": True,
            }
            | self.context_options
            | more
        )
        made = browser().new_context(**options)
        made.set_default_timeout(PATIENCE_S * 1000)
        self.addCleanup(made.close)

        def watch(request: Request) -> None:
            if not request.url.startswith((self.live_server_url, "data:", "blob:")):
                self.strangers.append(request.url)

        made.on("request", watch)
        return made

    def tearDown(self) -> None:
        self.assertEqual((self.strangers, self.errors), ([], []))

    def sign_in(self, name: str = "quill", page: Page | None = None) -> None:
        """Sign in as a person of the demo."""
        page = page or self.page
        page.goto("/sign-in/")
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url("**/")

    def open_trace(self, label: str) -> Job:
        """Open the open job of a bike at Trace and return it."""
        job = Job.objects.get(status="open", revision__bike__label=label)
        self.page.goto(f"/jobs/{job.uuid}/trace/")
        return job

    def tap(self, question: str, answer: str) -> None:
        """Answer what a rider told with one tap."""
        self.page.get_by_role("group", name=question, exact=True).get_by_role(
            "radio", name=answer, exact=True
        ).check()

    def follow(self, what: Locator) -> None:
        """Press something and wait for the page that comes of it."""
        with what.page.expect_navigation():
            what.click()

    def prove_everything(self, most: int = 30) -> None:
        """Make every check that is left on Prove, each as it should be, and go to Record."""
        page = self.page
        done = page.locator("#main").get_by_role("link", name="Go to Record")
        for _ in range(most):
            if done.count():
                break
            for gate in page.locator("input[name=gate]:visible").all():
                gate.check()
            reading = page.locator("input[name=value]")
            if reading.count():
                reading.fill("20")
                self.follow(page.get_by_role("button", name="Save reading"))
            else:
                self.follow(page.get_by_role("button", name="Passed"))
        self.follow(done)

    def enter(self, items: tuple[Evidence, ...], page: Page | None = None) -> None:
        """Type what a technician would into the card on the page, and keep it."""
        page = page or self.page
        for gate in page.locator("form.entry input[name=gate]").all():
            gate.check()
        for item in items:
            if item.kind == "look":
                page.locator(f"#see-{item.observable}").select_option(item.value)
            elif item.kind in ("inspect", "swap", "wiggle", "ask", "feel"):
                page.locator(f"form.entry input[type=radio][value={item.value}]").check()
            else:
                page.locator("#value").fill(item.value)
        self.follow(page.locator("form.entry button.main"))

    def trace_to_the_end(self, engine: Engine, fault: str, most: int = 14) -> None:
        """Do what the page says on a simulated true bike until a repair is named."""
        truth = TrueBikes(engine, [engine.hypotheses.index(fault)], 11)
        for _ in range(most):
            if self.page.get_by_text("Found, ").count():
                return
            test = engine.by_id[self.page.locator("form.entry input[name=test]").input_value()]
            self.enter(truth.answer(test, 0))
        self.fail(f"no repair after {most} tests: {self.page.locator('h2.say').first.inner_text()}")
