"""The contract that every kind of part keeps, and the trade facts behind their electrics."""

import json
import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any, ClassVar
from unittest import TestCase

import jsonschema
import numpy as np

from brightcore.bike.model import Bike, BikeInfo, Join, Part
from brightcore.bike.roles import (
    CURRENTS,
    LEVELS,
    POLARITIES,
    ROLES,
    USES,
    WAYS,
    is_role,
    mate,
    named,
    role_of,
)
from brightcore.circuit.conditions import Condition
from brightcore.circuit.elements import Element, source
from brightcore.circuit.netlist import compile_circuit
from brightcore.circuit.stamper import Stamper
from brightcore.circuit.system import System
from brightcore.errors import BikeError, UnknownNameError
from brightcore.findings import SEVERITIES
from brightcore.formats.schema import spec_schema
from brightcore.formats.spice import spice_netlist
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import PartKind
from brightcore.kinds.cable import CableSpec
from brightcore.kinds.motor import HALL_CODES
from tests.bikes import DEMO_BIKES, bike_of, changed, demo_bike, engine, small_engine
from tests.core.test_solver import volts_of


def where(kind: PartKind[Any]) -> str:
    """Return where a kind stands, to be told what it lacks."""
    return f"{type(kind).__module__.replace('.', '/')}.py ({kind.name})"


def alone_with_a_pack(kind_name: str) -> Bike:
    """Return a bike of a pack and one part of a kind, joined to nothing."""
    pack, kind = REGISTRY["pack"], REGISTRY[kind_name]
    spec = kind.spec_type()
    ports = kind.ports(spec) or demo_bike("fern").part("front_harness").ports
    parts = [Part("pack", "pack", "Pack", pack.spec_type(), pack.ports(pack.spec_type()))]
    if kind_name != "pack":
        parts.append(Part("it", kind_name, kind.title, spec, ports))
    return Bike("x", BikeInfo("Bare"), tuple(parts), ())


STRANGER = (
    ("as it should be", set(), 0.5),
    ("just on the output's limit", set(), 1.0),
    ("just over it", {"W027"}, 1.0167),
    ("heavy on a thin wire", {"W027", "W050", "W078"}, 5.0),
    ("plus and minus exchanged", {"W013"}, 0.5),
    ("of other volts", {"W002"}, 0.125),
)


class StrangerTest(TestCase):
    """A kind with roles of its own is known everywhere from its one file and its two lines."""

    told: ClassVar[dict[str, dict[str, Any]]]

    @classmethod
    def setUpClass(cls) -> None:
        command = (sys.executable, "-m", "tests.core.stranger.pump")
        root = Path(__file__).parents[2]
        environment = os.environ | {"PYTHONPATH": f"{root / 'src'}{os.pathsep}{root}"}
        done = subprocess.run(command, check=True, capture_output=True, cwd=root, env=environment)
        cls.told = json.loads(done.stdout)

    def test_findings_and_currents_follow_from_what_it_declares(self) -> None:
        for name, codes, ampere in STRANGER:
            with self.subTest(name):
                self.assertEqual(set(self.told[name]["codes"]), codes)
                self.assertAlmostEqual(self.told[name]["ampere"], ampere, places=3)

    def test_its_plug_is_proposed_to_what_feeds_it(self) -> None:
        self.assertEqual(self.told["as it should be"]["proposed"], 1)


class ContractTest(TestCase):
    def test_every_kind_stamps_exports_and_has_faults_symbol_and_schema(self) -> None:
        for kind in REGISTRY:
            with self.subTest(kind.name):
                circuit = compile_circuit(alone_with_a_pack(kind.name), REGISTRY)
                System(circuit)
                self.assertIn(".end", spice_netlist(circuit, Condition()))
                own = [
                    f for f in circuit.faults if not f.id.startswith("pack.") or kind.name == "pack"
                ]
                self.assertTrue(own, f"{where(kind)} has no faults(): add at least one row")
                for name in ("symbol", "title", "not_modelled"):
                    self.assertTrue(getattr(kind, name), f"{where(kind)} says no {name}")
                jsonschema.Draft202012Validator.check_schema(spec_schema(kind.spec_type))
                self.assertEqual(list(kind.check_spec(kind.spec_type())), [])

    def test_every_control_value_changes_elements_that_are_there(self) -> None:
        for kind in REGISTRY:
            circuit = compile_circuit(alone_with_a_pack(kind.name), REGISTRY)
            part = circuit.bike.parts[-1]
            known = {e.id for e in circuit.elements}
            for control in kind.controls(part):
                self.assertEqual(
                    len(control.values),
                    len(control.words),
                    f"{where(kind)}: control {control.id} needs words for each of its values",
                )
                for value in control.values:
                    for override in kind.apply(part, control.id, value):
                        self.assertIn(override.element, known, f"{kind.name} {control.id}={value}")

    def test_inline_kinds_join_pins_through_and_the_others_do_not(self) -> None:
        for kind in REGISTRY:
            part = alone_with_a_pack(kind.name).parts[-1]
            pins = {f"{q.id}.{p.name}" for q in part.ports for p in q.pins}
            links = list(kind.links(part))
            self.assertEqual(
                bool(links), kind.inline, f"{where(kind)}: inline and links() must agree"
            )
            self.assertLessEqual({end for link in links for end in link}, pins)

    def test_every_fault_changes_something(self) -> None:
        for kind in REGISTRY:
            for mode in kind.faults(alone_with_a_pack(kind.name).parts[-1]):
                self.assertTrue(mode.overrides or mode.traits or mode.signs, mode.id)
                self.assertTrue(0 <= mode.seen_by_eye <= 1 and mode.weight > 0, mode.id)
                self.assertTrue(mode.repair.action and mode.repair.root_cause, mode.id)

    def test_fault_ids_are_unique_and_written_as_promised(self) -> None:
        for name in DEMO_BIKES:
            ids = [f.id for f in small_engine(name).circuit.faults]
            self.assertEqual(len(ids), len(set(ids)), name)
            for fault_id in ids:
                self.assertRegex(
                    fault_id, r"^[a-z0-9_]+\.[a-z0-9_]+\.[a-z0-9_]+/[^/]+/[a-z-]+[0-9.]*$"
                )

    def test_fault_titles_and_repairs_are_whole_sentences_without_slots(self) -> None:
        for name in DEMO_BIKES:
            for fault in small_engine(name).circuit.faults:
                with self.subTest(fault.id):
                    self.assertNotRegex(fault.title + fault.repair.action, r"[{}]")
                    self.assertGreater(fault.weight, 0)
                    self.assertGreater(fault.repair.minutes, 0)

    def test_demo_bikes_have_as_many_faults_as_the_trade_expects(self) -> None:
        """100–250 modes is typical; severities add rows."""
        for name, least in (("fern", 250), ("otter", 200), ("teasel", 100)):
            self.assertGreater(small_engine(name).hypotheses.rows, least)

    def test_a_bike_without_a_pack_makes_no_circuit(self) -> None:
        with self.assertRaises(BikeError):
            compile_circuit(Bike("x", BikeInfo("None"), (), ()), REGISTRY)

    def test_unknown_names_say_what_there_is(self) -> None:
        bike, circuit = demo_bike("fern"), small_engine("fern").circuit
        for call in (
            lambda: REGISTRY["steam-engine"],
            lambda: bike.part("nothing"),
            lambda: bike.part("pack").port("nothing"),
            lambda: bike.pin("pack.main.nothing"),
            lambda: bike.pin("pack"),
            lambda: bike.join("nothing"),
            lambda: circuit.fault("nothing"),
            lambda: circuit.node("nothing"),
        ):
            with self.assertRaises(UnknownNameError):
                call()

    def test_conductors_follow_names_or_the_given_pairs(self) -> None:
        harness, cap = (
            demo_bike("fern").part("front_harness"),
            demo_bike("teasel").part("bridging_cap"),
        )
        cable = REGISTRY["cable"]
        self.assertEqual(len(list(cable.links(harness))), 12)
        self.assertIn(("trunk.gnd", "to_brake_r.gnd"), set(cable.links(harness)))
        self.assertEqual(
            list(cable.links(cap)), [("cap.vp", "lock.vp_out"), ("cap.key", "lock.key_in")]
        )
        self.assertEqual(
            next(cable.check_spec(CableSpec(conductors=(("a", "b.1"),))))[0], "conductors"
        )

    def test_severities_are_known(self) -> None:
        self.assertEqual(SEVERITIES, ("danger", "fault", "advice"))


class HallTest(TestCase):
    def test_six_step_codes_change_one_bit_at_a_time_and_never_read_000_or_111(self) -> None:
        """120° sensors: Hanselman, Brushless Permanent Magnet Motor Design, 2nd ed., ch. 4
        [std]."""
        self.assertEqual(len(set(HALL_CODES)), 6)
        self.assertFalse({"000", "111"} & set(HALL_CODES))
        for one, two in zip(HALL_CODES, (*HALL_CODES[1:], HALL_CODES[0]), strict=True):
            self.assertEqual(sum(a != b for a, b in zip(one, two, strict=True)), 1)

    def test_solved_hall_volts_spell_those_codes(self) -> None:
        table = small_engine("fern").table
        for sector, code in enumerate(HALL_CODES):
            condition = (
                Condition() if sector == 0 else Condition().having("motor.rotor", str(sector))
            )
            levels = [
                float(table.volts(condition, f"controller:hall_{h}", "controller:ground")[0])
                for h in "abc"
            ]
            self.assertEqual("".join("1" if v > 2.5 else "0" for v in levels), code)
            for volts in levels:
                self.assertTrue(volts < 0.5 or volts > 4.5)


READINGS = (
    # bike, condition, red, black, low, high: healthy windows, common practice of the trade
    ("fern", "on", "controller.halls.v5", "controller.halls.gnd", 4.7, 5.2),
    ("fern", "on", "throttle.plug.signal", "throttle.plug.ground", 0.8, 0.9),
    ("fern", "on; throttle.grip=full", "throttle.plug.signal", "throttle.plug.ground", 3.5, 4.4),
    ("fern", "on", "lever_left.plug.signal", "lever_left.plug.ground", 3.3, 5.0),
    (
        "fern",
        "on; lever_left.lever=pulled",
        "lever_left.plug.signal",
        "lever_left.plug.ground",
        0.0,
        0.5,
    ),
    ("fern", "on", "display.plug.key", "display.plug.gnd", 48.0, 51.0),
    ("fern", "off", "display.plug.key", "display.plug.gnd", -0.1, 0.1),
    ("fern", "on", "lamp.plug.plus", "lamp.plug.minus", 11.0, 12.5),
    ("fern", "on; controller.drive=pull", "pack.main.plus", "pack.main.minus", 46.0, 49.0),
    ("teasel", "on", "throttle.plug.supply", "throttle.plug.ground", 4.7, 5.2),
    ("teasel", "off", "throttle.plug.supply", "throttle.plug.ground", -0.1, 0.1),
    (
        "otter",
        "on; cut_off_front.lever=pulled",
        "cut_off_front.plug.signal",
        "cut_off_front.plug.ground",
        0.0,
        0.5,
    ),
    ("otter", "on", "display.plug.vp", "display.plug.gnd", 52.0, 56.0),
)
OHMS = (
    ("fern", "out; unplug j-phases-m", "motor.phases.u", "motor.phases.v", 0.12, 0.16),
    ("fern", "out; unplug j-halls-m", "motor.halls.temperature", "motor.halls.ground", 9000, 11000),
    (
        "fern",
        "out; lever_left.lever=pulled; unplug j-brake-l",
        "lever_left.plug.signal",
        "lever_left.plug.ground",
        0,
        2,
    ),
    (
        "fern",
        "out; unplug j-brake-l",
        "lever_left.plug.signal",
        "lever_left.plug.ground",
        1e7,
        np.inf,
    ),
    ("fern", "out", "hall_cable.halls_c.a", "hall_cable.halls_m.a", 0, 0.3),
)


class ReadingTest(TestCase):
    def test_healthy_readings_lie_in_the_windows_of_the_trade(self) -> None:
        """Windows are common practice [cp]."""
        for name, text, red, black, low, high in READINGS:
            from brightcore.circuit.conditions import parse_condition

            engine = small_engine(name)
            found = engine.table.read_volts(parse_condition(engine.circuit, text), red, black)
            with self.subTest(name, red=red, condition=text):
                self.assertFalse(found.floating[0])
                self.assertTrue(low <= found.mean[0] <= high, found.mean[0])

    def test_healthy_ohms(self) -> None:
        from brightcore.circuit.conditions import parse_condition

        for name, text, red, black, low, high in OHMS:
            engine = small_engine(name)
            found = engine.table.read_ohms(parse_condition(engine.circuit, text), red, black)
            with self.subTest(red=red, condition=text):
                self.assertTrue(low <= found.mean[0] <= high, found.mean[0])

    def test_body_diodes_read_as_the_trade_says(self) -> None:
        """Red on phase, black on +: 0.4–0.6 V; a shorted switch reads near 0 V [cp]."""
        made = engine("fern")
        shorted = made.hypotheses.index("controller.phases.u/high-shorted/full")
        tests = [t for t in made.tests if t.kind == "diode"]
        self.assertEqual(len(tests), 6)
        for test in tests:
            found = made.table.read_diode(test.condition, test.red, test.black)
            self.assertTrue(0.4 <= found.mean[0] <= 0.62, (test.title, found.mean[0]))
            if test.red.endswith("phases.u"):
                self.assertLess(found.mean[shorted], 0.05)

    def test_a_meter_loads_a_stray_voltage_behind_an_open_bms(self) -> None:
        """The port then shows a stray, soft voltage [cp]: between 2 V and the pack's."""
        made = small_engine("fern")
        row = made.hypotheses.index("pack.inside.bms/open/full")
        found = made.table.read_volts(Condition("off"), "pack.main.plus", "pack.main.minus")
        self.assertTrue(0.1 < found.mean[row] < 25, found.mean[row])
        self.assertGreater(found.mean[0], 45)


class JoinTest(TestCase):
    def test_equal_names_or_counts_mate_without_a_map(self) -> None:
        join = next(j for j in demo_bike("fern").joins if j.id == "j-throttle")
        self.assertEqual(join.pairs, (("v5", "supply"), ("gnd", "ground"), ("throttle", "signal")))
        self.assertIsInstance(join, Join)

    def test_a_shorted_main_lead_blows_the_fuse_in_every_state(self) -> None:
        made = engine("fern")
        row = made.hypotheses.index("pack.main.plus/short-to-minus/full")
        self.assertEqual([o.element for o in made.table.latched(row)], ["pack/fuse"])
        self.assertLess(
            abs(made.table.volts(Condition("off"), "pack.main.plus", "pack.main.minus")[row]), 1.0
        )

    def test_cells_and_limits_can_be_changed_by_file(self) -> None:
        bike = bike_of(changed("fern", ("parts.pack.spec.series_count", 14)))
        self.assertAlmostEqual(bike.part("pack").spec.full_v(), 58.8)
        self.assertEqual(json.loads(json.dumps(bike.part("pack").spec.chemistry)), "nickel")


RAIL_OHM = 1e-3
"""Of the supply that a part is tried on."""


def drawn_in_circuit_a(kind_name: str, role: str, volt: float) -> float:
    """Return what a part of a kind takes through its pins of a role, in A, by the circuit that it
    stamps."""
    part = alone_with_a_pack(kind_name).parts[-1]
    bike = Bike("x", BikeInfo("On a rail"), (part,), ())
    stamper = Stamper(bike)
    REGISTRY[kind_name].stamp(stamper, part)
    for name in named(level="ground"):
        for pin in stamper.pins(part, name):
            stamper.tie(pin, "0")
    plus = stamper.pins(part, role)[0]
    names = stamper.names()
    own = [
        replace(e, **{k: names.get(getattr(e, k), getattr(e, k)) for k in "abcd"})
        for e in stamper.elements
    ]
    ground = names["0"]
    ground = names["0"]

    def node(name: str) -> str:
        found = names.get(name, name)
        return "0" if found == ground else found

    own = [replace(e, a=node(e.a), b=node(e.b), c=node(e.c), d=node(e.d)) for e in stamper.elements]
    volts = volts_of(*own, Element("rail", names[plus], "0", source(volt, RAIL_OHM)))
    return (volt - volts[names[plus]]) / RAIL_OHM


class RoleTest(TestCase):
    def test_every_role_says_all_that_is_asked_of_one(self) -> None:
        for role in ROLES:
            with self.subTest(role.name):
                here = f"bike/roles.py: {role.name}"
                self.assertTrue(role.meaning, f"{here} says no meaning")
                self.assertIn(role.polarity, POLARITIES)
                self.assertIn(role.level, LEVELS)
                self.assertIn(role.way, WAYS)
                self.assertIn(role.use, USES)
                self.assertIn(role.current, CURRENTS)
                strange = [mate for mate in role.mates if not is_role(mate)]
                self.assertEqual(strange, [], f"{here} names mates that are no roles")
                sent = role.current == "signal" and role.use not in ("key", "serial")
                self.assertEqual(role.is_signal, sent)

    def test_whatever_wants_something_has_a_mate_that_gives_it(self) -> None:
        for role in ROLES:
            if role.way == "wants":
                givers = [
                    other.name for other in ROLES if other.gives and mate(role.name, other.name)
                ]
                self.assertTrue(
                    givers, f"bike/roles.py: nothing that gives names {role.name} as its mate"
                )

    def test_a_signal_that_both_ends_only_carry_is_its_own_mate(self) -> None:
        for role in ROLES:
            if role.way == "carries":
                self.assertTrue(mate(role.name, role.name), role.name)

    def test_what_a_free_plug_carries_is_told_for_all_that_give_volts(self) -> None:
        for role in ROLES:
            feeds = role.polarity == "plus" and (role.way == "gives" or role.name == "charge_in")
            self.assertEqual(
                bool(role.live),
                feeds,
                f"bike/roles.py: {role.name} gives volts and says nothing of a free plug (live=)"
                if feeds
                else f"bike/roles.py: {role.name} gives no volts, yet has live=",
            )

    def test_every_kind_tells_what_it_draws_through_every_supply_it_wants(self) -> None:
        for kind in REGISTRY:
            part = alone_with_a_pack(kind.name).parts[-1]
            told = {draw.role for draw in kind.draws(part)}
            for port in part.ports:
                for pin in port.pins:
                    role = role_of(pin.role)
                    if role.way == "wants" and role.polarity == "plus":
                        self.assertIn(role.name, told, kind.name)

    def test_what_it_declares_is_what_its_circuit_takes(self) -> None:
        for kind_name, role, volt in DRAWN:
            with self.subTest(kind_name):
                part = alone_with_a_pack(kind_name).parts[-1]
                (draw,) = (d for d in REGISTRY[kind_name].draws(part) if d.role == role)
                found = drawn_in_circuit_a(kind_name, role, volt)
                self.assertAlmostEqual(found, draw.ampere, delta=0.25 * draw.ampere)


DRAWN = (
    ("lamp", "lamp_plus", 12.0),
    ("throttle", "sensor_supply", 5.0),
    ("magnetic_cut_off", "sensor_supply", 5.0),
    ("pedal_sensor", "sensor_supply", 5.0),
    ("torque_sensor", "sensor_supply", 5.0),
    ("speed_sensor", "sensor_supply", 5.0),
    ("gear_sensor", "sensor_supply", 5.0),
    ("hub_motor", "sensor_supply", 5.0),
    ("display", "display_plus", 48.0),
    ("converter", "convert_in", 48.0),
)
