"""Purposes, what a job has changed, and what it has to prove."""

from dataclasses import replace
from unittest import TestCase

from brightcore.bike.model import Bike, Setting
from brightcore.describing.edit import remove_part
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import BrightError
from brightcore.procedure.changes import Changes, changes_between
from brightcore.procedure.gates import GATES
from brightcore.procedure.proofs import proof, proofs_of
from brightcore.procedure.proofs.case import GROUPS, ProofCase
from brightcore.procedure.purpose import (
    PURPOSES,
    is_whole,
    looks_for_faults,
    needed_stations,
    purposes_of,
)
from tests.bikes import demo_bike

FERN, OTTER = demo_bike("fern"), demo_bike("otter")
TWO, CART = make_pattern("two-packs", "two"), make_pattern("two-motor-cart", "cart")


def ids(bike: Bike, *touched: str, **more: object) -> list[str]:
    case = ProofCase(bike, frozenset(touched), **more)  # type: ignore[arg-type]
    return [item.id for item in proofs_of(case)]


def without(part: str) -> Bike:
    """Return Fern without a part and its connections."""
    joins = tuple(j for j in FERN.joins if part not in (j.a_part, j.b_part))
    return replace(FERN, parts=tuple(p for p in FERN.parts if p.id != part), joins=joins)


DRIVE = ["cut:lever_left", "cut:lever_right", "throttle:throttle", "assist"]
LISTS = (
    # bike, what was touched, what is to be proven: hand-written
    (FERN, (), []),
    (FERN, ("lamp",), ["light:lamp", "move:steering"]),
    (FERN, ("lever_left",), [*DRIVE, "minute", "move:steering", "road-cut"]),
    (FERN, ("throttle",), [*DRIVE, "minute", "move:steering", "road-cut"]),
    (FERN, ("pack",), [*DRIVE, "minute", "seat:pack", "road-cut", "road-hill", "charge:pack"]),
    (
        FERN,
        ("motor",),
        [*DRIVE, "minute", "warm:motor", "road-cut", "road-speed", "road-hill", "axle:motor"],
    ),
    (
        FERN,
        ("display",),
        [*DRIVE, "walk", "minute", "move:steering", "road-cut", "road-speed", "road-limit"],
    ),
    (
        TWO,
        ("pack_rear",),
        [
            *DRIVE,
            "minute",
            "alone:pack_front",
            "alone:pack_rear",
            "together",
            "seat:pack_rear",
            "road-cut",
            "road-hill",
            "charge:pack_rear",
        ],
    ),
)


class PurposeTest(TestCase):
    def test_purposes_choose_stations_in_their_order(self) -> None:
        for keys, stations, whole, faults in (
            ((), ("trace", "prove"), False, True),
            (("repair",), ("trace", "prove"), False, True),
            (("retrofit",), ("wire", "prove"), False, False),
            (("set-up", "retrofit"), ("wire", "set", "program", "prove"), False, False),
            (("build",), ("match", "wire", "set", "program", "prove"), True, False),
            (("check-over",), ("prove",), True, False),
            (("gremlins",), ("trace", "prove"), False, True),
        ):
            with self.subTest(keys):
                self.assertEqual(needed_stations(keys), stations)
                self.assertEqual((is_whole(keys), looks_for_faults(keys)), (whole, faults))
        self.assertEqual(
            [p.key for p in purposes_of(p.key for p in PURPOSES)], [p.key for p in PURPOSES]
        )


class ChangesTest(TestCase):
    def test_what_a_job_changed_is_computed(self) -> None:
        self.assertFalse(changes_between(FERN, FERN))
        lamp = replace(
            FERN,
            parts=tuple(p for p in FERN.parts if p.id != "lamp"),
            joins=tuple(j for j in FERN.joins if "lamp" not in (j.a_part, j.b_part)),
        )
        added = changes_between(lamp, FERN)
        self.assertEqual(
            (added.touched, added.words, added.to_do),
            (frozenset({"lamp"}), ("Fitted: Front lamp",), ("Fit: Front lamp",)),
        )
        self.assertEqual(added.disturbed(FERN), frozenset({"lamp", "controller"}))
        gone = changes_between(FERN, lamp)
        self.assertEqual(
            (gone.gone, gone.touched, gone.disturbed(lamp)),
            (("Front lamp",), frozenset(), frozenset({"controller"})),
        )
        set_ = changes_between(
            FERN, replace(FERN, settings=(Setting("controller", "low_cutoff_v", 40.5),))
        )
        self.assertIn("controller", set_.set_parts)
        self.assertEqual(set_.words, ("Controller: low-voltage cut-off 40.5 V, was 41",))
        self.assertEqual(changes_between(FERN, FERN), Changes())

    def test_only_a_plug_between_parts_of_the_drive_disturbs_it(self) -> None:
        """A lamp's plug proves the lamp; a throttle's plug proves that the motor still stops."""
        for plug, drives in (
            ("lamp", False),
            ("throttle", True),
            ("j-pack", True),
            ("j-halls-m", True),
        ):
            join = next(j for j in FERN.joins if plug in (j.id, j.a_part, j.b_part))
            apart = replace(FERN, joins=tuple(j for j in FERN.joins if j is not join))
            with self.subTest(plug):
                self.assertEqual(changes_between(FERN, apart).drive_disturbed, drives)
                self.assertEqual(changes_between(apart, FERN).drive_disturbed, drives)


class ProofsTest(TestCase):
    def test_lists_by_what_was_touched(self) -> None:
        for bike, touched, wanted in LISTS:
            with self.subTest(bike.info.label, touched=touched):
                self.assertEqual(ids(bike, *touched, limit_kmh=25.0), wanted)

    def test_a_tracker_that_was_connected_asks_for_itself_and_for_what_it_disturbed(self) -> None:
        found = ids(FERN, disturbed=frozenset({"pack"}), drive_disturbed=True)
        self.assertEqual(found, [*DRIVE, "minute", "road-cut"])
        shaken = ids(FERN, disturbed=frozenset({"lamp", "controller"}))
        self.assertEqual(shaken, ["light:lamp", "move:steering"])

    def test_nothing_is_asked_that_the_bike_lacks(self) -> None:
        """Rows: pattern, checks that its kind of bike has, and that it must not be asked."""
        for name, has, has_not in (
            (
                "light-motorcycle",
                {"key:key", "cut-other:stand", "horn:horn", "mode:mode"},
                {"walk", "assist", "warm:motor"},
            ),
            ("soft-packs", {"alarm:alarm_upper", "alarm:alarm_lower"}, {"walk", "road-speed"}),
            ("mid-conversion", {"cut-other:gear", "walk"}, {"axle:motor"}),
            ("two-motor-cart", {"motor:motor_left"}, {"walk", "assist"}),
        ):
            found = set(ids(make_pattern(name, name), whole=True))
            with self.subTest(name):
                self.assertLessEqual(has, found)
                self.assertFalse(has_not & found)

    def test_a_bike_without_a_cut_off_is_not_asked_for_one(self) -> None:
        bare = FERN
        for lever in ("lever_left", "lever_right"):
            bare = remove_part(bare, lever).bike
        road = next(c for c in proofs_of(ProofCase(bare, whole=True)) if c.id == "road-cut")
        self.assertNotIn("cut-off", f"{road.title} {road.method} {road.expect}")

    def test_a_build_proves_all_and_two_motors_each(self) -> None:
        for bike in (FERN, OTTER, TWO, CART):
            whole = ids(bike, whole=True, limit_kmh=25.0)
            for part in bike.parts:
                self.assertLessEqual(set(ids(bike, part.id, limit_kmh=25.0)), set(whole))
        self.assertIn("motor:motor_left", ids(CART, whole=True))

    def test_every_check_of_every_pattern_says_how_what_why_and_what_then(self) -> None:
        for name in PATTERNS:
            case = ProofCase(make_pattern(name, name), whole=True, limit_kmh=25.0)
            found = proofs_of(case)
            self.assertEqual(len({item.id for item in found}), len(found))
            self.assertEqual(
                [i.group for i in found], sorted((i.group for i in found), key=list(GROUPS).index)
            )
            for item in found:
                with self.subTest(name, id=item.id):
                    self.assertTrue(
                        all((item.title, item.method, item.expect, item.why, item.failed[1]))
                    )
                    self.assertLessEqual(set(item.gates), set(GATES))
                    self.assertEqual(proof(case, item.id), item)

    def test_readings_beside_their_limits(self) -> None:
        case = ProofCase(FERN, whole=True, limit_kmh=25.0)
        for name, text, value, right in (
            ("road-speed", "19.4", 19.4, True),
            ("road-speed", "19.3", 19.3, False),
            ("road-speed", "20.6 km/h", 20.6, True),
            ("road-speed", "20.7", 20.7, False),
            ("road-limit", "26", 26.0, True),
            ("road-limit", "26.1", 26.1, False),
            ("road-limit", "15", 15.0, True),
            ("road-limit", "14.9", 14.9, False),
        ):
            item = proof(case, name)
            assert item is not None and item.reading is not None
            self.assertEqual(item.reading.judge(text), (value, right), name)
        for text in ("200", "fast", ""):
            item = proof(case, "road-speed")
            assert item is not None and item.reading is not None
            self.assertRaises(BrightError, item.reading.judge, text)
