"""The rider's sheet and evidence in plain words."""

import re
from datetime import date
from unittest import TestCase

from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.procedure.due import due_on
from brightcore.procedure.rider import rider_sheet
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
            parts = rider_sheet(bike, ["New hall cable"], frozenset({"motor"}), on, ["Axle nuts"])
            text = "\n".join(line for part in parts for line in part.lines)
            with self.subTest(name):
                self.assertGreaterEqual(len(parts), 4)
                self.assertIn("After the first ride: axle nuts.", text)
                self.assertIn("18.12.2026", text)
                self.assertEqual(RAW.findall(text), [])

    def test_nothing_done_is_said(self) -> None:
        (first, *_) = rider_sheet(FERN, [], frozenset(), date(2026, 1, 1), [])
        self.assertEqual(first.lines, ("Looked over; nothing was changed.",))


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
