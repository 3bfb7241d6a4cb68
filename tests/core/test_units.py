"""Quantities as typed and shown."""

import math
from unittest import TestCase

from brightcore.errors import ReadingError
from brightcore.units import format_quantity, length_words, parse_quantity

TYPED = (
    ("4.9", "V", 4.9),
    ("4,9", "V", 4.9),
    (" 0 ", "V", 0.0),
    ("-0.2", "V", -0.2),
    ("210 mV", "V", 0.21),
    ("210mV", "V", 0.21),
    ("0.05 kV", "V", 50.0),
    ("4k7", "Ω", 4700.0),
    ("2R2", "Ω", 2.2),
    ("10k", "Ω", 10_000.0),
    ("1.5 M", "Ω", 1.5e6),
    ("4.7 kΩ", "Ω", 4700.0),
    ("12 mohm", "Ω", 0.012),
    ("OL", "Ω", math.inf),
    ("o.l", "V", math.inf),
    ("3 ft", "m", 0.9144),
    ("20 mph", "km/h", 32.18688),
)
REFUSED = (("", "V"), ("about five", "V"), ("4.9 Ω", "V"), ("4.9 kg", "V"), ("4..9", "V"), ("--3", "V"))
SHOWN = (
    (4.956, "V", "4.96 V"),
    (0.0, "V", "0.00 V"),
    (-0.001, "V", "-1 mV"),
    (0.021, "V", "21 mV"),
    (48.26, "V", "48.3 V"),
    (0.1, "Ω", "0.10 Ω"),
    (4700.0, "Ω", "4.70 kΩ"),
    (999.9, "Ω", "1.00 kΩ"),
    (2.2e6, "Ω", "2.20 MΩ"),
    (math.inf, "Ω", "OL"),
    (math.nan, "V", "unknown"),
)


class UnitsTest(TestCase):
    def test_typed_quantities_are_read_in_the_asked_unit(self) -> None:
        """Conversions are pint's (class lib); the infix forms are common practice."""
        for text, unit, value in TYPED:
            with self.subTest(text):
                self.assertTrue(math.isclose(parse_quantity(text, unit), value, abs_tol=1e-12))

    def test_what_is_no_quantity_is_refused_with_what_was_typed(self) -> None:
        for text, unit in REFUSED:
            with self.subTest(text), self.assertRaises(ReadingError) as caught:
                parse_quantity(text, unit)
            self.assertIn(text.strip()[:3], str(caught.exception))

    def test_values_are_shown_with_sensible_digits(self) -> None:
        for metres, words in (
            (1.2, "1.20 m, 48 in"),
            (0.3048, "0.30 m, 12 in"),
            (1.6, "1.60 m, 63 in"),
            (0.05, "0.05 m, 2 in"),
        ):
            self.assertEqual(length_words(metres), words)
        for value, unit, text in SHOWN:
            with self.subTest(text):
                self.assertEqual(format_quantity(value, unit), text)
