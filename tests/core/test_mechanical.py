"""The mechanical steps of a job: nothing missing, nothing foreign, each after what it needs."""

from dataclasses import replace
from unittest import TestCase

import networkx as nx

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.procedure.changes import Changes, changes_between
from brightcore.procedure.effort import EFFORTS, minutes_of
from brightcore.procedure.first_light import find_first_light
from brightcore.procedure.mechanical import mechanical_steps, with_mechanical
from brightcore.procedure.work_order import only_changed, order_of_work
from tests.bikes import demo_bike

FERN, OTTER = demo_bike("fern"), demo_bike("otter")
MID, CART = make_pattern("mid-conversion", "mid"), make_pattern("two-motor-cart", "cart")
TWO = make_pattern("two-packs", "two")
HUB = make_pattern("hub-conversion", "hub")
WHEEL = ("wheel-out", "over", "wheel-in", "nuts")


def wheel(motor: str) -> list[str]:
    return [f"{step}:{motor}" for step in WHEEL]


NEW, BAR, OFF = ["checked"], ["grips", "checked"], ["labels"]


JOBS = (
    # what: bike, parts fitted, names of parts taken off, mechanical steps: hand-written
    ("a hub motor", FERN, ("motor",), (), NEW + wheel("motor")),
    ("a mid drive", MID, ("motor",), (), [*NEW, "cranks:motor", "bracket:motor"]),
    ("a second pack", TWO, ("pack_rear", "combiner"), (), [*NEW, "fixed:pack_rear", "module:combiner"]),
    (
        "a controller swap",
        FERN,
        ("controller",),
        ("Old controller",),
        OFF + NEW + ["lugs:controller", "left-over"],
    ),
    ("a throttle", FERN, ("throttle",), (), [*BAR, "bar:throttle", "brakes"]),
    (
        "a stronger pack and controller",
        FERN,
        ("pack", "controller"),
        (),
        [*NEW, "fixed:pack", "lugs:controller"],
    ),
    ("two motors", CART, ("motor_left", "motor_right"), (), NEW + wheel("motor_left") + wheel("motor_right")),
    ("a lamp", FERN, ("lamp",), (), NEW),
    ("a lamp taken off", FERN, (), ("Front lamp",), [*OFF, "left-over"]),
)


class MechanicalTest(TestCase):
    def test_steps_of_jobs_are_those_written_by_hand(self) -> None:
        for words, bike, parts, gone, wanted in JOBS:
            with self.subTest(words):
                self.assertEqual([step.id for step in mechanical_steps(bike, parts, gone)], wanted)

    def test_a_build_stands_in_an_order_that_keeps_every_need(self) -> None:
        """Against networkx: no circle, and each step after all that it needs [lib]."""
        bikes: tuple[Bike, ...] = (FERN, OTTER, *(make_pattern(name, name) for name in PATTERNS))
        for bike in bikes:
            steps = with_mechanical(
                order_of_work(bike, find_first_light(bike)), bike, [p.id for p in bike.parts], ["Old display"]
            )
            graph = nx.DiGraph()
            graph.add_nodes_from(step.id for step in steps)
            graph.add_edges_from((need, step.id) for step in steps for need in step.needs)
            with self.subTest(bike.info.label):
                self.assertTrue(nx.is_directed_acyclic_graph(graph))
                self.assertEqual(len(graph), len(steps))
                place = {step.id: n for n, step in enumerate(steps)}
                self.assertTrue(all(place[a] < place[b] for a, b in graph.edges))
                self.assertTrue(nx.has_path(graph, "left-over", "prove"))

    def test_a_wheel_is_in_before_anything_turns(self) -> None:
        steps = with_mechanical(order_of_work(HUB, find_first_light(HUB)), HUB, ["motor"], [])
        ids = [step.id for step in steps]
        self.assertLess(ids.index("nuts:motor"), ids.index("wheel-up"))
        self.assertLess(ids.index("wheel-up"), ids.index("first-light"))
        torques = {step.id: step.torque for step in steps if step.torque}
        self.assertIn("4 N·m", torques["over:motor"])
        self.assertIn("maker's figure", torques["nuts:motor"])

    def test_the_makers_torque_comes_before_the_common_one(self) -> None:
        motor = FERN.part("motor")
        told = replace(motor, spec=replace(motor.spec, disc_bolt_nm=6.2, axle_nut_nm=40.0))  # type: ignore[call-arg]
        bike = replace(FERN, parts=tuple(told if part.id == "motor" else part for part in FERN.parts))
        torques = {step.id: step.torque for step in mechanical_steps(bike, ["motor"], ())}
        self.assertIn("6.2 N·m, by its maker", torques["over:motor"])
        self.assertIn("40 N·m, by its maker", torques["nuts:motor"])
        self.assertEqual(changes_between(FERN, bike).fitted, frozenset())
        self.assertEqual(changes_between(FERN, bike).parts, frozenset())

    def test_only_another_thing_is_fitted_anew(self) -> None:
        motor = FERN.part("motor")
        for words, part, fitted in (
            ("its value was corrected", replace(motor, spec=replace(motor.spec, rated_w=260.0)), False),  # type: ignore[call-arg]
            ("its name was corrected", replace(motor, name="Front motor"), False),
            (
                "another one",
                replace(motor, name="Stronger", spec=replace(motor.spec, rated_w=600.0)),  # type: ignore[call-arg]
                True,
            ),
        ):
            bike = replace(FERN, parts=tuple(part if old.id == "motor" else old for old in FERN.parts))
            with self.subTest(words):
                self.assertEqual(changes_between(FERN, bike).fitted, frozenset({"motor"} if fitted else ()))

    def test_every_step_says_what_it_takes(self) -> None:
        for bike in (FERN, MID, CART):
            steps = with_mechanical(
                order_of_work(bike, find_first_light(bike)), bike, [p.id for p in bike.parts], ["Old display"]
            )
            unknown = {s.id for s in steps if s.id.partition(":")[0] not in EFFORTS}
            self.assertEqual(unknown, set())
            self.assertGreater(minutes_of(s.id for s in steps), 60)

    def test_only_what_was_added_has_steps(self) -> None:
        every = order_of_work(FERN, find_first_light(FERN))
        lamp = frozenset({j.id for j in FERN.joins if "lamp" in (j.a_part, j.b_part)})
        steps = only_changed(every, FERN, Changes(parts=frozenset({"lamp"}), joins=lamp))
        ids = [step.id for step in steps]
        self.assertLess(len(ids), len(every) / 2)
        for step in steps:
            self.assertLessEqual(set(step.needs), set(ids[: ids.index(step.id)]), step.id)
        self.assertEqual({i for i in ids if i.startswith("plug:")}, {f"plug:{j}" for j in lamp})
        self.assertEqual(only_changed(every, FERN, Changes()), ())
