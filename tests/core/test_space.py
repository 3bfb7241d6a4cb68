"""Whether parts go where they are to go: by geometry worked out by hand, and never without a
measure."""

import math
from dataclasses import replace
from random import Random
from unittest import TestCase

from brightcore.bike.model import Bike
from brightcore.bike.space import MEASURES, Room, Size, Space
from brightcore.describing.compare import compare
from brightcore.describing.edit import remove_part
from brightcore.describing.patterns import make_pattern
from brightcore.errors import FormatError
from brightcore.formats.bike_file import load_bike, read_bike
from brightcore.formats.bike_writing import bike_document, canonical_json
from brightcore.kinds import REGISTRY
from brightcore.matching.rules import match_findings
from brightcore.matching.space import space_verdicts
from brightcore.physics.packing import bundle_mm, in_box, in_triangle, triangle_of

RIGHT = triangle_of(400.0, 500.0, 300.0)
"""Legs of 400 and 300 mm with a right angle between them."""

CIRCLES = ((3, 2.155), (4, 2.415), (5, 2.702), (6, 3.0), (7, 3.0), (19, 4.864))
"""Diameter of the smallest circle around n equal ones of diameter 1 [lib, mem: tables of circle
packing]."""


def fitted(*rooms: Room, **sizes: Size) -> Bike:
    bike = make_pattern("hub-conversion", "x")
    return replace(bike, space=Space(tuple(replace(s, part=p) for p, s in sizes.items()), rooms))


PACK = Size("", 360.0, 90.0, 110.0, 30.0)
TRIANGLE = Room("frame", "Frame", "triangle", 620.0, 480.0, 520.0, 110.0, ("pack",))
BOX = Room("bag", "Bag", "box", 200.0, 120.0, 80.0, 0.0, ("controller",))
HOLE = Room("hole", "Bracket hole", "hole", 20.0, parts=("display", "throttle"))
BAR = Room("bar", "Bar", "bar", 22.2, 150.0, parts=("display", "throttle"))


class PackingTest(TestCase):
    def test_a_rectangle_on_a_side_of_a_right_triangle(self) -> None:
        """At height t the leg of 400 has 400 (1 − t ÷ 300) left: 200 at 150 mm, and no more."""
        for length, height, fits in (
            (199.0, 150.0, True),
            (201.0, 150.0, False),
            (1.0, 299.0, True),
        ):
            with self.subTest(length=length):
                self.assertEqual(in_triangle(RIGHT, [(length, height)]) is not None, fits)
        self.assertIsNotNone(in_triangle(RIGHT, [(150.0, 199.0)]), "upright, or on the other leg")

    def test_a_second_one_goes_into_what_is_left_or_not_at_all(self) -> None:
        for second, fits in (((100.0, 90.0), True), ((260.0, 100.0), False), ((130.0, 95.0), True)):
            with self.subTest(second=second):
                self.assertEqual(in_triangle(RIGHT, [(200.0, 100.0), second]) is not None, fits)

    def test_sides_that_do_not_close_are_refused(self) -> None:
        for sides in ((100.0, 100.0, 200.0), (100.0, 100.0, 201.0), (0.0, 1.0, 1.0)):
            with self.assertRaises(ValueError):
                triangle_of(*sides)

    def test_boxes_stand_in_a_box_without_overlap(self) -> None:
        for things, fits in (
            ([(100.0, 60.0, 40.0)], True),
            ([(40.0, 100.0, 60.0)], True),
            ([(101.0, 60.0, 40.0)], False),
            ([(50.0, 60.0, 40.0)] * 2, True),
            ([(50.0, 60.0, 40.1)] * 2, False),
            ([(50.0, 30.0, 40.0)] * 4, True),
            ([(50.0, 30.0, 40.0)] * 5, False),
        ):
            with self.subTest(things=things):
                self.assertEqual(in_box((100.0, 60.0, 40.0), things) is not None, fits)

    def test_what_fits_never_holds_more_than_the_room(self) -> None:
        chance = Random(4)
        found = 0
        for _ in range(300):
            count = chance.randint(1, 4)
            things = [
                (chance.uniform(10, 90), chance.uniform(10, 90), chance.uniform(10, 90))
                for _ in range(count)
            ]
            if in_box((120.0, 80.0, 60.0), things) is not None:
                found += 1
                self.assertLessEqual(sum(map(math.prod, things)), 120 * 80 * 60)
            flat = [(a, b) for a, b, _ in things]
            if in_triangle(RIGHT, flat) is not None:
                self.assertLessEqual(sum(a * b for a, b in flat), 400 * 300 / 2)
        self.assertGreater(found, 50)

    def test_a_bundle_needs_no_less_than_the_tables_say(self) -> None:
        for count, diameter in CIRCLES:
            with self.subTest(count):
                found = bundle_mm([1.0] * count)
                self.assertGreaterEqual(found, diameter)
                self.assertLess(found, 1.15 * diameter)


class VerdictTest(TestCase):
    def test_each_room_fits_just_within_and_not_just_beyond(self) -> None:
        small = Size("", 180.0, 100.0, 70.0)
        cable, thin = Size("", plug_mm=12.0, cable_mm=8.0), Size("", plug_mm=10.0, cable_mm=6.0)
        wide, narrow = (Size("", width_mm=w, clamp_mm=22.2) for w in (90.0, 60.0))
        for name, bike, fits in (
            ("pack", fitted(TRIANGLE, pack=PACK), True),
            ("thick pack", fitted(replace(TRIANGLE, depth_mm=89.0), pack=PACK), False),
            ("no way out", fitted(TRIANGLE, pack=replace(PACK, slide_mm=300.0)), False),
            ("no triangle", fitted(replace(TRIANGLE, a_mm=1000.0), pack=PACK), False),
            ("bag", fitted(BOX, controller=small), True),
            ("turned", fitted(BOX, controller=Size("", 70.0, 180.0, 100.0)), True),
            ("too long", fitted(BOX, controller=replace(small, length_mm=200.1)), False),
            ("hole", fitted(HOLE, display=cable, throttle=thin), True),
            ("full hole", fitted(replace(HOLE, a_mm=13.9), display=cable, throttle=thin), False),
            ("plug", fitted(HOLE, display=replace(cable, plug_mm=20.1), throttle=thin), False),
            ("bar", fitted(BAR, display=wide, throttle=narrow), True),
            ("full bar", fitted(replace(BAR, b_mm=149.0), display=wide, throttle=narrow), False),
            ("thin clamp", fitted(replace(BAR, a_mm=31.8), display=wide, throttle=narrow), False),
            ("shimmed", fitted(replace(BAR, a_mm=21.7), display=wide, throttle=narrow), True),
            ("loose clamp", fitted(replace(BAR, a_mm=21.5), display=wide, throttle=narrow), False),
        ):
            with self.subTest(name):
                (verdict,) = space_verdicts(bike)
                self.assertIs(verdict.fits, fits, verdict)
                codes = {f.code for f in match_findings(bike)} & {"M014", "M015"}
                self.assertEqual(codes, set() if fits else {"M014"})
                self.assertTrue(verdict.way if fits else verdict.why)

    def test_what_is_not_measured_is_asked_and_never_taken_to_fit(self) -> None:
        """Each measure left out in turn, of the room and of the part."""
        for room, sizes in (
            (TRIANGLE, {"pack": PACK}),
            (BOX, {"controller": Size("", 180.0, 100.0, 70.0)}),
            (replace(HOLE, parts=("display",)), {"display": Size("", plug_mm=12.0, cable_mm=8.0)}),
            (replace(BAR, parts=("display",)), {"display": Size("", width_mm=60.0, clamp_mm=22.2)}),
        ):
            bikes = [
                fitted(replace(room, **{field: 0.0}), **sizes) for field in MEASURES[room.shape]
            ]
            bikes.append(fitted(room))
            for bike in bikes:
                with self.subTest(room.name):
                    (verdict,) = space_verdicts(bike)
                    self.assertIsNone(verdict.fits)
                    self.assertTrue(verdict.missing)
                    self.assertIn("M015", {f.code for f in match_findings(bike)})
        self.assertEqual(space_verdicts(fitted(replace(BOX, parts=()))), ())

    def test_it_goes_into_the_file_and_back_and_leaves_with_the_part(self) -> None:
        bike = fitted(TRIANGLE, HOLE, display=Size("", plug_mm=12.0, cable_mm=8.0), pack=PACK)
        self.assertEqual(load_bike(canonical_json(bike_document(bike))), bike)
        self.assertNotIn("space", bike_document(replace(bike, space=Space())))
        bare = remove_part(bike, "display").bike
        self.assertEqual([s.part for s in bare.space.sizes], ["pack"])
        self.assertEqual(bare.space.rooms[1].parts, ("throttle",))
        changed = replace(bike, space=replace(bike.space, rooms=(replace(TRIANGLE, a_mm=600.0),)))
        lines = compare(bike, changed, REGISTRY)
        self.assertEqual(lines, ("Room: Frame", "Room no more: Bracket hole"))

    def test_bad_files_name_the_place(self) -> None:
        good = bike_document(fitted(TRIANGLE, pack=PACK))
        room = {"id": "a", "name": "A", "shape": "box"}
        for change, words in (
            ({"sizes": {"ghost": {"length_mm": 1}}}, "no part"),
            ({"rooms": [{**room, "parts": ["ghost"]}]}, "no part"),
            ({"rooms": [{**room, "shape": "sphere"}]}, "is not one of"),
            ({"rooms": [room, room]}, "used twice"),
            ({"sizes": {"pack": {"length_mm": 6000}}}, "5000"),
        ):
            with self.subTest(words), self.assertRaises(FormatError) as caught:
                read_bike({**good, "space": change})
            self.assertIn(words, str(caught.exception))
