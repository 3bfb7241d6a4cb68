"""Routes along the frame against networkx, lengths, refusals, cut list and joints."""

import math
from dataclasses import replace
from itertools import combinations
from unittest import TestCase
from xml.etree import ElementTree

import networkx as nx

from brightcore.bike.model import Bike, Frame, Wire
from brightcore.describing.compare import compare
from brightcore.describing.edit import remove_part
from brightcore.describing.join_edits import change_wire, extend, remove_join, repin
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.drawing.frame_map import (
    BADGE,
    HEIGHT,
    NODE,
    WIDTH,
    frame_map_svg,
    map_places,
    middle,
    spots,
)
from brightcore.errors import BikeError, BrightError, FormatError, RangeError, UnknownNameError
from brightcore.formats.bike_file import read_bike
from brightcore.formats.bike_writing import bike_document
from brightcore.kinds import REGISTRY
from brightcore.wiring.cut_list import cut_list, joint_list, up
from brightcore.wiring.frames import FRAMES, FramePattern
from brightcore.wiring.routes import (
    JOINT_COST_M,
    RISK_COST_M,
    Run,
    change_frame,
    crossings,
    frame_of,
    guess_frame,
    lead_by,
    place_of,
    runs_of,
    shortcut,
    shortest,
    tie_count,
    ties,
    used,
    wrap_m,
)
from brightcore.wiring.rules import check_bike
from tests.bikes import DEMO_BIKES, demo_bike

HUB = "hub-conversion"


def graph(frame: FramePattern) -> "nx.Graph[str]":
    """Return the frame as a networkx graph, refused stretches left out."""
    made: nx.Graph[str] = nx.Graph()
    for s in frame.stretches:
        if not s.refused:
            made.add_edge(
                s.a,
                s.b,
                weight=s.length_m + JOINT_COST_M * bool(s.joint) + RISK_COST_M * bool(s.risk),
                length=s.length_m,
            )
    return made


def run_of(bike: Bike, words: str) -> Run:
    return next(r for r in runs_of(bike) if words in r.title)


def with_id(bike: Bike, old: str, new: str) -> Bike:
    """Return the bike with a part called otherwise in its file."""
    raw = bike_document(bike)
    for part in raw["parts"]:
        part["id"] = new if part["id"] == old else part["id"]
    for join in raw["joins"]:
        for end in ("from", "to"):
            name, _, port = join[end].partition(".")
            join[end] = f"{new}.{port}" if name == old else join[end]
    for setting in raw.get("settings", []):
        setting["part"] = new if setting["part"] == old else setting["part"]
    return read_bike(raw)


class FrameTest(TestCase):
    def test_every_way_is_as_short_as_networkx_finds_it(self) -> None:
        """networkx.dijkstra_path_length over the same weights [lib]; every place that is not
        refused can be reached from every other."""
        for name, frame in FRAMES.items():
            oracle = graph(frame)
            for a in oracle:
                lengths = nx.single_source_dijkstra_path_length(oracle, a)
                self.assertEqual(set(lengths), set(oracle), name)
                for b, expected in lengths.items():
                    path = shortest(frame, a, b)
                    self.assertAlmostEqual(
                        sum(
                            s.length_m + JOINT_COST_M * bool(s.joint) + RISK_COST_M * bool(s.risk)
                            for s in path
                        ),
                        expected,
                    )
                    self.assertFalse(any(s.refused for s in path), (name, a, b))

    def test_every_frame_has_a_refusal_words_and_places_for_what_usually_sits_there(self) -> None:
        for name, frame in FRAMES.items():
            with self.subTest(name):
                places = dict(frame.places)
                self.assertTrue({p for s in frame.stretches for p in (s.a, s.b)} == set(places))
                self.assertLessEqual({p for _, p in frame.usual}, set(places))
                self.assertTrue(any(s.refused for s in frame.stretches))
                self.assertEqual(len({s.id for s in frame.stretches}), len(frame.stretches))

    def test_a_way_by_fork_crown_tyre_or_chain_is_refused_with_the_reason(self) -> None:
        frame = FRAMES["diamond"]
        for via, words in (
            ("fork_crown", "pinched at full lock"),
            ("rear_tyre", "tyre rubs it through"),
            ("chain_side", "takes it along"),
            ("rack", "there and back"),
        ):
            with self.subTest(via), self.assertRaisesRegex(BikeError, words):
                lead_by(frame, "bar", via, "bracket")
        self.assertEqual(
            [s.id for s in lead_by(frame, "bar", "seat", "bracket")],
            ["bar-head", "head-seat", "bracket-seat"],
        )
        with self.assertRaises(UnknownNameError):
            lead_by(frame, "bar", "moon", "bracket")

    def test_the_frame_is_guessed_from_what_the_bike_is_said_to_be(self) -> None:
        expected = {"fern": "front-loader", "otter": "longtail", "teasel": "clip-on"}
        self.assertEqual({n: guess_frame(demo_bike(n)) for n in DEMO_BIKES}, expected)
        bare = replace(make_pattern("folding", "x"), frame=Frame())
        self.assertEqual(guess_frame(bare), "folding")
        self.assertEqual(guess_frame(make_pattern("two-motor-cart", "x")), "cart")


class RunTest(TestCase):
    def test_every_plug_that_is_joined_has_a_run_and_each_only_one(self) -> None:
        for bike in (
            *(make_pattern(p, "x") for p in PATTERNS),
            *(demo_bike(n) for n in DEMO_BIKES),
        ):
            with self.subTest(bike.info.label):
                runs = runs_of(bike)
                self.assertEqual(len({r.id for r in runs}), len(runs))
                frame = frame_of(bike)
                apart = {
                    f"{p}.{q}"
                    for j in bike.joins
                    for p, q in j.sides()
                    if bike.part(p).kind != "cable"
                }
                missing = apart - {e for r in runs for e in r.ends}
                sit = {e: place_of(bike, frame, bike.part(e.split(".")[0])) for e in missing}
                self.assertLessEqual(
                    len(set(sit.values())), 2, missing
                )  # what sits beside its mate needs no run
                for r in runs:
                    self.assertGreaterEqual(r.wanted_m, r.along_m + 0.1)

    def test_a_cable_past_the_steering_gets_its_slack_and_loop(self) -> None:
        """Bar to bottom bracket on a diamond frame: 0.35 + 0.30 + 0.35 m, 0.12 m for the steering,
        0.10 and
        0.05 m at the ends."""
        run = run_of(make_pattern(HUB, "x"), "Thumb throttle")
        self.assertAlmostEqual(run.wanted_m, 1.27)
        self.assertEqual((run.joints, run.verdict), (("steering",), "unknown"))
        self.assertTrue(any("spray" in r for r in run.risks))

    def test_the_loop_at_a_controller_follows_what_the_part_is_and_not_how_it_is_called(
        self,
    ) -> None:
        """A loop of 0.10 m at a controller, 0.05 m elsewhere [cp], whatever their ids say."""
        bike = make_pattern("hub-conversion", "x")
        loops = {run.ends: run.loops_m for run in runs_of(bike)}
        for old, new in (("controller", "brain"), ("lamp", "controller_lamp")):
            named = with_id(bike, old, new)
            renamed = {
                tuple(end.replace(f"{new}.", f"{old}.", 1) for end in run.ends): run.loops_m
                for run in runs_of(named)
            }
            self.assertEqual(renamed, loops, new)

    def test_lengths_decide(self) -> None:
        bike = make_pattern(HUB, "x")
        throttle = next(j for j in bike.joins if "throttle" in (j.a_part, j.b_part))
        for metres, verdict in ((1.0, "short"), (1.27, "fits"), (1.5, "fits"), (1.7, "long")):
            self.assertEqual(
                run_of(change_wire(bike, throttle.id, Wire(0.0, metres)), "Thumb throttle").verdict,
                verdict,
            )

    def test_an_extension_makes_a_short_cable_fit_and_breaks_nothing(self) -> None:
        for pattern in PATTERNS:
            bike = make_pattern(pattern, "x")
            for join in bike.joins:
                made = extend(bike, join.id, 0.5)
                self.assertEqual(
                    (len(made.joins), len(made.parts)), (len(bike.joins) + 1, len(bike.parts) + 1)
                )
                self.assertEqual(
                    *({f.code for f in check_bike(b)} - {"W055"} for b in (made, bike)),
                    (pattern, join.id),
                )
        with self.assertRaises(RangeError):
            extend(bike, join.id, 0.0)

    def test_a_shorter_way_that_is_refused_is_named(self) -> None:
        bike = make_pattern(HUB, "x")
        reason, saved = shortcut(frame_of(bike), run_of(bike, "Front lamp"))
        self.assertIn("fork crown", reason)
        self.assertAlmostEqual(saved, 0.35 - 0.18)

    def test_what_crosses_a_joint_is_listed(self) -> None:
        found = crossings(make_pattern("folding", "x"))
        self.assertEqual(set(found), {"steering", "fold"})
        self.assertTrue(any("phase" in r.title for r in found["fold"]))


class ChangeFrameTest(TestCase):
    def test_measured_places_and_ways_change_the_lengths(self) -> None:
        bike = make_pattern(HUB, "x")
        run = run_of(bike, "Thumb throttle")
        longer = change_frame(bike, Frame("diamond", (("head-tube", 0.45),)))
        self.assertAlmostEqual(run_of(longer, "Thumb throttle").wanted_m, run.wanted_m + 0.15)
        moved = change_frame(bike, Frame("diamond", places=(("controller", "down_tube"),)))
        self.assertAlmostEqual(run_of(moved, "Thumb throttle").wanted_m, run.wanted_m - 0.35)
        led = change_frame(bike, Frame("diamond", via=((run.id, "seat"),)))
        self.assertEqual(
            [s.id for s in run_of(led, "Thumb throttle").path],
            ["bar-head", "head-seat", "bracket-seat"],
        )

    def test_what_cannot_be_is_refused_by_name(self) -> None:
        bike = make_pattern(HUB, "x")
        run = run_of(bike, "Thumb throttle")
        for frame, words in (
            (Frame("penny"), "penny"),
            (Frame("diamond", (("x", 1.0),)), "no stretch"),
            (Frame("diamond", (("head-tube", 0.0),)), "cannot be"),
            (Frame("diamond", places=(("controller", "moon"),)), "no place"),
            (Frame("diamond", places=(("nobody", "bar"),)), "no part"),
            (Frame("diamond", places=(("controller", "rear_tyre"),)), "nothing sits"),
            (Frame("diamond", via=((run.id, "fork_crown"),)), "pinched"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BrightError, words):
                change_frame(bike, frame)

    def test_the_frame_travels_in_the_file_and_is_compared(self) -> None:
        bike = make_pattern(HUB, "x")
        frame = Frame(
            "longtail",
            (("head-tube", 0.6),),
            (("controller", "rack"),),
            ((run_of(bike, "Thumb throttle").id, "seat"),),
            True,
        )
        made = replace(bike, frame=frame)
        self.assertEqual(read_bike(bike_document(made)), made)
        self.assertNotIn("frame", bike_document(replace(bike, frame=Frame())))
        words = "\n".join(compare(bike, made, REGISTRY))
        for expected in (
            "Stretch head-tube, m: usual → 0.6",
            "controller sits at: usual → rack",
            "is led by: usual → seat",
            "diamond → longtail, wrapped",
        ):
            self.assertIn(expected, words)
        self.assertEqual(
            remove_join(
                made, next(j.id for j in made.joins if "throttle" in (j.a_part, j.b_part))
            ).frame.via,
            (),
        )
        self.assertEqual(
            remove_part(
                replace(made, frame=Frame(places=(("lamp", "rack"),))), "lamp"
            ).bike.frame.places,
            (),
        )
        for change, path in (
            ({"pattern": "penny"}, "pattern"),
            ({"places": {"nobody": "bar"}}, "places"),
            ({"via": {"a.b|c.d": "seat"}}, "via"),
            ({"lengths_m": {"head-tube": 0}}, "lengths_m"),
        ):
            with self.subTest(path), self.assertRaises(FormatError) as caught:
                read_bike(bike_document(bike) | {"frame": change})
            self.assertIn(f"$.frame.{path}", caught.exception.problems[0].path)


class CutListTest(TestCase):
    def test_wires_are_cut_to_the_way_and_cables_lengthened(self) -> None:
        bike = change_frame(
            make_pattern("factory-hub", "x"), Frame("diamond", (("head-tube", 0.45),))
        )
        rows = {r.what: r for r in cut_list(bike)}
        self.assertAlmostEqual(rows["Extension: Front harness"].length_m, up(1.42 - 1.4))
        wires = rows["Pack with Controller, battery"]
        self.assertEqual(
            (wires.count, wires.area_mm2, wires.length_m, wires.gauge), (2, 2.5, 0.5, "13 AWG")
        )
        self.assertEqual(rows["Rear hub motor, hall to Controller, hall"].length_m, 0.65)
        ties = sum(tie_count(s) for s, _ in used(runs_of(bike)))
        self.assertEqual(rows["Cable ties"].count, ties)

    def test_wrapping_takes_wrap_for_bundles_and_fewer_ties(self) -> None:
        bike = make_pattern(HUB, "x")
        wrapped = replace(bike, frame=replace(bike.frame, wrapped=True))
        rows = {r.what: r for r in cut_list(wrapped)}
        self.assertEqual(rows["Split wrap"].length_m, up(wrap_m(runs_of(bike))))
        self.assertLess(
            rows["Cable ties"].count, {r.what: r for r in cut_list(bike)}["Cable ties"].count
        )

    def test_plugs_that_do_not_mate_are_ended_anew_or_adapted(self) -> None:
        bike = make_pattern(HUB, "x")
        rows = {j.join: j for j in joint_list(bike)}
        self.assertEqual(
            (rows["j3"].core_count, rows["j3"].sleeve_count, rows["j6"].how), (3, 3, "plug")
        )
        parts = tuple(
            replace(p, ports=tuple(replace(q, family="front-3") for q in p.ports))
            if p.id == "throttle"
            else p
            for p in bike.parts
        )
        parts = tuple(
            replace(
                p,
                ports=tuple(
                    replace(q, family="round-3") if q.id == "throttle" else q for q in p.ports
                ),
            )
            for p in parts
        )
        anew = {j.join: j for j in joint_list(replace(bike, parts=parts))}["j6"]
        self.assertEqual((anew.core_count, anew.sleeve_count, anew.minutes), (3, 4, 9.0))
        self.assertIn("adapter", anew.other)

    def test_repinning_exchanges_two_pins(self) -> None:
        bike = make_pattern(HUB, "x")
        made = repin(bike, "j3", "u", "v")
        self.assertEqual(dict(made.join("j3").pairs), {"u": "v", "v": "u", "w": "w"})
        self.assertEqual(repin(made, "j3", "u", "u"), bike)
        with self.assertRaises(UnknownNameError):
            repin(bike, "j3", "u", "x")

    def test_the_map_of_every_frame_is_clear(self) -> None:
        """Places apart, figures of cables off places and off each other, refused ways without
        cables, every place inside."""
        for pattern in ("hub-conversion", "two-motor-cart", "two-packs", "mid-conversion"):
            for name, frame in FRAMES.items():
                bike = replace(make_pattern(pattern, "x"), frame=Frame(name))
                with self.subTest(pattern, frame=name):
                    at = spots(bike)
                    self.assertEqual(set(at), {p for p, _ in frame.places})
                    self.assertTrue(
                        all(
                            2 * NODE < x < WIDTH - 2 * NODE and NODE < y < HEIGHT - NODE
                            for x, y in at.values()
                        )
                    )
                    nodes = [p.at for p in map_places(bike)]
                    badges = [middle(s, at) for s, _ in used(runs_of(bike))]
                    for a, b in combinations(nodes, 2):
                        self.assertGreater(math.dist(a, b), 2 * NODE + 4)
                    for badge in badges:
                        self.assertTrue(
                            all(math.dist(badge, n) > NODE + BADGE for n in nodes), badge
                        )
                    self.assertTrue(
                        all(math.dist(a, b) > 2 * BADGE for a, b in combinations(badges, 2))
                    )
                    text = frame_map_svg(bike)
                    ElementTree.fromstring(text)
                    self.assertEqual(text.count("data-stretch"), len(frame.stretches))
        places = {p.place: p for p in map_places(make_pattern(HUB, "x"))}
        self.assertEqual(
            (places["down_tube"].parts, places["front_axle"].parts, "fork_crown" in places),
            (("Pack",), (), False),
        )
        self.assertIn(("down tube to bottom bracket", 6, 2), ties(make_pattern(HUB, "x")))
