"""Examples in docstrings, which say what a formula gives, are run."""

import doctest
import pkgutil
from importlib import import_module
from unittest import TestCase

import brightcore

BESIDE = tuple(
    f"brightcircuit.{name}"
    for name in ("common.numbers", "common.answers", "common.broken", "shop.lockout")
)
LEAST = 20
"""Fewer examples than this would mean that they are not found any more."""


class ExampleTest(TestCase):
    def test_every_example_gives_what_it_says(self) -> None:
        own = (found.name for found in pkgutil.walk_packages(brightcore.__path__, "brightcore."))
        tried = 0
        for name in (*own, *BESIDE):
            if name.endswith("__main__"):
                continue
            with self.subTest(name):
                result = doctest.testmod(import_module(name))
                self.assertEqual(result.failed, 0)
                tried += result.attempted
        self.assertGreater(tried, LEAST)
