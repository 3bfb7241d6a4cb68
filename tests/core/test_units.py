"""Quantities as typed and shown."""

import math
from unittest import TestCase

from brightcore.describing.specs import parse_measure, show_spec_value
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
SPOKEN = (
    # as printed, spoken or pasted; unit of the field, value in it
    ("10 kmh", "kmh", 10.0),
    ("10 km/h", "kmh", 10.0),
    ("10 kph", "kmh", 10.0),
    ("22 amps", "a", 22.0),
    ("22 Amp", "a", 22.0),
    ("48 volts", "v", 48.0),
    ("250 watts", "w", 250.0),
    ("0,3 Ohm", "ohm", 0.3),
    ("1.2 kOhm", "ohm", 1200.0),
    ("1.2 kohms", "ohm", 1200.0),
    ("10K", "ohm", 10_000.0),
    ("10k", "ohm", 10_000.0),
    ("2 MΩ", "ohm", 2e6),
    ("2 mΩ", "ohm", 0.002),
    ("95 mOhm", "ohm", 0.095),
    ("\u22120.3", "v", -0.3),
    ("\u20130.3 V", "v", -0.3),
    ("4 mi", "km", 6.43738),
    ("4 miles", "km", 6.43738),
    ("12 mph", "kmh", 19.3121),
    ("9 %", "", 0.09),
    ("9 percent", "", 0.09),
    ("3/4 in", "mm", 19.05),
    ("1 3/8 in", "mm", 34.925),
    ('12"', "mm", 304.8),
    ("6 ft", "m", 1.8288),
    ("156 lb", "kg", 70.7604),
    ("0.75 mm\u00b2", "mm2", 0.75),
    ("0.75 sq mm", "mm2", 0.75),
    ("0.75 mm^2", "mm2", 0.75),
    ("77 \u00b0F", "c", 25.0),
    ("25 \u00b0C", "c", 25.0),
    ("12.5 Ah", "ah", 12.5),
    ("12500 mAh", "ah", 12.5),
    ("0.6 kWh", "wh", 600.0),
    ("2 hours", "min", 120.0),
    ("1,234.5 m", "m", 1234.5),
    ("1.234,5 m", "m", 1234.5),
    ("10 000 m", "m", 10_000.0),
    ("0,300", "m", 0.3),
    ("4,12", "v", 4.12),
    ("12 ga", "mm2", 3.3088),
    ("00 AWG", "mm2", 67.4309),
    ("AWG 4/0", "mm2", 107.2193),
    ("#18", "mm2", 0.823),
)
ASKED = ("10,000", "1,234", "10,000 m", "-2,500", "1,234,567")
"""May be thousands or decimals: asked, never guessed."""

REFUSED = (
    ("", "V"),
    ("about five", "V"),
    ("4.9 Ω", "V"),
    ("4.9 kg", "V"),
    ("4..9", "V"),
    ("--3", "V"),
)
SHOWN = (
    (4.956, "V", "4.96 V"),
    (0.0, "V", "0.00 V"),
    (-0.001, "V", "-1 mV"),
    (0.0004, "V", "0.4 mV"),
    (0.000045, "V", "0 mV"),
    (-0.00004, "V", "0 mV"),
    (0.003, "Ω", "3 mΩ"),
    (0.0125, "Ω", "12 mΩ"),
    (0.02, "A", "20 mA"),
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
                self.assertTrue(
                    math.isclose(parse_quantity(text, unit), value, rel_tol=1e-5, abs_tol=1e-12)
                )

    def test_quantities_are_read_as_printed_and_spoken(self) -> None:
        for text, unit, value in SPOKEN:
            with self.subTest(text):
                self.assertAlmostEqual(parse_measure(text, unit) / value, 1.0, places=4)

    def test_what_may_be_thousands_or_decimals_is_asked(self) -> None:
        for text in ASKED:
            for read in (lambda t: parse_measure(t, "m"), lambda t: parse_quantity(t, "m")):
                with self.subTest(text), self.assertRaises(ReadingError) as caught:
                    read(text)
                self.assertIn("type the one you mean", str(caught.exception))

    def test_a_converted_value_is_shown_with_the_digits_that_it_has(self) -> None:
        for text, unit, shown in (("156 lb", "kg", "70.7604"), ("4 mi", "km", "6.43738")):
            self.assertEqual(show_spec_value(parse_measure(text, unit)), shown)

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
