"""Numbers of files: every one of them can be reckoned with, or the file is refused in words."""

import copy
import json
from collections.abc import Iterator
from typing import Any
from unittest import TestCase

from brightcore.describing.specs import parse_spec_value
from brightcore.errors import BrightError, FormatError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import bike_document
from brightcore.formats.csv_cells import plain_cell, safe_cell
from brightcore.formats.plain import MOST_DIGITS, read_json
from brightcore.formats.ride_file import read_ride
from tests.amount import sampled
from tests.bikes import demo_bike

TOO_LARGE = ("9" * 401, "-" + "9" * 401, "1e999", "-1e400", "NaN", "Infinity")


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Yield where the numbers of a document stand."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from places(inner, (*path, key))
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            yield from places(inner, (*path, index))
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield path


class NumberTest(TestCase):
    def test_no_number_that_is_none_comes_in(self) -> None:
        for text in TOO_LARGE:
            with self.subTest(text[:9]), self.assertRaises(ValueError):
                read_json(f'{{"a": [1, {text}]}}')
        for digits, taken in ((MOST_DIGITS, True), (MOST_DIGITS + 1, False)):
            text = "9" * digits
            if taken:
                self.assertEqual(read_json(text), int(text))
            else:
                self.assertRaises(ValueError, read_json, text)

    def test_no_place_of_a_bike_file_lets_one_in(self) -> None:
        raw = bike_document(demo_bike("fern"))
        for path in sampled(list(places(raw)), 7):
            changed = copy.deepcopy(raw)
            inner = changed
            for key in path[:-1]:
                inner = inner[key]
            inner[path[-1]] = "HERE"
            text = json.dumps(changed)
            for number in TOO_LARGE:
                with self.subTest(path, number=number[:9]), self.assertRaises(FormatError):
                    load_bike(text.replace('"HERE"', number))

    def test_typed_lists_of_numbers(self) -> None:
        hint = tuple[int, ...]
        self.assertEqual(parse_spec_value("x", "11, 13", hint), (11, 13))
        for typed in ("9" * 10, "9" * 5000, "11, " + "9" * 5000):
            with self.assertRaises(BrightError):
                parse_spec_value("x", typed, hint)


class CellTest(TestCase):
    def test_no_cell_is_a_formula_even_behind_blanks(self) -> None:
        for text, safe in (
            ("=1+1", "'=1+1"),
            (" =1+1", "' =1+1"),
            ("\t@x", "'\t@x"),
            ("  -cmd", "'  -cmd"),
            ("-0.3", "-0.3"),
            (" -0.3", " -0.3"),
            ("a=1", "a=1"),
        ):
            with self.subTest(text):
                self.assertEqual(safe_cell(text), safe)
                self.assertEqual(plain_cell(safe_cell(text)), text)


class RideTest(TestCase):
    def test_a_ride_off_the_earth_is_read_once_through(self) -> None:
        """Every place of it is wild but two: as many comparisons as places, not their square."""
        point = '<trkpt lat="{lat}" lon="0"><time>2026-05-01T10:{m:02d}:{s:02d}Z</time></trkpt>'
        points = []
        for n in range(3000):
            lat = 51.0 if n in (0, 2999) else 95.0
            points.append(point.format(lat=lat, m=n // 60, s=n % 60))
        head = '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
        text = head + "".join(points) + "</trkseg></trk></gpx>"
        log = read_ride(text.encode(), "ride.gpx")
        self.assertEqual(len(log.samples), 2)
        self.assertIn("2998 places are not on the earth: left out", log.flags)
