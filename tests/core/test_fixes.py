"""Fixes of wiring findings: over the whole table of defects, every fix offered cures, and costs
nothing as grave."""

from collections.abc import Iterator
from unittest import TestCase

from brightcore.bike.model import Bike, Part
from brightcore.describing.edit import remove_part
from brightcore.describing.join_edits import remove_join
from brightcore.describing.patterns import make_pattern
from brightcore.findings import SEVERITIES
from brightcore.formats.part_file import generic_entries
from brightcore.wiring.fixes import fixes_for
from brightcore.wiring.rules import RULES, check_bike
from tests.bikes import bike_of, changed, with_spec
from tests.core.test_rules import (
    CART,
    DESCRIBED,
    HUB,
    LOOKED_AT,
    REWIRED,
    TRIGGERED,
    described,
    rewired,
)

SHELF = tuple(Part(e.id, e.kind, e.name, e.spec, e.ports) for e in generic_entries())
CURED = (
    # code, bike with the defect, the fixes offered begin with
    (
        "W001",
        with_spec(make_pattern(HUB, "x"), "pack", series_count=16),
        ("Swap: Controller for 60 V 22 A controller",),
    ),
    (
        "W008",
        bike_of(changed("fern", ("parts.lamp.spec.rated_v", 6.0))),
        ("Step-down converter to 5 V before the Front lamp", "Swap: Front lamp for 12 V lamp"),
    ),
    (
        "W010",
        bike_of(changed("fern", ("parts.display.spec.max_v", 48.0))),
        ("Swap: Display for Display, five-pin",),
    ),
    (
        "W013",
        rewired(
            HUB,
            ("j2",),
            (("main_lead.controller_end", "controller.battery", "plus-minus minus-plus"),),
        ),
        ("Re-pin by what each pin carries: Main lead",),
    ),
    (
        "W014",
        rewired(
            CART,
            ("j4", "j8"),
            (("controller_left.halls", "controller_right.halls", "supply-supply"),),
        ),
        ("Disconnect: Left controller, hall",),
    ),
    (
        "W015",
        rewired(
            "two-packs",
            ("j1", "j2"),
            (("pack_front.main", "pack_rear.main", "plus-plus minus-minus"),),
        ),
        ("Connect again: Front pack with Combining",),
    ),
    (
        "W021",
        remove_part(make_pattern(HUB, "x"), "lever_left").bike,
        ("Fit: Brake lever with switch",),
    ),
    (
        "W021",
        remove_join(make_pattern(HUB, "x"), "j7"),
        ("Connect: Controller, left brake with Left brake lever",),
    ),
    (
        "W022",
        remove_join(make_pattern(CART, "x"), "j12"),
        ("Connect: Right controller, cut-offs with Brake splitter",),
    ),
    (
        "W055",
        with_spec(make_pattern(HUB, "x"), "main_lead", length_m=0.4),
        ("An extension of 0.1 m in Pack",),
    ),
)


def broken() -> Iterator[tuple[str, Bike]]:
    """Yield every defect of the tables of rules that has a way to be fixed."""
    for code, changes in TRIGGERED:
        yield code, bike_of(changed("fern", *changes))
    for code, pattern, apart, joins in REWIRED:
        yield code, rewired(pattern, apart, joins)
    for code, pattern, part, spec, ports, roles in DESCRIBED:
        bike = make_pattern(pattern, "x")
        for name, plugs in (*LOOKED_AT.items(), (part, ports)):
            bike = described(bike, name, plugs, roles if name == part else {})
        yield code, with_spec(bike, part, **spec)


class FixTest(TestCase):
    def test_fixes_say_what_they_do(self) -> None:
        for code, bike, words in CURED:
            with self.subTest(code, words=words):
                finding = next(f for f in check_bike(bike) if f.code == code)
                offered = [x.words for x in fixes_for(bike, finding, SHELF)]
                self.assertGreaterEqual(len(offered), len(words), offered)
                for wanted, got in zip(words, offered, strict=False):
                    self.assertTrue(got.startswith(wanted), offered)

    def test_every_fix_offered_cures_and_brings_nothing_as_grave(self) -> None:
        cured: set[str] = set()
        for code, bike in broken():
            before = {(f.code, f.subjects) for f in check_bike(bike)}
            for finding in [f for f in check_bike(bike) if f.code == code][:1]:
                for fix in fixes_for(bike, finding, SHELF):
                    with self.subTest(code, fix=fix.words):
                        cured.add(code)
                        after = check_bike(fix.bike)
                        self.assertNotIn(
                            (finding.code, finding.subjects), {(f.code, f.subjects) for f in after}
                        )
                        fresh = [f.severity for f in after if (f.code, f.subjects) not in before]
                        self.assertFalse(
                            [
                                s
                                for s in fresh
                                if SEVERITIES.index(s) <= SEVERITIES.index(finding.severity)
                            ]
                        )
        self.assertGreaterEqual(len(cured), 25)
        self.assertLessEqual(cured, {rule.type.code for rule in RULES if rule.remedies})

    def test_nothing_is_offered_where_nothing_cures(self) -> None:
        """An empty shelf has no lever, and a bare bike nothing to join it with; what only a setting
        cures is left to the hand."""
        bike = remove_part(make_pattern(HUB, "x"), "lever_left").bike
        finding = next(f for f in check_bike(bike) if f.code == "W021")
        self.assertEqual(fixes_for(bike, finding), ())
        bike = bike_of(changed("fern", ("parts.pack.spec.bms_continuous_a", 15.0)))
        self.assertEqual(
            fixes_for(bike, next(f for f in check_bike(bike) if f.code == "W058"), SHELF), ()
        )
