"""Measured values beside described ones: what stands in, what stands no longer, and the file."""

from dataclasses import replace
from unittest import TestCase

from brightcore.bike.measured import (
    ROLLED,
    as_measured,
    circumference_mm,
    mark_of,
    preferred,
    standing_values,
    with_measured,
)
from brightcore.bike.model import Bike, MeasuredValue
from brightcore.describing.compare import compare
from brightcore.describing.measured import measured_words, worked_with
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import bike_document, dump_bike
from brightcore.kinds import REGISTRY
from brightcore.matching.drive import drive_of
from brightcore.programming.derive import derive_settings
from tests.bikes import demo_bike

FERN = demo_bike("fern")


def measured(bike: Bike, part: str, name: str, value: float, unit: str = "") -> Bike:
    """Return a bike on which a value was measured."""
    return with_measured(
        bike, [MeasuredValue(part, name, value, unit, "as read", "2026-11-20", mark_of(bike, part))]
    )


class MeasuredTest(TestCase):
    def test_a_value_named_like_a_field_stands_in_for_it(self) -> None:
        for part, name, value, used in (
            ("throttle", "rest_ratio", 0.19, True),
            ("throttle", "rest_ratio", 0.4, True),
            ("throttle", "rest_ratio", 0.41, False),  # beyond what the field may be
            ("motor", "rpm_per_v", 9.1, True),
            ("motor", "phase_ohm", 0.18, True),
            ("pack", "internal_ohm", 0.2, True),
            ("pack", "capacity_ah", 9.5, True),
            ("motor", "r25_ohm", 9900.0, False),  # nothing of the sort is described
            ("pack", "chemistry", 3.0, False),  # no number
        ):
            with self.subTest(part, name=name, value=value):
                bike = measured(FERN, part, name, value)
                now = getattr(as_measured(bike).part(part).spec, name, None)
                self.assertEqual(now == value, used)
                self.assertEqual(len(preferred(bike)), used)
                self.assertEqual([row.described for row in worked_with(bike)] != [], used)
                self.assertEqual(len(measured_words(bike)), 1)

    def test_it_stands_only_while_its_part_is_described_as_then(self) -> None:
        bike = measured(FERN, "throttle", "rest_ratio", 0.19)
        other = replace(
            bike.part("throttle"), spec=replace(bike.part("throttle").spec, full_ratio=0.75)
        )
        changed = replace(bike, parts=tuple(other if p.id == "throttle" else p for p in bike.parts))
        self.assertEqual((len(standing_values(bike)), len(standing_values(changed))), (1, 0))
        self.assertEqual(as_measured(changed).part("throttle").spec, other.spec)
        gone = replace(bike, parts=tuple(p for p in bike.parts if p.id != "throttle"))
        self.assertEqual(standing_values(gone), ())

    def test_a_roll_out_stands_in_for_the_tyre_and_falls_with_another(self) -> None:
        bike = measured(FERN, "", ROLLED, 2041.0, "mm")
        self.assertEqual(circumference_mm(bike), 2041.0)
        share = drive_of(bike).circumference_m / drive_of(FERN).circumference_m
        self.assertAlmostEqual(share, 2041.0 / circumference_mm(FERN), 6)
        (told,) = (d for d in derive_settings(bike) if d.role == "wheel_circumference_mm")
        self.assertEqual(told.value, 2041)
        self.assertIn("Measured 2026-11-20", told.reason)
        wider = replace(bike, info=replace(bike.info, tyre_width_mm=60.0))
        self.assertNotEqual(circumference_mm(wider), 2041.0)

    def test_a_newer_value_takes_its_place_and_one_can_go(self) -> None:
        bike = measured(measured(FERN, "motor", "phase_ohm", 0.2), "motor", "phase_ohm", 0.3)
        self.assertEqual([v.value for v in bike.measured], [0.3])
        self.assertEqual(with_measured(bike, (), [("motor", "phase_ohm")]), FERN)
        self.assertIn("Measured: ", " ".join(compare(FERN, bike, REGISTRY)))
        self.assertIn("No longer measured", " ".join(compare(bike, FERN, REGISTRY)))

    def test_the_file_carries_it_under_a_newer_version(self) -> None:
        bike = measured(FERN, "motor", "rpm_per_v", 9.1, "rpm/V")
        self.assertEqual(load_bike(dump_bike(bike)), bike)
        self.assertEqual(bike_document(bike)["version"], 2)
        self.assertEqual(bike_document(FERN)["version"], 1)
