"""A short form of the soak: a real server, used by several at once, with a kill and a full disk."""

import tempfile
from pathlib import Path
from unittest import TestCase

import scripts.soak as soak

SECONDS = 8.0


class SoakTest(TestCase):
    def test_nothing_acknowledged_is_lost_and_nobody_gets_an_answer_that_nobody_should(
        self,
    ) -> None:
        with tempfile.TemporaryDirectory() as name:
            run = soak.Soak(
                SECONDS,
                seed=2,
                kill_every_s=SECONDS / 2,
                full_every_s=SECONDS / 4,
                full_for_s=1.0,
                bikes=soak.CHURN[:2],
            )
            run.run(Path(name))
            told = run.told
            self.assertEqual(told.strange, [])
            self.assertEqual(told.counts["acknowledged writes lost"], 0)
            for what in (
                "acknowledged writes",
                "reads",
                "bad files",
                "kills",
                "times the disk was full",
            ):
                self.assertGreater(told.counts[what], 0, what)
            self.assertTrue(all(line.startswith("ok") for line in soak.soundness(Path(name))))
