"""Mis-wirings of every pattern, made systematically: every one that matters is found.

Two pins exchanged in any join, any pin left off, any plug left out, any two plugs exchanged that
fit in the hand; and sound bikes, on which nothing is found.
"""

from collections.abc import Iterator
from itertools import combinations
from unittest import TestCase

from brightcore.bike.mating import fit_in_hand
from brightcore.bike.model import Bike, Join
from brightcore.describing.join_edits import add_join, remove_join, set_pairs
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.swap import swap_part
from brightcore.errors import BrightError
from brightcore.formats.part_file import generic_entries
from brightcore.kinds import REGISTRY
from brightcore.matching.rules import match_findings
from brightcore.wiring.rules import check_bike
from tests.amount import ALL, sampled

HARMLESS_EXCHANGES = {("factory-hub", "bl", "br"), ("two-motor-cart", "vp", "key")}
"""Left and right lever of one controller; both ends of a bridging cap."""

ADVISED = {"W021", "W040", "W049", "W075"}
"""What stays off is told as advice alone where the bike runs and stops without it."""

LIKE = (
    "lever",
    "cut_off",
    "cap",
    "split",
    "lead",
    "pack",
    "fold",
    "brake_split",
    "tracker",
    "splitter",
    "main",
    "lights",
    "stand",
    "fuse",
    "harness",
)
"""Parts whose plugs of one kind may change places: both levers, ends of a lead or harness, both
packs."""

Found = set[tuple[str, tuple[str, ...], str]]


def miswired(bike: Bike) -> Found:
    """Return (code, subjects, severity) of all that the wiring rules find but the order of pins."""
    return {(f.code, f.subjects, f.severity) for f in check_bike(bike) if f.code != "W032"}


def found(bike: Bike) -> Found:
    """Return the same of everything that is found, how the parts suit each other among it."""
    return miswired(bike) | {(f.code, f.subjects, f.severity) for f in match_findings(bike)}


def is_sound(bike: Bike) -> bool:
    """Return whether nothing but advice is found; what is found soonest is asked first."""
    return all(
        severity == "advice" for found_by in (miswired, found) for _, _, severity in found_by(bike)
    )


def is_bare(bike: Bike, join: Join) -> bool:
    """Return whether a join ends at a bare switch, whose two wires may be exchanged."""
    return any(REGISTRY[bike.part(part).kind].either_way for part, _ in join.sides())


def exchanged(bike: Bike, join: Join) -> Iterator[tuple[tuple[str, str], Bike]]:
    """Yield the bike with two wires of a join exchanged, every two in turn."""
    for (a, b), (c, d) in combinations(join.pairs, 2):
        turned = {(a, b): (a, d), (c, d): (c, b)}
        yield (a, c), set_pairs(bike, join.id, tuple(turned.get(pair, pair) for pair in join.pairs))


def crossed(bike: Bike) -> Iterator[tuple[tuple[Join, Join], Bike]]:
    """Yield the bike with the plugs of two joins exchanged, wherever they fit in the hand."""
    for one, two in combinations(bike.joins, 2):
        for turned in (False, True):
            (a, p), (b, q) = one.sides()
            (c, r), (d, s) = two.sides()[::-1] if turned else two.sides()
            first = bike.part(a).port(p), bike.part(d).port(s)
            second = bike.part(c).port(r), bike.part(b).port(q)
            if a == d or b == c or not (fit_in_hand(*first) and fit_in_hand(*second)):
                continue
            apart = remove_join(remove_join(bike, one.id), two.id)
            try:
                made = add_join(add_join(apart, f"{a}.{p}", f"{d}.{s}"), f"{c}.{r}", f"{b}.{q}")
            except BrightError:
                continue
            yield (one, two), made


class MiswiredTest(TestCase):
    def test_two_wires_exchanged_in_any_join_are_found(self) -> None:
        tried = 0
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            before = miswired(bike)
            for join in bike.joins:
                for pins, made in sampled(exchanged(bike, join), 3):
                    tried += 1
                    if (name, *pins) not in HARMLESS_EXCHANGES:
                        with self.subTest(name, join=join.sides(), pins=pins):
                            self.assertEqual(bool(miswired(made) - before), not is_bare(bike, join))
        self.assertGreater(tried, 350 if ALL else 120)

    def test_a_pin_left_off_any_join_is_a_fault(self) -> None:
        tried = 0
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            before = miswired(bike)
            for join in (j for j in bike.joins if len(j.pairs) > 1):
                for pair in sampled(join.pairs, 2):
                    tried += 1
                    made = set_pairs(
                        bike, join.id, tuple(other for other in join.pairs if other != pair)
                    )
                    with self.subTest(name, join=join.sides(), pin=pair[0]):
                        self.assertIn("W004", {code for code, _, _ in miswired(made) - before})
        self.assertGreater(tried, 200 if ALL else 100)

    def test_a_plug_left_out_is_a_fault_or_at_least_told(self) -> None:
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            before = miswired(bike)
            for join in bike.joins:
                told = miswired(remove_join(bike, join.id)) - before
                with self.subTest(name, join=join.sides()):
                    grave = {code for code, _, severity in told if severity != "advice"}
                    self.assertTrue(grave or ADVISED & {code for code, _, _ in told}, told)

    def test_two_plugs_exchanged_are_found_unless_they_are_alike(self) -> None:
        tried = 0
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            before = miswired(bike)
            for (one, two), made in sampled(crossed(bike), 2):
                tried += 1
                shared = [{part for part, _ in join.sides()} for join in (one, two)]
                alike = all(any(part.startswith(LIKE) for part in parts) for parts in shared)
                if not alike:
                    with self.subTest(name, one=one.sides(), two=two.sides()):
                        self.assertTrue(miswired(made) - before)
        self.assertGreater(tried, 50 if ALL else 25)

    def test_graver_exchanges_are_dangers(self) -> None:
        """Plus and minus exchanged anywhere between pack and controller."""
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            for join in bike.joins:
                for pins, made in exchanged(bike, join):
                    if set(pins) == {"plus", "minus"} and any(
                        "batter" in s[1] or "pack" in s[0] for s in join.sides()
                    ):
                        with self.subTest(name, join=join.sides()):
                            self.assertIn("danger", {severity for _, _, severity in miswired(made)})


class SoundTest(TestCase):
    def test_parts_that_belong_together_raise_no_alarm(self) -> None:
        sound = 0
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            self.assertFalse([f for f in found(bike) if f[2] != "advice"], name)
            for part in bike.parts:
                fitting = (e for e in generic_entries() if e.kind == part.kind)
                for entry in sampled(fitting, 5):
                    made = swap_part(bike, part.id, entry.kind, entry.name, entry.spec, entry.ports)
                    sound += not made.lost and is_sound(made.bike)
        self.assertGreater(sound, 120 if ALL else 24)
