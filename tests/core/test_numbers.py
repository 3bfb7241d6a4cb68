"""A shop's numbers against hand-counted jobs."""

from datetime import date, timedelta
from unittest import TestCase

from brightcore.procedure.numbers import ClosedJob, Done, numbers

DAY = date(2026, 3, 1)
HALL, WIRE = (
    Done("hall/dead", "Swap the hall board", True),
    Done("wire/open", "Mend the wire", True),
)
WRONG = Done("hall/dead", "Swap the hall board", False)


def job(bike: int, after: int, *repairs: Done, minutes: float = 20.0) -> ClosedJob:
    opened = DAY + timedelta(days=after)
    return ClosedJob(bike, ("repair",), opened, opened + timedelta(days=1), minutes, repairs)


class NumbersTest(TestCase):
    def test_minutes_are_told_from_three_jobs_on(self) -> None:
        jobs = [job(n, n, minutes=m) for n, m in enumerate((10.0, 30.0, 50.0))]
        self.assertEqual(numbers(jobs).kinds, (("repair", 3, 30.0),))
        self.assertEqual(numbers(jobs[:2]).kinds, ())

    def test_first_repairs_that_were_right(self) -> None:
        jobs = [
            job(1, 0, HALL),
            job(2, 0, WRONG, WIRE),
            job(3, 0),
            job(4, 0, Done("x", "y", None), HALL),
        ]
        self.assertEqual(numbers(jobs).first_right, (1, 2))
        self.assertEqual(numbers(jobs).failing, (("Swap the hall board", 2), ("Mend the wire", 1)))

    def test_what_comes_back_beside_its_day(self) -> None:
        for after, repair, bike, count in (
            (91, HALL, 1, 1),
            (92, HALL, 1, 0),
            (30, WIRE, 1, 0),
            (30, HALL, 2, 0),
            # Taken in on the day the first was closed, and a day before: that is not "came back".
            (1, HALL, 1, 1),
            (0, HALL, 1, 0),
        ):
            jobs = [job(1, 0, HALL), job(bike, after, repair)]
            with self.subTest(after=after, bike=bike):
                self.assertEqual(numbers(jobs).came_back, (count, 2))
