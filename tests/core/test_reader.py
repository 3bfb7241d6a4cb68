"""Quantities in a reader's units, against Pint; and what must not be touched."""

from unittest import TestCase

import pint

from brightcore.reader import IMPERIAL, Reader, in_words_of

METRIC, IMPERIAL_READER, BOTH = Reader(), Reader("imperial"), Reader("both")
PINT = {
    "km/h": ("km/hour", "mile/hour"),
    "km": ("km", "mile"),
    "Wh/km": ("watt_hour/km", "watt_hour/mile"),
    "m": ("m", "foot"),
    "cm": ("cm", "inch"),
    "mm": ("mm", "inch"),
    "kg": ("kg", "pound"),
    "°C": ("degC", "degF"),
    "Nm": ("newton*metre", "foot*pound_force"),
}


class ReaderTest(TestCase):
    def test_every_factor_is_that_of_the_units_library(self) -> None:
        registry = pint.UnitRegistry()
        self.assertEqual(set(PINT), set(IMPERIAL))
        for unit, (ours, theirs) in PINT.items():
            for value in (0.0, 1.0, 37.5):
                wanted = registry.Quantity(value, ours).to(theirs).magnitude
                with self.subTest(unit, value=value):
                    self.assertAlmostEqual(IMPERIAL[unit][1](value), wanted, places=7)

    def test_words_in_each_system(self) -> None:
        for text, imperial, both in (
            ("25 km/h", "15.5 mph", "25 km/h (15.5 mph)"),
            ("0 to 45 °C", "32 to 113 °F", "0 to 45 °C (32 to 113 °F)"),
            ("-5 °C", "23 °F", "-5 °C (23 °F)"),
            ("120 kg", "265 lb", "120 kg (265 lb)"),
            (
                "40 km at 8.5 Wh/km",
                "24.9 mi at 13.7 Wh/mi",
                "40 km (24.9 mi) at 8.5 Wh/km (13.7 Wh/mi)",
            ),
            ("30 mm clear", "1.18 in clear", "30 mm (1.18 in) clear"),
            ("10–30 mm", "0.39–1.18 in", "10–30 mm (0.39–1.18 in)"),
            ("40 Nm", "29.5 lbf·ft", "40 Nm (29.5 lbf·ft)"),
            ("1.20 m, 48 in", "48 in", "1.20 m, 48 in"),
            ("2.50 m", "8.2 ft", "2.50 m (8.2 ft)"),
        ):
            with self.subTest(text):
                self.assertEqual(in_words_of(METRIC, text), text)
                self.assertEqual(in_words_of(IMPERIAL_READER, text), imperial)
                self.assertEqual(in_words_of(BOTH, text), both)

    def test_small_plugs_stay_in_millimetres(self) -> None:
        self.assertEqual(in_words_of(IMPERIAL_READER, "magnet 9.9 mm"), "magnet 9.9 mm")
        self.assertEqual(in_words_of(IMPERIAL_READER, "magnet 10 mm"), "magnet 0.39 in")

    def test_what_is_no_such_quantity_stays(self) -> None:
        for text in (
            "5 min",
            "2.5 mm²",
            "job 6 mended",
            "r12 m",
            "3 modules",
            "48 V",
            "4.7 kΩ",
            "W009",
            "5 kmx",
        ):
            with self.subTest(text):
                self.assertEqual(in_words_of(IMPERIAL_READER, text), text)

    def test_a_decimal_comma_is_put_only_into_quantities(self) -> None:
        comma = Reader(decimal=",")
        for text, wanted in (
            ("4.9 V", "4,9 V"),
            ("0.21 kΩ, 3.5 mΩ", "0,21 kΩ, 3,5 mΩ"),
            ("12.5 %", "12,5 %"),
            ("version 1.2 is here", "version 1.2 is here"),
            ("pack.main.plus", "pack.main.plus"),
            ("2026.11.26", "2026.11.26"),
            ("p1.5 V", "p1.5 V"),
        ):
            with self.subTest(text):
                self.assertEqual(in_words_of(comma, text), wanted)
        self.assertEqual(in_words_of(Reader("imperial", ","), "25 km/h"), "15,5 mph")
