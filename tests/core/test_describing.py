"""Patterns, changes that keep what fits, values as people write them, and part files."""

from dataclasses import replace
from unittest import TestCase

import networkx as nx

from brightcore.bike.mating import propose_pairs
from brightcore.bike.model import Pin, Port
from brightcore.bike.roles import mate
from brightcore.circuit.netlist import compile_circuit
from brightcore.circuit.nets import Nets
from brightcore.describing.compare import compare
from brightcore.describing.edit import add_part, change_info, change_part, remove_part
from brightcore.describing.join_edits import add_join, remove_join
from brightcore.describing.join_words import free_ports
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.describing.plugs import parse_plugs, show_plugs
from brightcore.describing.specs import make_spec, parse_spec_value, show_spec_value
from brightcore.describing.swap import swap_part
from brightcore.describing.wheels import parse_tyre
from brightcore.drawing.line import joins_between, layout_line
from brightcore.drawing.line_places import membership
from brightcore.errors import BikeError, FormatError, ReadingError, UnknownNameError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.bike_writing import dump_bike
from brightcore.formats.part_file import (
    dump_parts_csv,
    dump_parts_yaml,
    generic_entries,
    load_parts_csv,
    load_parts_yaml,
)
from brightcore.kinds import REGISTRY
from brightcore.kinds.cable import conductors
from brightcore.tracing.engine import Engine
from brightcore.tracing.hypotheses import enumerate_hypotheses
from brightcore.wiring.rules import check_bike


class PatternTest(TestCase):
    def test_every_pattern_is_a_sound_bike_that_runs_when_healthy(self) -> None:
        for pattern_id in PATTERNS:
            with self.subTest(pattern_id):
                bike = make_pattern(pattern_id, "Bramble")
                self.assertEqual(load_bike(dump_bike(bike)), bike)
                self.assertEqual([f.code for f in check_bike(bike) if f.severity != "advice"], [])
                engine = Engine(bike)
                for scene_id, scene in engine.table.scenes.items():
                    if scene_id in ("throttle", "pedal", "pull"):
                        for name, codes in engine.table.seen(scene_id).items():
                            if name.startswith("motor"):
                                self.assertEqual(codes[0], 0, f"{scene_id} {name}")
                    if scene.unplugged == "" and scene_id.startswith("brake"):
                        found = engine.table.seen(scene_id)
                        self.assertIn(
                            1,
                            [codes[0] for name, codes in found.items() if name.startswith("motor")],
                            scene_id,
                        )

    def test_a_pattern_is_drawn_whole(self) -> None:
        for pattern_id in PATTERNS:
            bike = make_pattern(pattern_id, "x")
            circuit = compile_circuit(bike, REGISTRY)
            layout = layout_line(circuit)
            known = {s.id for s in layout.shapes}
            self.assertEqual(len(known), len(layout.shapes))
            members = membership(layout, circuit, enumerate_hypotheses(circuit))
            self.assertEqual({m for m in members if m} - known, set(), pattern_id)
            boxes = [s for s in layout.shapes if s.kind == "box"]
            for i, a in enumerate(boxes):
                for b in boxes[:i]:
                    apart = any(
                        abs(a.points[0][k] + a.size[k] / 2 - b.points[0][k] - b.size[k] / 2)
                        >= (a.size[k] + b.size[k]) / 2
                        for k in (0, 1)
                    )
                    self.assertTrue(apart, f"{pattern_id}: {a.id} over {b.id}")
        with self.assertRaises(UnknownNameError):
            make_pattern("tricycle", "x")

    def test_nets_are_the_connected_components_of_the_conductors(self) -> None:
        """networkx (class lib) on every pattern."""
        for pattern_id in PATTERNS:
            bike = make_pattern(pattern_id, "x")
            graph = nx.Graph()
            nets = Nets(bike, REGISTRY)
            graph.add_nodes_from(nets.pins)
            for j in bike.joins:
                graph.add_edges_from(
                    (f"{j.a_part}.{j.a_port}.{a}", f"{j.b_part}.{j.b_port}.{b}") for a, b in j.pairs
                )
            for part in bike.parts:
                graph.add_edges_from(
                    (f"{part.id}.{a}", f"{part.id}.{b}") for a, b in REGISTRY[part.kind].links(part)
                )
            ours: dict[str, set[str]] = {}
            for pin in nets.pins:
                ours.setdefault(nets.find(pin), set()).add(pin)
            self.assertEqual(
                sorted(map(sorted, ours.values())),
                sorted(map(sorted, nx.connected_components(graph))),
            )

    def test_the_way_to_a_part_leaves_other_branches_out(self) -> None:
        bike = make_pattern("factory-hub", "x")
        ways = {
            p: joins_between(bike, REGISTRY, p, {"controller"}) for p in ("display", "lever_left")
        }
        self.assertEqual(len(ways["display"] & ways["lever_left"]), 1)
        self.assertEqual([len(w) for w in ways.values()], [2, 2])


SEEN = (
    # pattern, fault, scene, observable, what is seen (class id)
    ("mid-conversion", "torque.plug.torque/dead/full", "pedal", "motor", "silent"),
    ("mid-conversion", "torque.plug.torque/dead/full", "switch_on", "error", "torque"),
    ("mid-conversion", "torque.plug.torque/stuck-rest/full", "pedal", "motor", "silent"),
    ("mid-conversion", "speed.plug.signal/dead/full", "throttle", "speed", "none"),
    ("mid-conversion", "gear.inside.cable/stuck/full", "throttle", "motor", "silent"),
    ("mid-conversion", "gear.plug.signal/dead/full", "brake.gear", "motor", "smooth"),
    ("two-packs", "tracker.display_side.key/open/full", "throttle", "motor", "silent"),
    ("two-packs", "combiner.pack_a.plus/open/full", "throttle", "motor", "smooth"),
    ("two-packs", "combiner.pack_a.plus/resistive/full", "throttle", "motor", "smooth"),
    (
        "two-motor-cart",
        "motor_left.halls.a/dead/full",
        "throttle",
        "motor-controller_left",
        "rough",
    ),
    (
        "two-motor-cart",
        "motor_left.halls.a/dead/full",
        "throttle",
        "motor-controller_right",
        "smooth",
    ),
    (
        "two-motor-cart",
        "throttle.plug.signal/dead/full",
        "throttle",
        "motor-controller_right",
        "silent",
    ),
    (
        "two-motor-cart",
        "motor_right.inside.winding/shorted/full",
        "spin",
        "drag-motor_right",
        "drags",
    ),
    (
        "two-motor-cart",
        "motor_right.inside.winding/shorted/full",
        "spin",
        "drag-motor_left",
        "free",
    ),
    ("folding", "lever_left.inside.magnet/lost/full", "switch_on", "brake_symbol", "shown"),
)


class KindTest(TestCase):
    def test_faults_of_the_new_kinds_are_seen_where_they_should_be(self) -> None:
        from brightcore.behaviour.vocabulary import OBSERVABLES

        engines = {p: Engine(make_pattern(p, "x")) for p in {row[0] for row in SEEN}}
        for pattern_id, fault, scene, observable, expected in SEEN:
            with self.subTest(pattern_id, fault=fault, scene=scene):
                engine = engines[pattern_id]
                code = engine.table.seen(scene)[observable][engine.hypotheses.index(fault)]
                self.assertEqual(OBSERVABLES[observable].ids()[int(code)], expected)

    def test_a_lamp_behind_a_converter_lights_and_goes_dark_with_it(self) -> None:
        bike = make_pattern("hub-conversion", "x")
        lamp = next(j for j in bike.joins if "lamp" in (j.a_part, j.b_part))
        bike = remove_join(bike, lamp.id)
        entry = next(e for e in generic_entries() if e.id == "converter-5v")
        bike = add_part(bike, entry.kind, "Converter", replace(entry.spec, out_v=12.0), entry.ports)
        bike = change_part(
            bike,
            "controller",
            "Controller",
            replace(bike.part("controller").spec, accessory_v=48.0),
        )
        bike = add_join(
            add_join(bike, "controller.lamp", "converter.supply"), "converter.out", "lamp.plug"
        )
        engine = Engine(bike)
        codes = engine.table.seen("switch_on")["lamp"]
        self.assertEqual(codes[0], 0)
        self.assertEqual(codes[engine.hypotheses.index("converter.out.plus/dead/full")], 1)
        self.assertNotIn("W008", {f.code for f in check_bike(bike)})


class EditTest(TestCase):
    def setUp(self) -> None:
        self.bike = make_pattern("hub-conversion", "x")
        self.entries = {e.id: e for e in generic_entries()}

    def swap(self, part_id: str, slug: str) -> tuple[int, tuple[str, ...]]:
        e = self.entries[slug]
        found = swap_part(self.bike, part_id, e.kind, e.name, e.spec, e.ports)
        load_bike(dump_bike(found.bike))
        return len(found.bike.joins), found.lost

    def test_a_swap_keeps_joins_that_fit_and_lists_the_others(self) -> None:
        count = len(self.bike.joins)
        for part_id, slug, lost in (
            ("pack", "pack-52v-14s4p", 0),
            ("controller", "controller-52v-30a", 0),
            ("motor", "mid-750w", 1),
            ("throttle", "throttle-twist", 0),
            ("throttle", "throttle-keyed", 1),
            ("lever_left", "cut-off-magnetic", 1),
            ("display", "throttle-thumb", 1),
            ("cranks", "torque-100", 1),
            ("lamp", "lever-switch", 1),
        ):
            with self.subTest(part_id, slug=slug):
                joins, gone = self.swap(part_id, slug)
                self.assertEqual((joins, len(gone)), (count - lost, lost), gone)

    def test_parts_and_joins_come_and_go(self) -> None:
        e = self.entries["stand-switch"]
        fitted = add_part(self.bike, e.kind, "Pack", e.spec, e.ports)
        self.assertEqual(fitted.parts[-1].id, "pack_2")
        self.assertIn(("pack_2.plug", "Pack 2"), free_ports(fitted))
        gone = remove_part(self.bike, "lamp")
        self.assertEqual(len(gone.lost), 1)
        self.assertIn("controller.lamp", [p for p, _ in free_ports(gone.bike)])
        for one, two, words in (
            ("pack_2.plug", "pack_2.plug", "itself"),
            ("pack.main", "lamp.plug", "connected already"),
        ):
            with self.assertRaisesRegex(BikeError, words):
                add_join(fitted, one, two)
        with self.assertRaises(BikeError):
            add_join(remove_join(self.bike, self.bike.joins[0].id), "pack.main", "pack.main")
        for last in ("pack", "controller"):
            with self.assertRaises(BikeError):
                remove_part(self.bike, last)

    def test_two_descriptions_are_compared_line_by_line(self) -> None:
        self.assertEqual(compare(self.bike, self.bike, REGISTRY), ())
        other = change_info(self.bike, replace(self.bike.info, label="Y"))
        other = change_part(
            other, "pack", "Big pack", replace(other.part("pack").spec, capacity_ah=20.0)
        )
        other = remove_part(other, "lamp").bike
        e = self.entries["gear-sensor"]
        other = add_part(other, e.kind, e.name, e.spec, e.ports)
        lines = compare(self.bike, other, REGISTRY)
        for words in (
            "Label: x → Y",
            "Name: Pack → Big pack",
            "Capacity on the label: 14 → 20 Ah",
            "Removed: Front lamp",
            "Fitted: Gear-shift sensor",
        ):
            self.assertTrue(any(words in line for line in lines), (words, lines))


WRITTEN = (
    # field, text, value
    ("area_mm2", "18 AWG", 0.823),
    ("area_mm2", "awg 12", 3.3088),
    ("area_mm2", "4/0 AWG", 107.2193),
    ("area_mm2", "0.75 mm²", 0.75),
    ("capacity_ah", "12.5 Ah", 12.5),
    ("capacity_ah", "12500 mAh", 12.5),
    ("rated_w", "0.5 kW", 500.0),
    ("internal_ohm", "110 mΩ", 0.11),
    ("length_m", "40 in", 1.016),
    ("top_kmh", "20 mph", 32.18688),
    ("bike_mass_kg", "55 lb", 24.94758),
    ("rated_v", "48", 48.0),
    ("rated_v", "48,5 V", 48.5),
)
NOT_WRITTEN = (
    ("capacity_ah", "12 V"),
    ("area_mm2", "99 AWG"),
    ("rated_v", "lots"),
    ("rated_v", ""),
    ("rated_v", "nan"),
    ("rated_v", "1e999"),
)


class SpecTest(TestCase):
    def test_values_are_read_as_people_write_them(self) -> None:
        for name, text, value in WRITTEN:
            with self.subTest(text):
                self.assertAlmostEqual(parse_spec_value(name, text, float), value, places=4)
        for name, text in NOT_WRITTEN:
            with self.subTest(text), self.assertRaises(ReadingError):
                parse_spec_value(name, text, float)

    def test_every_spec_shows_and_reads_back_the_same(self) -> None:
        for kind in REGISTRY:
            spec = kind.spec_type()
            shown = {
                n: show_spec_value(getattr(spec, n))
                for n in spec.__dataclass_fields__
                if n != "conductors"
            }
            self.assertEqual(make_spec(kind, shown), spec, kind.name)

    def test_impossible_specs_are_refused_with_the_field_named(self) -> None:
        for kind, values, field in (
            ("pack", {"capacity_ah": "12 V"}, "capacity_ah"),
            ("pack", {"series_count": "13.5"}, "series_count"),
            ("pack", {"fuse_a": 9999}, "fuse_a"),
            ("pack", {"volts": 3}, "volts"),
            ("pack", {"cell_v": "5"}, "cell_v"),
            ("controller", {"max_v": "20 V"}, "max_v"),
            ("throttle", {"keyed": "maybe"}, "keyed"),
            ("mid_motor", {"sprocket_teeth": "eleven"}, "sprocket_teeth"),
            ("pack", {"fuse_a": True}, "fuse_a"),
        ):
            with self.subTest(field=field, values=values), self.assertRaises(FormatError) as caught:
                make_spec(REGISTRY[kind], values)
            self.assertEqual(caught.exception.problems[0].path, f"spec.{field}")

    def test_tyres_are_read_in_both_ways_of_writing(self) -> None:
        for text, expected in (
            ("47-559", (47.0, 559.0)),
            ("26 in", (47.0, 559.0)),
            ('20 x 1.75"', (44.4, 406.0)),
            ("57–584", (57.0, 584.0)),
            ("29", (47.0, 622.0)),
            ("700x38C", (38.0, 622.0)),
            ("700 x 38c", (38.0, 622.0)),
            ("700c", (47.0, 622.0)),
            ("650b", (47.0, 584.0)),
            ("650 × 42B", (42.0, 584.0)),
            ("26 x 1 3/8", (34.9, 590.0)),
            ("26x1.375", (34.9, 559.0)),
            ("20x1-3/8", (34.9, 451.0)),
            ("20 x 1 3/8 in", (34.9, 451.0)),
            ("28 x 1 5/8 x 1 3/8", (41.3, 622.0)),
            ("28 x 1 1/2", (38.1, 635.0)),
            ("24 x 1 3/8", (34.9, 540.0)),
            ('12"', (47.0, 203.0)),
            ("12 1/2 x 2 1/4", (57.1, 203.0)),
            ("26 x 2,1", (53.3, 559.0)),
            ("27.5 x 2.4", (61.0, 584.0)),
        ):
            with self.subTest(text):
                self.assertEqual(parse_tyre(text), expected)
        wrong = (
            "",
            "47",
            "559-47",
            "26 x",
            "0-0",
            "wide",
            "700x3800",
            "650z",
            "31",
            "26 x 1 3/0",
            "700x10",
        )
        for text in wrong:
            with self.subTest(text), self.assertRaises(ReadingError):
                parse_tyre(text)

    def test_plugs_are_written_and_read_back(self) -> None:
        for kind in REGISTRY:
            ports = kind.ports(kind.spec_type())
            self.assertEqual(parse_plugs(show_plugs(ports), ports), ports, kind.name)
        for text in ("nonsense", "a: A = ", "a: A = p, p", "a: A = x\na: B = y", "a: A = pin one"):
            with self.subTest(text), self.assertRaises(FormatError):
                parse_plugs(text)

    def test_pins_mate_by_what_they_carry(self) -> None:
        for one, two, fits in (
            ("supply_5v", "sensor_supply", True),
            ("hall_a", "hall_b", False),
            ("wire", "hall_a", True),
            ("pack_plus", "battery_minus", False),
            ("phase_u", "phase_u", True),
            ("key", "display_key", True),
        ):
            self.assertEqual((mate(one, two), mate(two, one)), (fits, fits), (one, two))
        with self.assertRaises(BikeError):
            propose_pairs(Port("a", (Pin("x", "hall_a"),)), Port("b", (Pin("y", "lamp_plus"),)))


BAD_YAML = (
    ("a: &x [1]\nb: *x", "aliases"),
    ("- 1", "JSON object"),
    ("format: bright-circuit/parts\nversion: 2\nparts: []", "reads up to 1"),
    ("format: bright-circuit/parts\nversion: 1\nparts: []", "$.parts"),
    (
        "format: bright-circuit/parts\nversion: 1\nparts: [{id: x, kind: sail, name: S}]",
        "$.parts[0].kind",
    ),
    (
        "format: bright-circuit/parts\nversion: 1\nparts: [{id: x, kind: pack, name: P, spec: "
        "{fuse_a: 3 m}}]",
        "$.parts[0].spec.fuse_a",
    ),
    (
        "format: bright-circuit/parts\nversion: 1\nparts: [{id: x, kind: cable, name: C}]",
        "ports written out",
    ),
    (
        "format: bright-circuit/parts\nversion: 1\nparts: [{id: x, kind: lamp, name: C}, {id: x, "
        "kind: lamp, name: D}]",
        "used twice",
    ),
)
BAD_CSV = (
    ("", "no rows"),
    ("id,kind,name\nx,,P", "kind is missing"),
    ("id,kind,name,spec\nx,pack,P,what", "not field=value"),
    ("id,kind,name,spec\nx,pack,P,fuse_a=3 m", "line 2.spec.fuse_a"),
    ("id,kind,name\nx,sail,P", "sail"),
)


class PartFileTest(TestCase):
    def test_generic_entries_cover_every_kind_and_round_trip(self) -> None:
        entries = generic_entries()
        self.assertEqual({e.kind for e in entries}, set(REGISTRY.names()))
        self.assertEqual(load_parts_yaml(dump_parts_yaml(entries)), entries)
        plain = tuple(e for e in entries if not e.own_ports)
        self.assertEqual(load_parts_csv(dump_parts_csv(plain)), plain)
        for entry in entries:
            if entry.kind == "cable":
                self.assertTrue(
                    list(
                        conductors(
                            add_part(
                                make_pattern("folding", "x"),
                                entry.kind,
                                "c",
                                entry.spec,
                                entry.ports,
                            ).parts[-1]
                        )
                    )
                )

    def test_bad_files_are_told_whole(self) -> None:
        for load, cases in ((load_parts_yaml, BAD_YAML), (load_parts_csv, BAD_CSV)):
            for text, words in cases:
                with self.subTest(text[:40]), self.assertRaises(FormatError) as caught:
                    load(text)
                self.assertIn(words, str(caught.exception))
