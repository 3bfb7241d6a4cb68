"""Harsh trials of the diagnosis engine, sampled; `./bright bench sets` runs them whole."""

import subprocess
from unittest import TestCase

import numpy as np
from scripts.bench_sets import Ended, run_set

from brightcore.circuit.conditions import parse_condition
from brightcore.circuit.instruments import DEFAULT_METER, meter_of, own_meter_name
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.formats.spice import parse_operating_point, spice_netlist
from brightcore.tracing.advice import minutes_left, propose
from brightcore.tracing.endings import DESCRIBE_FROM, conclude
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.simulated import TrueBikes
from brightcore.tracing.tests import log_likelihood
from brightcore.tracing.trace import Trace
from tests.amount import PATIENCE_S, sampled
from tests.bikes import engine, small_engine

SAMPLED = (
    # set, bike, cases, least share right first, most sure and wrong, most that never end
    ("listed", "fern", 9, 0.9, 0.0, 0.12),
    ("makes", "fern", 8, 0.85, 0.1, 0.2),
    ("slips", "otter", 8, 0.7, 0.13, 0.25),
    ("unlisted", "fern", 10, 0.8, 0.1, 0.2),
    ("undescribed", "fern", 8, 0.8, 0.15, 0.1),
    ("two", "otter", 8, 0.85, 0.1, 0.3),
    ("none", "fern", 8, 0.9, 0.0, 0.2),
    ("none", "teasel", 8, 0.9, 0.0, 0.2),
)


class SampledTest(TestCase):
    def test_sets_are_traced_as_the_benchmark_says(self) -> None:
        for name, bike, count, first, wrong, never in sampled(SAMPLED, 5):
            with self.subTest(name, bike=bike):
                found = [
                    e
                    for e in run_set(name, engine(bike), count, 7)
                    if not e.label.startswith("second")
                ]
                self.assertGreaterEqual(len(found), count // 2)
                self.assertGreaterEqual(share(found, "first_right"), first)
                self.assertLessEqual(share(found, "sure_and_wrong"), wrong)
                self.assertGreaterEqual(share(found, "stopped"), 1 - never)


def share(found: list[Ended], what: str) -> float:
    """Return the share of traces of which something holds."""
    return float(np.mean([getattr(item, what) for item in found]))


METERED_PER_PATTERN, MOST_UNSETTLED = 4, 2
HIGH_METER = meter_of(own_meter_name("High", (10.0, 0.4, 1.5, 0.1, 3.0, 3.0)))


class MeterTest(TestCase):
    def test_ohms_and_diode_readings_equal_ngspice_holding_the_same_meter(self) -> None:
        """ngspice (class lib): source and resistance of the meter between red and black, healthy
        and faulty."""
        rng, compared = np.random.default_rng(5), 0
        names = sampled(PATTERNS, 3)
        for name in names:
            made = Engine(make_pattern(name, "x"))
            fed = [test for test in made.tests if test.kind in ("ohms", "diode")]
            for test in (
                fed[int(k)] for k in rng.choice(len(fed), METERED_PER_PATTERN, replace=False)
            ):
                row = int(rng.integers(made.table.count))
                ranges = [f for _, f in (*DEFAULT_METER.ohms.ranges, *HIGH_METER.ohms.ranges)]
                feeding = DEFAULT_METER.diode.feeding
                if test.kind == "ohms":
                    feeding = ranges[int(rng.integers(len(ranges)))]
                volts, _, unsettled = made.table.fed(test.condition, test.red, test.black, feeding)
                changes = (*made.table.rows[row].overrides, *made.table.latched(row))
                ends = (test.red, test.black, feeding)
                dead = made.table.solution(test.condition).volts[:, row]
                guess = {node: float(dead[i]) for i, node in enumerate(made.circuit.nodes)}
                for first in (
                    None,
                    guess,
                ):  # a first guess only where ngspice does not converge by itself
                    text = spice_netlist(made.circuit, test.condition, changes, "", first, ends)
                    done = subprocess.run(
                        ["ngspice", "-b"],
                        input=text,
                        capture_output=True,
                        text=True,
                        timeout=PATIENCE_S,
                    )
                    found = parse_operating_point(done.stdout, made.circuit)
                    if found:
                        break
                if not found:
                    continue  # an island of packs on which ngspice itself does not settle
                found["0"] = 0.0
                red, black = made.circuit.node(test.red), made.circuit.node(test.black)
                with self.subTest(name, test=test.id, row=row):
                    self.assertFalse(unsettled[row])
                    self.assertAlmostEqual(found[red] - found[black], float(volts[row]), delta=1e-4)
                    compared += 1
        self.assertGreaterEqual(compared, METERED_PER_PATTERN * len(names) - MOST_UNSETTLED)

    def test_a_meter_of_three_volts_goes_up_its_ranges(self) -> None:
        """In its lowest range it turns a body diode on; in the one that fits, 5 µA into 47 kΩ do
        not."""
        made = engine("fern")
        apart = parse_condition(made.circuit, "out; unplug j-phases-c")
        ends = "controller.battery.minus", "controller.phases.u"
        read = [
            made.table.read_ohms(apart, *ends, meter).mean[0]
            for meter in (DEFAULT_METER, HIGH_METER)
        ]
        np.testing.assert_allclose(read, 47e3, rtol=0.01)
        lowest = HIGH_METER.ohms.ranges[0][1]
        volts = made.table.fed(apart, *ends, lowest)[0][0]
        ohm = volts * lowest.behind_ohm / (lowest.open_v - volts)
        self.assertTrue(HIGH_METER.ohms.ranges[0][0] < ohm < 2e3, ohm)

    def test_a_healthy_controller_alone_is_not_called_broken_by_ohms(self) -> None:
        """301 Ω from 5 V to ground, plug apart, is what a healthy one may show: 0.2 to 7 kΩ."""
        made = engine("fern")
        for text in ("220", "301", "2k2", "6k6"):
            item = Evidence(
                "ohms", text, "out; unplug j-halls-c", "controller.halls.v5", "controller.halls.gnd"
            )
            log = log_likelihood(made.table, made.hypotheses, item)
            self.assertGreater(float(log[0] - log.max()), -np.log(12.0), text)

    def test_no_element_has_a_kink_at_zero_volts(self) -> None:
        for name in PATTERNS:
            for element in Engine(make_pattern(name, "x")).circuit.elements:
                for region in element.regions[:-1]:
                    self.assertGreaterEqual(abs(region.upto), 0.015, element.id)


def look(value: str, scene: str, observable: str, **more: object) -> Evidence:
    """Return a look."""
    return Evidence("look", value, scene=scene, observable=observable, **more)  # type: ignore[arg-type]


TOLD = look("silent", "throttle", "motor", told=True)


class EndingTest(TestCase):
    def test_the_complaint_is_brought_about_before_anything_is_measured(self) -> None:
        self.assertEqual(propose(Trace(engine("fern"), [TOLD]))[0].test.id, "look throttle")

    def test_what_was_told_is_of_then_and_weighs_less_than_what_is_seen(self) -> None:
        made = engine("fern")
        seen = look("silent", "throttle", "motor")
        strong, weak = (Trace(made, [item]).belief for item in (seen, TOLD))
        self.assertLess(float(strong[0]), float(weak[0]))
        self.assertTrue(Trace(made, [TOLD]).clean)
        self.assertFalse(Trace(made, [seen]).clean)

    def test_a_repair_is_never_named_on_what_was_told_alone(self) -> None:
        made = engine("teasel")
        told = [TOLD, look("rough", "throttle", "motor", told=True)]
        self.assertFalse(Trace(made, told * 4).stopped)

    def test_the_minutes_to_go_are_told_while_something_is_left_to_measure(self) -> None:
        made = engine("fern")
        rough = look("rough", "throttle", "motor")
        traces = [
            Trace(made, items) for items in ([rough], [rough, look("hall", "throttle", "error")])
        ]
        for trace in traces:
            left = minutes_left(trace, propose(trace, 8))
            self.assertTrue(left and 1 <= left <= 25, left)
        self.assertIsNone(minutes_left(traces[0], ()))

    def test_a_setting_is_looked_at_before_its_change_is_named(self) -> None:
        made = engine("fern")
        cutoff = "setting:controller:cutoff"
        seen = [look("cuts", "pull", "motor"), Evidence("swap", "same", subject="pack")]
        before = Trace(made, seen)
        self.assertEqual(before.engine.hypotheses.items[before.leading].repair.id, cutoff)
        self.assertEqual(before.before_repair, f"inspect {cutoff}")
        after = Trace(made, [*seen, Evidence("inspect", "damaged", subject=cutoff)])
        self.assertEqual(after.engine.hypotheses.items[after.leading].repair.id, cutoff)
        self.assertIsNone(after.before_repair)

    def test_a_failed_repair_falls_far_and_its_complaint_stays(self) -> None:
        made = engine("fern")
        seen = [look("rough", "throttle", "motor"), look("hall", "throttle", "error")]
        before = Trace(made, seen)
        repair = made.hypotheses.repairs[before.leading_repair].id
        after = Trace(made, [*seen, Evidence("tried", "failed", subject=repair)])
        index = before.leading_repair
        self.assertLess(float(after.repair_belief[index]), 0.3 * float(before.repair_belief[index]))

    def test_the_past_of_a_bike_moves_the_ranking(self) -> None:
        made = engine("fern")
        leaks = [
            k for k, h in enumerate(made.hypotheses.items) if h.id.endswith(("/leak", "/damp"))
        ]
        at = [
            k
            for k, h in enumerate(made.hypotheses.items)
            if h.repair.owner == "j-halls-m" and h.mode is not None and "contact" in h.id
        ]
        cases = ((leaks, "rain", "", 2.0), (at, "green", "j-halls-m", 4.0))
        for members, value, place, least in cases:
            belief = Trace(made, [Evidence("past", value, subject=place)]).belief
            prior = made.hypotheses.prior
            self.assertGreater(
                float(belief[members].sum()), least * float(prior[members].sum()), value
            )

    def test_a_state_that_brings_it_out_is_asked_for(self) -> None:
        made = engine("teasel")
        told = look("silent", "throttle", "motor", told=True, sometimes=True, state="bars-left")
        clean = [
            look("smooth", "throttle", "motor"),
            look("silent", "brake.cut_off", "motor"),
            look("free", "spin", "drag"),
        ]
        best = propose(Trace(made, [told, *clean]))[0].test
        self.assertEqual(best.id, "look throttle ~bars-left")
        self.assertIn("bars turned fully left", best.title)
        found = look("silent", "throttle", "motor", state="bars-left")
        kinds = {p.test.kind for p in propose(Trace(made, [told, *clean, found]), 30)}
        self.assertIn("wiggle", kinds)

    def test_what_is_undescribed_is_asked_about_before_a_part_is_bought(self) -> None:
        """A trace that would name a part first asks; skipping the question names the part and says
        so."""
        made = engine("teasel")
        repair = "part:throttle"
        bikes = TrueBikes(made, [made.hypotheses.index("throttle.plug.signal/dead/full")], 3)
        evidence = list(bikes.complaint(0))
        trace = Trace(made, evidence)
        while trace.due is None:
            evidence += bikes.answer(propose(trace)[0].test, 0)
            trace = Trace(made, evidence)
        self.assertEqual(propose(trace)[0].test.id, trace.due)
        self.assertEqual(conclude(trace).status, "measure")
        skipped = conclude(trace, frozenset({trace.due}))
        self.assertEqual((skipped.status, skipped.repair and skipped.repair.id), ("repair", repair))
        self.assertEqual(skipped.unasked, made.by_id[trace.due].title)
        line = trace.due.removeprefix("ask ")
        found = conclude(Trace(made, [*evidence, Evidence("ask", "no", subject=line)]))
        self.assertIn(found.status, ("repair", "measure"))
        self.assertEqual((found.repair and found.repair.id, found.unasked), (repair, ""))

    def test_what_was_found_on_a_line_is_described_before_anything_else(self) -> None:
        """Both sides of the belief from which it is."""
        made = small_engine("teasel")
        line = "describe:controller:brake_signal"
        index = next(g for g, r in enumerate(made.hypotheses.repairs) if r.id == line)
        trace = Trace(made, [Evidence("ask", "yes", subject=line)])
        for share, status in (
            (DESCRIBE_FROM + 0.01, "describe"),
            (DESCRIBE_FROM - 0.01, "measure"),
        ):
            belief = np.zeros(len(made.hypotheses.repairs))
            belief[index] = share
            trace.repair_belief = belief
            self.assertEqual(conclude(trace).status, status, share)
