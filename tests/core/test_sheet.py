"""The wiring sheet: nothing overlaps, every wire is drawn once at right angles, one page holds
it."""

from dataclasses import replace
from itertools import combinations, pairwise
from unittest import TestCase
from xml.etree import ElementTree

from hypothesis import given, settings
from hypothesis import strategies as st

from brightcore.bike.model import Bike
from brightcore.describing.patterns import PATTERNS, make_pattern
from brightcore.drawing.plug_cards import CHARACTER
from brightcore.drawing.sheet import layout_sheet
from brightcore.drawing.sheet_model import A4, LEAST_PT, Line, Sheet
from brightcore.drawing.sheet_svg import sheet_svg
from tests.bikes import DEMO_BIKES, demo_bike, generated_bike

SVG = "{http://www.w3.org/2000/svg}"
Rect = tuple[float, float, float, float]


def overlap(a: Rect, b: Rect) -> bool:
    return a[0] < b[2] - 0.01 and b[0] < a[2] - 0.01 and a[1] < b[3] - 0.01 and b[1] < a[3] - 0.01


def labels(text: str) -> list[tuple[str, Rect]]:
    """Return every text of the drawing proper with the box it fills, as wide as the widest that the
    font is taken to be."""
    found = []
    drawing = next(
        g
        for g in ElementTree.fromstring(text).iter(f"{SVG}g")
        if (g.get("transform") or "").startswith("translate")
    )
    for item in drawing.iter(f"{SVG}text"):
        x, y, size = (float(item.get(k, 0)) for k in ("x", "y", "font-size"))
        width = len(item.text or "") * size * CHARACTER * 0.98
        left = x - width if item.get("text-anchor") == "end" else x
        found.append((item.text or "", (left, y - size * 0.8, left + width, y + size * 0.15)))
    return found


def segments(sheet: Sheet) -> list[tuple[int, tuple[float, float], tuple[float, float]]]:
    return [
        (n, a, b)
        for n, line in enumerate(sheet.lines)
        for a, b in zip(line.points, line.points[1:], strict=False)
        if a != b
    ]


def cross(one: Line, two: Line) -> bool:
    """Return whether a lying piece of either line crosses a standing piece of the other."""
    for a, b in ((one, two), (two, one)):
        for (x0, y0), (x1, y1) in pairwise(a.points):
            for (u0, v0), (u1, v1) in pairwise(b.points):
                if (
                    y0 == y1
                    and u0 == u1
                    and min(x0, x1) < u0 < max(x0, x1)
                    and min(v0, v1) < y0 < max(v0, v1)
                ):
                    return True
    return False


class SheetTest(TestCase):
    def check(self, bike: Bike, wires: bool = True) -> Sheet:
        """Check one drawing as numbers."""
        sheet = layout_sheet(bike)
        text = sheet_svg(bike, "x")
        self.assertEqual(text, sheet_svg(bike, "x"))
        rects = {b.part: (b.x, b.y, b.x + b.width, b.y + b.height) for b in sheet.boxes}
        self.assertEqual(set(rects), {p.id for p in bike.parts})
        for one, two in combinations(rects.values(), 2):
            self.assertFalse(overlap(one, two), (one, two))
        for (a, one), (b, two) in combinations(labels(text), 2):
            self.assertFalse(overlap(one, two), (a, b))
        wide, high = sheet.page
        self.assertEqual({wide, high}, set(A4))
        self.assertTrue(sheet.width * sheet.scale <= wide and sheet.height * sheet.scale <= high)
        if not sheet.bundled:
            self.assertEqual(
                {line.ends for line in sheet.lines},
                {
                    (f"{j.a_part}.{j.a_port}.{a}", f"{j.b_part}.{j.b_port}.{b}")
                    for j in bike.joins
                    for a, b in j.pairs
                },
            )
        self.assertEqual({line.join for line in sheet.lines}, {j.id for j in bike.joins if j.pairs})
        self.check_wires(sheet, list(rects.values()))
        self.check_bundles(sheet)
        return sheet

    def check_bundles(self, sheet: Sheet) -> None:
        """Check that wires of one join which keep their order do not cross each other."""
        through = [
            n
            for n in sheet.lines
            if len(n.points) == 4
            and min(n.points[0][0], n.points[3][0])
            < n.points[1][0]
            < max(n.points[0][0], n.points[3][0])
        ]
        for one, two in combinations(through, 2):
            (a0, a1), (b0, b1) = ((line.points[0][1], line.points[-1][1]) for line in (one, two))
            if one.join == two.join and (a0 - b0) * (a1 - b1) > 0 and (a0 < a1) == (b0 < b1):
                self.assertFalse(cross(one, two), (one.ends, two.ends))

    def check_wires(self, sheet: Sheet, rects: list[Rect]) -> None:
        """Check that wires run at right angles, through no box, and that no two share a stretch of
        line."""
        lying: dict[float, list[tuple[float, float, int]]] = {}
        standing: dict[float, list[tuple[float, float, int]]] = {}
        for n, (x0, y0), (x1, y1) in segments(sheet):
            self.assertTrue(x0 == x1 or y0 == y1, sheet.lines[n].points)
            box = (
                (min(x0, x1) + 0.1, min(y0, y1) - 0.01, max(x0, x1) - 0.1, max(y0, y1) + 0.01)
                if y0 == y1
                else (x0, min(y0, y1), x0 + 0.01, max(y0, y1))
            )
            for rect in rects:
                self.assertFalse(overlap(box, rect), (sheet.lines[n].ends, rect))
            if y0 == y1:
                lying.setdefault(round(y0, 1), []).append((min(x0, x1), max(x0, x1), n))
            else:
                standing.setdefault(round(x0, 1), []).append((min(y0, y1), max(y0, y1), n))
        for spans in (*lying.values(), *standing.values()):
            for (a0, a1, a), (b0, b1, b) in combinations(spans, 2):
                self.assertFalse(
                    a != b and a0 < b1 - 0.1 and b0 < a1 - 0.1,
                    (sheet.lines[a].ends, sheet.lines[b].ends),
                )

    def test_patterns_and_demo_bikes_are_drawn_wire_by_wire_and_can_be_read(self) -> None:
        for bike in (
            *(make_pattern(p, "x") for p in PATTERNS),
            *(demo_bike(n) for n in DEMO_BIKES),
        ):
            with self.subTest(bike.info.label):
                sheet = self.check(bike)
                self.assertFalse(sheet.bundled)
                self.assertGreaterEqual(sheet.least_pt, LEAST_PT)

    def test_a_bike_of_forty_parts_goes_on_one_page(self) -> None:
        for seed in range(4):
            bike = generated_bike(seed, 40)
            self.assertGreaterEqual(len(bike.parts), 40)
            self.assertGreater(self.check(bike).least_pt, 5.0)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.integers(8, 30))
    def test_generated_bikes_are_drawn_without_overlaps(self, seed: int, count: int) -> None:
        self.check(generated_bike(seed, count))

    def test_a_bare_bike_and_long_names_are_drawn_too(self) -> None:
        self.check(replace(demo_bike("fern"), joins=()))
        long = "A very long name for any plug or part of a bike"
        parts = tuple(
            replace(
                p,
                name=long,
                ports=tuple(
                    replace(q, label=long, pins=tuple(replace(x, label=long) for x in q.pins))
                    for q in p.ports
                ),
            )
            for p in demo_bike("fern").parts
        )
        self.check(replace(demo_bike("fern"), parts=parts))

    def test_straight_wires_run_where_they_can(self) -> None:
        """On Fern only the lamp's two wires bend."""
        bent = {line.join for line in layout_sheet(demo_bike("fern")).lines if len(line.points) > 2}
        self.assertEqual(bent, {"j-lamp"})

    def test_the_drawing_tells_colours_by_marks_and_carries_what_can_be_pointed_at(self) -> None:
        bike = demo_bike("fern")
        text = sheet_svg(bike, "Fern", ("W007",))
        for words in ("stroke-dasharray", "BU blue", "Still open: W007", 'role="img"'):
            self.assertIn(words, text)
        live = ElementTree.fromstring(sheet_svg(bike, "Fern", live=True))
        plugs = [g for g in live.iter(f"{SVG}g") if g.get("data-port")]
        self.assertEqual(
            {g.get("data-port") for g in plugs},
            {f"{p.id}.{q.id}" for p in bike.parts for q in p.ports},
        )
        self.assertTrue(all(g.get("tabindex") == "0" and g.get("aria-label") for g in plugs))
        self.assertEqual(
            sum(1 for g in live.iter(f"{SVG}g") if g.get("data-pin")),
            sum(len(q.pins) for p in bike.parts for q in p.ports),
        )
