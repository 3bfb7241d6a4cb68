"""Proposed joins, conductors against handbook tables, first power-up by brute force."""

from dataclasses import replace
from itertools import combinations
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from brightcore.bike.model import Bike, Setting
from brightcore.circuit.netlist import compile_circuit
from brightcore.describing.edit import add_part
from brightcore.describing.join_edits import remove_join
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.errors import FormatError, RangeError
from brightcore.formats.joins_csv import dump_joins_csv, read_joins_csv
from brightcore.formats.part_file import generic_entries
from brightcore.kinds import REGISTRY
from brightcore.physics.gauges import nearest_awg
from brightcore.physics.heating import ampacity_a, temperature_rise_k
from brightcore.procedure.first_power_up import RUNS, bench_steps, find_first_power_up, runs
from brightcore.wiring.conductors import conductor_table, size_conductor
from brightcore.wiring.propose import accept, propose_joins
from tests.bikes import DEMO_BIKES, demo_bike


def bare(bike: Bike) -> Bike:
    """Return a bike with every plug apart."""
    return replace(bike, joins=())


def ends(bike: Bike) -> set[frozenset[tuple[str, str]]]:
    return {frozenset(j.sides()) for j in bike.joins}


TURNED = ("folding", "soft-packs", "light-motorcycle")
"""Patterns with cables or a fuse that may as well be turned round."""


class ProposalTest(TestCase):
    def test_every_pattern_is_joined_again_as_it_was(self) -> None:
        for pattern in PATTERNS:
            with self.subTest(pattern):
                bike = make_pattern(pattern, "x")
                made = accept(bare(bike), propose_joins(bare(bike)))
                self.assertEqual(len(made.joins), len(bike.joins))
                if pattern not in TURNED:
                    self.assertEqual(ends(made), ends(bike))
                for j in made.joins:
                    old = next(
                        (o for o in bike.joins if frozenset(o.sides()) == frozenset(j.sides())),
                        None,
                    )
                    if old is not None:
                        pairs = (
                            old.pairs
                            if old.sides() == j.sides()
                            else tuple((b, a) for a, b in old.pairs)
                        )
                        self.assertEqual(set(j.pairs), set(pairs), j.id)

    def test_any_join_taken_apart_is_proposed_again(self) -> None:
        for bike in (*(make_pattern(p, p) for p in PATTERNS), *(demo_bike(n) for n in DEMO_BIKES)):
            for join in bike.joins:
                with self.subTest(bike.info.label, join=join.id):
                    apart = remove_join(bike, join.id)
                    self.assertIn(
                        {".".join(s) for s in join.sides()},
                        [{p.one, p.two} for p in propose_joins(apart)],
                    )

    def test_a_bike_described_by_hand_is_joined_as_it_was(self) -> None:
        bike = demo_bike("fern")
        self.assertEqual(ends(accept(bare(bike), propose_joins(bare(bike)))), ends(bike))

    def test_two_equal_plugs_are_marked_as_not_decided(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        bike = replace(
            bike,
            parts=tuple(
                replace(p, name="Lever", ports=tuple(replace(q, label="Lever") for q in p.ports))
                if p.kind == "brake_lever"
                else p
                for p in bike.parts
            ),
        )
        levers = [p for p in propose_joins(bare(bike)) if "lever" in f"{p.one}{p.two}"]
        self.assertEqual([p.certain for p in levers], [False, False])
        self.assertTrue(all(p.others for p in levers))
        throttle = next(p for p in propose_joins(bare(bike)) if "throttle.plug" in (p.one, p.two))
        self.assertTrue(throttle.certain)
        self.assertIn("throttle signal to signal", throttle.reason)

    def test_nothing_is_proposed_that_ports_cannot_make(self) -> None:
        bike = make_pattern("mid-conversion", "x")
        self.assertEqual(propose_joins(bike), ())
        lamp = next(e for e in generic_entries() if e.id == "lamp-12v")
        self.assertEqual(
            propose_joins(add_part(bike, lamp.kind, "Lamp", lamp.spec, lamp.ports)), ()
        )
        loose = remove_join(bike, bike.joins[0].id)
        self.assertEqual(
            [{p.one, p.two} for p in propose_joins(loose)], [{"pack.main", "controller.battery"}]
        )


class ConductorTest(TestCase):
    def test_a_size_keeps_drop_and_heat(self) -> None:
        """30 A over 1 m with 0.5 V allowed wants 2.5 mm²: the rule of the trade, 0.48 V and 14 W
        [cp]."""
        found = size_conductor(30.0, 1.0, 0.5)
        self.assertEqual(
            (found.area_mm2, round(found.drop_v, 1), round(found.heat_w)), (2.5, 0.5, 14)
        )

    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(0.01, 150),
        st.floats(0.05, 5),
        st.floats(0.1, 3),
        st.floats(0, 60),
        st.integers(1, 12),
    )
    def test_what_is_taken_always_suffices_and_the_next_thinner_does_not(
        self, amps: float, metres: float, drop: float, ambient: float, bundle: int
    ) -> None:
        found = size_conductor(amps, metres, drop, ambient, bundle)
        if found.area_mm2 < 25.0:
            self.assertLessEqual(found.drop_v, drop * 1.002)
            self.assertGreaterEqual(ampacity_a(found.area_mm2, ambient, bundle) * 1.06, amps)
            self.assertLessEqual(found.rise_k, 45.0)
        self.assertLessEqual(
            temperature_rise_k(amps, found.area_mm2, ambient, bundle),
            temperature_rise_k(amps, found.area_mm2 / 2, ambient, bundle),
        )

    def test_gauges_hold_at_least_the_area(self) -> None:
        """ASTM B258 areas in mm² [std]: 18 AWG 0.823, 14 AWG 2.08, 12 AWG 3.31, 10 AWG 5.26."""
        for area, gauge in ((0.82, 18), (2.05, 14), (2.5, 13), (3.3, 12), (5.2, 10)):
            self.assertEqual(nearest_awg(area), gauge)

    def test_impossible_values_are_refused(self) -> None:
        for values in ((0.0, 1.0, 0.5), (30.0, 0.0, 0.5), (30.0, 1.0, 0.0), (900.0, 1.0, 0.5)):
            with self.assertRaises(RangeError):
                size_conductor(*values)
        for more in ({"ambient_c": 95.0}, {"bundle_count": 0}):
            with self.assertRaises(RangeError):
                size_conductor(10.0, 1.0, 0.5, **more)

    def test_the_table_knows_what_each_conductor_carries(self) -> None:
        bike = replace(
            demo_bike("fern"), settings=(Setting("controller", "current_limit_a", 10.0),)
        )
        rows = {(r.title, r.carries): r for r in conductor_table(bike)}
        self.assertEqual(rows["Main lead", "pack +"].current_a, 10.0)
        self.assertAlmostEqual(rows["Motor cable", "phase U"].current_a, 50 * (2 / 3) ** 0.5)
        self.assertLess(rows["Front harness", "throttle signal"].current_a, 0.1)
        self.assertTrue(all(r.fits for r in rows.values() if r.current_a < 1))


class FirstPowerUpTest(TestCase):
    def test_the_set_is_the_smallest_of_all_subsets(self) -> None:
        """Brute force over every set of joins up to the size found, small bikes; brake cut-offs
        stay in."""
        for bike in (
            make_pattern("hand-cycle", "x"),
            demo_bike("teasel"),
            make_pattern("mid-conversion", "x"),
        ):
            found = find_first_power_up(bike)
            ids = [j.id for j in bike.joins]
            circuit = compile_circuit(bike, REGISTRY)
            levers = [
                j.id
                for j in bike.joins
                if any(p.startswith(("lever", "cut")) for p, _ in j.sides())
            ]
            free = [j for j in ids if j not in levers]
            for size in range(len(levers), len(found.needed) + 1):
                sets = [(*kept, *levers) for kept in combinations(free, size - len(levers))]
                sets = [tuple(j for j in ids if j in kept) for kept in sets]
                removed = [[j for j in ids if j not in kept] for kept in sets]
                running = [
                    kept
                    for scene in RUNS
                    for kept, ok in zip(sets, runs(circuit, scene, removed), strict=True)
                    if ok
                ]
                self.assertEqual(
                    bool(running), size == len(found.needed), f"{bike.info.label} with {size} joins"
                )
                if running:
                    self.assertIn(found.needed, running)

    def test_what_is_needed_fits_the_trade(self) -> None:
        """Pack, phases, halls, display or bridge, one source of demand, and what stops it; no lamp
        [cp]."""
        light = find_first_power_up(make_pattern("hub-conversion", "x"))
        bike = make_pattern("hub-conversion", "x")
        parts = {p for j in light.needed for p, _ in bike.join(j).sides()}
        stop = {"lever_left", "lever_right"}
        self.assertEqual(
            parts, {"pack", "main_lead", "controller", "motor", "display", "throttle", *stop}
        )
        self.assertEqual(light.scene, "throttle")
        self.assertIn("motor runs smoothly", light.seen_running)
        self.assertIn("Pack plug", bench_steps(bike, light)[-1])
        pedal = find_first_power_up(make_pattern("factory-hub", "x"))
        self.assertEqual(pedal.scene, "pedal")

    def test_a_bike_that_cannot_run_says_so(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        phases = next(j for j in bike.joins if "phases" in (j.a_port, j.b_port))
        self.assertEqual(find_first_power_up(remove_join(bike, phases.id)).needed, ())
        self.assertEqual(find_first_power_up(bare(bike)).scene, "")


BAD_LINES = (
    ("a,b\n", "line 1", "the columns are"),
    ("from,to,wire\nx.y,display.plug,\n", "line 2", "no part called 'x'"),
    ("from,to,wire\n\ncontroller,display.plug,\n", "line 3", "give two plugs"),
    ("from,to,wire\ncontroller.main.plus,pack.out,\n", "line 2", "give two plugs"),
    ("from,to,wire\n{a},{b},thick\n", "line 2", "thick"),
    ("from,to,wire\n{a},{b},99 AWG\n", "line 2", "outside"),
    ("from,to,wire\n{a},{b},\n{b},{a},\n", "line 3", "twice"),
    ("from,to,wire\n{a},{a},\n", "line 2", "itself"),
    ("from,to,wire\n{a}.nope,{b}.nope,\n", "line 2", "no pin called"),
    ('from,to,wire\n"{a},{b}', "line 1", "not CSV"),
)


class JoinsFileTest(TestCase):
    def test_joins_go_out_and_come_in_the_same(self) -> None:
        for bike in (*(make_pattern(p, "x") for p in PATTERNS), demo_bike("fern")):
            with self.subTest(bike.info.label):
                text = dump_joins_csv(bike)
                made, count = read_joins_csv(bare(bike), text.encode())
                self.assertEqual(
                    [(j.sides(), j.pairs, j.wire) for j in made.joins],
                    [(j.sides(), j.pairs, j.wire) for j in bike.joins],
                )
                self.assertEqual((count, read_joins_csv(bike, text)), (len(bike.joins), (bike, 0)))

    def test_a_file_of_plugs_finds_the_pins_and_reads_the_wire(self) -> None:
        bike = demo_bike("fern")
        join = bike.joins[0]
        one, two = (".".join(side) for side in join.sides())
        made, _ = read_joins_csv(
            bare(bike),
            f"To , from\n{one},{two}\n".replace("To , from", "from, to ,wire").replace(
                two, f"{two},0.75 mm² / 40 cm"
            ),
        )
        self.assertEqual(
            (made.joins[0].pairs, made.joins[0].wire.area_mm2, made.joins[0].wire.length_m),
            (join.pairs, 0.75, 0.4),
        )

    def test_every_bad_line_is_named_and_nothing_is_joined(self) -> None:
        bike = demo_bike("fern")
        a, b = (".".join(side) for side in bike.joins[0].sides())
        for text, line, words in BAD_LINES:
            with self.subTest(text), self.assertRaises(FormatError) as caught:
                read_joins_csv(bare(bike), text.format(a=a, b=b))
            self.assertEqual(caught.exception.problems[0].path, line)
            self.assertIn(words, caught.exception.problems[0].message)
