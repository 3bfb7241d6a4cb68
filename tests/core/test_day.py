"""The day plan."""

import random
from dataclasses import replace
from datetime import date, timedelta
from itertools import permutations
from unittest import TestCase

from brightcore.procedure.day import DAY_MIN, DayJob, day_plan, takes_over

TODAY = date(2026, 11, 26)


def on(days: int) -> date:
    return TODAY + timedelta(days=days)


class DayTest(TestCase):
    def order(self, *jobs: DayJob) -> list[int]:
        return [turn.job.key for hands in day_plan(jobs, TODAY) for turn in hands.turns]

    def test_what_comes_first(self) -> None:
        for jobs, wanted in (
            ((DayJob(1, "a", on(2)), DayJob(2, "a", on(1))), [2, 1]),
            ((DayJob(1, "a", None), DayJob(2, "a", on(9))), [2, 1]),
            ((DayJob(1, "a", on(1), 60), DayJob(2, "a", on(1), 10)), [2, 1]),
            ((DayJob(1, "a", on(0)), DayJob(2, "a", on(5), held=True)), [2, 1]),
            ((DayJob(1, "a", on(0)), DayJob(2, "a", on(5), waits="glue", ready=True)), [2, 1]),
            ((DayJob(1, "a", on(0), waits="part"), DayJob(2, "a", on(5))), [2]),
            ((DayJob(1, "", on(0)), DayJob(2, "b", on(5)), DayJob(3, "a", on(9))), [3, 2, 1]),
        ):
            self.assertEqual(self.order(*jobs), wanted)

    def test_what_is_put_by_hand_stands_at_its_place(self) -> None:
        jobs = [DayJob(k, "a", on(k)) for k in range(4)]
        for turns, wanted in (
            ({}, [0, 1, 2, 3]),
            ({3: 0}, [3, 0, 1, 2]),
            ({0: 2}, [1, 2, 0, 3]),
            ({0: 1, 1: 0}, [1, 0, 2, 3]),
            ({0: 9}, [1, 2, 3, 0]),
        ):
            put = [replace(job, turn=turns.get(job.key)) for job in jobs]
            self.assertEqual(self.order(*put), wanted, turns)

    def test_who_is_away_hands_over_to_who_has_least(self) -> None:
        jobs = [DayJob(1, "a", None, 60), DayJob(2, "b", None, 90)]
        for away, here, wanted in (
            (["a"], [], "b"),
            ([], ["c"], "c"),
            ([], [], "a"),
            (["a", "b"], [], ""),
        ):
            plan = day_plan(jobs, TODAY, away, here)
            self.assertEqual(takes_over(plan), wanted)
            self.assertEqual([hands.worker for hands in plan if hands.away], sorted(away))

    def test_late_is_told_beside_its_minute(self) -> None:
        over = DAY_MIN + 1
        for minutes, days, late in (
            (DAY_MIN, 0, False),
            (over, 0, True),
            (over, 1, False),
            (1, -1, True),
        ):
            (hands,) = day_plan([DayJob(1, "a", on(days), minutes)], TODAY)
            self.assertEqual(hands.turns[0].late, late, (minutes, days))

    def test_no_other_order_makes_the_latest_less_late(self) -> None:
        """Against every order of six jobs (Jackson's rule, by brute force)."""
        rng = random.Random(3)
        for _ in range(30):
            jobs = [
                DayJob(k, "a", on(rng.randrange(0, 4)), rng.randrange(30, 500)) for k in range(6)
            ]

            def worst(row: list[DayJob]) -> int:
                at, most = 0, -(10**9)
                for job in row:
                    at += job.minutes or 0
                    assert job.promised is not None
                    most = max(most, at - DAY_MIN * ((job.promised - TODAY).days + 1))
                return most

            planned = {job.key: job for job in jobs}
            found = worst([planned[key] for key in self.order(*jobs)])
            self.assertEqual(found, min(worst(list(row)) for row in permutations(jobs)))
