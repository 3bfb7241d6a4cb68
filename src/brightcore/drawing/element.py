"""SVG elements: text is escaped, numbers are rounded, attributes that are None are left out."""

import re
from collections.abc import Sequence
from functools import cache, lru_cache
from xml.sax.saxutils import escape, quoteattr

FONT = "Atkinson Hyperlegible Next Variable, Atkinson Hyperlegible Next, sans-serif"
MONO = "Atkinson Hyperlegible Mono, monospace"
PLACES = 1
"""Decimal places of a number in a drawing."""

SPECIAL = re.compile(r"[&<>\"\n\r\t]")
"""What a value of an attribute is quoted for."""

Attribute = str | float | None
Point = tuple[float, float]


class Markup(str):
    """Text that is SVG already."""

    __slots__ = ()


def number(value: float) -> str:
    """Return a number as it stands in a drawing.

    >>> number(3.0), number(0.25), number(-0.01)
    ('3', '0.2', '0')
    """
    text = f"{value:.{PLACES}f}"
    if text.endswith(".0"):
        text = text[:-2]
    if text == "-0":
        return "0"
    return text


@cache
def _written(name: str) -> str:
    """Return an attribute's name as it is written."""
    return name.rstrip("_").replace("_", "-")


@lru_cache(maxsize=8192)
def _quoted(value: str | float) -> str:
    if not isinstance(value, str):
        return f'"{number(value)}"'
    if SPECIAL.search(value):
        return quoteattr(value)
    return f'"{value}"'


def element(tag: str, *content: str, **attributes: Attribute) -> Markup:
    """Return one element. `stroke_width` is written `stroke-width`, `class_` as `class`.

    >>> element("text", "a < b", x=1.0, font_size=14, fill=None)
    '<text x="1" font-size="14">a &lt; b</text>'
    >>> element("g", element("rect", width=2.5))
    '<g><rect width="2.5"/></g>'
    """
    written = ""
    for name, value in attributes.items():
        if value is not None:
            written += f" {_written(name)}={_quoted(value)}"
    inside = "".join([piece if isinstance(piece, Markup) else escape(piece) for piece in content])
    return Markup(f"<{tag}{written}>{inside}</{tag}>" if inside else f"<{tag}{written}/>")


def together(*pieces: str) -> Markup:
    """Return several elements as one piece of markup."""
    return Markup("".join(pieces))


def drawing(width: float, height: float, /, *content: str, **attributes: Attribute) -> Markup:
    """Return a standalone drawing of a size."""
    box = f"0 0 {number(width)} {number(height)}"
    return element(
        "svg",
        *content,
        xmlns="http://www.w3.org/2000/svg",
        viewBox=box,
        font_family=FONT,
        **attributes,
    )


def on_ground(
    width: float, height: float, colour: str, /, *content: str, **attributes: Attribute
) -> Markup:
    """Return a standalone drawing on a ground of one colour."""
    ground = element("rect", width=width, height=height, fill=colour)
    return drawing(width, height, ground, *content, **attributes)


def circle(at: Point, radius: float, **attributes: Attribute) -> Markup:
    """Return a circle around a point."""
    return element("circle", cx=at[0], cy=at[1], r=radius, **attributes)


def rect(x: float, y: float, width: float, height: float, **attributes: Attribute) -> Markup:
    """Return a rectangle by its left top corner."""
    return element("rect", x=x, y=y, width=width, height=height, **attributes)


def line(a: Point, b: Point, **attributes: Attribute) -> Markup:
    """Return a straight line."""
    return element("line", x1=a[0], y1=a[1], x2=b[0], y2=b[1], **attributes)


def label(
    at: Point,
    words: str,
    size: float,
    anchor: str = "start",
    bold: bool = False,
    **attributes: Attribute,
) -> Markup:
    """Return words that begin, stand in the middle or end at a point; nothing for no words."""
    if not words:
        return Markup("")
    return element(
        "text",
        words,
        x=at[0],
        y=at[1],
        font_size=size,
        font_weight="700" if bold else None,
        text_anchor=anchor if anchor != "start" else None,
        **attributes,
    )


def points(path: Sequence[Point]) -> str:
    """Return the points of a line as an attribute."""
    return " ".join(f"{number(x)},{number(y)}" for x, y in path)


def dash(pattern: str) -> str | None:
    """Return a dash pattern as an attribute, None for a whole line."""
    return pattern or None
