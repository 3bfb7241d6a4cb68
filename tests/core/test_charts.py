"""Charts and the drawn chain: readable without colour, inside their frame, sound for odd input."""

import re
from unittest import TestCase
from xml.etree import ElementTree

from hypothesis import given, settings
from hypothesis import strategies as st

from brightcore.drawing.charts import (
    HEIGHT,
    WIDTH,
    ChainLink,
    Line,
    chain_svg,
    key_svg,
    line_chart,
    nice_ticks,
)

SVG = "{http://www.w3.org/2000/svg}"


def numbers(svg: str) -> list[tuple[float, float]]:
    """Return every point of every polyline of a chart."""
    found = []
    for line in ElementTree.fromstring(svg).iter(f"{SVG}polyline"):
        found += [tuple(float(v) for v in p.split(",")) for p in (line.get("points") or "").split()]
    return found  # type: ignore[return-value]


class ChartTest(TestCase):
    def test_lines_are_told_apart_by_dashes_and_named(self) -> None:
        lines = [Line(f"variant {i}", [0, 10], [0, i + 1.0]) for i in range(4)] + [
            Line("road 6 %", [0, 5], [0, 2], True)
        ]
        svg = line_chart("Power <at> the wheel", "km/h", "W", lines, ((3.0, "limit"),))
        root = ElementTree.fromstring(svg)
        strokes = [p.get("stroke-dasharray") for p in root.iter(f"{SVG}polyline")]
        self.assertEqual(len(set(strokes)), 5)
        words = "".join(root.itertext())
        for expected in ("variant 3", "road 6 %", "limit", "km/h", "Power <at> the wheel"):
            self.assertIn(expected, words)
        self.assertEqual(len({key_svg(i) for i in range(4)}), 4)

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(st.tuples(st.floats(-50, 500), st.floats(-200, 5000)), min_size=1, max_size=30),
        st.one_of(st.none(), st.floats(1, 2000)),
    )
    def test_every_point_stays_in_the_frame(
        self, points: list[tuple[float, float]], top: float | None
    ) -> None:
        svg = line_chart(
            "t", "x", "y", [Line("a", [p[0] for p in points], [p[1] for p in points])], (), top
        )
        for x, y in numbers(svg):
            self.assertTrue(-0.5 <= x <= WIDTH + 0.5 and -0.5 <= y <= HEIGHT + 0.5, (x, y))
        self.assertNotRegex(svg, r"\bnan\b|\binf\b")

    @settings(max_examples=60, deadline=None)
    @given(st.floats(-1000, 1000), st.floats(0.001, 5000))
    def test_ticks_are_round_even_and_cover_the_range(self, low: float, span: float) -> None:
        ticks = nice_ticks(low, low + span)
        self.assertTrue(ticks[0] <= low + 1e-6 and ticks[-1] >= low + span - 1e-6)
        self.assertTrue(2 <= len(ticks) <= 12)
        steps = [b - a for a, b in zip(ticks, ticks[1:], strict=False)]
        self.assertAlmostEqual(min(steps), max(steps), delta=1e-6 * max(1.0, abs(low)))

    def test_an_empty_chart_is_still_a_chart(self) -> None:
        ElementTree.fromstring(line_chart("nothing yet", "x", "y", []))


class ChainDrawingTest(TestCase):
    ROWS = (
        ChainLink("One cell", "8 A", "5 A", 0.62, False, True, False),
        ChainLink(
            "BMS of a pack with an uncommonly long name & more",
            "3 A",
            "20 A",
            6.7,
            True,
            True,
            False,
        ),
        ChainLink("Phase wires", "0 A", "45 A", 0.0, False, False, False),
        ChainLink("Controller", "20 A", "20 A", 1.0, False, True, True),
    )

    def test_the_weakest_link_and_what_is_over_its_limit_are_said_in_words(self) -> None:
        root = ElementTree.fromstring(chain_svg(self.ROWS))
        words = " ".join(t.text or "" for t in root.iter(f"{SVG}text"))
        for expected in (
            "weakest: over its limit",
            "38 % left",
            "45 A; limit not described",
            "limit setting",
        ):
            self.assertIn(expected, words)
        self.assertEqual(len(re.findall("weakest", words)), 1)
        self.assertIn("long name & more", "".join(root.itertext()))

    def test_bars_are_as_long_as_what_is_asked(self) -> None:
        root = ElementTree.fromstring(chain_svg(self.ROWS))
        bars = [
            float(r.get("width") or 0) for r in root.iter(f"{SVG}rect") if r.get("height") == "18"
        ]
        frames = [
            float(r.get("width") or 0) for r in root.iter(f"{SVG}rect") if r.get("height") == "22"
        ]
        self.assertEqual(len(frames), 4)
        self.assertAlmostEqual(bars[0] / frames[0], 0.62, delta=0.01)
        self.assertTrue(all(b <= f for b, f in zip(bars, frames, strict=False)))
