"""Geometry of the Line as numbers, and what lights up."""

from dataclasses import replace
from itertools import combinations
from unittest import TestCase
from xml.etree import ElementTree

from brightcore.bike.model import Bike, Pin, Port
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.drawing import plug_cards
from brightcore.drawing.lights import lights
from brightcore.drawing.line import layout_line
from brightcore.drawing.line_places import membership, probe_point, stretch_title
from brightcore.drawing.line_shapes import HEIGHT, WIDTH, LineLayout, Shape
from brightcore.drawing.plug_cards import (
    card_boxes,
    face,
    face_words,
    plug_card_pages,
    plug_cards_svg,
)
from brightcore.drawing.svg import Probe, line_svg, small_svg
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.trace import Trace
from tests.bikes import DEMO_BIKES, demo_bike, engine, generated_bike, small_engine
from tests.core.test_tracing import HALL, ROUGH, WIRE_A


def box(shape: Shape) -> tuple[float, float, float, float]:
    """Return left, top, right, bottom of a part's shape."""
    (x, y), (w, h) = shape.points[0], shape.size
    return (x - w, y - h, x + w, y + h) if shape.kind == "round" else (x, y, x + w, y + h)


def parts_of(layout: LineLayout) -> list[Shape]:
    return [s for s in layout.shapes if s.id.startswith("part:")]


class GeometryTest(TestCase):
    def setUp(self) -> None:
        self.layouts = {name: layout_line(small_engine(name).circuit) for name in DEMO_BIKES}

    def test_every_part_but_cables_is_drawn_inside_the_panel(self) -> None:
        for name, layout in self.layouts.items():
            bike = small_engine(name).bike
            self.assertEqual(
                {s.id for s in parts_of(layout)},
                {f"part:{p.id}" for p in bike.parts if p.kind != "cable"},
            )
            for shape in parts_of(layout):
                left, top, right, bottom = box(shape)
                self.assertTrue(
                    left >= 0 and top >= 0 and right <= WIDTH and bottom <= HEIGHT, shape
                )

    def test_no_two_parts_overlap(self) -> None:
        for layout in self.layouts.values():
            for a, b in combinations(parts_of(layout), 2):
                (l1, t1, r1, b1), (l2, t2, r2, b2) = box(a), box(b)
                self.assertTrue(r1 <= l2 or r2 <= l1 or b1 <= t2 or b2 <= t1, (a.id, b.id))

    def test_branches_are_orthogonal_and_do_not_cross(self) -> None:
        for layout in self.layouts.values():
            runs = [s for s in layout.shapes if s.kind in ("run", "fine") and s.id != "run:trunk"]
            for run in runs:
                for (x0, y0), (x1, y1) in zip(run.points, run.points[1:], strict=False):
                    self.assertTrue(x0 == x1 or y0 == y1, run.id)
            for a, b in combinations(runs, 2):
                for p in zip(a.points, a.points[1:], strict=False):
                    for q in zip(b.points, b.points[1:], strict=False):
                        self.assertFalse(self._cross(p, q), (a.id, b.id))

    def _cross(
        self, p: tuple[tuple[float, float], ...], q: tuple[tuple[float, float], ...]
    ) -> bool:
        """Return whether one horizontal and one vertical piece cross inside."""
        for one, two in ((p, q), (q, p)):
            (x0, y0), (x1, y1) = one
            (u0, v0), (u1, v1) = two
            if (
                y0 == y1
                and u0 == u1
                and min(x0, x1) < u0 < max(x0, x1)
                and min(v0, v1) < y0 < max(v0, v1)
            ):
                return True
        return False

    def test_the_same_description_gives_the_same_drawing(self) -> None:
        for name, layout in self.layouts.items():
            self.assertEqual(layout_line(small_engine(name).circuit), layout)

    def test_every_fault_lives_on_a_shape_and_every_join_has_a_run(self) -> None:
        for name, layout in self.layouts.items():
            made = small_engine(name)
            known = {s.id for s in layout.shapes}
            members = membership(layout, made.circuit, made.hypotheses)
            self.assertEqual({m for m in members if m} - known, set())
            self.assertEqual([m for m in members if not m], ["", ""])
            self.assertEqual(set(layout.join_run), {j.id for j in made.bike.joins})

    def test_probes_stand_inside_the_panel_and_apart_for_both_ends_of_a_cable(self) -> None:
        made = small_engine("fern")
        layout = self.layouts["fern"]
        for pin in made.nets.pins:
            x, y = probe_point(layout, made.circuit, pin)
            self.assertTrue(0 <= x <= WIDTH and 0 <= y <= HEIGHT, pin)
        near, far = (
            probe_point(layout, made.circuit, p) for p in ("controller.halls.a", "motor.halls.a")
        )
        self.assertLess(near[0] + 150, far[0])


class LightsTest(TestCase):
    def states(self, *evidence: Evidence) -> dict[str, str]:
        made = engine("fern")
        layout = layout_line(made.circuit)
        found = lights(
            layout, membership(layout, made.circuit, made.hypotheses), Trace(made, evidence)
        )
        return {shape: light.state for shape, light in found.items()}

    def test_nothing_is_lit_or_suspected_before_any_evidence(self) -> None:
        self.assertEqual(set(self.states().values()), {"dim"})

    def test_a_rough_start_with_a_hall_error_lights_the_pack_and_suspects_the_hall_wires(
        self,
    ) -> None:
        found = self.states(ROUGH, HALL)
        for shape in ("part:pack", "run:pack", "run:throttle", "run:motor:u"):
            self.assertEqual(found[shape], "lit", shape)
        for shape in ("run:motor:a", "run:motor:b", "run:motor:c"):
            self.assertEqual(found[shape], "suspect", shape)

    def test_a_reading_that_contradicts_dims_what_could_explain_it(self) -> None:
        dead = Evidence("volts", "2.0", "on", "pack.main.plus", "pack.main.minus")
        self.assertEqual(self.states(*WIRE_A)["part:pack"], "lit")
        self.assertNotEqual(self.states(*WIRE_A, dead, dead)["part:pack"], "lit")

    def test_only_the_stop_rule_makes_a_stretch_faulty(self) -> None:
        self.assertNotIn("faulty", self.states(*WIRE_A[:3]).values())
        found = self.states(*WIRE_A)
        self.assertEqual(found["run:motor:a"], "faulty")
        self.assertEqual(found["run:motor:b"], "lit")


class SvgTest(TestCase):
    def test_state_is_told_without_colour(self) -> None:
        """Widths, dashes, gap and cross, and words differ by state."""
        made = engine("fern")
        layout = layout_line(made.circuit)
        lit = lights(layout, membership(layout, made.circuit, made.hypotheses), Trace(made, WIRE_A))
        titles = {s.id: stretch_title(layout, made.circuit, s) for s in layout.shapes}
        text = line_svg(
            layout,
            lit,
            titles,
            (Probe("red", (10, 10), "red & <black>"),),
            {s.id: "/x" for s in layout.shapes},
        )
        root = ElementTree.fromstring(text)
        names = {"{http://www.w3.org/2000/svg}"}
        groups = {
            g.get("data-shape"): g for n in names for g in root.iter(f"{n}g") if g.get("data-shape")
        }
        self.assertEqual(set(groups), {s.id for s in layout.shapes})
        words = "".join(groups["run:motor:a"].itertext())
        self.assertIn("faulty", words)
        self.assertIn("Hall A wire", words)
        self.assertIn('stroke-width="5"', text)
        self.assertIsNotNone(groups["run:motor:a"].find(".//{http://www.w3.org/2000/svg}path"))
        ElementTree.fromstring(small_svg(layout, lit, "small & <one>"))

    def test_long_names_are_cut_but_kept_in_the_title(self) -> None:
        from dataclasses import replace

        made = small_engine("teasel")
        layout = layout_line(made.circuit)
        long = "An extraordinarily long name for a throttle & more"
        shapes = tuple(
            replace(s, label=long) if s.id == "part:throttle" else s for s in layout.shapes
        )
        changed = replace(layout, shapes=shapes)
        titles = {s.id: s.label for s in shapes}
        text = line_svg(changed, lights(changed, (), None), titles)
        shown = [
            t.text or ""
            for t in ElementTree.fromstring(text).iter("{http://www.w3.org/2000/svg}text")
        ]
        self.assertTrue(any(t.endswith("…") and len(t) <= 19 for t in shown))
        self.assertIn("name for a throttle &amp; more", text)


class PlugCardTest(TestCase):
    def test_cards_never_overlap_and_words_stay_inside_their_half(self) -> None:
        for bike in (
            *(make_pattern(p, "x") for p in PATTERNS),
            *(demo_bike(n) for n in DEMO_BIKES),
            named("fern", "W" * 60),
        ):
            with self.subTest(bike.info.label):
                boxes, height = card_boxes(bike)
                self.assertEqual([b.join for b in boxes], [j.id for j in bike.joins])
                for one, two in combinations(boxes, 2):
                    apart = (
                        one.x + one.width < two.x
                        or two.x + two.width < one.x
                        or one.y + one.height < two.y
                        or two.y + two.height < one.y
                    )
                    self.assertTrue(apart, (one, two))
                self.assertTrue(
                    all(
                        b.x >= 0 and b.x + b.width <= plug_cards.WIDTH and b.y + b.height <= height
                        for b in boxes
                    )
                )
                root = ElementTree.fromstring(plug_cards_svg(bike, "x"))
                for text in root.iter("{http://www.w3.org/2000/svg}text"):
                    x, y, room = (
                        float(text.get("x", 0)),
                        float(text.get("y", 0)),
                        len(text.text or "") * float(text.get("font-size", 0)) * 0.5,
                    )
                    box = next(
                        (
                            b
                            for b in boxes
                            if b.x <= x <= b.x + b.width and b.y <= y <= b.y + b.height
                        ),
                        None,
                    )
                    if box and "wire between" not in (text.text or ""):
                        half = box.x + (box.width - plug_cards.VOLTS) / 2
                        edge = half if x < half else box.x + box.width
                        self.assertLess(
                            x + (0 if text.get("text-anchor") else room), edge, text.text
                        )

    def test_a_face_is_numbered_as_it_is_seen(self) -> None:
        pins = tuple(Pin(f"p{n}") for n in range(6))
        for gender, rows, expected in (
            ("pins", 2, ((1, 2, 3), (4, 5, 6))),
            ("sockets", 2, ((3, 2, 1), (6, 5, 4))),
            ("", 0, ((1, 2, 3), (4, 5, 6))),
            ("sockets", 1, ((6, 5, 4, 3, 2, 1),)),
            ("pins", 4, ((1, 2), (3, 4), (5, 6))),
        ):
            self.assertEqual(face(Port("x", pins, gender=gender, rows=rows)), expected)
        self.assertEqual(face_words(Port("x", pins, gender="pins", key="arrow")), "pins, key arrow")

    def test_pages_of_cards_hold_every_join_once_and_fit(self) -> None:
        bike = generated_bike(3, 30)
        pages = plug_card_pages(bike, "x")
        self.assertGreater(len(pages), 2)
        self.assertEqual(sum(page.count("<title>") for page in pages), len(bike.joins))
        for page in pages:
            self.assertLessEqual(
                float((ElementTree.fromstring(page).get("viewBox") or "").split()[3]),
                plug_cards.PAGE_HEIGHT,
            )

    def test_every_pin_of_every_join_is_on_the_sheet_once_with_its_mate(self) -> None:
        bike = replace(
            demo_bike("fern"),
            joins=tuple(replace(j, pairs=j.pairs[:-1]) for j in demo_bike("fern").joins),
        )
        words = plug_cards_svg(bike, "x")
        self.assertEqual(words.count("no mate"), 2 * len(bike.joins))
        self.assertEqual(
            words.count("<circle"),
            2 * sum(len(bike.part(p).port(q).pins) for j in bike.joins for p, q in j.sides()),
        )
        self.assertIn("RD red", words)
        self.assertEqual(words, plug_cards_svg(bike, "x"))


def named(bike: str, name: str) -> Bike:
    """Return a demo bike whose parts and plugs all have one long name."""
    made = demo_bike(bike)
    return replace(
        made,
        parts=tuple(
            replace(
                p,
                name=name,
                ports=tuple(
                    replace(q, label=name, pins=tuple(replace(x, label=name) for x in q.pins))
                    for q in p.ports
                ),
            )
            for p in made.parts
        ),
    )
