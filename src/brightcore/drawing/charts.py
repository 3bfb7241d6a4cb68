"""Charts of Match as SVG: lines over a grid with a key, told apart by dashes as well as by
colour."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from brightcore.drawing.element import MONO, Markup, dash, drawing, element, points, together
from brightcore.drawing.inks import (
    CHART_GRID,
    CHART_INK,
    CHART_LOAD,
    CHART_STROKES,
    COPPER,
    FILL,
    OVER,
    WHITE,
)

WIDTH, HEIGHT = 560.0, 300.0
LEFT, RIGHT, TOP, BOTTOM = 56.0, 14.0, 16.0, 46.0
WIDE, TALL = WIDTH - LEFT - RIGHT, HEIGHT - TOP - BOTTOM
Scale = Callable[[float], float]


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a chart. `load` lines are thin and grey: what the road asks for."""

    title: str
    x: Sequence[float]
    y: Sequence[float]
    load: bool = False


def nice_ticks(low: float, high: float, count: int = 6) -> list[float]:
    """Return round tick values from at or below `low` to at or above `high`."""
    high = max(high, low + 1e-3 * max(abs(low), 1.0))
    span = high - low
    raw = span / max(count - 1, 1)
    size = 10.0 ** _floor_log(raw)
    step = next(s * size for s in (1, 2, 2.5, 5, 10) if s * size >= raw * 0.999)
    first = step * int(low // step)
    ticks = [first]
    while ticks[-1] < high - 1e-9:
        ticks.append(ticks[-1] + step)
    return ticks


def _floor_log(value: float) -> int:
    power = 0
    while value < 1:
        value, power = value * 10, power - 1
    while value >= 10:
        value, power = value / 10, power + 1
    return power


def line_chart(
    title: str,
    x_title: str,
    y_title: str,
    lines: Sequence[Line],
    y_marks: Sequence[tuple[float, str]] = (),
    y_top: float | None = None,
) -> str:
    """Return a chart as a standalone SVG.

    `y_marks` are level lines with words; values over `y_top` are cut off.
    """
    xs = [x for line in lines for x in line.x] or [0.0, 1.0]
    ys = [min(y, y_top) if y_top else y for line in lines for y in line.y] or [0.0, 1.0]
    x_ticks = nice_ticks(min(xs), max(xs))
    y_ticks = nice_ticks(min(0.0, *ys), max((*ys, *(level for level, _ in y_marks))))

    def px(x: float) -> float:
        return LEFT + WIDE * (x - x_ticks[0]) / (x_ticks[-1] - x_ticks[0])

    def py(y: float) -> float:
        return TOP + TALL * (1 - (y - y_ticks[0]) / (y_ticks[-1] - y_ticks[0]))

    return drawing(
        WIDTH,
        HEIGHT,
        element("title", title),
        *(_x_tick(px(tick), tick) for tick in x_ticks),
        *(_y_tick(py(tick), tick) for tick in y_ticks),
        *(_level(py(level), words) for level, words in y_marks),
        *_drawn_lines(lines, px, py, y_ticks[-1]),
        element("text", x_title, x=LEFT + WIDE / 2, y=HEIGHT - 8, text_anchor="middle"),
        element(
            "text",
            y_title,
            transform=f"translate(14 {TOP + TALL / 2:.1f}) rotate(-90)",
            text_anchor="middle",
        ),
        role="img",
        aria_label=title,
        font_size=14,
        fill=CHART_INK,
    )


def _x_tick(x: float, value: float) -> Markup:
    return together(
        element("path", d=f"M{x:.1f} {TOP} V{HEIGHT - BOTTOM}", stroke=CHART_GRID),
        element("text", f"{value:g}", x=x, y=HEIGHT - BOTTOM + 18, text_anchor="middle"),
    )


def _y_tick(y: float, value: float) -> Markup:
    return together(
        element("path", d=f"M{LEFT} {y:.1f} H{WIDTH - RIGHT}", stroke=CHART_GRID),
        element("text", f"{value:g}", x=LEFT - 7, y=y + 5, text_anchor="end"),
    )


def _level(y: float, words: str) -> Markup:
    """Return a level line with its words."""
    path = f"M{LEFT} {y:.1f} H{WIDTH - RIGHT}"
    return together(
        element("path", d=path, stroke=OVER, stroke_width=1.5, stroke_dasharray="6 3"),
        element("text", words, x=WIDTH - RIGHT - 4, y=y - 5, text_anchor="end", fill=OVER),
    )


def _drawn_lines(lines: Sequence[Line], px: Scale, py: Scale, top: float) -> list[Markup]:
    """Return the lines themselves; a load line has its title at its end."""
    out = []
    drawn = 0
    for line in lines:
        colour, dashes = CHART_LOAD if line.load else CHART_STROKES[drawn % len(CHART_STROKES)]
        drawn += not line.load
        at = [(px(x), max(py(min(y, top)), TOP)) for x, y in zip(line.x, line.y, strict=True)]
        out.append(
            element(
                "polyline",
                element("title", line.title),
                points=points(at),
                fill="none",
                stroke=colour,
                stroke_width=1.5 if line.load else 3,
                stroke_dasharray=dash(dashes),
            )
        )
        if line.load and at:
            x, y = at[-1]
            out.append(
                element(
                    "text",
                    line.title,
                    x=x - 4,
                    y=max(y - 4, TOP + 10),
                    text_anchor="end",
                    fill=colour,
                )
            )
    return out


def key_svg(index: int) -> str:
    """Return the small stroke that stands for line `index` in the key."""
    colour, dashes = CHART_STROKES[index % len(CHART_STROKES)]
    stroke = element(
        "path", d="M0 5 H44", stroke=colour, stroke_width=3, stroke_dasharray=dash(dashes)
    )
    return drawing(44, 10, stroke, width=44, height=10, aria_hidden="true")


CHAIN_WIDTH, CHAIN_ROW = 930.0, 34.0
BAR_LEFT, BAR_WIDE = 306.0, 400.0
MOST_TITLE = 33
"""Characters of a link's title that fit beside its bar."""


@dataclass(frozen=True, slots=True)
class ChainLink:
    """One link as drawn: its words, the share of its limit that is used, and what is told of it."""

    title: str
    limit: str
    demand: str
    share_ratio: float
    weakest: bool
    known: bool
    sets_demand: bool

    @property
    def over(self) -> bool:
        """Whether more is asked of it than it bears."""
        return self.share_ratio > 1.001

    @property
    def words(self) -> str:
        """What is asked of it."""
        if self.known:
            return f"{self.demand} of {self.limit}"
        return f"{self.demand}; limit not described"

    @property
    def note(self) -> str:
        """How it stands."""
        if self.over:
            return "over its limit"
        if self.sets_demand:
            return "limit setting"
        if self.known:
            return f"{round(100 * (1 - self.share_ratio))} % left"
        return ""


def chain_svg(links: Sequence[ChainLink]) -> str:
    """Return the current chain, from cell to motor.

    Each link is a bar filled by what is asked of it; the weakest has a heavy frame and a mark, more
    than its limit is hatched and says so.
    """
    height = CHAIN_ROW * len(links) + 8
    return drawing(
        CHAIN_WIDTH,
        height,
        *(_wire_to_next(4 + i * CHAIN_ROW) for i in range(len(links) - 1)),
        *(_chain_link(link, 4 + i * CHAIN_ROW) for i, link in enumerate(links)),
        role="img",
        aria_label="The current chain from cell to motor",
        font_size=15,
        fill=CHART_INK,
    )


def _wire_to_next(y: float) -> Markup:
    path = f"M{BAR_LEFT - 16} {y + 12:.0f} V{y + CHAIN_ROW + 12:.0f}"
    return element("path", d=path, stroke=COPPER, stroke_width=4)


def _chain_link(link: ChainLink, y: float) -> Markup:
    title = link.title
    if len(title) <= MOST_TITLE:
        short = title
    else:
        short = title[: MOST_TITLE - 1].rstrip() + "…"
    weight = "700" if link.weakest else "400"
    colour = OVER if link.over else CHART_INK
    pieces = [
        element("circle", cx=BAR_LEFT - 16, cy=y + 13, r=5, fill=COPPER),
        element(
            "text",
            element("title", title),
            short,
            x=BAR_LEFT - 30,
            y=y + 18,
            text_anchor="end",
            font_weight=weight,
        ),
        element(
            "rect",
            x=BAR_LEFT,
            y=y + 2,
            width=BAR_WIDE,
            height=22,
            fill=WHITE,
            stroke=colour,
            stroke_width=3 if link.weakest else 1.5,
        ),
    ]
    if link.known:
        pieces.append(
            element(
                "rect",
                x=BAR_LEFT + 2,
                y=y + 4,
                width=(BAR_WIDE - 4) * min(link.share_ratio, 1.0),
                height=18,
                fill=OVER if link.over else FILL,
                fill_opacity="0.35" if link.over else "1",
            )
        )
    pieces += [
        element("text", link.words, x=BAR_LEFT + 10, y=y + 18, font_family=MONO, font_weight="600"),
        element(
            "text",
            ("▸ weakest: " if link.weakest else "") + link.note,
            x=BAR_LEFT + BAR_WIDE + 12,
            y=y + 18,
            fill=colour,
            font_weight=weight,
        ),
    ]
    return together(*pieces)
