"""Ride logs: distance against an independent geodesic, energy against scipy, gaps and jumps
flagged."""

import math
import random
from itertools import pairwise
from unittest import TestCase

import numpy as np
from geographiclib.geodesic import Geodesic
from scipy.integrate import trapezoid

from brightcore.errors import FormatError
from brightcore.formats.ride_file import MAX_BYTES, read_ride
from brightcore.procedure.ride import RideLog, Sample, analyse, metres, speed_words, tells_range

HEAD = '<?xml version="1.0"?><gpx version="1.1" creator="test" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
FOOT = "</trkseg></trk></gpx>"


def gpx(*points: tuple[float, float, str]) -> bytes:
    rows = "".join(f'<trkpt lat="{a}" lon="{b}"><time>{t}</time></trkpt>' for a, b, t in points)
    return f"{HEAD}{rows}{FOOT}".encode()


def way(count: int, seed: int = 1) -> tuple[Sample, ...]:
    rng = random.Random(seed)
    lat, lon, made = 54.0, 11.0, []
    for i in range(count):
        made.append(Sample(float(i), lat, lon, speed_kmh=20.0))
        lat, lon = lat + rng.uniform(0, 5e-5), lon + rng.uniform(0, 8e-5)
    return tuple(made)


class DistanceTest(TestCase):
    def test_ways_are_those_of_an_independent_geodesic(self) -> None:
        """On the WGS 84 ellipsoid by Karney's algorithm; a sphere is within 0.6 % of it [lib]."""
        rng = random.Random(2)
        for _ in range(200):
            one = Sample(0, rng.uniform(-70, 70), rng.uniform(-179, 179))
            other = Sample(
                1, one.lat + rng.uniform(-0.02, 0.02), one.lon + rng.uniform(-0.02, 0.02)
            )
            real = Geodesic.WGS84.Inverse(one.lat, one.lon, other.lat, other.lon)["s12"]
            found = metres(one, other)
            assert found is not None
            self.assertAlmostEqual(found / real, 1.0, delta=0.006)
        self.assertIsNone(metres(Sample(0), Sample(1)))

    def test_a_ride_by_satellite_and_by_speed(self) -> None:
        samples = way(600)
        real = sum(
            Geodesic.WGS84.Inverse(a.lat, a.lon, b.lat, b.lon)["s12"] for a, b in pairwise(samples)
        )
        ride = analyse(RideLog(None, samples))
        assert ride.distance_km is not None and ride.speed_ratio is not None
        self.assertAlmostEqual(ride.distance_km, real / 1000, delta=0.006 * real / 1000)
        self.assertAlmostEqual(ride.speed_ratio, 20 / 3.6 * 599 / real, delta=0.01)
        shown = analyse(RideLog(None, tuple(Sample(float(i), speed_kmh=18.0) for i in range(601))))
        self.assertAlmostEqual(shown.distance_km or 0, 3.0, places=6)
        self.assertIsNone(shown.speed_ratio)


class EnergyTest(TestCase):
    def test_energy_is_that_of_scipy_and_resistance_that_of_the_sag(self) -> None:
        t = np.arange(0.0, 900.0)
        amps = 8 + 6 * np.sin(t / 40)
        volts = 50.0 - 0.12 * amps
        log = RideLog(
            None,
            tuple(
                Sample(*row)
                for row in zip(
                    t, [None] * 900, [None] * 900, [25.0] * 900, volts, amps, strict=True
                )
            ),
        )
        ride = analyse(log)
        self.assertAlmostEqual(ride.wh or 0, trapezoid(volts * amps, t) / 3600, places=3)
        self.assertAlmostEqual(ride.wh_per_km or 0, (ride.wh or 0) / (25 * 899 / 3600), places=3)
        self.assertAlmostEqual(ride.ohm or 0, 0.12, places=6)
        self.assertEqual((round(ride.most_a or 0, 1), round(ride.least_v or 0, 1)), (14.0, 48.3))

    def test_shown_speed_corrects_what_is_set_from_one_percent(self) -> None:
        rows = (
            (None, ""),
            (1.009, "agree"),
            (1.011, "1978 mm"),
            (0.989, "2022 mm"),
            (1.05, "5.0 % too fast"),
        )
        for ratio, words in rows:
            self.assertIn(words, speed_words(ratio, 2000.0), ratio)

    def test_a_short_ride_tells_nothing_of_range(self) -> None:
        for told, tells in (
            ({"distance_km": 0.2, "ah": 0.05}, True),
            ({"distance_km": 0.19, "ah": 0.05}, False),
            ({"distance_km": 0.2, "ah": 0.049}, False),
            ({"distance_km": 5.0}, False),
        ):
            self.assertEqual(tells_range(told), tells, told)

    def test_what_is_given_back_is_told(self) -> None:
        samples = [
            Sample(float(i), None, None, 20.0, 50.0, 10.0 if i < 100 else -2.0) for i in range(201)
        ]
        ride = analyse(RideLog(None, tuple(samples)))
        self.assertAlmostEqual(ride.regenerated or 0, 0.2, delta=0.01)
        self.assertAlmostEqual(ride.wh or 0, (500 - 100) * 100 / 3600, delta=0.2)

    def test_a_resistance_needs_amps_that_differ(self) -> None:
        for spread, told in ((4.9, False), (5.1, True)):
            amps = [10.0 + spread * (i % 2) for i in range(40)]
            log = RideLog(
                None,
                tuple(
                    Sample(float(i), None, None, None, 50 - 0.1 * a, a) for i, a in enumerate(amps)
                ),
            )
            self.assertEqual(analyse(log).ohm is not None, told)


class FlagsTest(TestCase):
    def test_gaps_and_jumps_are_left_out_and_told(self) -> None:
        base = list(way(100))
        clean = analyse(RideLog(None, tuple(base)))
        gap = [s if i < 50 else Sample(s.seconds + 60, s.lat, s.lon) for i, s in enumerate(base)]
        found = analyse(RideLog(None, tuple(gap)))
        self.assertIn("A gap of 61 s at 0.8 min", found.flags[0])
        self.assertLess(abs((found.distance_km or 0) - (clean.distance_km or 0)), 0.02)
        jump = [*base[:50], Sample(49.5, 55.0, 11.0), *base[50:]]
        found = analyse(RideLog(None, tuple(jump)))
        self.assertEqual(sum("A jump of" in words for words in found.flags), 2)
        self.assertLess(abs((found.distance_km or 0) - (clean.distance_km or 0)), 0.02)
        self.assertLess(found.top_kmh or 0, 130)

    def test_time_zones_are_read_right(self) -> None:
        utc = read_ride(
            gpx((54, 11, "2026-11-26T13:00:00Z"), (54.001, 11, "2026-11-26T13:01:00Z")), "a.gpx"
        )
        here = read_ride(
            gpx((54, 11, "2026-11-26T14:00:00+01:00"), (54.001, 11, "2026-11-26T13:01:00Z")),
            "a.gpx",
        )
        for log in (utc, here):
            self.assertEqual(log.samples[-1].seconds, 60.0)
        assert utc.began is not None and here.began is not None
        self.assertEqual(utc.began, here.began)
        text = b"time,speed\n2026-11-26T14:00:00+01:00,20\n2026-11-26T13:00:30+00:00,20\n"
        self.assertEqual(read_ride(text, "a.csv").samples[-1].seconds, 30.0)

    def test_a_clock_that_steps_back_is_told(self) -> None:
        log = read_ride(b"time,speed\n0,20\n5,20\n4,20\n6,20\n", "a.csv")
        self.assertEqual(
            (len(log.samples), log.flags),
            (3, ("The clock steps back or stands at 1 places: left out",)),
        )


class BadFileTest(TestCase):
    def test_what_cannot_be_read_is_named_by_its_place(self) -> None:
        for content, name, words in (
            (b"<gpx", "a.gpx", "is no GPX"),
            (b"hello", "a.gpx", "is no GPX"),
            (b'<!DOCTYPE x [<!ENTITY a "b">]><gpx/>', "a.gpx", "document type"),
            (gpx(), "a.gpx", "no place of it has a time"),
            (gpx((54, 11, "2026-11-26T13:00:00Z")), "a.gpx", "fewer than two"),
            (b"\xff\xfe\xff", "a.csv", "not UTF-8"),
            (b"time\n1\n", "a.csv", "line 1"),
            (b"speed,volts\n1,2\n", "a.csv", "line 1"),
            (b"time,speed\n0,20\nsoon,20\n", "a.csv", "line 3: 'soon' is no time"),
            (b"time,speed\n0,fast\n", "a.csv", "line 2: speed_kmh 'fast' is not a number"),
            (b"time,speed\n0,nan\n1,2\n", "a.csv", "line 2: speed_kmh nan must lie"),
            (b"time,volts\n0,999\n", "a.csv", "line 2: volts 999 must lie from 0 to 150"),
            (b"x" * (MAX_BYTES + 1), "a.gpx", "up to 8 MB"),
        ):
            with self.subTest(words), self.assertRaises(FormatError) as caught:
                read_ride(content, name)
            self.assertIn(words, " ".join(str(problem) for problem in caught.exception.problems))

    def test_two_thousand_changes_never_crash_it(self) -> None:
        rng = random.Random(5)
        track = gpx(*((54 + i / 1e4, 11.0, f"2026-11-26T13:00:{i:02d}Z") for i in range(20)))
        table = b"time,speed,volts\n" + b"".join(b"%d,20,50\n" % i for i in range(20))
        good = (track, table)
        for k in range(2000):
            text = bytearray(good[k % 2])
            for _ in range(rng.randrange(1, 6)):
                text[rng.randrange(len(text))] = rng.randrange(256)
            try:
                ride = analyse(read_ride(bytes(text), ("a.gpx", "a.csv")[k % 2]))
            except FormatError:
                continue
            self.assertTrue(ride.distance_km is None or math.isfinite(ride.distance_km))
