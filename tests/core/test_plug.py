"""Which plug is this: orders against brute force, and plugs named through a simulated meter."""

import random
from collections import Counter
from dataclasses import replace
from itertools import permutations
from unittest import TestCase

import numpy as np

from brightcore.analysis.bike import analysis_of
from brightcore.bike.measured import with_measured
from brightcore.bike.model import Bike, MeasuredValue, Port
from brightcore.bike.roles import role_of
from brightcore.circuit.conditions import Condition
from brightcore.circuit.instruments import DEFAULT_METER, VoltRange
from brightcore.describing.join_words import port_words
from brightcore.describing.patterns import make_pattern
from brightcore.setting import instrument
from brightcore.setting.contract import Verdict, next_step, read_all
from brightcore.setting.plug import WIRE_SURE
from brightcore.setting.plug_belief import (
    LOAD_OHM,
    MOST_EXACT,
    SAFE_OPEN_V,
    bench_bike,
    candidates,
    mean_orders,
    permanents,
)
from brightcore.simulation.table import Row, Table
from tests.bikes import demo_bike

PLUG = instrument("plug")
OTTER, FERN = demo_bike("otter"), demo_bike("fern")
LOADED = replace(DEFAULT_METER, volts=VoltRange(input_ohm=LOAD_OHM))


class Bench:
    """The plugs of one controller on a bench: what a meter shows, makes and misreadings apart."""

    def __init__(self, bike: Bike, part: str, state: str) -> None:
        self.bike, self.part, self.state = bike, part, state
        pins = [(p, q) for p in bike.part(part).ports for q in p.pins if q.role == "battery_minus"]
        self.ground = f"{part}.{pins[0][0].id}.{pins[0][1].name}"
        self.dead = Table(analysis_of(bench_bike(bike, part, "out")).circuit, [Row()])
        self.live = Table(analysis_of(bench_bike(bike, part, state)).circuit, [Row()])

    def read(self, kind: str, pin: str, rng: random.Random) -> str:
        if kind == "ohm":
            if pin == self.ground:
                return "0.1"
            ohm = float(self.dead.read_ohms(Condition("out"), pin, self.ground).mean[0])
            return "OL" if ohm > 4e7 else f"{ohm * rng.uniform(0.7, 1.4):.4g}"
        found = self.live.read_volts(
            Condition(), pin, self.ground, LOADED if kind == "load" else DEFAULT_METER
        )
        volts = float(found.mean[0])
        if found.floating[0]:
            volts = rng.choice((0.01, 0.1, 1.4))
        return f"{volts * rng.uniform(0.95, 1.05):.3f}"

    def name(self, port: Port, rng: random.Random) -> tuple[dict[str, str], Verdict, list[str]]:
        """Return (typed, verdict, pins in the order in hand) after every reading asked for."""
        order = list(port.pins)
        rng.shuffle(order)
        thick = [str(n) for n, pin in enumerate(order, 1) if role_of(pin.role).carries_power]
        typed = {"pins": str(len(order)), "state": self.state, "thick": " ".join(thick)}
        while True:
            steps = PLUG.steps(self.bike, self.part, typed)
            found = read_all([f for step in steps for f in step.fields], typed)
            step = next_step(steps, found)
            if step is None:
                verdict = PLUG.judge(self.bike, self.part, found, {}, {})
                return typed, verdict, [pin.name for pin in order]
            kind, _, place = step.id.partition("_")
            typed[step.id] = self.read(
                kind, f"{self.part}.{port.id}.{order[int(place) - 1].name}", rng
            )


class OrdersTest(TestCase):
    def test_permanents_are_those_of_every_order(self) -> None:
        rng = np.random.default_rng(7)
        for size in (1, 2, 3, 5, 6):
            table = rng.random((2, size, size))
            brute = [
                sum(
                    np.prod([t[k, order[k]] for k in range(size)])
                    for order in permutations(range(size))
                )
                for t in table
            ]
            np.testing.assert_allclose(permanents(table), brute, rtol=1e-9)

    def test_many_pins_are_taken_one_by_one(self) -> None:
        flat = np.full((1, MOST_EXACT + 2, MOST_EXACT + 2), 0.5)
        self.assertAlmostEqual(float(mean_orders(flat)[0]), 0.5 ** (MOST_EXACT + 2))


class PlugTest(TestCase):
    def test_every_plug_is_named_or_left_open_and_none_is_named_wrong(self) -> None:
        found: Counter[str] = Counter()
        count = readings = 0
        for bike, part in (
            (OTTER, "controller"),
            (FERN, "controller"),
            (make_pattern("folding", "f"), "controller"),
        ):
            for state in ("out", "off", "on"):
                bench, rng = Bench(bike, part, state), random.Random(5)
                for candidate in candidates(bike, part, state):
                    if state != "out" and not candidate.free:
                        continue
                    typed, verdict, order = bench.name(candidate.port, rng)
                    told = {v.name: v for v in verdict.values if v.name.startswith("wire_")}
                    named = [v.name for v in verdict.values if v.name.startswith("plug_")]
                    with self.subTest(
                        bike.info.label, state=state, plug=candidate.port.id, typed=typed
                    ):
                        self.assertIn(named, ([], [f"plug_{candidate.port.id}"]))
                        words = port_words(bike.part(part), candidate.port)
                        self.assertIn(
                            words, verdict.title + " ".join(f.text for f in verdict.findings)
                        )
                        for n, name in enumerate(order, 1):
                            pin, known = candidate.port.pin(name), told.get(f"wire_{n}")
                            if known is None or known.value < WIRE_SURE:
                                continue
                            ground = "ground" if role_of(pin.role).ground_like else ""
                            right = pin.words if named else ground
                            self.assertIn(right, known.words)
                    found["named" if named else "open"] += 1
                    readings += sum("_" in name for name in typed)
                    count += 1
        self.assertGreater(found["named"], 1.5 * found["open"], found)
        self.assertLess(readings / count, 8)

    def test_no_resistor_on_a_thick_wire_or_one_over_6_volts(self) -> None:
        for state in ("off", "on"):
            bench, rng = Bench(OTTER, "controller", state), random.Random(3)
            for candidate in candidates(OTTER, "controller", state):
                typed, _, _ = bench.name(candidate.port, rng)
                for name in typed:
                    if name.startswith("load_"):
                        place = name.removeprefix("load_")
                        self.assertLessEqual(float(typed[f"volt_{place}"]), SAFE_OPEN_V)
                        self.assertNotIn(place, typed["thick"].split())
                self.assertFalse(
                    state == "out" and any(n.startswith(("volt", "load")) for n in typed)
                )

    def test_with_the_pack_out_only_ohms_are_asked_for(self) -> None:
        bench, rng = Bench(OTTER, "controller", "out"), random.Random(3)
        for candidate in candidates(OTTER, "controller", "out"):
            typed, _, _ = bench.name(candidate.port, rng)
            self.assertFalse([n for n in typed if n.startswith(("volt", "load"))])

    def test_one_act_writes_the_plug_into_the_bike_as_found(self) -> None:
        for plug, told in (("battery", True), ("brake_rear", False)):
            bench, port = Bench(OTTER, "controller", "out"), OTTER.part("controller").port(plug)
            typed, _, order = bench.name(port, random.Random(2))
            colours = " ".join(
                {"plus": "red", "minus": "black"}.get(name, "white") for name in order
            )
            typed |= {"gender": "sockets", "colours": colours}
            steps = PLUG.steps(OTTER, "controller", typed)
            found = read_all([f for step in steps for f in step.fields], typed)
            made = PLUG.described(OTTER, "controller", found).part("controller").port(plug)
            if not told:
                self.assertEqual(made, port)
                continue
            self.assertEqual(made.gender, "sockets")
            self.assertEqual([pin.name for pin in made.pins], order)
            self.assertEqual(" ".join(pin.colour for pin in made.pins), colours)

    def test_what_is_named_already_counts_less(self) -> None:
        typed = {"pins": "3", "state": "off", "thick": ""}
        named = MeasuredValue("controller", "plug_brake_front", 0.97, "", "", "2026-11-20", "x")
        for bike in (OTTER, with_measured(OTTER, [named])):
            steps = PLUG.steps(bike, "controller", typed)
            found = read_all([f for step in steps for f in step.fields], typed)
            title = PLUG.judge(bike, "controller", found, {}, {}).title
            self.assertEqual("front brake" in title, bike is OTTER, title)


class PoleTest(TestCase):
    def test_colours_never_say_which_wire_is_plus(self) -> None:
        """Readings of the two thick wires of a battery lead: only what was read is called by its
        pole."""
        typed = {"pins": "2", "state": "out", "thick": "1 2", "colours": "red black"}
        for readings in (
            {},
            {"ohm_1": "0.1"},
            {"ohm_2": "100k"},
            {"ohm_1": "0.1", "ohm_2": "100k"},
        ):
            with self.subTest(readings):
                whole = typed | readings
                found = read_all(PLUG.fields(FERN, "controller", whole), whole)
                verdict = PLUG.judge(FERN, "controller", found, {}, {})
                for value in verdict.values:
                    if value.name.startswith("wire_") and f"ohm_{value.name[-1]}" not in readings:
                        self.assertIn("not read yet", value.words)
                described = PLUG.described(FERN, "controller", found)
                if len(readings) < 2:
                    self.assertEqual(pins_of(described), pins_of(FERN))


def pins_of(bike: Bike) -> list[str]:
    """Return the pins of the controller in order."""
    return [pin.name for port in bike.part("controller").ports for pin in port.pins]
