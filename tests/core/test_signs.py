"""Tests that ask the senses, rig something, or borrow half a bike: what each fault gives, what each
answer means."""

from contextlib import nullcontext
from dataclasses import replace
from functools import cache
from types import SimpleNamespace
from typing import Any, cast
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.circuit.conditions import DEAD_STEPS
from brightcore.circuit.instruments import DEFAULT_METER
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.join_edits import add_join
from brightcore.describing.patterns import make_pattern
from brightcore.drawing.lights import lights
from brightcore.errors import BrightError, UnknownNameError
from brightcore.kinds.blocks import port
from brightcore.kinds.charging import ChargerSpec
from brightcore.tracing.acts import act_of_test
from brightcore.tracing.advice import propose
from brightcore.tracing.behind import all_behind, words_behind
from brightcore.tracing.donor import behind_problems, half_problems, lending_problems, spare_of
from brightcore.tracing.endings import conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.terms import USUAL, Terms
from brightcore.tracing.tests import kind_of, log_likelihood, validate
from brightcore.tracing.tests.half import motor_half
from brightcore.tracing.trace import Trace
from tests.bikes import demo_bike, engine, small_engine, with_spec


@cache
def charged() -> Engine:
    """Return the engine of a bike whose charger is on its pack."""
    bike = make_pattern("hub-conversion", "x")
    socket = port(
        "charge",
        "Charge",
        "plus:charge_in:charge +",
        "minus:pack_minus:charge −",
        family="charge-2",
    )
    parts = tuple(replace(p, ports=(*p.ports, socket)) if p.id == "pack" else p for p in bike.parts)
    plug = port("plug", "Charger", "plus:charge_out:+", "minus:charge_minus:−", family="charge-2")
    bike = add_part(replace(bike, parts=parts), "charger", "Charger", ChargerSpec(), (plug,))
    return Engine(add_join(bike, "pack.charge", "charger.plug"))


RIGGED = (
    # engine, fault ("" healthy), scene, observable, what is seen
    ("fern", "", "halls", "hall_steps", "three"),
    ("fern", "motor.halls.a/stuck/full", "halls", "hall_steps", "low_a"),
    ("fern", "motor.halls.supply/open-inside/full", "halls", "hall_steps", "fewer"),
    ("fern", "motor.halls.a/dead/full", "halls", "hall_steps", "high_a"),
    ("fern", "motor.halls.b/dead/full", "halls", "hall_steps", "high_b"),
    ("fern", "motor.halls.c/stuck/full", "halls", "hall_steps", "low_c"),
    ("fern", "", "clipped", "braking", "even"),
    ("fern", "motor.phases.u/open/full", "clipped", "braking", "lumps"),
    ("fern", "motor.inside.gear/stripped/full", "clipped", "braking", "free"),
    ("fern", "", "bridge", "motor", "smooth"),
    ("fern", "display.plug.key/dead/full", "throttle", "motor", "silent"),
    ("fern", "display.plug.key/dead/full", "bridge", "motor", "smooth"),
    ("fern", "controller.inside.board/dead/full", "bridge", "motor", "silent"),
    ("fern", "motor.inside.magnets/weak/full", "pull", "motor", "weak"),
    ("fern", "motor.inside.magnets/weak/full", "throttle", "motor", "smooth"),
    ("fern", "controller.inside.heat/cut-back/full", "pull", "motor", "weak"),
    ("fern", "motor.phases.u/touches-hall_a/full", "throttle", "error", "hall"),
    ("fern", "display.inside.menu/wheel-wrong/full", "throttle", "speed", "wrong"),
    ("fern", "display.inside.buttons/dead/full", "switch_on", "display", "dark"),
    ("fern", "throttle.inside.grip/sticks/full", "switch_on", "error", "throttle"),
    ("charged", "", "charge", "charging", "charging"),
    ("charged", "charger.plug.plus/dead/full", "charge", "charging", "dark"),
    ("charged", "pack.inside.charge/open/full", "charge", "charging", "idle"),
)

SIGNS = (
    # told, kind, subject, answer, fault that it raises
    ("noise", "listen", "motor", "noise", "motor.inside.gear/worn/full"),
    ("smell", "smell", "controller", "burnt", "controller.phases.u/low-shorted/full"),
    ("tingle", "insulation", "motor", "reads", "motor.inside.winding/to-axle/full"),
    ("range", "capacity", "pack", "low", "pack.inside.cells/faded/full"),
)


def looks_clean(made: Engine) -> list[Evidence]:
    """Return every first look of a bike with the healthy answer."""
    found = []
    for test in made.tests:
        if test.scene and kind_of(test.kind).first:
            for name, codes in made.table.seen(test.scene).items():
                found.append(kind_of("look").read(test, f"{name}={_words(name, int(codes[0]))}")[0])
    return found


def _words(observable: str, code: int) -> str:
    return OBSERVABLES[observable].ids()[code]


class RiggedTest(TestCase):
    def test_every_fault_shows_as_the_bench_would_see_it(self) -> None:
        for name, fault, scene, observable, seen in RIGGED:
            made = charged() if name == "charged" else engine(name)
            row = made.hypotheses.items[made.hypotheses.index(fault)].row if fault else 0
            with self.subTest(fault or "healthy", scene=scene):
                self.assertEqual(
                    _words(observable, int(made.table.seen(scene)[observable][row])), seen
                )

    def test_a_charger_is_put_only_to_a_pack_that_was_looked_at(self) -> None:
        made = charged()
        test = made.by_id["look charge"]
        self.assertEqual(test.gates[-2:], ("pack_safe", "charging"))
        self.assertTrue(act_of_test(made, test).needs_safe_pack)

    def test_a_bridge_is_laid_with_the_pack_out(self) -> None:
        test = small_engine("fern").by_id["look bridge"]
        self.assertEqual(test.steps[0], "Switch off, pack out")
        self.assertLess(
            test.steps.index("Fused lead from battery + to the key line"), len(test.steps) - 2
        )

    def test_an_answer_that_names_no_hall_holds_for_each_of_them(self) -> None:
        """Old jobs have it; it weighs as much as the three answers that name one together."""
        made = engine("fern")

        def weighed(value: str) -> NDArray[np.float64]:
            item = Evidence("look", value, scene="halls", observable="hall_steps")
            return kind_of("look").likelihood(made.table, made.hypotheses, item)

        for broad, named in (
            ("high", ("high_a", "high_b", "high_c")),
            ("low", ("low_a", "low_b", "low_c")),
        ):
            with self.subTest(broad):
                np.testing.assert_allclose(weighed(broad), sum(map(weighed, named)), atol=1e-6)


LEAD = ("pack.main.plus", "main_lead.pack_end.plus")
PULL = "on; controller.drive=pull; throttle.grip=full"


class CurrentTest(TestCase):
    def test_a_clamp_reads_what_the_controller_draws(self) -> None:
        """Healthy it is the limit that is set; nothing flows where the lead is open."""
        made = engine("fern")
        limit = made.bike.part("controller").spec.battery_limit_a
        test = made.by_id[f"current {LEAD[0]} {LEAD[1]} @ {PULL}"]
        found = kind_of("current").predict(made.table, test.condition, *LEAD, DEFAULT_METER)[0].mean
        cases = (
            ("", limit),
            ("pack.main.plus/contact/open", 0.0),
            ("pack.inside.bms/open/full", 0.0),
        )
        for fault, ampere in cases:
            row = made.hypotheses.items[made.hypotheses.index(fault)].row if fault else 0
            self.assertAlmostEqual(float(found[row]), ampere, delta=0.02 * limit, msg=fault)

    def test_amps_are_taken_only_where_they_are_foretold(self) -> None:
        table = small_engine("fern").table
        for red, black, state, taken in (
            (*LEAD, PULL, True),
            (*LEAD, "on", False),
            ("pack.main.plus", "pack.main.minus", PULL, False),
        ):
            item = Evidence("current", "14 A", state, red, black)
            with nullcontext() if taken else self.assertRaises(BrightError):
                validate(table, item)


class SignTest(TestCase):
    def test_what_no_look_shows_is_sought_where_the_rider_told_of_it(self) -> None:
        made = engine("fern")
        clean = looks_clean(made)
        self.assertEqual(propose(Trace(made, clean)), ())
        for told, kind, subject, answer, fault in SIGNS:
            with self.subTest(told):
                past = Evidence("past", told)
                asked = {p.test.id for p in propose(Trace(made, [past, *clean]), 9)}
                self.assertIn(f"{kind} {subject}", asked)
                index = made.hypotheses.index(fault)
                before = Trace(made, [past, *clean]).belief[index]
                found = Trace(made, [past, *clean, Evidence(kind, answer, subject=subject)])
                after = found.belief[index]
                self.assertGreater(after / (1 - after), 5 * before / (1 - before))
                self.assertEqual(
                    found.clean, found.leading == 0, "a sign is a finding where a fault leads"
                )
                every = frozenset(test.id for test in made.tests)
                self.assertEqual(conclude(found, every).status == "nothing-found", found.clean)

    def test_amps_in_line_tell_what_leaks_while_everything_is_off(self) -> None:
        """Ohm's law: a leak across the main lead adds its volts over its ohms."""
        made = engine("fern")
        test = next(test for test in made.tests if test.kind == "drain")
        self.assertIn("in_line", test.gates)
        self.assertEqual(
            (test.steps[: len(DEAD_STEPS)], test.steps[-1][:7]), (DEAD_STEPS, "Pack in")
        )
        kind = kind_of("drain")
        found = kind.predict(made.table, test.condition, test.red, test.black, DEFAULT_METER)[
            0
        ].mean
        index = made.hypotheses.index("main_lead.controller_end.plus/short-to-minus/leak")
        leak = made.hypotheses.items[index]
        assert leak.mode is not None
        volts = made.table.read_volts(test.condition, "pack.main.plus", "pack.main.minus").mean[0]
        drawn = float(volts * leak.mode.overrides[0].regions[0].g1)
        self.assertAlmostEqual(float(found[leak.row] - found[0]), drawn, delta=0.01 * drawn)
        self.assertTrue(1e-4 < found[0] < 2e-3, found[0])
        past, clean = Evidence("past", "drains"), looks_clean(made)
        self.assertIn(test.id, {p.test.id for p in propose(Trace(made, [past, *clean]), 9)})
        before = Trace(made, [past, *clean]).belief[index]
        for text, raised in (("20 mA", True), ("0.7 mA", False)):
            after = Trace(made, [past, *clean, *kind.read(test, text)]).belief[index]
            self.assertEqual(bool(after > 5 * before), raised, text)
        with self.assertRaises(BrightError):
            validate(made.table, replace(kind.read(test, "1 mA")[0], condition="on"))

    def test_a_smell_is_never_sought_at_a_pack(self) -> None:
        for name in ("fern", "otter", "teasel"):
            packs = {part.id for part in small_engine(name).bike.of_kind("pack")}
            sniffed = {test.subject for test in small_engine(name).tests if test.kind == "smell"}
            self.assertTrue(sniffed and not sniffed & packs)

    def test_lost_capacity_keeps_no_stretch_from_lighting(self) -> None:
        made = engine("fern")
        members = tuple(
            "here" if h.id.startswith("pack.inside") else "else" for h in made.hypotheses.items
        )
        layout = cast(Any, SimpleNamespace(shapes=[SimpleNamespace(id="here")]))
        trace = Trace(made, [])
        silent = np.array([h.mode is not None and h.mode.silent for h in made.hypotheses.items])
        for others, state in ((-3.1, "lit"), (-2.9, "dim")):
            trace.strength = np.where(silent, 0.0, others)
            self.assertEqual(lights(layout, members, trace)["here"].state, state, others)


class LendingTest(TestCase):
    def test_half_a_bike_is_what_can_be_reached_without_a_controller(self) -> None:
        bike = demo_bike("fern")
        own, split = motor_half(bike, "motor")
        self.assertTrue({"motor", "hall_cable", "motor_cable"} <= own)
        self.assertNotIn("controller", own)
        self.assertEqual({bike.join(name).id for name in split}, set(split))
        past = add_join(_with_tail(bike), "motor.tail", "pack.tail")
        self.assertEqual(motor_half(past, "motor"), (frozenset(), frozenset()))

    def test_what_half_a_donor_says(self) -> None:
        """Gone speaks for what was replaced, the same for the rest; a plug between may be
        either."""
        made = small_engine("fern")
        half = kind_of("half")
        for test in (t for t in made.tests if t.kind == "half"):
            lent = half.needs(test)
            gone, same = (
                log_likelihood(
                    made.table, made.hypotheses, Evidence("half", v, subject=test.subject)
                )
                for v in ("gone", "same")
            )
            for owner, side in (("motor", "motor"), ("controller", "drive"), ("pack", "drive")):
                index = next(
                    i
                    for i, h in enumerate(made.hypotheses.items)
                    if h.repair.owner == owner and not h.loose and not h.repair.of_join
                )
                self.assertEqual(bool(gone[index] > same[index]), side == lent, (owner, lent))

    def test_halves_are_borrowed_only_from_a_donor_that_is_to_hand(self) -> None:
        made = engine("fern")
        seen = [Evidence("look", "rough", scene="throttle", observable="motor")]
        for halves in (frozenset[str](), frozenset({"motor"}), frozenset({"motor", "drive"})):
            trace = Trace(made, seen, terms=Terms(halves=halves))
            offered = {
                p.test.subject.partition(":")[0]
                for p in propose(trace, 400)
                if p.test.kind == "half"
            }
            self.assertEqual(offered, set(halves))

    def test_the_rules_say_what_may_be_lent(self) -> None:
        fern, otter = demo_bike("fern"), demo_bike("otter")
        alike = make_pattern("hub-conversion", "x")
        self.assertEqual(half_problems(fern, alike), {"motor": (), "drive": ()})
        for words in half_problems(fern, otter).values():
            self.assertTrue(words and all("Does not connect" in line for line in words))
        packs = [with_spec(alike, "pack", series_count=n).part("pack") for n in (13, 20)]
        told = [lending_problems(fern, "pack", pack) for pack in packs]
        self.assertEqual((told[0], bool(told[1])), ((), True))
        self.assertIsNone(spare_of(fern, fern.part("motor"), make_pattern("mid-conversion", "x")))

    def test_what_hangs_behind_a_plug_is_lent_as_a_whole(self) -> None:
        cases = (
            # bike, plug, what is lent in words
            ("fern", "j-front", "display, thumb throttle, left brake lever and right brake lever"),
            ("otter", "j-display-rear", "bar display"),
            ("teasel", None, ""),
        )
        for name, plug, words in cases:
            bike = demo_bike(name)
            first = next(iter(all_behind(bike)), None)
            self.assertEqual(first and first.join, plug, name)
            if first is not None:
                self.assertEqual(words_behind(bike, first), words)
                kinds = {bike.part(part).kind for part in first.parts}
                self.assertFalse(kinds & {"pack", "controller", "hub_motor"}, name)

    def test_what_is_gone_with_a_front_end_was_behind_its_plug(self) -> None:
        made = small_engine("fern")
        says = {}
        for value in ("gone", "same"):
            item = Evidence("behind", value, subject="j-front")
            says[value] = log_likelihood(made.table, made.hypotheses, item)
        cases = (
            # owner of the fault, what the trial then says of it
            ("throttle", "gone"),
            ("front_harness", "gone"),
            ("controller", "same"),
            ("motor", "same"),
            ("j-front", ""),
        )
        for owner, wanted in cases:
            index = next(
                i
                for i, h in enumerate(made.hypotheses.items)
                if h.repair.owner == owner and h.mode is not None and not h.loose
            )
            gone, same = says["gone"][index], says["same"][index]
            said = "" if abs(gone - same) < 0.01 else "gone" if gone > same else "same"
            self.assertEqual(said, wanted, owner)
        with self.assertRaises(UnknownNameError):
            validate(made.table, Evidence("behind", "gone", subject="j-phases-m"))

    def test_a_front_end_is_borrowed_from_a_donor_that_has_the_same(self) -> None:
        fern = demo_bike("fern")
        one_lever = remove_part(fern, "lever_right").bike
        cases = (
            # donor, what is said against its front end
            (fern, ""),
            (make_pattern("hub-conversion", "x"), "No plug of the donor fits"),
            (one_lever, "The donor has no right brake lever behind that plug."),
        )
        for donor, wanted in cases:
            (problems,) = behind_problems(fern, donor).values()
            self.assertEqual(bool(problems), bool(wanted), problems)
            self.assertTrue(all(words.startswith(wanted) for words in problems), problems)
        made = engine("fern")
        seen = [Evidence("look", "rough", scene="throttle", observable="motor")]
        for halves in (frozenset[str](), frozenset({"behind j-front"})):
            offered = propose(Trace(made, seen, terms=Terms(halves=halves)), 400)
            kinds = {p.test.id for p in offered if p.test.kind == "behind"}
            self.assertEqual(kinds, set(halves))

    def test_the_pace_of_a_shop_moves_what_comes_first(self) -> None:
        made = engine("fern")
        seen = [Evidence("look", "rough", scene="throttle", observable="motor")]
        first = propose(Trace(made, seen))[0].test
        slow = propose(Trace(made, seen, terms=Terms(pace={first.kind: 5.0})))[0]
        self.assertNotEqual(slow.test.id, first.id)
        none = propose(Trace(made, seen, terms=Terms(without=frozenset({first.kind}))), 400)
        self.assertNotIn(first.kind, {p.test.kind for p in none})
        self.assertEqual(
            (USUAL.minutes("ohms", 2.0), Terms(pace={"ohms": 1.5}).minutes("ohms", 2.0)), (2, 3)
        )


def _with_tail(bike: Bike) -> Bike:
    """Return a bike with one more plug at motor and pack."""
    tail = port("tail", "Tail", "one:wire", "two:wire")
    return replace(
        bike,
        parts=tuple(
            replace(p, ports=(*p.ports, tail)) if p.id in ("motor", "pack") else p
            for p in bike.parts
        ),
    )
