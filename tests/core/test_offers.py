"""What is offered to be connected: nothing that would be wrong, and nothing unclear among all at
once."""

from dataclasses import replace
from unittest import TestCase

from brightcore.bike.model import Bike, Part
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.findings import SEVERITIES
from brightcore.formats.part_file import PartEntry, generic_entries
from brightcore.wiring.offers import offers_of
from brightcore.wiring.propose import accept
from brightcore.wiring.rules import check_bike

ENTRIES = {entry.id: entry for entry in generic_entries()}
SHELF = tuple(Part(e.id, e.kind, e.name, e.spec, e.ports) for e in ENTRIES.values())


def with_entry(bike: Bike, name: str) -> tuple[Bike, str]:
    """Return the bike with a part of the library on it, connected to nothing, and the part's id."""
    entry: PartEntry = ENTRIES[name]
    made = add_part(bike, entry.kind, entry.name, entry.spec, entry.ports)
    return made, made.parts[-1].id


def apart(bike: Bike, *parts: str) -> Bike:
    """Return the bike with some parts connected to nothing."""
    for part in parts:
        for join in tuple(bike.joins_of(part)):
            bike = remove_join(bike, join.id)
    return bike


def grave(bike: Bike) -> set[tuple[str, tuple[str, ...]]]:
    most = SEVERITIES.index("fault")
    return {(f.code, f.subjects) for f in check_bike(bike) if SEVERITIES.index(f.severity) <= most}


class OffersTest(TestCase):
    def test_every_pattern_taken_apart_is_offered_whole_and_sound(self) -> None:
        for name in PATTERNS:
            whole = make_pattern(name, name)
            bare = replace(whole, joins=())
            offers = offers_of(bare)
            with self.subTest(name):
                self.assertEqual(offers.held_back, ())
                self.assertGreaterEqual(len(offers.proposals), len(whole.joins) // 2)

    def test_a_sensor_that_needs_five_volts_is_not_put_on_a_plug_without_them(self) -> None:
        """A magnetic cut-off has three wires; a brake plug of two gives it no supply."""
        bike = apart(make_pattern("hub-conversion", "x"), "lever_left")
        bike = replace(bike, parts=tuple(part for part in bike.parts if part.id != "lever_left"))
        made, sensor = with_entry(
            bike, next(e for e in ENTRIES if ENTRIES[e].kind == "magnetic_cut_off")
        )
        offers = offers_of(made, SHELF)
        joined = accept(made, offers.proposals)
        self.assertEqual(grave(joined) - grave(made), set())
        if not any(joined.joins_of(sensor)):
            self.assertTrue(any(row.why for row in offers.held_back))

    def test_a_tracker_is_offered_the_right_way_round_only(self) -> None:
        bike = apart(make_pattern("two-packs", "x"), "tracker")
        offered = {(item.one, item.two) for item in offers_of(bike).proposals}
        flat = {frozenset(pair) for pair in offered}
        self.assertNotIn(frozenset(("display.plug", "tracker.controller_side")), flat)
        self.assertNotIn(frozenset(("controller.display", "tracker.display_side")), flat)
        self.assertIn(frozenset(("display.plug", "tracker.display_side")), flat)

    def test_a_tracker_the_wrong_way_round_is_a_fault(self) -> None:
        bike = make_pattern("two-packs", "x")
        self.assertNotIn("W086", {finding.code for finding in check_bike(bike)})
        turned = add_join(apart(bike, "tracker"), "controller.display", "tracker.display_side")
        turned = add_join(turned, "display.plug", "tracker.controller_side")
        self.assertIn("W086", {finding.code for finding in check_bike(turned)})

    def test_what_is_unclear_is_not_connected_with_all(self) -> None:
        """Two equal levers on two equal plugs: each fits either."""
        bike = apart(make_pattern("two-motor-cart", "x"), "motor_left", "motor_right")
        offers = offers_of(bike)
        unclear = [item for item in offers.proposals if not item.certain]
        self.assertTrue(unclear)
        self.assertFalse(set(unclear) & set(offers.certain))
