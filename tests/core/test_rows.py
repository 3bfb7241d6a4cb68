"""Rows of numbers as people type them, and rows that were read from one end."""

from unittest import TestCase

from brightcore.errors import ReadingError
from brightcore.setting.rows import differences, numbers_of

TYPED = (
    # what was typed, what is read; None where it is asked
    ("3.81 3.80 3.79", (3.81, 3.80, 3.79)),
    ("3,81 3,80 3,79", (3.81, 3.80, 3.79)),
    ("3.81,3.80,3.79", (3.81, 3.80, 3.79)),
    ("3.81, 3.80, 3.79", (3.81, 3.80, 3.79)),
    ("3,81;3,80;3,79", (3.81, 3.80, 3.79)),
    ("3,81; 3,80;\n3,79", (3.81, 3.80, 3.79)),
    ("3.81\t3.80\t3.79", (3.81, 3.80, 3.79)),
    ("3.81 V 3.80 V 3790 mV", (3.81, 3.80, 3.79)),
    ("3810 mV; 3.80", (3.81, 3.80)),
    ("3.81 -0.4", (3.81, -0.4)),
    ("3,81,3,80,3,79", None),
    ("3.81 high", None),
)

FROM_ONE_END = (
    # row, steps; empty where it is no row of totals
    ((3.8, 7.6, 11.5), (3.8, 3.8, 3.9)),
    ((3.8, 3.9, 4.0), ()),
    ((3.8, 7.6), ()),
    ((3.8, 7.6, 7.2, 11.0), (3.8, 3.8, -0.4, 3.8)),
    ((3.8, 7.6, 17.0), ()),
    ((3.8, 38.0, 3.8), ()),
    ((8.0, 11.8, 15.6), ()),
)


class RowTest(TestCase):
    def test_rows_are_read_or_asked(self) -> None:
        for text, wanted in TYPED:
            with self.subTest(text):
                if wanted is None:
                    with self.assertRaises(ReadingError):
                        numbers_of(text, "V")
                else:
                    self.assertEqual(numbers_of(text, "V"), wanted)

    def test_running_totals_are_told_from_groups(self) -> None:
        for row, wanted in FROM_ONE_END:
            with self.subTest(row):
                self.assertEqual(differences(row, -2.0, 6.0), wanted)
