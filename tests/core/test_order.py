"""The way from a bike as it stands to the bike as it shall be: changes, the order of work, the
pack's moves."""

from collections.abc import Callable
from dataclasses import replace
from random import Random
from unittest import TestCase

import networkx as nx

from brightcore.bike.model import Bike
from brightcore.describing.edit import add_part, change_part, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.join_words import free_ports
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.swap import swap_part
from brightcore.describing.things import ids_of, renamed, with_fresh_ids
from brightcore.errors import BikeError
from brightcore.formats.part_file import generic_entries
from brightcore.procedure.effort import EFFORTS, minutes_of
from brightcore.procedure.stands import (
    CONNECT,
    Change,
    Done,
    bare,
    changes_to,
    done_of,
    mates,
    read_change,
    stands,
)
from brightcore.procedure.step import ON, OUT, PLUG, WorkStep
from brightcore.procedure.work_order import Order, satisfied, sketched_order, way_order, whole_order
from brightcore.wiring.tryout import hindrances
from tests.bikes import demo_bike

HUB, MID = make_pattern("hub-conversion", "hub"), make_pattern("mid-conversion", "mid")
ENTRIES = generic_entries()


def entry(kind: str):  # type: ignore[no-untyped-def]
    """Return the first part of a kind in the library."""
    return next(e for e in ENTRIES if e.kind == kind)


def swapped(bike: Bike, part: str, kind: str) -> Bike:
    e = entry(kind)
    return swap_part(bike, part, e.kind, e.name, e.spec, e.ports).bike


def with_part(bike: Bike, kind: str) -> Bike:
    e = entry(kind)
    return add_part(bike, e.kind, e.name, e.spec, e.ports)


def planned(start: Bike, seed: int) -> Bike:
    """Return a bike after some random changes of its description, with ids that were never used."""
    chance, bike = Random(seed), start
    for _ in range(chance.randint(1, 6)):
        before = bike
        try:
            act = chance.choice(("add", "swap", "remove", "unjoin", "join"))
            if act == "add":
                e = chance.choice(ENTRIES)
                bike = add_part(bike, e.kind, e.name, e.spec, e.ports)
            elif act == "swap":
                part = chance.choice(bike.parts)
                e = chance.choice([e for e in ENTRIES if e.kind == part.kind])
                bike = swap_part(bike, part.id, e.kind, e.name, e.spec, e.ports).bike
            elif act == "remove":
                bike = remove_part(bike, chance.choice(bike.parts).id).bike
            elif act == "unjoin" and bike.joins:
                bike = remove_join(bike, chance.choice(bike.joins).id)
            elif act == "join" and len(free_ports(bike)) > 1:
                one, two = chance.sample([port for port, _ in free_ports(bike)], 2)
                bike = add_join(bike, one, two)
        except BikeError:
            continue
        bike = with_fresh_ids(before, bike, ids_of(start))
    return bike


def carried_out(start: Bike, plan: Bike, order: Order) -> tuple[Done, ...]:
    """Return the changes done by going through an order step by step, as ticks would."""
    done: tuple[Done, ...] = ()
    for step in order.steps:
        now = stands(start, done, plan)
        change = read_change(step.id)
        if change in changes_to(now, plan):
            done = (*done, done_of(change, now, plan))  # type: ignore[arg-type]
    return done


def same_bike(one: Bike, two: Bike) -> bool:
    """Return whether two descriptions have the same things, connected alike."""
    return {p.id for p in one.parts} == {p.id for p in two.parts} and {
        mates(j) for j in one.joins
    } == {mates(j) for j in two.joins}


class WayTest(TestCase):
    def test_carrying_out_the_order_leads_to_the_plan_and_undoing_it_leads_back(self) -> None:
        """A charger is no part of the work: it is plugged in when it charges."""
        for seed in range(120):
            start = make_pattern(sorted(PATTERNS)[seed % len(PATTERNS)], "x")
            plan = planned(start, seed)
            order = sketched_order(start, start, plan)
            done = carried_out(start, plan, order)
            end = stands(start, done, plan)
            left = [change for change in changes_to(end, plan) if not _is_charger(plan, change)]
            with self.subTest(seed):
                self.assertEqual([c.id for c in left if not _loose_cable(plan, c)], [])
                self.assertTrue(same_bike(stands(start, (), plan), start))
                for count in range(len(done)):  # undone in any order, what is left stands by itself
                    rest = done[:count] + done[count + 1 :]
                    stands(start, rest, plan)

    def test_nothing_moves_by_editing_the_plan(self) -> None:
        for seed in range(60):
            start = make_pattern(sorted(PATTERNS)[seed % len(PATTERNS)], "x")
            with self.subTest(seed):
                self.assertTrue(same_bike(stands(start, (), planned(start, seed)), start))

    def test_what_is_only_known_better_holds_for_both(self) -> None:
        pack = HUB.part("pack")
        read = replace(pack, name="Label read", spec=replace(pack.spec, bms_continuous_a=22.0))  # type: ignore[call-arg]
        plan = replace(HUB, parts=tuple(read if p.id == "pack" else p for p in HUB.parts))
        self.assertEqual(changes_to(HUB, plan), ())
        self.assertEqual(stands(HUB, (), plan), plan)

    def test_a_thing_that_was_done_stands_though_the_plan_has_it_no_more(self) -> None:
        plan = with_part(HUB, "horn")
        horn = plan.parts[-1].id
        done = (done_of(Change("fit", horn), HUB, plan),)
        self.assertIn(horn, {p.id for p in stands(HUB, done, HUB).parts})
        self.assertEqual(
            [c.id for c in changes_to(stands(HUB, done, HUB), HUB)], [f"remove:{horn}"]
        )

    def test_the_same_id_of_another_kind_is_another_thing(self) -> None:
        """Files written before parts had an identity may say so."""
        horn = entry("horn")
        lamp = HUB.part("lamp")
        other = replace(lamp, kind="horn", name=horn.name, spec=horn.spec, ports=horn.ports)
        bare = remove_part(HUB, "lamp").bike
        plan = replace(bare, parts=(*bare.parts, other))
        self.assertLessEqual({"remove:lamp", "fit:lamp"}, {c.id for c in changes_to(HUB, plan)})

    def test_a_plug_holds_one_connection(self) -> None:
        """A connection that was made at a plug parts the one that was there."""
        old = next(join for join in HUB.joins_of("lamp"))
        spare = with_part(HUB, "lamp")
        made = spare.parts[-1]
        plan = add_join(
            remove_join(spare, old.id), "controller.lamp", f"{made.id}.{made.ports[0].id}"
        )
        new = replace(plan.joins[-1], id="j99")
        plan = replace(plan, joins=(*plan.joins[:-1], new))
        now = stands(HUB, (Done("connect:j99", (made,), new),), plan)
        self.assertIn(new.id, {join.id for join in now.joins})
        self.assertNotIn(old.id, {join.id for join in now.joins})

    def test_a_swap_makes_another_thing_with_connections_of_its_own(self) -> None:
        for part, kind in (("controller", "controller"), ("motor", "mid_motor")):
            plan = swapped(HUB, part, kind)
            new = next(p for p in plan.parts if p.replaces == part)
            ids = {c.id for c in changes_to(HUB, plan)}
            with self.subTest(kind):
                self.assertNotEqual(new.id, part)
                self.assertIn(f"remove:{part}", ids)
                self.assertIn(f"fit:{new.id}", ids)
                own = {j.id for j in plan.joins_of(new.id)}
                self.assertTrue(own)
                self.assertEqual({f"connect:{j}" for j in own} - ids, set())
                self.assertFalse(own & {j.id for j in HUB.joins})
                self.assertEqual([s for s in plan.settings if s.part == new.id], [])

    def test_an_id_is_never_given_twice(self) -> None:
        gone = remove_part(HUB, "lamp").bike
        again = with_part(gone, "lamp")
        e = entry("lamp")
        named = replace(again, parts=(*gone.parts, replace(again.parts[-1], id="lamp")))
        fresh = with_fresh_ids(gone, named, ids_of(HUB))
        self.assertEqual(fresh.parts[-1].id, "lamp_2")
        self.assertEqual(e.kind, fresh.parts[-1].kind)
        self.assertEqual(renamed(HUB, {"lamp": "x"}).part("x").name, HUB.part("lamp").name)


def _is_charger(plan: Bike, change: Change) -> bool:
    parts = {p.id: p for p in plan.parts}
    if change.subject in parts:
        return parts[change.subject].kind == "charger"
    sides = [part for j in plan.joins if j.id == change.subject for part, _ in j.sides()]
    return any(parts[part].kind == "charger" for part in sides)


def _loose_cable(plan: Bike, change: Change) -> bool:
    """A cable is laid with its plugs; one that is joined to nothing has no step of its own."""
    parts = {p.id: p for p in plan.parts}
    return change.subject in parts and parts[change.subject].kind == "cable"


def walk(order: Order, begins_in: bool) -> list[tuple[WorkStep, bool]]:
    """Return (step, whether the pack is in when it is begun) for the steps in their order."""
    inside, found = begins_in, []
    for step in order.steps:
        found.append((step, inside))
        family = step.id.partition(":")[0]
        if family == "pack-out":
            inside = False
        elif family == "pack-in" or step.power == PLUG:
            inside = True
    return found


class OrderTest(TestCase):
    def test_every_need_is_kept_and_every_plug_has_its_step(self) -> None:
        """Against networkx: no circle, and each step after all that it needs [lib]."""
        for bike in (
            *(make_pattern(p, p) for p in PATTERNS),
            demo_bike("fern"),
            demo_bike("otter"),
        ):
            order = whole_order(bike)
            ids = [step.id for step in order.steps]
            graph = nx.DiGraph((need, step.id) for step in order.steps for need in step.needs)
            place = {name: n for n, name in enumerate(ids)}
            plugs = {
                f"connect:{j.id}" for j in bike.joins if "charger" not in _kinds(bike, j.sides())
            }
            with self.subTest(bike.info.label):
                self.assertEqual(len(set(ids)), len(ids))
                self.assertTrue(nx.is_directed_acyclic_graph(graph))
                self.assertTrue(all(place[a] < place[b] for a, b in graph.edges))
                self.assertEqual({i for i in ids if i.startswith("connect:")}, plugs)
                fits = {f"fit:{p.id}" for p in bike.parts if p.kind not in ("cable", "charger")}
                self.assertEqual({i for i in ids if i.startswith("fit:")}, fits)
                self.assertEqual({i.partition(":")[0] for i in ids} - set(EFFORTS), set())
                self.assertGreater(minutes_of(ids), 60)
                self.assertLess(ids.index("prove"), ids.index("tie"))

    def test_no_step_is_done_with_the_pack_where_it_must_not_be(self) -> None:
        """Every plug but the pack's own is moved with the pack out, and nothing is tried without
        it."""
        for seed in range(150):
            start = make_pattern(sorted(PATTERNS)[seed % len(PATTERNS)], "x")
            plan = planned(start, seed)
            order = sketched_order(start, start, plan)
            begins_in = any("pack" in _kinds(start, j.sides()) for j in start.joins)
            for step, inside in walk(order, begins_in):
                family = step.id.partition(":")[0]
                with self.subTest(seed=seed, step=step.id):
                    if step.power == OUT and family != "pack-out":
                        self.assertFalse(inside)
                    if step.power == ON:
                        self.assertTrue(inside)
                    if family in ("connect", "disconnect") and step.power != PLUG:
                        self.assertFalse(inside)

    def test_only_what_changes_has_steps(self) -> None:
        """Rows: what the plan changes; steps that must be there; words that must not stand
        anywhere."""
        no_throttle = remove_part(HUB, "throttle").bike
        for words, start, plan, wanted, foreign in (
            ("nothing", HUB, HUB, (), ("",)),
            (
                "a lamp is added",
                remove_part(HUB, "lamp").bike,
                HUB,
                ("fit:lamp", "connect:j10", "prove"),
                ("cover, axle", "Axle nuts", "First power-up", "Crank"),
            ),
            (
                "a throttle is added",
                no_throttle,
                HUB,
                ("grips", "fit:throttle", "connect:j6", "power-up"),
                ("freewheel", "mark how"),
            ),
            (
                "the controller is exchanged",
                HUB,
                swapped(HUB, "controller", "controller"),
                (
                    "remove:controller",
                    "fit:controller_2",
                    "disconnect:j3",
                    "disconnect:j4",
                    "power-up",
                ),
                ("Axle nuts", "grip", "mark how"),
            ),
            (
                "the hub gives way to a plain wheel",
                HUB,
                remove_part(HUB, "motor").bike,
                ("remove:motor", "plain-wheel:motor", "disconnect:j3", "left-over"),
                ("First power-up",),
            ),
            (
                "a hub bike becomes a mid drive",
                HUB,
                swapped(HUB, "motor", "mid_motor"),
                ("plain-wheel:motor", "cranks:motor_2", "fit:motor_2", "ring:motor_2"),
                ("Axle nuts of Mid",),
            ),
        ):
            order = sketched_order(start, start, plan)
            ids = {step.id for step in order.steps}
            text = " ".join(step.title for step in order.steps)
            with self.subTest(words):
                self.assertEqual(set(wanted) - ids, set(), sorted(ids))
                if start == plan:
                    self.assertEqual(ids, set())
                    continue
                for word in foreign:
                    self.assertNotIn(word, text)

    def test_the_torque_of_what_leaves_is_not_that_of_what_comes(self) -> None:
        """Rows: the bike with its motor's figure described, the step after the motor is off."""
        for bike, field, step_id in (
            (HUB, "axle_nut_nm", "plain-wheel:motor"),
            (MID, "crank_bolt_nm", "plain-cranks:motor"),
        ):
            motor = bike.part("motor")
            told = change_part(bike, "motor", motor.name, replace(motor.spec, **{field: 48.0}))
            steps = {
                step.id: step
                for step in sketched_order(told, told, remove_part(told, "motor").bike).steps
            }
            with self.subTest(step_id):
                self.assertNotIn("48", steps[step_id].torque)
                self.assertIn("the maker's figure", steps[step_id].torque)

    def test_what_a_swap_leaves_without_a_mate_is_told_and_capped(self) -> None:
        e = entry("controller")
        ports = tuple(port for port in HUB.part("controller").ports if port.id != "display")
        made = swap_part(HUB, "controller", e.kind, e.name, e.spec, ports)
        self.assertEqual(len(made.lost), 1)
        steps = {step.id: step.title for step in sketched_order(HUB, HUB, made.bike).steps}
        self.assertIn("Display", steps["left-over"])

    def test_a_live_end_that_is_free_is_capped_before_anything_is_switched_on(self) -> None:
        for name, live in (
            ("light-motorcycle", "Controller, lamp"),
            ("hub-conversion", "Controller, lamp"),
        ):
            steps = list(whole_order(make_pattern(name, name)).steps)
            ids = [step.id for step in steps]
            with self.subTest(name):
                self.assertIn(live, steps[ids.index("caps")].title)
                self.assertLess(ids.index("caps"), ids.index("power-up"))

    def test_steps_know_their_wheel_and_their_vehicle(self) -> None:
        for name, has, has_not in (
            ("hub-conversion", ("freewheel or cassette", "gears"), ("stand's swing",)),
            ("folding", ("fold",), ("freewheel", "brake and gears set again", "throttle")),
            (
                "light-motorcycle",
                ("Tyre and any disc over", "lug screws", "cover shut"),
                ("freewheel", "gears"),
            ),
            ("hand-cycle", ("the cut-off under power",), ("freewheel", "every cut-off", "lights")),
            ("soft-packs", ("heard, at the bars",), ("lights",)),
            ("mid-conversion", ("lock ring", "chain line"), ("Axle nuts",)),
        ):
            text = " ".join(
                f"{s.title} {s.torque}" for s in whole_order(make_pattern(name, name)).steps
            )
            with self.subTest(name):
                for words in has:
                    self.assertIn(words, text)
                for words in has_not:
                    self.assertNotIn(words, text)

    def test_what_comes_before_what(self) -> None:
        """Rows: bike, earlier, later: common practice."""
        for name, earlier, later in (
            ("hub-conversion", "nuts:motor", "power-up"),
            ("hub-conversion", "power-up", "fit:controller"),
            ("hub-conversion", "power-up", "fit:pack"),
            ("hub-conversion", "connect:j4", "connect:j3"),
            ("hub-conversion", "sleeve:j3", "connect:j3"),
            ("light-motorcycle", "lugs:controller", "cover:controller"),
            ("light-motorcycle", "connect:j13", "cover:controller"),
            ("folding", "set:lever_left", "fix:lever_left"),
            ("folding", "fix:lever_left", "prove"),
            ("mid-conversion", "ring:motor", "power-up"),
            ("soft-packs", "heard:alarm_upper", "prove"),
        ):
            ids = [step.id for step in whole_order(make_pattern(name, name)).steps]
            with self.subTest(name, later=later):
                self.assertLess(ids.index(earlier), ids.index(later))

    def test_nothing_is_opened_unless_this_job_opens_it(self) -> None:
        closed = {s.id.partition(":")[0] for s in whole_order(HUB).steps}
        self.assertFalse(closed & {"mark", "inside", "cable", "shut"})
        opened = sketched_order(bare(HUB), bare(HUB), HUB, frozenset({"motor", "pack"}))
        ids = [step.id for step in opened.steps]
        for earlier, later in (
            ("mark:motor", "inside:motor"),
            ("inside:motor", "cable:motor"),
            ("cable:motor", "shut:motor"),
            ("shut:motor", "connect:j4"),
        ):
            self.assertLess(ids.index(earlier), ids.index(later))
        self.assertIn("ready:pack", ids)
        self.assertTrue(
            all(step.caution for step in opened.steps if step.id.startswith(("mark", "ready")))
        )

    def test_torque_of_the_maker_comes_first(self) -> None:
        motor = HUB.part("motor")
        told = replace(motor, spec=replace(motor.spec, disc_bolt_nm=6.2, axle_nut_nm=40.0))  # type: ignore[call-arg]
        bike = replace(HUB, parts=tuple(told if p.id == "motor" else p for p in HUB.parts))
        torques = {step.id: step.torque for step in whole_order(bike).steps}
        self.assertIn("6.2 N·m, by its maker", torques["over:motor"])
        self.assertIn("40 N·m, by its maker", torques["nuts:motor"])
        self.assertIn(
            "4 N·m, common practice", {s.id: s.torque for s in whole_order(HUB).steps}["over:motor"]
        )

    def test_a_done_change_is_seen_on_the_bike(self) -> None:
        plan = swapped(HUB, "throttle", "throttle")
        order = sketched_order(HUB, HUB, plan)
        self.assertEqual(satisfied(order, HUB, plan, HUB), frozenset())
        done = carried_out(HUB, plan, order)
        end = stands(HUB, done, plan)
        again = sketched_order(HUB, end, plan)
        self.assertEqual([s.id for s in again.steps], [s.id for s in order.steps])
        seen = satisfied(again, end, plan, HUB)
        changes = {
            s.id for s in again.steps if s.id.startswith(("connect", "disconnect", "remove"))
        }
        self.assertEqual(seen, changes)


def _kinds(bike: Bike, sides: tuple[tuple[str, str], ...]) -> set[str]:
    return {bike.part(part).kind for part, _ in sides}


Broken = Callable[[], Bike]


def without(kind_plug: str) -> Broken:
    """Return the hub conversion without the connection at a plug of its controller."""

    def made() -> Bike:
        join = next(HUB.joins_of("controller", kind_plug))
        return remove_join(HUB, join.id)

    return made


def controlled(**values: float) -> Broken:
    """Return the hub conversion without pedals' sensor, its controller described otherwise."""

    def made() -> Bike:
        bike = remove_part(HUB, "cranks").bike
        part = bike.part("controller")
        other = replace(part, spec=replace(part.spec, **values))  # type: ignore[arg-type]
        return replace(bike, parts=tuple(other if p.id == part.id else p for p in bike.parts))

    return made


class TryoutTest(TestCase):
    def test_a_sound_bike_has_nothing_in_its_way(self) -> None:
        for name in PATTERNS:
            with self.subTest(name):
                self.assertEqual(hindrances(make_pattern(name, name)), ())

    def test_what_keeps_it_from_turning_is_named(self) -> None:
        for words, made, code in (
            ("hall plug off", without("halls"), "halls"),
            ("phases off", without("phases"), "phases"),
            ("battery lead off", without("battery"), "off"),
            ("key open: no display", without("display"), "off"),
            (
                "throttle below the window",
                controlled(throttle_start_v=4.3, throttle_full_v=4.4),
                "throttle-low",
            ),
            ("throttle above its start at rest", controlled(throttle_start_v=0.6), "throttle-high"),
            ("made for more volts", controlled(low_cutoff_v=60.0), "volts"),
            ("no motor", lambda: remove_part(HUB, "motor").bike, "no-part"),
        ):
            found = hindrances(made())
            with self.subTest(words):
                self.assertIn(code, {item.code for item in found}, found)
                self.assertTrue(all(item.words for item in found))

    def test_there_is_no_order_beyond_a_power_up_that_cannot_run(self) -> None:
        plan = without("halls")()
        order = way_order(bare(plan), bare(plan), plan)
        ids = {step.id for step in order.steps}
        self.assertTrue(order.hindered)
        self.assertFalse(ids & {"power-up", "prove", "tie", "fit:controller"})
        self.assertFalse(any(step.powered for step in order.steps))
        self.assertIn(f"connect:{next(plan.joins_of('controller', 'phases')).id}", ids)
        self.assertEqual(CONNECT, "connect")
