"""The list of mutants is held against the code: a text that no longer stands there is no
evidence."""

import sys
from importlib import import_module
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
LEAST = 120


class MutantsTest(TestCase):
    def setUp(self) -> None:
        sys.path.insert(0, str(ROOT / "scripts"))
        self.addCleanup(sys.path.remove, str(ROOT / "scripts"))
        self.mutants = import_module("mutants").MUTANTS

    def test_every_text_stands_once_in_its_file(self) -> None:
        for mutant in self.mutants:
            path = ROOT / "src" / mutant.file
            self.assertTrue(
                path.exists(), f"scripts/mutants.py names {mutant.file}, which is not there"
            )
            count = path.read_text().count(mutant.old)
            self.assertEqual(
                count,
                1,
                f"scripts/mutants.py: {mutant.old!r} stands {count} times in {mutant.file}, not "
                "once; take the text that stands there now",
            )

    def test_every_mutant_changes_something_and_is_asked_for_once(self) -> None:
        names = [(mutant.file, mutant.old, mutant.new) for mutant in self.mutants]
        self.assertEqual(
            len(names), len(set(names)), "the same mutant stands twice in scripts/mutants.py"
        )
        self.assertGreaterEqual(len(names), LEAST)
        for _, old, new in names:
            self.assertNotEqual(old, new)

    def test_every_test_that_is_asked_is_there(self) -> None:
        for mutant in self.mutants:
            for module in mutant.tests:
                if module == "scripts":
                    continue  # the tests that Node.js runs
                path = ROOT / "tests" / f"{module.replace('.', '/')}.py"
                self.assertTrue(
                    path.exists(), f"scripts/mutants.py asks tests.{module}, which is not there"
                )
