"""Judged by strangers: the benchmark's own solver against others, and the engine on a few of its
bikes; by-place levels, numbers that are far, and endings where nothing could be brought about."""

import re
import subprocess
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scripts.paths import strangers

from brightcore.circuit.conditions import DEAD_STEPS, parse_condition
from brightcore.circuit.netlist import Circuit
from brightcore.formats.spice import parse_operating_point, spice_netlist
from brightcore.procedure.gates import DEAD_GATES
from brightcore.simulation.levels import faults_of
from brightcore.simulation.scenes import scenes_of
from brightcore.tracing.endings import conclude
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.tests import KINDS
from brightcore.tracing.trace import Trace
from tests.bikes import engine, small_engine

strangers()

from strangers.play import complaint, play  # noqa: E402
from strangers.rules import Temper  # noqa: E402
from strangers.sorts import SORTS  # noqa: E402
from strangers.truth import NOTHING, Trouble, TrueBike  # noqa: E402


def true_bike(circuit: Circuit, trouble: Trouble, seed: int) -> TrueBike:
    TrueBike.scenes = {scene.id: scene for scene in scenes_of(circuit)}
    rng = np.random.default_rng(seed)
    return TrueBike(circuit, trouble, rng, Temper.usual(rng), 1.0)


class SolverTest(TestCase):
    def test_its_solver_gives_what_ngspice_gives(self) -> None:
        """The corners are rounded by hundredths of a volt; everything else is equal."""
        circuit = small_engine("fern").circuit
        bike = true_bike(circuit, NOTHING, 1)
        bike._own = dict.fromkeys(bike._own, (1.0, 1.0))
        bike._net, bike._volts = {}, {}
        for text in ("on", "on; throttle.grip=full", "on; motor.rotor=1", "off"):
            condition = parse_condition(circuit, text)
            ours = dict(zip(circuit.nodes, map(float, bike.solved(condition)), strict=True))
            volts = small_engine("fern").table.solution(condition).volts[:, 0]
            guess = {node: float(volts[i]) for i, node in enumerate(circuit.nodes)}
            ran = subprocess.run(
                ["ngspice", "-b"],
                input=spice_netlist(circuit, condition, first_guess=guess),
                capture_output=True,
                text=True,
                check=False,
            )
            theirs = parse_operating_point(ran.stdout, circuit)
            for node in ("controller:rail", "controller:throttle", "display:rx", "lamp:plus"):
                name = circuit.node_of[node]
                with self.subTest(text, node=node):
                    self.assertAlmostEqual(ours[name], theirs[name], delta=0.08)


class LevelsTest(TestCase):
    def test_a_contact_of_the_throttle_has_levels_where_its_volts_move(self) -> None:
        """A row a pin: what the levels of its contact must lie between, in ohm."""
        known = faults_of(small_engine("fern").circuit)
        for pin, low, high in (
            ("controller.front.v5", 20.0, 4e3),
            ("controller.front.gnd", 20.0, 4e3),
        ):
            ids = [mode.id for mode in known if mode.id.startswith(f"{pin}/contact/about-")]
            ohms = [float(re.findall(r"about-([\d.]+)", name)[0]) for name in ids]
            with self.subTest(pin):
                self.assertTrue(any(low < ohm < high for ohm in ohms), ohms)

    def test_every_place_settles_and_ids_are_unique(self) -> None:
        for name in ("fern", "otter", "teasel"):
            ids = [mode.id for mode in faults_of(small_engine(name).circuit)]
            self.assertEqual(len(ids), len(set(ids)), name)


class FarTest(TestCase):
    """Numbers just inside and far outside what a sound bike gives; told once, and taken again."""

    def test_a_number_that_is_far_is_a_finding_whatever_explains_it(self) -> None:
        made = small_engine("teasel")
        rail = ("controller.throttle.v5", "controller.throttle.gnd")
        for value, far in (("5.0", False), ("5.6", False), ("8.2", True), ("7.2", True)):
            trace = Trace(made, [Evidence("volts", value, "on", *rail)])
            with self.subTest(value):
                self.assertEqual(bool(trace.far), far)
                self.assertEqual(trace.clean, not far)

    def test_what_is_far_is_not_called_well_until_a_second_reading_says_so(self) -> None:
        made = engine("teasel")
        odd = Evidence("volts", "8.2", "on", "controller.throttle.v5", "controller.throttle.gnd")
        well = Trace(made, [odd, Evidence("volts", "5.0", "on", odd.red, odd.black)])
        self.assertEqual(well.far, ())
        self.assertIsNone(well.taken_again)
        every = frozenset(made.by_id)
        self.assertNotEqual(conclude(Trace(made, [odd, odd]), every).status, "nothing-found")


class NotBroughtAboutTest(TestCase):
    def test_nothing_found_needs_the_scene_that_was_told_of(self) -> None:
        """Rows: what was told, what was looked at here, how it ends once nothing is left to do."""
        made = engine("teasel")
        told = Evidence("look", "cuts", scene="pull", observable="motor", told=True)
        smooth = {
            scene: Evidence("look", "smooth", scene=scene, observable="motor")
            for scene in ("throttle", "pull")
        }
        every = frozenset(made.by_id)
        for evidence, status in (
            ([told], "not-shown"),
            ([told, smooth["throttle"]], "not-shown"),
            ([told, smooth["throttle"], smooth["pull"]], "nothing-found"),
            ([], "not-shown"),
            ([smooth["throttle"]], "nothing-found"),
        ):
            with self.subTest(len(evidence), status=status):
                self.assertEqual(conclude(Trace(made, evidence), every).status, status)


class StrangersTest(TestCase):
    """A few of the strangers' bikes, always the same; `./bright bench strangers` plays many."""

    def test_what_is_on_no_list_is_found_at_its_place(self) -> None:
        made = engine("teasel")
        rng = np.random.default_rng(11)
        right, wrong, count = 0, [], 0
        for name in ("5 V contact", "ground contact", "pulled down", "thirsty sensor", "not home"):
            maker = SORTS[name](made.circuit, rng)
            for _ in range(30):
                bike = true_bike(made.circuit, next(maker), int(rng.integers(1 << 30)))
                told = complaint(bike)
                if told:
                    played = play(made, bike, told)
                    count += 1
                    right += played.right
                    wrong += [played.words] if played.wrong else []
                    break
        self.assertGreaterEqual(count, 4)
        self.assertGreaterEqual(right, count - 1)
        self.assertEqual(wrong, [])

    def test_a_bike_that_cannot_be_ridden_is_never_called_well_with_a_fault_in_it(self) -> None:
        made = engine("teasel")
        rng = np.random.default_rng(4)
        maker = SORTS["aged cells"](made.circuit, rng)
        played = 0
        for _ in range(8):
            bike = true_bike(made.circuit, next(maker), int(rng.integers(1 << 30)))
            told = complaint(bike)
            if not told:
                continue
            played += 1
            self.assertNotEqual(play(made, bike, told, rides=False).status, "nothing-found")
        self.assertGreater(played, 0)


class OtherOrderTest(TestCase):
    def test_only_an_exchange_at_that_motor_is_cured_by_another_order_of_it(self) -> None:
        """Rows: what is exchanged, whether another order of the motor's wires cures it."""
        made = small_engine("fern")
        kind = next(kind for kind in KINDS if kind.name == "order")
        (test,) = [test for test in made.tests if test.kind == "order"]
        for repair, cures in (
            ("order:j-phases-c", True),
            ("order:j-halls-m", True),
            ("join:j-halls-m", False),
            ("part:motor:halls", False),
        ):
            items = [h for h in made.hypotheses.items if h.repair.id == repair and not h.loose]
            self.assertTrue(items, repair)
            for item in items:
                with self.subTest(item.id):
                    self.assertEqual(kind.chance(item, test.subject) > 0.5, cures)
        elsewhere = replace(items[0], repair=replace(items[0].repair, id="order:j-throttle"))
        self.assertLess(kind.chance(elsewhere, test.subject), 0.5)

    def test_no_plug_is_changed_before_the_pack_is_out_and_empty(self) -> None:
        for name in ("fern", "otter", "teasel"):
            for test in small_engine(name).tests:
                if test.kind == "order":
                    with self.subTest(name, test=test.id):
                        self.assertLessEqual({"pack_safe", *DEAD_GATES, "wheel_up"}, {*test.gates})
                        self.assertEqual(test.steps[: len(DEAD_STEPS)], DEAD_STEPS)
