"""The test runner: engines that many tests use are prepared once, before the processes part."""

from typing import Any
from unittest import TestSuite

from django.test.runner import DiscoverRunner

from tests.bikes import DEMO_BIKES, engine

WORTH_IT = 40
"""From this many tests on it pays to prepare every engine beforehand."""


class Runner(DiscoverRunner):
    """Prepares the engines of the demo bikes; processes forked later share them without a copy."""

    def build_suite(self, *args: Any, **kwargs: Any) -> TestSuite:
        suite: TestSuite = super().build_suite(*args, **kwargs)
        if self.parallel > 1 and suite.countTestCases() >= WORTH_IT:
            for name in DEMO_BIKES:
                engine(name)
        return suite
