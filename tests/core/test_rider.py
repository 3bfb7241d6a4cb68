"""The rider's sheet and evidence in plain words."""

import re
from collections.abc import Sequence
from datetime import date
from unittest import TestCase

from brightcore.bike.model import Bike
from brightcore.describing.edit import remove_part
from brightcore.describing.join_edits import remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.procedure.due import due_on
from brightcore.procedure.rider import RiderFacts, rider_sheet
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.plain_words import plain_bench, plain_title
from brightcore.tracing.simulated import TrueBikes
from tests.bikes import demo_bike, engine

FERN = demo_bike("fern")
RAW = re.compile(r"\b[a-z]+_[a-z_]+\b")


class RiderTest(TestCase):
    def test_every_bike_has_a_sheet_without_raw_names(self) -> None:
        for name in PATTERNS:
            bike = make_pattern(name, name)
            on = date(2026, 11, 20)
            facts = RiderFacts(["New hall cable"], frozenset({"motor"}), later=["Axle nuts"])
            parts = rider_sheet(bike, facts, on)
            text = "\n".join(line for part in parts for line in part.lines)
            with self.subTest(name):
                self.assertGreaterEqual(len(parts), 4)
                self.assertIn("After the first ride: axle nuts.", text)
                self.assertIn("18 December 2026", text)
                self.assertEqual(RAW.findall(text), [])

    def test_nothing_done_is_said(self) -> None:
        (first, *_) = rider_sheet(FERN, RiderFacts(), date(2026, 1, 1))
        self.assertEqual(first.lines, ("Looked over; nothing was changed.",))

    def test_which_lever_stops_the_motor_is_true_of_this_bike(self) -> None:
        """Rows: levers taken off or disconnected, checks that have not passed, what is said, what
        must not be."""
        off = lambda *levers: _without(FERN, levers)  # noqa: E731
        for bike, unproven, said, never in (
            (FERN, (), "Left brake lever, Right brake lever", "Only"),
            (off("lever_left"), (), "Only Right brake lever stops the motor", "Left brake lever"),
            (
                off("lever_left", "lever_right"),
                (),
                "No brake lever stops the motor",
                "stops the motor. If",
            ),
            (
                FERN,
                ("cut:lever_left",),
                "Not proven to stop the motor: Left brake lever",
                "Each of these",
            ),
            (
                remove_join(FERN, _own(FERN, "lever_right")),
                (),
                "Only Left brake lever",
                "Right brake lever",
            ),
        ):
            text = _text(bike, RiderFacts(unproven=frozenset(unproven)))
            with self.subTest(said):
                self.assertIn(said, text)
                self.assertNotIn(never, text)

    def test_what_they_must_know_follows_from_the_bike(self) -> None:
        """Rows: pattern, words that must stand there, words that must not."""
        for name, has, never in (
            ("soft-packs", "Unplug the batteries whenever it is parked", "Several batteries"),
            ("two-packs", "Several batteries", "Unplug the batteries"),
            ("light-motorcycle", "Switch it off or unplug", "cranks"),
            ("mid-conversion", "cut-offs", "axle"),
        ):
            text = _text(make_pattern(name, name), RiderFacts())
            with self.subTest(name):
                self.assertIn(has, text)
                self.assertNotIn(never, text)
        self.assertIn("About 25 km", _text(FERN, RiderFacts(range_km=25.2)))
        self.assertIn(
            "Horn: not proven. Why: none fitted",
            _text(FERN, RiderFacts(let_go=[("Horn: not proven", "none fitted")])),
        )


def _without(bike: Bike, parts: Sequence[str]) -> Bike:
    for part in parts:
        bike = remove_part(bike, part).bike
    return bike


def _own(bike: Bike, part: str) -> str:
    return next(join.id for join in bike.joins_of(part))


def _text(bike: Bike, facts: RiderFacts) -> str:
    parts = rider_sheet(bike, facts, date(2026, 1, 1))
    return "\n".join(line for part in parts for line in part.lines)


class DueTest(TestCase):
    def test_what_is_due_beside_its_day(self) -> None:
        day = date(2026, 1, 1)
        self.assertEqual(due_on(FERN, None, {}), ())
        found = due_on(FERN, day, {"capacity": date(2025, 6, 1)})
        self.assertEqual(
            [(item.words.partition(":")[0], item.on) for item in found],
            [
                ("Second visit", date(2026, 1, 29)),
                ("Axle nuts and torque arm", date(2026, 4, 2)),
                ("Pack capacity", date(2026, 6, 1)),
                ("Brake cut-offs", date(2026, 7, 2)),
            ],
        )
        self.assertEqual([found[0].is_late(date(2026, 1, n)) for n in (29, 30)], [False, True])


class PlainWordsTest(TestCase):
    def test_every_kind_of_evidence_is_said_without_raw_names(self) -> None:
        made = engine("fern")
        bench, truth = plain_bench(made.circuit), TrueBikes(made, [0], 1)
        seen = set()
        for name in list(made.by_id)[::7]:
            for item in truth.answer(made.by_id[name], 0):
                seen.add(item.kind)
                words = plain_title(bench, item, {})
                with self.subTest(item.kind, test=name):
                    self.assertEqual(RAW.findall(words), [], words)
        self.assertGreater(len(seen), 4)

    def test_what_the_bike_no_longer_has_keeps_its_words(self) -> None:
        gone = Evidence("volts", "4.9", "on", "radar.plug.v5", "radar.plug.gnd")
        bench = plain_bench(engine("fern").circuit)
        self.assertEqual(plain_title(bench, gone, {}), "volts radar.plug.v5 to radar.plug.gnd")
