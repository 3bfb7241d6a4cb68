"""Joins follow the metal: what a hand puts together, what stays after a swap, what a shared plug
feeds."""

from dataclasses import replace
from unittest import TestCase

from brightcore.analysis.bike import analysis_of
from brightcore.bike.mating import fit_in_hand, one_make
from brightcore.bike.model import Bike, Join, Part, Pin, Port
from brightcore.describing.edit import add_part, change_part, numbered_apart
from brightcore.describing.join_edits import add_join, remove_join, set_pairs
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.part_file import generic_entries
from brightcore.kinds.cable import CableSpec
from brightcore.procedure.first_power_up import cut_offs, find_first_power_up
from brightcore.wiring.propose import propose_joins
from brightcore.wiring.rules import check_bike
from brightcore.wiring.sources import backfed
from tests.bikes import in_place

HUB, CART = "hub-conversion", "two-motor-cart"
THREE = ("sensor_supply", "sensor_ground", "throttle_signal")


def plug(family: str, *roles: str, rewireable: bool = False, name: str = "plug") -> Port:
    """Return a plug whose pins carry some roles, first to last."""
    pins = tuple(Pin(f"p{n}", role) for n, role in enumerate(roles))
    return Port(name, pins, name.capitalize(), family, rewireable=rewireable)


def with_plug(bike: Bike, part_id: str, port_id: str, made: Port) -> Bike:
    """Return the bike with another plug in the place of one, and that join apart."""
    for join in tuple(bike.joins_of(part_id, port_id)):
        bike = remove_join(bike, join.id)
    part = bike.part(part_id)
    ports = tuple(replace(made, id=port_id) if q.id == port_id else q for q in part.ports)
    return replace(
        bike, parts=tuple(replace(p, ports=ports) if p is part else p for p in bike.parts)
    )


def with_family(bike: Bike, part_id: str, port_id: str) -> Bike:
    """Return the bike with a plug of a known make."""
    part = bike.part(part_id)
    ports = tuple(replace(q, family="signal-3") if q.id == port_id else q for q in part.ports)
    return replace(
        bike, parts=tuple(replace(p, ports=ports) if p is part else p for p in bike.parts)
    )


BY_HAND = (
    # plug of the throttle, whether position meets position on the controller's, codes it brings
    (plug("signal", *THREE), True, ()),
    (plug("signal", *THREE[::-1]), True, ("W016", "W018", "W019", "W020")),
    (plug("signal", "sensor_ground", "sensor_supply", "throttle_signal"), True, ("W013",)),
    (plug("signal", *THREE[::-1], rewireable=True), False, ()),
    (plug("signal-5", *THREE[::-1]), True, ("W019",)),
)


class ByHandTest(TestCase):
    def test_two_plugs_that_fit_meet_position_by_position_and_the_rules_judge_it(self) -> None:
        for made, straight, codes in BY_HAND:
            with self.subTest(
                made.family, roles=[p.role for p in made.pins], moved=made.rewireable
            ):
                bike = with_plug(make_pattern(HUB, "x"), "throttle", "plug", made)
                before = {f.code for f in check_bike(make_pattern(HUB, "x"))}
                joined = add_join(bike, "controller.throttle", "throttle.plug")
                mate = bike.part("controller").port("throttle")
                here = joined.part("throttle").port("plug")
                self.assertEqual(fit_in_hand(mate, here), straight)
                if straight:
                    names = [(p.name, q.name) for p, q in zip(mate.pins, here.pins, strict=True)]
                    self.assertEqual(list(joined.joins[-1].pairs), names)
                found = {f.code for f in check_bike(joined)} - before
                self.assertTrue(set(codes) & found if codes else not found, found)

    def test_a_proposal_pairs_by_use_and_says_which_pins_must_move(self) -> None:
        bike = with_plug(make_pattern(HUB, "x"), "throttle", "plug", plug("signal", *THREE[::-1]))
        (one,) = (p for p in propose_joins(bike) if "throttle.plug" in (p.one, p.two))
        self.assertIn("pins must be moved first: 1 to 3", one.reason)

    def test_a_join_of_a_file_without_a_map_is_as_a_hand_makes_it(self) -> None:
        crossed = plug("signal", *THREE[::-1])
        bike = with_plug(make_pattern(HUB, "x"), "throttle", "plug", crossed)
        joined = add_join(bike, "controller.throttle", "throttle.plug")
        text = dump_bike(joined)
        self.assertEqual(load_bike(text).joins[-1].pairs, joined.joins[-1].pairs)


class SwapTest(TestCase):
    def test_every_swap_of_every_pattern_keeps_a_join_only_for_the_same_use(self) -> None:
        entries = generic_entries()
        tried = 0
        for name in PATTERNS:
            bike = make_pattern(name, "x")
            for part in bike.parts:
                for entry in (e for e in entries if e.kind == part.kind):
                    made = in_place(bike, part.id, entry.kind, entry.name, entry.spec, entry.ports)
                    kept = [j for j in made.bike.joins if part.id in (j.a_part, j.b_part)]
                    own = [j for j in bike.joins if part.id in (j.a_part, j.b_part)]
                    with self.subTest(name, part=part.id, entry=entry.id):
                        self.assertEqual(len(kept) + len(made.lost), len(own))
                        far = {
                            end: join for join in own for end in join.sides() if end[0] != part.id
                        }
                        for join in kept:
                            was = next(far[end] for end in join.sides() if end in far)
                            self._same_use(part, made.bike, was, join)
                        self.assertFalse([s for s in made.bike.settings if s.part == part.id])
                        self.assertEqual(
                            len(made.unset), len([s for s in bike.settings if s.part == part.id])
                        )
                    tried += 1
        self.assertGreater(tried, 150)

    def _same_use(self, old: Part, after: Bike, was: Join, now: Join) -> None:
        """Every pin that had a mate has one of the same role, on a plug of the same make."""
        side = 0 if was.a_part == old.id else 1
        port, fresh = old.port(was.sides()[side][1]), after.part(old.id).port(now.sides()[side][1])
        self.assertTrue(one_make(port, fresh))
        roles = sorted(port.pin(pair[side]).role for pair in was.pairs)
        self.assertEqual(sorted(fresh.pin(pair[side]).role for pair in now.pairs), roles)

    def test_a_cable_of_plain_wires_lands_on_no_other_plug(self) -> None:
        """A factory bike's front harness carries pack + and the key: it never goes to a hall
        plug."""
        bike = make_pattern("factory-hub", "x")
        entry = next(e for e in generic_entries() if e.kind == "controller" and "52v" in e.id)
        made = in_place(bike, "controller", entry.kind, entry.name, entry.spec, entry.ports)
        for join in made.bike.joins:
            ends = [made.bike.part(p).port(q) for p, q in join.sides()]
            if "controller" in (join.a_part, join.b_part):
                before = bike.join(join.id)
                self.assertEqual(
                    {port.id for port in ends}, {bike.part(p).port(q).id for p, q in before.sides()}
                )
        self.assertTrue(made.lost)

    def test_a_new_plug_with_its_pins_in_another_order_goes_in_as_it_is(self) -> None:
        bike = make_pattern(HUB, "x")
        old = bike.part("throttle")
        turned = (replace(old.ports[0], pins=old.ports[0].pins[::-1]),)
        unknown = in_place(bike, "throttle", old.kind, old.name, old.spec, turned)
        self.assertEqual(len(unknown.lost), 1)
        bike = with_family(with_family(bike, "throttle", "plug"), "controller", "throttle")
        turned = (replace(turned[0], family="signal-3"),)
        made = in_place(bike, "throttle", old.kind, old.name, old.spec, turned).bike
        (join,) = made.joins_of("throttle")
        port = made.part("controller").port("throttle")
        pairs = {frozenset(pair) for pair in join.pairs}
        self.assertEqual(
            pairs,
            {frozenset((p.name, q.name)) for p, q in zip(port.pins, turned[0].pins, strict=True)},
        )
        self.assertTrue({"W013", "W016", "W018", "W019"} & {f.code for f in check_bike(made)})


class NameTest(TestCase):
    def test_two_parts_of_one_name_are_numbered_apart(self) -> None:
        bike = make_pattern(HUB, "x")
        lamp = bike.part("lamp")
        fitted = add_part(bike, lamp.kind, lamp.name, lamp.spec, lamp.ports)
        again = add_part(fitted, lamp.kind, lamp.name.upper(), lamp.spec, lamp.ports)
        self.assertEqual(len({p.name.lower() for p in again.parts}), len(again.parts))
        self.assertEqual(
            change_part(fitted, "lamp", lamp.name, lamp.spec).part("lamp").name, lamp.name
        )
        renamed = change_part(fitted, fitted.parts[-1].id, lamp.name, lamp.spec).parts[-1].name
        self.assertNotEqual(renamed, lamp.name)
        twins = replace(bike, parts=tuple(replace(p, name="Part") for p in bike.parts))
        self.assertEqual(len({p.name for p in numbered_apart(twins).parts}), len(bike.parts))
        self.assertIs(numbered_apart(bike), bike)


def shared_key(*apart: str) -> Bike:
    """Return the cart with both key lines and one bridging cap on a splitter, and some joins
    apart."""
    bike = make_pattern(CART, "x")
    cap = next(part for part, _ in bike.join("j5").sides() if part != "controller_left")
    for join in ("j5", "j9", *apart):
        bike = remove_join(bike, join)
    ends = tuple(
        Port(name, (Pin("vp"), Pin("key")), f"Key splitter, {name}")
        for name in ("left", "right", "cap")
    )
    bike = add_part(bike, "cable", "Key splitter", CableSpec(), ends)
    splitter, pairs = bike.parts[-1].id, (("vp", "vp"), ("key", "key"))
    for end, plug_id in (
        ("left", "controller_left.key"),
        ("right", "controller_right.key"),
        ("cap", f"{cap}.{bike.part(cap).ports[0].id}"),
    ):
        bike = add_join(bike, f"{splitter}.{end}", plug_id, pairs=pairs)
    return bike


class BackfedTest(TestCase):
    def test_a_controller_fed_through_thin_wires_is_a_danger_at_either_pole(self) -> None:
        for apart, poles in (
            ((), ()),
            (("j6",), (("controller_right", "plus"), ("controller_right", "minus"))),
            (("j2",), (("controller_left", "plus"), ("controller_left", "minus"))),
            (("j6", "j12", "j16"), ()),
            (("j2", "j6"), ()),
        ):
            with self.subTest(apart):
                bike = shared_key(*apart)
                found = tuple((b.controller.id, b.pole) for b in backfed(analysis_of(bike)))
                self.assertEqual(found, poles)
                codes = [f.code for f in check_bike(bike) if f.severity == "danger"]
                self.assertEqual(codes.count("W056"), len(poles))

    def test_one_pole_alone_left_out_of_the_battery_plug_is_found_too(self) -> None:
        for pole in ("plus", "minus"):
            bike = shared_key()
            join = bike.join("j6")
            rest = tuple(pair for pair in join.pairs if pair[0] != pole)
            bike = replace(
                bike, joins=tuple(replace(j, pairs=rest) if j.id == "j6" else j for j in bike.joins)
            )
            with self.subTest(pole):
                self.assertEqual([b.pole for b in backfed(analysis_of(bike))], [pole])

    def test_first_power_up_leaves_no_battery_lead_and_no_brake_cut_off_out(self) -> None:
        for bike in (shared_key(), *(make_pattern(name, "x") for name in PATTERNS)):
            with self.subTest(bike.info.label, joins=len(bike.joins)):
                light = find_first_power_up(bike)
                bare = bike
                for join in light.not_needed if light.needed else ():
                    bare = remove_join(bare, join)
                self.assertEqual(cut_offs(bare), cut_offs(bike))
                self.assertFalse(list(backfed(analysis_of(bare))))
        self.assertTrue({"j2", "j6"} <= set(find_first_power_up(shared_key()).needed))

    def test_what_a_second_controller_leaves_off_on_purpose_is_no_fault(self) -> None:
        """Ground and signal of a shared throttle are taken; its 5 V is left off, as W014 asks
        for."""
        bike = make_pattern(CART, "x")
        for side, fed in (("right", True), ("left", False)):
            with self.subTest(side):
                part = bike.part(f"controller_{side}")
                ports = tuple(
                    replace(
                        q,
                        pins=(
                            *(p for p in q.pins if p.role != "supply_5v"),
                            Pin("five", "supply_5v"),
                        ),
                    )
                    if q.id == "throttle"
                    else q
                    for q in part.ports
                )
                made = replace(
                    bike,
                    parts=tuple(replace(p, ports=ports) if p is part else p for p in bike.parts),
                )
                for join in tuple(made.joins_of(part.id, "throttle")):
                    kept = tuple(pair for pair in join.pairs if "supply" not in pair)
                    made = set_pairs(made, join.id, kept)
                codes = [f.code for f in check_bike(made) if f.subjects[0].startswith(part.id)]
                self.assertEqual("W004" not in codes, fed)
