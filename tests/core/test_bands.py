"""Bands of every kind of point: sound, just off, just a danger, and what no meter shows there."""

from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.bands import DANGER, IMPOSSIBLE, OFF, USUAL, bands_at, bands_of
from brightcore.bands.points import POINTS
from brightcore.bike.roles import role_of
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import UnknownNameError
from brightcore.setting import INSTRUMENTS
from brightcore.setting.contract import POINT_CODES
from tests.bikes import demo_bike

FERN = demo_bike("fern")
"""A 13S nickel pack: 39.0 to 54.6 V, a 12 V lamp output."""

TABLE = (
    # point, part, ((value, band), …)
    ("rail", "", ((5.0, USUAL), (4.7, USUAL), (4.69, OFF), (5.2, USUAL), (5.21, OFF))),
    ("rail", "", ((5.5, OFF), (5.51, DANGER), (12.4, DANGER), (53.9, DANGER), (0.0, OFF))),
    ("rail", "", ((-0.5, OFF), (-0.51, DANGER), (1000.0, DANGER), (1000.1, IMPOSSIBLE))),
    ("signal", "", ((0.0, USUAL), (5.2, USUAL), (5.21, OFF), (5.51, DANGER), (-0.51, DANGER))),
    (
        "brake",
        "",
        ((0.5, USUAL), (0.51, OFF), (3.29, OFF), (3.3, USUAL), (5.51, DANGER), (48.0, DANGER)),
    ),
    ("pack", "pack", ((39.0, USUAL), (38.9, OFF), (0.0, OFF), (54.6, USUAL), (54.61, OFF))),
    ("pack", "pack", ((54.99, OFF), (55.0, DANGER), (84.0, DANGER), (-0.51, DANGER))),
    ("cell", "pack", ((3.0, USUAL), (4.2, USUAL), (2.99, OFF), (2.5, OFF), (2.49, DANGER))),
    ("cell", "pack", ((4.21, OFF), (4.23, OFF), (4.24, DANGER), (-0.4, DANGER), (4.75, DANGER))),
    ("cell", "pack", ((-2.0, DANGER), (-2.1, IMPOSSIBLE), (6.0, DANGER), (6.1, IMPOSSIBLE))),
    ("heat", "", ((95.0, USUAL), (95.1, OFF), (130.0, OFF), (130.1, DANGER), (300.1, IMPOSSIBLE))),
    ("output", "throttle", ((5.0, USUAL), (5.51, DANGER))),
    ("output", "lamp", ((12.0, USUAL), (10.8, USUAL), (10.7, OFF), (15.0, OFF), (15.1, DANGER))),
)


class BandTest(TestCase):
    def test_every_point_on_both_sides_of_every_edge(self) -> None:
        seen = set()
        for point, part, rows in TABLE:
            bands = bands_of(FERN, point, part)
            assert bands is not None
            seen.add(point)
            for value, wanted in rows:
                with self.subTest(point, value=value):
                    self.assertEqual(bands.of(value), wanted)
        self.assertEqual(seen, set(POINTS))

    def test_a_danger_says_what_to_do_and_names_no_figure_that_is_missing(self) -> None:
        for point, part, rows in TABLE:
            bands = bands_of(FERN, point, part)
            assert bands is not None
            for value, band in rows:
                hazard = bands.hazard(value)
                if band == DANGER:
                    assert hazard is not None
                    self.assertIn(hazard.code, {*POINT_CODES, "motor-hot"})
                    self.assertTrue(
                        hazard.do.startswith(("Switch off", "Do not", "Charger off")), hazard.do
                    )
                    words = hazard.text.format(value=f"{value:g}", usual=bands.usual_words)
                    self.assertNotIn("{", words)

    def test_every_readable_pin_of_every_pattern_has_its_bands(self) -> None:
        """Against ground: supplies, signals, pack volts, outputs; phases and grounds have none."""
        for name in PATTERNS:
            bike = make_pattern(name, name)
            case = analysis_of(bike)
            ground = next(
                pin for pin, place in case.places.items() if place.pin.role == "pack_minus"
            )
            for pin, place in case.places.items():
                role = role_of(place.pin.role)
                if role.level in ("5v", "pack", "set"):
                    with self.subTest(name, pin=pin):
                        bands = bands_at(bike, pin, ground)
                        assert bands is not None
                        self.assertEqual(bands.of(1001.0), IMPOSSIBLE)
                elif role.level in ("phase", "ground"):
                    self.assertIsNone(bands_at(bike, pin, ground))

    def test_what_a_pin_is_follows_from_its_role_and_from_its_wire(self) -> None:
        for pin, point in (
            ("lever_left.plug.signal", "brake"),
            ("front_harness.to_brake_l.brake_l", "brake"),
            ("throttle.plug.signal", "signal"),
            ("throttle.plug.supply", "rail"),
            ("controller.front.v5", "rail"),
            ("display.plug.vp", "pack"),
            ("lamp.plug.plus", "output"),
        ):
            bands = bands_at(FERN, pin, "controller.battery.minus")
            assert bands is not None
            with self.subTest(pin):
                self.assertEqual(bands.point, point)

    def test_nothing_is_said_of_readings_that_are_not_against_ground(self) -> None:
        self.assertIsNone(bands_at(FERN, "controller.battery.plus", "throttle.plug.signal"))
        self.assertIsNone(bands_at(FERN, "wings.plug.left", "throttle.plug.ground"))

    def test_a_point_that_is_not_known_is_refused(self) -> None:
        with self.assertRaises(UnknownNameError):
            bands_of(FERN, "moon")

    def test_every_field_that_names_a_point_has_its_bands_on_every_pattern(self) -> None:
        for name in PATTERNS:
            bike = make_pattern(name, name)
            for item in INSTRUMENTS:
                for subject in item.subjects(bike):
                    for field in item.fields(bike, subject.id, {"shown": "volts"}):
                        if field.point:
                            with self.subTest(name, item=item.key, field=field.id):
                                self.assertIsNotNone(bands_of(bike, field.point, subject.id))
