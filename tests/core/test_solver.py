"""The circuit solver against hand calculation, the dense oracle and ngspice."""

import subprocess
from unittest import TestCase

import numpy as np

from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.dense import solve_dense
from brightcore.circuit.elements import (
    OPEN,
    Element,
    Override,
    current_sink,
    diode,
    limiter,
    ramp_source,
    ratio_source,
    resistor,
    source,
    switched,
)
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.solver import base_values, join_values, probe, solve
from brightcore.circuit.system import LEAK_S, System
from brightcore.errors import UnknownNameError
from brightcore.formats.spice import parse_operating_point, spice_netlist
from brightcore.kinds import REGISTRY
from brightcore.physics.copper import wire_ohm
from tests.amount import ALL, PATIENCE_S
from tests.bikes import DEMO_BIKES, demo_bike, small_engine


def circuit_of(*elements: Element) -> Circuit:
    """Return a circuit of bare elements (ground is "0")."""
    nodes = sorted({n for e in elements for n in (e.a, e.b, e.c, e.d) if n not in ("", "0")})
    names = {n: n for n in (*nodes, "0")}
    return Circuit(
        demo_bike("fern"),
        tuple(nodes),
        elements,
        names,
        {},
        (),
        REGISTRY,
        small_engine("fern").nets,
    )


def volts_of(*elements: Element) -> dict[str, float]:
    """Return the solved node volts of bare elements."""
    system = System(circuit_of(*elements))
    solution = solve(system, base_values(system, (), [()]))
    assert solution.settled.all()
    return {name: float(solution.volts[i, 0]) for name, i in system.index.items() if name}


SUPPLY = Element("e", "p", "0", source(12.0, 1.0))
BY_HAND = (
    # name, elements, node, volts by hand
    ("divider", (SUPPLY, Element("r", "p", "0", resistor(3.0))), "p", 9.0),
    (
        "diode drops its forward volts",
        (SUPPLY, Element("r", "p", "a", resistor(9.0)), Element("d", "a", "0", diode(0.5, 1.0))),
        "a",
        0.5 + 11.5 / 11,
    ),
    (
        "diode blocks backwards",
        (SUPPLY, Element("r", "p", "a", resistor(9.0)), Element("d", "0", "a", diode(0.5, 1.0))),
        "a",
        12.0,
    ),
    (
        "limiter gives no more than its current",
        (SUPPLY, Element("l", "p", "a", limiter(0.1, 0.5)), Element("r", "a", "0", resistor(2.0))),
        "a",
        1.0,
    ),
    (
        "limiter is a small resistor below",
        (SUPPLY, Element("l", "p", "a", limiter(0.1, 5.0)), Element("r", "a", "0", resistor(8.9))),
        "a",
        (12 - 0.4) * 8.9 / 10,
    ),
    (
        "sink draws its current above",
        (SUPPLY, Element("s", "p", "0", current_sink(2.0, 3.0, 6.0))),
        "p",
        10.0,
    ),
    (
        "switch closes on its control",
        (
            SUPPLY,
            Element("s", "p", "a", switched(1.0, 5.0), "p", "0", True),
            Element("r", "a", "0", resistor(10.0)),
        ),
        "a",
        10.0,
    ),
    (
        "switch stays open below",
        (
            SUPPLY,
            Element("s", "p", "a", switched(1.0, 50.0), "p", "0", True),
            Element("r", "a", "0", resistor(10.0)),
        ),
        "a",
        0.0,
    ),
    (
        "ramp gives its full volts above",
        (
            SUPPLY,
            Element("s", "a", "0", ramp_source(5.0, 1.0, 2.0, 4.0), "p", "0", True),
            Element("r", "a", "0", resistor(4.0)),
        ),
        "a",
        4.0,
    ),
    (
        "ratio follows its supply",
        (SUPPLY, Element("t", "a", "0", ratio_source(0.5, 1.0), "p", "0", True)),
        "a",
        6.0,
    ),
    (
        "an output sleeps where its supply is too low",
        (
            Element("e", "p", "0", source(2.4, 1.0)),
            Element("t", "a", "0", ratio_source(0.5, 1.0), "p", "0", True),
            Element("r", "p", "a", resistor(100.0)),
        ),
        "a",
        2.4 * 20e3 / 20101,
    ),
)


class HandTest(TestCase):
    def test_each_element_gives_the_volts_worked_out_by_hand(self) -> None:
        for name, elements, node, expected in BY_HAND:
            with self.subTest(name):
                self.assertAlmostEqual(volts_of(*elements)[node], expected, delta=2e-6)

    def test_source_resistance_and_spread_of_a_divider(self) -> None:
        """1 kΩ over 1 kΩ with 10 % spread each: 500 Ω, and 10 V × 0.1 / 4 × √2 of spread."""
        elements = (
            Element("e", "p", "0", source(10.0, 1e-3)),
            Element("r1", "p", "a", resistor(1e3), tol_g=0.1),
            Element("r2", "a", "0", resistor(1e3), tol_g=0.1),
        )
        system = System(circuit_of(*elements))
        values = base_values(system, (), [()])
        found = probe(
            system, values, solve(system, values), [(system.index["a"], system.index["0"])]
        )
        self.assertAlmostEqual(float(found.source_ohm[0, 0]), 500.0, delta=0.01)
        self.assertAlmostEqual(float(found.spread_v[0, 0]), 0.25 * 2**0.5, delta=1e-3)

    def test_what_is_inside_a_source_spreads_only_what_is_drawn(self) -> None:
        """1 Ω ± 30 % inside 10 V: nothing at rest, 1 A × 0.3 Ω × 9/10 behind a load of 9 Ω."""
        for ohm, spread in ((1e9, 0.0), (9.0, 0.27)):
            elements = (
                Element("e", "p", "0", source(10.0, 1.0), tol_g=0.3),
                Element("r", "p", "0", resistor(ohm)),
            )
            system = System(circuit_of(*elements))
            values = base_values(system, (), [()])
            found = probe(
                system, values, solve(system, values), [(system.index["p"], system.index["0"])]
            )
            self.assertAlmostEqual(float(found.spread_v[0, 0]), spread, delta=1e-6)

    def test_a_node_left_hanging_shows_a_huge_source_resistance(self) -> None:
        system = System(
            circuit_of(SUPPLY, Element("r", "p", "0", resistor(3.0)), Element("x", "p", "h", OPEN))
        )
        values = base_values(system, (), [()])
        found = probe(
            system, values, solve(system, values), [(system.index["h"], system.index["0"])]
        )
        self.assertGreater(float(found.source_ohm[0, 0]), 0.2 / LEAK_S)

    def test_overrides_win_in_the_order_condition_fault_unplug(self) -> None:
        elements = (SUPPLY, Element("r", "p", "0", resistor(3.0)))
        system = System(circuit_of(*elements))

        def p_with(common: list[Override], change: list[Override], last: list[Override]) -> float:
            return float(solve(system, base_values(system, common, [change], last)).volts[0, 0])

        one, two, three = (Override("r", resistor(x)) for x in (1.0, 2.0, 5.0))
        self.assertAlmostEqual(p_with([one], [], []), 6.0, delta=1e-6)
        self.assertAlmostEqual(p_with([one], [two], []), 8.0, delta=1e-6)
        self.assertAlmostEqual(p_with([one], [two], [three]), 10.0, delta=1e-6)


class OracleTest(TestCase):
    def test_sparse_and_dense_solver_agree_on_every_hypothesis(self) -> None:
        """The dense solver is the oracle: full matrices, numpy's LAPACK (class lib)."""
        for name in DEMO_BIKES:
            table = small_engine(name).table
            for text in ("on", "on; throttle.grip=full", "out"):
                condition = parse_condition(table.circuit, text)
                values = table.values(condition)
                sparse, dense = solve(table.system, values), solve_dense(table.system, values)
                with self.subTest(name, condition=text):
                    self.assertTrue(sparse.settled.all())
                    self.assertLess(
                        float(np.abs(sparse.volts - dense.volts).max()), 5e-4
                    )  # a tenth of a meter's offset

    def test_states_solved_together_equal_states_solved_alone(self) -> None:
        table = small_engine("teasel").table
        conditions = [Condition("on"), Condition("off"), Condition("out")]
        joined = solve(table.system, join_values([table.values(c) for c in conditions]))
        for k, condition in enumerate(conditions):
            alone = solve(table.system, table.values(condition))
            part = joined.part(slice(k * table.count, (k + 1) * table.count))
            self.assertLess(float(np.abs(part.volts - alone.volts).max()), 1e-7)

    def test_no_state_of_a_demo_bike_is_left_uncertain(self) -> None:
        for name in DEMO_BIKES:
            table = small_engine(name).table
            states = {c for s in table.scenes.values() if not s.unplugged for _, c in s.states}
            for condition, solution in table.solve_all(sorted(states)).items():
                with self.subTest(name, condition=condition.id):
                    self.assertTrue(solution.settled.all())


PAIRS_PER_BIKE = 48 if ALL else 8
"""Fault × condition pairs per demo bike: 48 in all."""


class SpiceTest(TestCase):
    def test_exported_netlists_run_in_ngspice_and_give_the_same_volts(self) -> None:
        """ngspice (class lib) runs the exported text unchanged; floating nodes have no volts to
        compare."""
        worst, compared = 0.0, 0
        for name in DEMO_BIKES:
            engine = small_engine(name)
            table, rng = engine.table, np.random.default_rng(7)
            states = sorted({c for s in table.scenes.values() for _, c in s.states})
            for _ in range(PAIRS_PER_BIKE):
                condition, row = states[rng.integers(len(states))], int(rng.integers(table.count))
                volts = table.solution(condition).volts[:, row]
                guess = {node: float(volts[i]) for i, node in enumerate(engine.circuit.nodes)}
                overrides = (*table.rows[row].overrides, *table.latched(row))
                for first in (
                    None,
                    guess,
                ):  # a first guess only where ngspice does not converge by itself
                    text = spice_netlist(engine.circuit, condition, overrides, "", first)
                    done = subprocess.run(
                        ["ngspice", "-b"],
                        input=text,
                        capture_output=True,
                        text=True,
                        timeout=PATIENCE_S,
                    )
                    found = parse_operating_point(done.stdout, engine.circuit)
                    if found:
                        break
                with self.subTest(
                    name, condition=condition.id, fault=engine.hypotheses.items[row].id
                ):
                    self.assertEqual(len(found), len(engine.circuit.nodes), done.stderr[-400:])
                    solid = self._solid(engine.table, condition, row)
                    difference = max(
                        abs(found[node] - volts[i])
                        for i, node in enumerate(engine.circuit.nodes)
                        if i in solid
                    )
                    worst, compared = max(worst, difference), compared + 1
                    self.assertLess(difference, 1e-3)
        print(f"ngspice: {compared} pairs, worst difference {worst * 1e9:.2f} nV")
        self.assertGreaterEqual(compared, 40 if ALL else 20)

    def _solid(self, table: object, condition: Condition, row: int) -> set[int]:
        """Return node indices with a source resistance under 1 MΩ to ground."""
        from brightcore.simulation.table import Table

        whole = Table(table.circuit, [table.rows[row]])  # type: ignore[attr-defined]
        pairs = [(i, whole.system.n) for i in range(whole.system.n)]
        ohm = probe(
            whole.system, whole.values(condition), whole.solution(condition), pairs
        ).source_ohm[:, 0]
        return {i for i in range(whole.system.n) if ohm[i] < 1e6}


IEC_60228_CLASS_5 = (
    (0.5, 39.0),
    (0.75, 26.0),
    (1.0, 19.5),
    (1.5, 13.3),
    (2.5, 7.98),
    (4.0, 4.95),
    (6.0, 3.30),
)
"""mm² → Ω/km at 20 °C, plain flexible copper, maximum [std][mem]."""


class WireTest(TestCase):
    def test_wire_resistance_follows_the_conductor_table(self) -> None:
        """The table's values are rounded and include stranding: within 3 %."""
        for area, ohm_per_km in IEC_60228_CLASS_5:
            with self.subTest(area=area):
                self.assertAlmostEqual(wire_ohm(1000.0, area) / ohm_per_km, 1.0, delta=0.03)


class ConditionTest(TestCase):
    def test_conditions_are_written_and_parsed_back(self) -> None:
        circuit = small_engine("fern").circuit
        for text in (
            "on",
            "off",
            "out",
            "on; throttle.grip=full",
            "on; motor.rotor=3; unplug j-halls-m",
        ):
            with self.subTest(text):
                self.assertEqual(parse_condition(circuit, text).id, text)
        self.assertEqual(parse_condition(circuit, "throttle.grip=rest; on").id, "on")

    def test_names_the_bike_does_not_have_are_refused(self) -> None:
        circuit = small_engine("fern").circuit
        for text in ("on; throttle.twist=full", "on; throttle.grip=half", "on; unplug j-nothing"):
            with self.subTest(text), self.assertRaises(UnknownNameError):
                parse_condition(circuit, text)
