"""Changes of a description: any row of them leaves a sound bike that is stored and read the same;
what cannot be is refused in words."""

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from random import Random
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from brightcore.bike.model import Bike, Frame, Wire
from brightcore.circuit.nets import Nets
from brightcore.describing.compare import compare
from brightcore.describing.edit import look_at, order_pins, remove_part
from brightcore.describing.join_edits import (
    add_join,
    change_wire,
    extend,
    remove_join,
    repin,
    set_pairs,
)
from brightcore.describing.join_words import free_ports
from brightcore.describing.on_line import put_on_line
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import BikeError, RangeError, UnknownNameError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.joins_csv import dump_joins_csv, read_joins_csv
from brightcore.kinds import REGISTRY
from brightcore.wiring.propose import (
    fits_of,
    propose_joins,
)
from brightcore.wiring.routes import change_frame, guess_frame
from brightcore.wiring.rules import check_bike
from tests.bikes import DEMO_BIKES, demo_bike, generated_bike

HUB = "hub-conversion"


def some_join(bike: Bike, chance: Random) -> Bike:
    """Return the bike with one of the joins its free plugs can make."""
    pairs = [(one, two) for one, fitting in fits_of(bike).items() for two in fitting]
    return add_join(bike, *chance.choice(pairs)) if pairs else bike


def some_repin(bike: Bike, chance: Random) -> Bike:
    """Return the bike with two pins of a join brought together."""
    join = chance.choice(bike.joins)
    (a, p), (b, q) = join.sides()
    return repin(
        bike,
        join.id,
        chance.choice(bike.part(a).port(p).pins).name,
        chance.choice(bike.part(b).port(q).pins).name,
    )


def some_look(bike: Bike, chance: Random) -> Bike:
    """Return the bike with what was seen of a plug."""
    part = chance.choice([p for p in bike.parts if p.ports])
    port = chance.choice(part.ports)
    colours = {pin.name: chance.choice(("", "red", "black", "green")) for pin in port.pins}
    return look_at(
        bike,
        part.id,
        port.id,
        chance.choice(("", "pins", "sockets")),
        chance.choice(("", "arrow")),
        chance.randint(0, 3),
        port.family,
        colours,
    )


def some_order(bike: Bike, chance: Random) -> Bike:
    """Return the bike with the pins of a plug in another order."""
    part = chance.choice([p for p in bike.parts if p.ports])
    port = chance.choice(part.ports)
    names = [pin.name for pin in port.pins]
    chance.shuffle(names)
    return order_pins(bike, part.id, port.id, tuple(names))


def some_frame(bike: Bike, chance: Random) -> Bike:
    """Return the bike with a measured stretch and with ties or wrap."""
    pattern = guess_frame(bike)
    return change_frame(
        bike,
        Frame(
            pattern,
            (("bar-head", round(chance.uniform(0.2, 2.0), 2)),)
            if pattern not in ("cart", "clip-on")
            else (),
            wrapped=chance.random() < 0.5,
        ),
    )


EDITS: tuple[Callable[[Bike, Random], Bike], ...] = (
    some_join,
    some_repin,
    some_look,
    some_order,
    some_frame,
    lambda b, r: remove_join(b, r.choice(b.joins).id) if len(b.joins) > 3 else b,
    lambda b, r: extend(b, r.choice(b.joins).id, round(r.uniform(0.05, 2.0), 2)),
    lambda b, r: change_wire(
        b, r.choice(b.joins).id, Wire(r.choice((0.0, 0.75, 2.5)), round(r.uniform(0.0, 2.0), 2))
    ),
)


class EditTest(TestCase):
    def sound(self, bike: Bike) -> None:
        """Check what holds for every bike, however it came about."""
        ends = Counter(end for join in bike.joins for end in join.sides())
        self.assertFalse([end for end, count in ends.items() if count > 1], "a plug in two joins")
        self.assertEqual(len({j.id for j in bike.joins}), len(bike.joins))
        for join in bike.joins:
            for side, (part, port) in enumerate(join.sides()):
                names = [pair[side] for pair in join.pairs]
                self.assertEqual(len(set(names)), len(names), join.id)
                for name in names:
                    bike.part(part).port(port).pin(name)
        again = load_bike(dump_bike(bike))
        self.assertEqual(again, bike)
        self.assertEqual(dump_bike(again), dump_bike(bike))
        self.assertEqual({i for i, _ in free_ports(bike)}, set(fits_of(bike)))

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000), st.lists(st.sampled_from(EDITS), min_size=1, max_size=8))
    def test_any_row_of_edits_leaves_a_sound_bike(
        self, seed: int, row: list[Callable[[Bike, Random], Bike]]
    ) -> None:
        chance, bike = Random(seed), generated_bike(seed, 10)
        for edit in row:
            made = edit(bike, chance)
            self.sound(made)
            self.assertEqual(bool(compare(bike, made, REGISTRY)), made != bike)
            bike = made
        check_bike(bike)

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000))
    def test_an_extension_carries_every_wire_on(self, seed: int) -> None:
        chance, bike = Random(seed), generated_bike(seed, 12)
        join = chance.choice(bike.joins)
        made = extend(bike, join.id, 0.5)
        before, after = Nets(bike, REGISTRY), Nets(made, REGISTRY)
        for left, right in join.pairs:
            one, two = f"{join.a_part}.{join.a_port}.{left}", f"{join.b_part}.{join.b_port}.{right}"
            self.assertEqual(after.find(one), after.find(two))
        apart = [p for p in before.pins if before.find(p) == p]
        self.assertEqual(
            len({after.find(p) for p in apart}), len(apart), "wires that were apart are tied"
        )

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000))
    def test_joins_come_back_from_their_file(self, seed: int) -> None:
        bike = generated_bike(seed, 10)
        made, count = read_joins_csv(replace(bike, joins=()), dump_joins_csv(bike).encode())
        self.assertEqual(count, len(bike.joins))
        self.assertEqual(
            {(j.sides(), frozenset(j.pairs), j.wire) for j in made.joins},
            {(j.sides(), frozenset(j.pairs), j.wire) for j in bike.joins},
        )

    def test_a_join_taken_apart_and_made_again_is_the_same(self) -> None:
        for name in DEMO_BIKES:
            bike = demo_bike(name)
            for join in bike.joins:
                with self.subTest(name, join=join.id):
                    (a, p), (b, q) = join.sides()
                    made = add_join(remove_join(bike, join.id), f"{a}.{p}", f"{b}.{q}", join.wire)
                    self.assertEqual(dict(made.joins[-1].pairs), dict(join.pairs))

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        bike = make_pattern(HUB, "x")
        for edit, error, words in (
            (lambda: add_join(bike, "lamp.plug", "lamp.plug"), BikeError, "connected to itself"),
            (lambda: add_join(bike, "lamp.plug", "pack.main"), BikeError, "connected already"),
            (
                lambda: add_join(remove_join(bike, "j10"), "lamp.plug", "controller.nothing"),
                UnknownNameError,
                "nothing",
            ),
            (lambda: remove_join(bike, "j99"), UnknownNameError, "j99"),
            (lambda: remove_part(bike, "pack"), BikeError, "needs a pack"),
            (lambda: repin(bike, "j3", "u", "x"), UnknownNameError, "x"),
            (lambda: set_pairs(bike, "j3", (("u", "u"), ("v", "u"))), BikeError, "mated twice"),
            (lambda: set_pairs(bike, "j3", (("u", "x"),)), UnknownNameError, "x"),
            (lambda: order_pins(bike, "controller", "phases", ("u", "v")), BikeError, "named once"),
            (
                lambda: order_pins(bike, "controller", "phases", ("u", "v", "v")),
                BikeError,
                "named once",
            ),
            (lambda: extend(bike, "j3", 0.01), RangeError, "length m is"),
            (lambda: extend(bike, "j3", 11.0), RangeError, "length m is"),
            (
                lambda: look_at(bike, "controller", "horn", "pins", "", 0, "", {}),
                UnknownNameError,
                "horn",
            ),
        ):
            with self.subTest(words), self.assertRaisesRegex(error, words):
                edit()  # type: ignore[no-untyped-call]

    def test_what_was_seen_of_a_plug_stays_with_it(self) -> None:
        bike = look_at(
            make_pattern(HUB, "x"),
            "throttle",
            "plug",
            "pins",
            "notch",
            2,
            "round-3",
            {"signal": "green"},
        )
        port = bike.part("throttle").port("plug")
        self.assertEqual(
            (port.gender, port.key, port.rows, port.family), ("pins", "notch", 2, "round-3")
        )
        self.assertEqual([(p.name, p.colour) for p in port.pins if p.colour], [("signal", "green")])
        self.assertEqual(
            compare(make_pattern(HUB, "x"), bike, REGISTRY), ("Thumb throttle: plugs changed",)
        )
        self.assertEqual(load_bike(dump_bike(bike)).part("throttle").port("plug"), port)

    def test_what_is_found_on_a_line_stands_in_a_free_plug_or_on_a_splice(self) -> None:
        whole = demo_bike("fern")
        lamp = whole.part("lamp")
        joins = tuple(j for j in whole.joins if j not in tuple(whole.joins_of("lamp")))
        bare = replace(whole, parts=tuple(p for p in whole.parts if p is not lamp), joins=joins)
        for bike, words, more in (
            (bare, "at Controller, lamp", 0),
            (whole, "spliced in at Controller", 1),
        ):
            line = "describe:controller:accessory_plus"
            made, where = put_on_line(bike, line, lamp.kind, "Found", lamp.spec, lamp.ports)
            found = made.parts[len(bike.parts)].id
            with self.subTest(words):
                self.assertIn(words, where)
                self.assertIn(found, Nets(made, REGISTRY).mates("controller", "accessory_plus"))
                self.assertLessEqual({j.id for j in bike.joins}, {j.id for j in made.joins})
                self.assertEqual(len(made.parts), len(bike.parts) + 1 + more)
                told = {(f.code, f.subjects) for f in check_bike(bike)}
                self.assertEqual(
                    {f.code for f in check_bike(made) if (f.code, f.subjects) not in told}, set()
                )


class FitTest(TestCase):
    def test_fitting_plugs_fit_both_ways_and_hold_every_proposal(self) -> None:
        for pattern in PATTERNS:
            bare = replace(make_pattern(pattern, "x"), joins=())
            fits = fits_of(bare)
            with self.subTest(pattern):
                self.assertTrue(
                    all(
                        one in fits[two] and one.partition(".")[0] != two.partition(".")[0]
                        for one in fits
                        for two in fits[one]
                    )
                )
                for item in propose_joins(bare):
                    self.assertIn(item.two, fits[item.one], item.words)

    def test_a_thin_plug_of_any_make_does_not_fit_a_power_plug(self) -> None:
        bike = remove_join(remove_join(demo_bike("fern"), "j-lamp"), "j-pack")
        self.assertEqual(set(fits_of(bike)["lamp.plug"]), {"controller.lamp"})
        self.assertEqual(set(fits_of(bike)["pack.main"]), {"main_lead.pack_end"})

    def test_joined_plugs_are_not_offered(self) -> None:
        self.assertEqual(fits_of(demo_bike("fern")), {})
