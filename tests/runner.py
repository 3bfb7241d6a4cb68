"""The test runner: engines that many tests use are prepared once, before the processes part.

Classes that take long begin first, so that none is left over at the end on one core.
"""

from typing import Any
from unittest import TestCase, TestSuite

from django.test.runner import DiscoverRunner

from tests.bikes import DEMO_BIKES, engine
from tests.undefined import be_strict

WORTH_IT = 40
"""From this many tests on it pays to prepare every engine beforehand."""

LONGEST_FIRST = (
    "tests.browser.test_journeys",
    "tests.browser.test_crawl",
    "tests.browser",
    "tests.apps.test_serving",
    "tests.apps.test_kinds_of_job",
    "tests.apps.test_soak",
    "tests.apps.test_story",
    "tests.core.test_trials",
    "tests.core.test_tracing",
    "tests.core.test_miswired",
    "tests.core.test_solver",
    "tests.core.test_library",
)
"""Modules whose classes take longest, the longest first; the others follow, shuffled."""

SLOW = (
    *LONGEST_FIRST,
    "tests.apps.test_dangers",
    "tests.apps.test_files",
    "tests.apps.test_link",
    "tests.apps.test_match",
    "tests.apps.test_pdf",
    "tests.apps.test_practice",
    "tests.apps.test_wire",
    "tests.apps.test_pages",
    "tests.apps.test_prove",
    "tests.apps.test_set",
    "tests.apps.test_trace",
    "tests.core.test_cli",
    "tests.core.test_describing",
    "tests.core.test_drills",
    "tests.core.test_finder",
    "tests.core.test_linking",
    "tests.core.test_order",
    "tests.core.test_plug",
    "tests.core.test_practice",
    "tests.core.test_properties",
    "tests.core.test_thresholds",
    "tests.core.test_tried",
)
"""Modules that a quick run before a commit leaves out."""


def place_of(name: str) -> int:
    """Return where a module's name stands in the order of length."""
    for place, start in enumerate(LONGEST_FIRST):
        if name == start or name.startswith(f"{start}."):
            return place
    return len(LONGEST_FIRST)


def is_slow(name: str) -> bool:
    """Return whether a quick run leaves a module out."""
    return any(name == start or name.startswith(f"{start}.") for start in SLOW)


class Runner(DiscoverRunner):
    """Prepares the engines of the demo bikes; processes forked later share them without a copy."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        be_strict()

    def build_suite(self, *args: Any, **kwargs: Any) -> TestSuite:
        suite: TestSuite = super().build_suite(*args, **kwargs)
        if self.parallel > 1 and suite.countTestCases() >= WORTH_IT:
            for name in DEMO_BIKES:
                engine(name)
        if hasattr(suite, "subsuites"):
            suite.subsuites.sort(key=lambda subsuite: place_of(_module(subsuite)))
        return suite


class QuickRunner(Runner):
    """Leaves out what takes long."""

    def build_suite(self, *args: Any, **kwargs: Any) -> TestSuite:
        suite: TestSuite = super().build_suite(*args, **kwargs)
        if hasattr(suite, "subsuites"):
            suite.subsuites[:] = [one for one in suite.subsuites if not is_slow(_module(one))]
        return suite


def _module(suite: Any) -> str:
    """Return the module of the first test of a suite."""
    first = next(iter(suite))
    while not isinstance(first, TestCase):
        first = next(iter(first))
    return type(first).__module__
