"""What moved over the years, against hand-reckoned rows."""

from datetime import date
from unittest import TestCase

from brightcore.procedure.trends import MUCH, Moment, trends

DAYS = (date(2026, 1, 5), date(2026, 5, 5), date(2026, 11, 5))


def rows(name: str, of: str, *values: float) -> list[Moment]:
    return [Moment(name, of, on, value) for on, value in zip(DAYS, values, strict=False)]


class TrendsTest(TestCase):
    def test_what_was_measured_twice_is_followed_and_what_moved_most_comes_first(self) -> None:
        found = trends(
            [
                *rows("capacity_ah", "Pack", 14.0, 12.6, 10.5),
                *reversed(rows("rest_v", "Throttle", 0.80, 0.84)),
                *rows("phase_ohm", "Motor", 0.150),
                *rows("pulses", "Pedal sensor", 12.0, 12.0),
                *rows("ohm", "", 0.12, 0.18),
            ]
        )
        told = [(trend.title, trend.words, trend.moved) for trend in found]
        self.assertEqual(
            told,
            [
                ("Pack and lead, from the sag", "120 to 180 mΩ, +50 %", True),
                ("Pack: capacity", "14 to 10.5 Ah, -25 %", True),
                ("Throttle: at rest", "0.8 to 0.84 V, +5 %", False),
            ],
        )

    def test_much_begins_at_its_share(self) -> None:
        for share, moved in ((MUCH + 1e-6, True), (MUCH - 1e-3, False), (-MUCH - 1e-6, True)):
            (trend,) = trends(rows("capacity_ah", "Pack", 10.0, 10.0 * (1 + share)))
            self.assertEqual(trend.moved, moved, share)
        (trend,) = trends(rows("zero_v", "Torque sensor", 0.0, 1.0))
        self.assertFalse(trend.moved)
