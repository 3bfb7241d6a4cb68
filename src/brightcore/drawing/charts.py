"""Charts of Match as SVG: lines over a grid with a key, told apart by dashes as well as by colour."""

from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

WIDTH, HEIGHT = 560.0, 300.0
LEFT, RIGHT, TOP, BOTTOM = 56.0, 14.0, 16.0, 46.0
INK, GRID = "#17202e", "#d8cfba"
STROKES = (("#b26a00", ""), ("#1c5d99", "9 5"), ("#2f6b3a", "3 4"), ("#7a3e8e", "12 4 3 4"))
LOAD = ("#5b5645", "2 3")


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
    """Return a chart as a standalone SVG. `y_marks` are level lines with words; values over `y_top` are cut off."""
    xs = [x for line in lines for x in line.x] or [0.0, 1.0]
    ys = [min(y, y_top) if y_top else y for line in lines for y in line.y] or [0.0, 1.0]
    x_ticks, y_ticks = (
        nice_ticks(min(xs), max(xs)),
        nice_ticks(min(0.0, *ys), max((*ys, *(m for m, _ in y_marks)))),
    )
    wide, tall = WIDTH - LEFT - RIGHT, HEIGHT - TOP - BOTTOM

    def px(x: float) -> float:
        return LEFT + wide * (x - x_ticks[0]) / (x_ticks[-1] - x_ticks[0])

    def py(y: float) -> float:
        return TOP + tall * (1 - (y - y_ticks[0]) / (y_ticks[-1] - y_ticks[0]))

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {HEIGHT:.0f}" role="img" aria-label={quoteattr(title)} '
        f'font-family="Atkinson Hyperlegible Next, sans-serif" font-size="14" fill="{INK}"><title>{escape(title)}</title>'
    ]
    for t in x_ticks:
        out.append(
            f'<path d="M{px(t):.1f} {TOP} V{HEIGHT - BOTTOM}" stroke="{GRID}"/><text x="{px(t):.1f}" y="{HEIGHT - BOTTOM + 18:.1f}" text-anchor="middle">{t:g}</text>'
        )
    for t in y_ticks:
        out.append(
            f'<path d="M{LEFT} {py(t):.1f} H{WIDTH - RIGHT}" stroke="{GRID}"/><text x="{LEFT - 7}" y="{py(t) + 5:.1f}" text-anchor="end">{t:g}</text>'
        )
    for level, words in y_marks:
        out.append(
            f'<path d="M{LEFT} {py(level):.1f} H{WIDTH - RIGHT}" stroke="#c8281e" stroke-width="1.5" stroke-dasharray="6 3"/>'
            f'<text x="{WIDTH - RIGHT - 4}" y="{py(level) - 5:.1f}" text-anchor="end" fill="#c8281e">{escape(words)}</text>'
        )
    drawn = 0
    for line in lines:
        colour, dash = LOAD if line.load else STROKES[drawn % len(STROKES)]
        drawn += not line.load
        points = _clip([(px(x), py(min(y, y_ticks[-1]))) for x, y in zip(line.x, line.y, strict=True)])
        dashes = f' stroke-dasharray="{dash}"' if dash else ""
        out.append(
            f'<polyline points="{points}" fill="none" stroke="{colour}" stroke-width="{1.5 if line.load else 3}"{dashes}><title>{escape(line.title)}</title></polyline>'
        )
        if line.load and line.x:
            end = len(line.x) - 1
            out.append(
                f'<text x="{px(line.x[end]) - 4:.1f}" y="{max(py(min(line.y[end], y_ticks[-1])) - 4, TOP + 10):.1f}" text-anchor="end" fill="{LOAD[0]}">{escape(line.title)}</text>'
            )
    out.append(
        f'<text x="{LEFT + wide / 2:.1f}" y="{HEIGHT - 8}" text-anchor="middle">{escape(x_title)}</text>'
    )
    out.append(
        f'<text transform="translate(14 {TOP + tall / 2:.1f}) rotate(-90)" text-anchor="middle">{escape(y_title)}</text></svg>'
    )
    return "".join(out)


def _clip(points: list[tuple[float, float]]) -> str:
    return " ".join(f"{x:.1f},{max(y, TOP):.1f}" for x, y in points)


def key_svg(index: int) -> str:
    """Return the small stroke that stands for line `index` in the key."""
    colour, dash = STROKES[index % len(STROKES)]
    dashes = f' stroke-dasharray="{dash}"' if dash else ""
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 44 10" width="44" height="10" aria-hidden="true"><path d="M0 5 H44" stroke="{colour}" stroke-width="3"{dashes}/></svg>'


def chain_svg(links: Sequence[tuple[str, str, str, float, bool, bool, bool]]) -> str:
    """Return the current chain: (title, limit, demand, share used, weakest, known, sets the demand) per link, from cell to motor.

    Each link is a bar filled by what is asked of it; the weakest has a heavy frame and a mark, more than
    its limit is hatched and says so.
    """
    row, left, wide = 34.0, 306.0, 400.0
    height = row * len(links) + 8
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 930 {height:.0f}" role="img" aria-label="The current chain from cell to motor" '
        f'font-family="Atkinson Hyperlegible Next, sans-serif" font-size="15" fill="{INK}">'
    ]
    for i, (title, limit, demand, share, weakest, known, sets) in enumerate(links):
        y = 4 + i * row
        out.append(
            f'<path d="M{left - 16} {y + 12:.0f} V{y + row + 12:.0f}" stroke="#b87333" stroke-width="4"/>'
            if i < len(links) - 1
            else ""
        )
        out.append(f'<circle cx="{left - 16}" cy="{y + 13:.0f}" r="5" fill="#b87333"/>')
        short = title if len(title) <= 33 else title[:32].rstrip() + "…"
        out.append(
            f'<text x="{left - 30}" y="{y + 18:.0f}" text-anchor="end" font-weight="{700 if weakest else 400}"><title>{escape(title)}</title>{escape(short)}</text>'
        )
        frame = 3 if weakest else 1.5
        over = share > 1.001
        out.append(
            f'<rect x="{left}" y="{y + 2:.0f}" width="{wide}" height="22" fill="#fff" stroke="{"#c8281e" if over else INK}" stroke-width="{frame}"/>'
        )
        if known:
            fill = "#c8281e" if over else "#ffb52e"
            out.append(
                f'<rect x="{left + 2}" y="{y + 4:.0f}" width="{(wide - 4) * min(share, 1.0):.0f}" height="18" fill="{fill}" fill-opacity="{0.35 if over else 1}"/>'
            )
        words = f"{demand} of {limit}" if known else f"{demand}; limit not described"
        out.append(
            f'<text x="{left + 10}" y="{y + 18:.0f}" font-family="Atkinson Hyperlegible Mono, monospace" font-weight="600">{escape(words)}</text>'
        )
        note = (
            "over its limit"
            if over
            else "as set"
            if sets
            else f"{round(100 * (1 - share))} % left"
            if known
            else ""
        )
        out.append(
            f'<text x="{left + wide + 12}" y="{y + 18:.0f}" fill="{"#c8281e" if over else INK}" font-weight="{700 if weakest else 400}">{("▸ weakest: " if weakest else "") + note}</text>'
        )
    return "".join(out) + "</svg>"
