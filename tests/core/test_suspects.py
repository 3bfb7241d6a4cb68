"""What a device shows, as evidence: the values on either side of each threshold."""

from unittest import TestCase

from brightcore.programming.suspects import NAMES, RULES, Shown, judged, setting_repairs
from tests.bikes import demo_bike

BOTH_WHEEL = ("wheel_circumference_mm", "speed_magnets")
BOTH_LIMITS = ("speed_limit_kmh", "current_limit_a")
CASES = (
    # what, roles that the device holds, values shown, what they say
    ("cutoff", ("low_cutoff_v",), (("low_cutoff_v", 41.2, 40.0),), "good"),
    ("cutoff", ("low_cutoff_v",), (("low_cutoff_v", 41.3, 40.0),), ""),
    ("cutoff", ("low_cutoff_v",), (("low_cutoff_v", 43.9, 40.0),), ""),
    ("cutoff", ("low_cutoff_v",), (("low_cutoff_v", 44.0, 40.0),), "wrong"),
    ("cutoff", ("low_cutoff_v",), (("low_cutoff_v", 31.5, 40.0),), "good"),
    ("limit", BOTH_LIMITS, (("speed_limit_kmh", 21.2, 25.0),), "wrong"),
    ("limit", BOTH_LIMITS, (("speed_limit_kmh", 21.3, 25.0),), ""),
    ("limit", BOTH_LIMITS, (("speed_limit_kmh", 25.0, 25.0),), ""),
    (
        "limit",
        BOTH_LIMITS,
        (("speed_limit_kmh", 25.0, 25.0), ("current_limit_a", 15.0, 15.0)),
        "good",
    ),
    (
        "limit",
        BOTH_LIMITS,
        (("speed_limit_kmh", 25.0, 25.0), ("current_limit_a", 12.7, 15.0)),
        "wrong",
    ),
    ("limit", ("speed_limit_kmh",), (("speed_limit_kmh", 24.3, 25.0),), "good"),
    ("limit", ("speed_limit_kmh",), (("speed_limit_kmh", 24.2, 25.0),), ""),
    (
        "wheel",
        ("wheel_circumference_mm",),
        (("wheel_circumference_mm", 2205.0, 2100.0),),
        "wrong",
    ),
    ("wheel", ("wheel_circumference_mm",), (("wheel_circumference_mm", 2204.0, 2100.0),), ""),
    ("wheel", ("wheel_circumference_mm",), (("wheel_circumference_mm", 2143.0, 2100.0),), ""),
    ("wheel", ("wheel_circumference_mm",), (("wheel_circumference_mm", 2142.0, 2100.0),), "good"),
    (
        "wheel",
        ("wheel_circumference_mm",),
        (("wheel_circumference_mm", 1995.0, 2100.0),),
        "wrong",
    ),
    ("wheel", BOTH_WHEEL, (("wheel_circumference_mm", 2100.0, 2100.0),), ""),
    ("wheel", BOTH_WHEEL, (("speed_magnets", 6.0, 1.0),), "wrong"),
    (
        "wheel",
        BOTH_WHEEL,
        (("wheel_circumference_mm", 2100.0, 2100.0), ("speed_magnets", 1.0, 1.0)),
        "good",
    ),
    ("assist", ("start_level",), (("start_level", 0.0, 1.0),), "wrong"),
    ("assist", ("start_level",), (("start_level", 1.0, 1.0),), ""),
    ("assist", ("start_level",), (("start_level", 0.0, 0.0),), ""),
    ("cutoff", (), (), ""),
)


class JudgedTest(TestCase):
    def test_only_what_is_clearly_right_or_wrong_says_something(self) -> None:
        for what, held, values, wanted in CASES:
            shown = [Shown(*value) for value in values]
            with self.subTest(what=what, values=values):
                self.assertEqual(judged(what, held, shown), wanted)

    def test_every_setting_has_its_words(self) -> None:
        self.assertEqual(set(NAMES), set(RULES))

    def test_a_display_shows_what_its_controller_goes_by(self) -> None:
        repairs = setting_repairs(demo_bike("fern"), "display")
        self.assertEqual(repairs["cutoff"], "setting:controller:cutoff")
        self.assertEqual(repairs["assist"], "setting:display:assist")
