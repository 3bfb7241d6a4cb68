"""Properties over generated circuits and generated bikes."""

from typing import Any
from unittest import TestCase

import networkx as nx
import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from brightcore.bike.model import Bike
from brightcore.circuit.conditions import Condition, parse_condition
from brightcore.circuit.dense import solve_dense
from brightcore.circuit.elements import OPEN, Element, Override, diode, limiter, resistor, source
from brightcore.circuit.netlist import compile_circuit
from brightcore.circuit.solver import base_values, probe, solve
from brightcore.circuit.system import System
from brightcore.describing.compare import compare
from brightcore.describing.edit import add_part, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.join_words import free_ports
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.swap import swap_part
from brightcore.drawing.line import layout_line
from brightcore.drawing.line_places import membership, probe_point, stretch_title
from brightcore.errors import BikeError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.part_file import generic_entries
from brightcore.kinds import REGISTRY
from brightcore.simulation.table import Row, Table
from brightcore.tracing.engine import Engine
from brightcore.tracing.hypotheses import enumerate_hypotheses
from brightcore.wiring.rules import check_bike
from tests.amount import ALL
from tests.bikes import small_engine
from tests.core.test_solver import circuit_of

MANY, FEW = (40, 12) if ALL else (15, 5)
"""Bikes that are made up for a property: for a quick one, and for one that takes long."""

OHMS = st.floats(0.01, 1e4)


@st.composite
def networks(draw: Any) -> list[Element]:
    """Return a connected network of resistors fed by one source, nodes n0 to n7."""
    count = draw(st.integers(2, 8))
    names = [f"n{i}" for i in range(count)]
    elements = [
        Element("feed", "n0", "0", source(draw(st.floats(1, 60)), draw(st.floats(0.01, 10))))
    ]
    for i in range(1, count):
        elements.append(
            Element(f"tree{i}", names[i], names[draw(st.integers(0, i - 1))], resistor(draw(OHMS)))
        )
    for k in range(draw(st.integers(1, 8))):
        a, b = draw(st.sampled_from([*names, "0"])), draw(st.sampled_from([*names, "0"]))
        if a != b:
            elements.append(Element(f"more{k}", a, b, resistor(draw(OHMS))))
    return elements


class NetworkTest(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(networks())
    def test_currents_into_every_node_sum_to_zero(self, elements: list[Element]) -> None:
        system = System(circuit_of(*elements))
        volts = solve(system, base_values(system, (), [()])).volts[:, 0]
        balance = np.zeros(system.n + 1)
        for i, e in enumerate(elements):
            current = e.regions[0].g1 * (volts[system.a[i]] - volts[system.b[i]]) + e.regions[0].j
            balance[system.a[i]] += current
            balance[system.b[i]] -= current
        self.assertLess(float(np.abs(balance[: system.n]).max()), 1e-5)

    @settings(max_examples=40, deadline=None)
    @given(networks())
    def test_point_to_point_resistance_is_that_of_the_graph(self, elements: list[Element]) -> None:
        """networkx (class lib) resistance distance of the same resistors, source resistance
        included."""
        graph = nx.MultiGraph()
        for e in elements:
            graph.add_edge(e.a, e.b, g=e.regions[0].g1)
        system = System(circuit_of(*elements))
        values = base_values(system, (), [()])
        found = probe(
            system, values, solve(system, values), [(system.index["n0"], system.index["n1"])]
        )
        expected = nx.resistance_distance(graph, "n0", "n1", weight="g", invert_weight=False)
        self.assertAlmostEqual(float(found.source_ohm[0, 0]) / expected, 1.0, delta=2e-3)

    @settings(max_examples=40, deadline=None)
    @given(networks(), st.floats(0.3, 2.0), st.floats(0.01, 5.0))
    def test_sparse_and_dense_agree_with_diodes_and_limits(
        self, elements: list[Element], forward: float, ampere: float
    ) -> None:
        more = [
            Element("d", "n1", "0", diode(forward, 0.05)),
            Element("l", "n0", "x", limiter(0.2, ampere)),
            Element("r", "x", "0", resistor(5.0)),
        ]
        system = System(circuit_of(*elements, *more))
        values = base_values(
            system,
            (),
            [(), (Override("l", OPEN),), (Override("d", resistor(2.0)),), (Override("r", OPEN),)],
        )
        one, two = solve(system, values), solve_dense(system, values)
        self.assertTrue(one.settled.all())
        self.assertLess(float(np.abs(one.volts - two.volts).max()), 1e-4)


class TableTest(TestCase):
    def test_a_dead_short_blows_the_fuse_in_every_condition(self) -> None:
        made = small_engine("fern")
        short = Row(
            (
                Override("main_lead/pack_end.plus-controller_end.plus", resistor(0.001)),
                Override("controller/load", resistor(0.005)),
            )
        )
        table = Table(made.circuit, [Row(), short])
        self.assertEqual([len(table.latched(k)) for k in (0, 1)], [0, 1])
        for text in ("on", "on; throttle.grip=full"):
            volts = table.volts(
                parse_condition(made.circuit, text),
                "controller.battery.plus",
                "controller.battery.minus",
            )
            self.assertGreater(volts[0], 40)
            self.assertLess(volts[1], 3)

    def test_what_hangs_free_is_called_floating_and_a_meter_pulls_it_down(self) -> None:
        made = small_engine("fern")
        row = made.hypotheses.index("pack.inside.bms/open/full")
        found = made.table.read_volts(Condition("on"), "pack.main.plus", "pack.main.minus")
        self.assertFalse(found.floating[0])
        self.assertLess(found.mean[row], 0.7 * found.mean[0])
        open_ends = made.table.read_volts(
            parse_condition(made.circuit, "on; unplug j-halls-m"),
            "motor.halls.a",
            "controller.halls.gnd",
        )
        self.assertTrue(open_ends.floating[0])


@st.composite
def edited(draw: Any) -> tuple[Bike, Bike]:
    """Return a pattern and the same after a few random changes."""
    start = make_pattern(draw(st.sampled_from(sorted(PATTERNS))), "Generated")
    bike, entries = start, generic_entries()
    for _ in range(draw(st.integers(1, 5))):
        action = draw(st.sampled_from(("add", "swap", "remove", "unjoin", "join")))
        try:
            if action == "add":
                e = draw(st.sampled_from(entries))
                bike = add_part(bike, e.kind, e.name, e.spec, e.ports)
            elif action == "swap":
                part = draw(st.sampled_from(bike.parts))
                e = draw(st.sampled_from([e for e in entries if e.kind == part.kind]))
                bike = swap_part(bike, part.id, e.kind, e.name, e.spec, e.ports).bike
            elif action == "remove":
                bike = remove_part(bike, draw(st.sampled_from(bike.parts)).id).bike
            elif action == "unjoin" and bike.joins:
                bike = remove_join(bike, draw(st.sampled_from(bike.joins)).id)
            elif action == "join" and len(free_ports(bike)) > 1:
                ends = draw(st.permutations([p for p, _ in free_ports(bike)]))
                bike = add_join(bike, ends[0], ends[1])
        except BikeError:
            continue  # told to the technician; the bike stays as it was
    return start, bike


class GeneratedBikeTest(TestCase):
    @settings(max_examples=MANY, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(edited())
    def test_any_edited_bike_is_stored_compiled_checked_and_drawn(
        self, pair: tuple[Bike, Bike]
    ) -> None:
        start, bike = pair
        self.assertEqual(load_bike(dump_bike(bike)), bike)
        self.assertEqual(bool(compare(start, bike, REGISTRY)), start != bike)
        circuit = compile_circuit(bike, REGISTRY)
        list(check_bike(bike))
        ids = [f.id for f in circuit.faults]
        self.assertEqual(len(ids), len(set(ids)))
        layout = layout_line(circuit)
        known = {s.id for s in layout.shapes}
        self.assertEqual(len(known), len(layout.shapes))
        self.assertLessEqual(
            {m for m in membership(layout, circuit, enumerate_hypotheses(circuit)) if m}, known
        )
        for shape in layout.shapes:
            self.assertTrue(stretch_title(layout, circuit, shape))
            for x, y in shape.points:
                self.assertTrue(-1 <= x <= 1141 and -1 <= y <= layout.height + 1, shape)
        for pin in circuit.nets.pins:
            x, y = probe_point(layout, circuit, pin)
            self.assertTrue(0 <= x <= 1140 and 0 <= y <= layout.height, pin)

    @settings(max_examples=FEW, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(edited())
    def test_any_edited_bike_can_be_simulated(self, pair: tuple[Bike, Bike]) -> None:
        engine = Engine(pair[1])
        for scene in [s for s in engine.table.scenes if "/" not in s]:
            for codes in engine.table.seen(scene).values():
                self.assertEqual(len(codes), engine.table.count)
