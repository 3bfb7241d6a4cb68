"""Every threshold of the trace from both sides: the stop rule and its like on beliefs worked out by
hand, cautions by the state of the bike."""

import math
from collections.abc import Sequence
from dataclasses import replace
from types import SimpleNamespace
from typing import Any, cast
from unittest import TestCase

import numpy as np

from brightcore.circuit.conditions import parse_condition
from brightcore.circuit.faults import RepairKind
from brightcore.drawing.lights import lights
from brightcore.procedure.gates import DEAD_GATES, volts_gates
from brightcore.tracing.acts import act_of
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence, repeat_weights
from brightcore.tracing.hypotheses import Hypothesis
from brightcore.tracing.pace import minutes_of
from brightcore.tracing.tests import kind_of
from brightcore.tracing.trace import Trace
from tests.bikes import small_engine


def trace_of(
    prior: Sequence[float],
    likelihoods: Sequence[Sequence[float]],
    repairs: Sequence[int] = (),
    level: int = 0,
) -> Trace:
    """Return a trace over bare hypotheses (the last is "not modelled") and likelihoods by hand."""
    count = len(prior)
    of = list(repairs or range(count))
    healthy = (1e-12, (1e-12,) * len(likelihoods))
    prior, of = (healthy[0], *prior), [0, *(g + 1 for g in of)]
    likelihoods = [(healthy[1][k], *row) for k, row in enumerate(likelihoods)]
    count += 1
    membership = np.zeros((count, max(of) + 1))
    membership[np.arange(count), of] = 1.0
    kinds = [RepairKind(f"r{g}", "", 1, "", level if g else 0) for g in range(max(of) + 1)]
    items = [Hypothesis(f"h{i}", "", prior[i], kinds[g], None) for i, g in enumerate(of)]
    hypotheses = SimpleNamespace(
        prior=np.asarray(prior, dtype=float), items=items, repairs=kinds, repair_of=np.asarray(of)
    )
    trace = Trace(
        cast(Engine, SimpleNamespace(hypotheses=hypotheses, membership=membership, ready=False)), []
    )
    trace.evidence = tuple(Evidence("volts", "0", red=f"x.y.{k}") for k in range(len(likelihoods)))
    trace.anything = [np.float64(-9.0)] * len(likelihoods)
    trace.logs = trace.said = trace.plain = [
        np.log(np.asarray(row, dtype=float)) for row in likelihoods
    ]
    return trace


def twice(ratio: float) -> Trace:
    """Return two independent readings that each favour the first of two by a ratio: r² : 1."""
    return trace_of((0.5, 0.5, 1e-9), ((ratio, 1.0, 1.0),) * 2)


class StopTest(TestCase):
    def test_a_repair_is_named_where_less_is_at_stake_than_a_test_takes(self) -> None:
        """Rows: cost level, what a repair of one minute costs in vain (its part at 60 an hour, a
        second visit of an hour). A test of four minutes that would settle it is thought of: it pays
        while what is wrong, times that, is more than four."""
        for level, vain in ((0, 61.0), (1, 86.0), (2, 141.0), (3, 321.0)):
            limit = 1.0 - 4.0 / vain
            ratio = math.sqrt(limit / (1.0 - limit))
            for off, stops in ((-0.02, False), (0.02, True)):
                readings = ((ratio + off, 1.0, 1.0),) * 2
                trace = trace_of((0.5, 0.5, 1e-9), readings, (), level)
                trace.before_repair = None
                self.assertEqual(trace.stopped, stops, (level, off))

    def test_no_repair_is_named_below_85_percent_though_no_test_pays(self) -> None:
        ratio = math.sqrt(0.85 / 0.15)
        for off, stops in ((-0.01, False), (0.01, True)):
            trace = twice(ratio + off)
            trace.another_pays = False
            self.assertEqual(trace.stopped, stops, off)

    def test_a_repair_needs_findings_that_a_healthy_bike_would_not_show(self) -> None:
        for ratio, stops in ((math.sqrt(19.9), False), (math.sqrt(20.1), True)):
            trace = trace_of((0.98, 0.02, 1e-9), ((ratio, 1.0, 1.0),) * 2)
            trace.said = [np.append(np.log(1.0), log[1:]) for log in trace.logs]
            self.assertEqual(trace.shows, stops, ratio)

    def test_a_sign_is_a_finding_from_five_to_one_a_reading_from_twenty(self) -> None:
        rows = (
            ("smell", 5.1, True),
            ("smell", 4.9, False),
            ("volts", 20.1, True),
            ("volts", 19.9, False),
        )
        for kind, ratio, found in rows:
            trace = trace_of((0.5, 0.5, 1e-9), ((ratio, 1.0, 1.0),))
            trace.plain = [np.append(np.log(1.0), log[1:]) for log in trace.logs]
            trace.evidence = (Evidence(kind, "0", subject="x"),)
            self.assertEqual(bool(trace.abnormal), found, (kind, ratio))

    def test_a_reading_is_odd_that_chance_gives_ten_times_as_likely(self) -> None:
        for share, odd in ((0.099, (0,)), (0.101, ())):
            trace = trace_of((1.0, 1e-9, 1e-9), ((share, 1.0, 1.0),))
            trace.anything = [np.float64(0.0)]
            self.assertEqual(trace.odd, odd, share)

    def test_it_must_lead_with_any_one_reading_left_out(self) -> None:
        for second, hangs in ((1.02, None), (0.98, 0)):
            trace = trace_of((0.5, 0.5, 1e-9), ((1000.0, 1.0, 1.0), (second, 1.0, 1.0)))
            self.assertEqual((trace.hanging_on, trace.stopped), (hangs, hangs is None), second)

    def test_two_different_tests_carry_a_repair_one_does_not(self) -> None:
        look = Evidence("look", "silent", scene="throttle", observable="motor")
        error = replace(look, observable="error", value="hall")
        pedal = replace(look, scene="pedal")
        for items, stops in (((look, error), False), ((look, pedal), True)):
            trace = twice(100.0)
            trace.evidence = items
            self.assertEqual(trace.leads, stops, items)

    def test_what_was_told_of_a_thing_is_left_out_with_it(self) -> None:
        look = Evidence("look", "silent", scene="throttle", observable="motor")
        for told, hangs in (
            (replace(look, told=True), 0),
            (replace(look, scene="pedal", told=True), None),
        ):
            trace = trace_of((0.5, 0.5, 1e-9), ((1e3, 1.0, 1.0), (1.5, 1.0, 1.0), (0.9, 1.0, 1.0)))
            trace.evidence = (look, told, Evidence("volts", "0", red="x"))
            self.assertEqual(trace.hanging_on, hangs, told)

    def test_what_was_told_and_seen_at_last_is_a_finding(self) -> None:
        seen = Evidence("look", "weak", scene="pull", observable="motor", state="again")
        well = replace(seen, value="smooth", state="")
        for told, found in (
            (replace(well, value="weak", told=True), True),
            (replace(well, value="silent", told=True), False),
        ):
            trace = trace_of((0.5, 0.5, 1e-9), ((1.0, 1.0, 1.0),) * 3)
            gains = (np.log(0.5), np.log(19.0), np.log(4.0))
            trace.plain = [
                np.append(-gain, log[1:]) for gain, log in zip(gains, trace.logs, strict=True)
            ]
            trace.evidence = (well, seen, told)
            self.assertEqual(bool(trace.abnormal), found, told)

    def test_the_volts_of_a_pack_are_read_before_it_is_charged(self) -> None:
        made = small_engine("fern")
        at = made.hypotheses.index("pack.inside.cells/flat/full")
        pins = made.hypotheses.items[at].repair.read_at
        read = Evidence("volts", "36", "off", *pins)
        for items, due in (((), f"volts {' '.join(pins)} @ off"), ((read,), None)):
            trace = Trace(made, items)
            trace.leading = at
            self.assertEqual(trace.before_repair, due)

    def test_a_plug_is_reached_once(self) -> None:
        made = small_engine("fern")
        first, second = (
            next(
                t
                for t in made.tests
                if t.plug == "j-throttle" and t.kind == "volts" and t.id != known
            )
            for known in (
                "",
                next(t.id for t in made.tests if t.plug == "j-throttle" and t.kind == "volts"),
            )
        )
        item = Evidence("volts", "5", first.condition.id, first.red, first.black)
        for items, saved in (((), 0.0), ((item,), second.reach_min)):
            left = second.minutes - saved
            self.assertAlmostEqual(minutes_of(Trace(made, items), second, second.condition), left)
        self.assertGreater(second.reach_min, 0)

    def test_a_line_is_near_within_thirty_times_and_further_where_nothing_is_odd(self) -> None:
        for ratio, anything, near in (
            (29, 3.0, True),
            (31, 3.0, False),
            (31, -9.0, True),
            (1.1e6, -9.0, False),
        ):
            trace = trace_of((0.5, 0.5, 1e-9), ((ratio, 1.0, 1.0),))
            trace.anything = [np.float64(anything)]
            items = cast(Any, trace.engine.hypotheses.items)
            items[2] = replace(items[2], repair=RepairKind("describe:controller:line", "", 1, ""))
            self.assertEqual(
                trace.near_lines, ("describe:controller:line",) if near else (), (ratio, anything)
            )

    def test_hypotheses_of_one_repair_count_together(self) -> None:
        apart = trace_of((0.25, 0.25, 0.5, 1e-9), ((9.0, 9.0, 1.0, 1.0),) * 2)
        together = trace_of((0.25, 0.25, 0.5, 1e-9), ((9.0, 9.0, 1.0, 1.0),) * 2, (0, 0, 1, 2))
        self.assertEqual((apart.stopped, together.stopped), (False, True))

    def test_a_reading_is_odd_that_the_leading_one_gives_a_fiftieth_of_the_best(self) -> None:
        for ratio, odd in ((0.0199, True), (0.0201, False)):
            trace = trace_of((0.5, 0.5, 1e-9), ((1e6, 1.0, 1.0), (1.0, 1 / ratio, 1.0)))
            self.assertEqual([i for i, _ in trace.contradicting], [1] if odd else [])

    def test_odd_readings_contradict_where_the_unmodelled_leads_or_there_are_three(self) -> None:
        for other, told in ((0.31, True), (0.29, False)):
            rest = 1.0 - other
            odd = ((1.0, 1e-3, 1.0), (1e-3, 1.0, 1.0))
            prior = (rest * 0.6, rest * 0.4)
            scale = sum(p * 1e-3 for p in prior)
            trace = trace_of((*prior, scale * other / rest), odd)
            self.assertAlmostEqual(float(trace.belief[-1]), other, places=6)
            self.assertEqual(trace.contradictory, told, other)

    def test_three_readings_that_no_single_fault_fits_are_contradictory_two_are_not_yet(
        self,
    ) -> None:
        odd = [
            (1.0, 1e-6, 1e-6, 0.015, 1e-4),
            (1e-6, 1.0, 1e-6, 0.015, 1e-4),
            (1e-6, 1e-6, 1.0, 0.015, 1e-4),
        ]
        for count, told in ((3, True), (2, False)):
            trace = trace_of((0.25, 0.25, 0.25, 0.25, 1e-12), odd[:count])
            self.assertEqual(trace.contradictory, told, count)

    def light(self, trace: Trace) -> str:
        layout = SimpleNamespace(shapes=[SimpleNamespace(id="here"), SimpleNamespace(id="there")])
        return lights(cast(Any, layout), ("", "here", "there", ""), trace)["there"].state

    def test_a_stretch_is_lit_where_it_is_twenty_times_less_likely(self) -> None:
        for ratio, state in ((1 / 20.1, "lit"), (1 / 19.9, "dim")):
            trace = trace_of((0.5, 0.01, 1e-9), ((1.0, ratio, 1.0),))
            self.assertEqual(self.light(trace), state, ratio)

    def test_a_stretch_is_suspect_from_five_percent(self) -> None:
        for share, state in ((0.051, "suspect"), (0.049, "dim")):
            self.assertEqual(
                self.light(trace_of((1 - share, share, 1e-12), ((1.0, 1.0, 1.0),))), state, share
            )

    def test_looks_weigh_half_when_they_come_and_go_or_are_repeated(self) -> None:
        look = Evidence("look", "rough", scene="throttle", observable="motor")
        again = replace(look, scene="pull")
        self.assertEqual(
            repeat_weights([look, again, replace(again, value="silent")]), [1.0, 0.5, 1.0]
        )


SWAPPED = (
    # what a swap of the throttle showed, likelihood where it is the throttle, elsewhere, without a
    # fault
    ("gone", 0.97, 0.03, 0.5),
    ("same", 0.03, 0.97, 0.5),
)


class LikelihoodTest(TestCase):
    def test_a_swap_speaks_for_the_part_that_was_swapped(self) -> None:
        made = small_engine("fern")
        owners = [item.repair.owner if item.mode else "" for item in made.hypotheses.items]
        own, foreign = owners.index("throttle"), owners.index("lamp")
        for value, there, elsewhere, nowhere in SWAPPED:
            item = Evidence("swap", value, subject="throttle")
            found = kind_of("swap").likelihood(made.table, made.hypotheses, item)
            np.testing.assert_allclose(found[[own, foreign, 0]], (there, elsewhere, nowhere))

    def test_damage_is_seen_falsely_once_in_twenty_five_looks(self) -> None:
        made = small_engine("fern")
        item = Evidence("inspect", "damaged", subject="join:j-halls-m")
        found = kind_of("inspect").likelihood(made.table, made.hypotheses, item)
        owner = next(
            i for i, h in enumerate(made.hypotheses.items) if h.mode and h.repair.owner == "lamp"
        )
        self.assertAlmostEqual(float(found[owner]), 0.04)

    def test_a_reading_that_nothing_explains_costs_no_more_than_a_slipped_probe(self) -> None:
        """Two in a hundred readings are wrong: the floor is that share spread over the scale."""
        made = small_engine("fern")
        item = Evidence("volts", "91.0", "on", "pack.main.plus", "pack.main.minus")
        kind = kind_of("volts")
        found = kind.likelihood(made.table, made.hypotheses, item)
        self.assertAlmostEqual(float(found[0]) / kind.anything(item), 0.02, places=4)

    def test_priors_of_what_is_no_fault_and_of_what_is_not_modelled(self) -> None:
        prior = small_engine("fern").hypotheses.prior
        self.assertAlmostEqual(float(prior[0]), 0.05, places=3)
        self.assertAlmostEqual(float(prior[-1]), 0.015, places=3)


GATES = (
    # state of the bike, cautions
    ("off", ("pack_safe",)),
    ("on", ("pack_safe", "wheel_up")),
    ("on; motor.rotor=3", ("pack_safe", "wheel_up")),
    ("on; throttle.grip=pull", ("pack_safe", "road")),
)


ACTS = (
    # evidence, whether it needs a safe pack, cautions
    (
        Evidence("ohms", "0.3", "out", "controller.halls.a", "hall_cable.halls_c.a"),
        False,
        DEAD_GATES,
    ),
    (Evidence("ohms", "0.3", "out", "pack.main.plus", "main_lead.pack_end.plus"), True, DEAD_GATES),
    (Evidence("ohms", "0.3", "out", "main_lead.pack_end.plus", "pack.main.plus"), True, DEAD_GATES),
    (
        Evidence("volts", "50", "off", "controller.battery.plus", "controller.battery.minus"),
        True,
        ("pack_safe",),
    ),
    (Evidence("inspect", "good", subject="part:pack:fuse"), True, ("pack_out",)),
    (Evidence("inspect", "good", subject="join:j-halls-m"), False, ("pack_out", "discharged")),
)


class GateTest(TestCase):
    def test_cautions_follow_from_the_state_of_the_bike(self) -> None:
        circuit = small_engine("fern").circuit
        for text, gates in GATES:
            if "pull" in text:
                condition = replace(
                    parse_condition(circuit, "on"), settings=(("throttle.load", "pull"),)
                )
            else:
                condition = parse_condition(circuit, text)
            self.assertEqual(volts_gates(condition), gates, text)

    def test_every_look_asks_for_what_it_does(self) -> None:
        for name in ("fern", "otter", "teasel"):
            for test in small_engine(name).tests:
                if not test.scene:
                    continue
                doing = test.scene.split("/")[0].split(".")[0]
                expected = {
                    "pull": ("pack_safe", "road"),
                    "spin": ("pack_out",),
                    "clipped": ("pack_out", "discharged"),
                    "bridge": ("pack_safe", "wheel_up", "bridge"),
                }
                with self.subTest(f"{name} {test.id}"):
                    self.assertEqual(test.gates, expected.get(doing, ("pack_safe", "wheel_up")))

    def test_what_is_powered_or_touches_the_pack_needs_a_safe_one(self) -> None:
        made = small_engine("fern")
        for item, risky, gates in ACTS:
            with self.subTest(str(item)):
                act = act_of(made, [item])
                self.assertEqual((act.needs_safe_pack, act.gates), (risky, gates))

    def test_several_pieces_join_their_cautions_and_take_the_longest(self) -> None:
        made = small_engine("fern")
        acts = [act_of(made, [item]) for item, _, _ in ACTS[:2]]
        both = act_of(made, [item for item, _, _ in ACTS[:2]])
        self.assertEqual(both.minutes, max(act.minutes for act in acts))
        self.assertTrue(both.needs_safe_pack)
