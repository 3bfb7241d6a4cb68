"""What comes first on a job: hazards, then the proof of what was repaired, then the rest."""

from itertools import pairwise
from unittest import TestCase

from brightcore.procedure.next_thing import (
    ORDER,
    NextThing,
    close,
    connect,
    first_of,
    look_at_pack,
    mend_danger,
    prove,
    quarantined,
)

IN_ORDER = (
    quarantined(["swollen", "hot"]),
    look_at_pack(6),
    mend_danger("W009", "The pack is connected the wrong way round.", "Swap the two wires.", 0),
    prove("Pull the throttle", "the motor runs"),
    close(),
    connect("Throttle with Controller", "same colour", 2),
    NextThing("repair", "trace", "Re-terminate the plug"),
    NextThing("measure", "trace", "Measure hall C to ground"),
)


class NextThingTest(TestCase):
    def test_hazards_come_before_proofs_and_proofs_before_new_work(self) -> None:
        for first, second in pairwise(IN_ORDER):
            with self.subTest(first=first.step, second=second.step):
                self.assertEqual(first_of([second, None, first]), first)

    def test_nothing_is_left_where_no_station_has_anything(self) -> None:
        self.assertIsNone(first_of([None, None]))

    def test_of_one_step_the_earlier_station_comes_first(self) -> None:
        one, two = (NextThing("station", key, key) for key in ("set", "program"))
        self.assertEqual(first_of([one, two]), one)

    def test_each_says_what_to_do_why_and_where(self) -> None:
        for thing, words, why, station in (
            (quarantined(["hot"]), "the shop lead decides", "Found: hot.", "arrive"),
            (quarantined([]), "the shop lead decides", "", "arrive"),
            (look_at_pack(1), "Look at the pack", "1 question is open", "arrive"),
            (look_at_pack(2), "Look at the pack", "2 questions are open", "arrive"),
            (
                mend_danger("W009", "Reversed.", "Swap.", 0),
                "Danger W009: Reversed.",
                "Swap.",
                "wire",
            ),
            (
                mend_danger("M001", "Too high.", "Check.", 1),
                "Danger M001",
                "Check. 1 more.",
                "arrive",
            ),
            (connect("", "", 0), "Connect what is free", "choose both plugs", "wire"),
            (connect("A with B", "same colour", 1), "Connect A with B", "Same colour.", "wire"),
            (
                connect("A with B", "same colour", 2),
                "Connect A with B",
                "1 more to connect.",
                "wire",
            ),
            (prove("Look", ""), "Prove: Look", "", "trace"),
        ):
            with self.subTest(words=thing.words):
                self.assertIn(words, thing.words)
                self.assertTrue(thing.why == why if not why else why in thing.why, thing.why)
                self.assertEqual(thing.station, station)
                self.assertIn(thing.step, ORDER)
