"""The slim Line: the energy path in one strip, stubs for what hangs on it, and the worst suspect's
name."""

from brightcore.drawing.element import Markup, circle, element, label, on_ground, rect
from brightcore.drawing.inks import PANEL, PANEL_TEXT
from brightcore.drawing.lights import Light
from brightcore.drawing.line_shapes import LineLayout, Shape
from brightcore.drawing.svg import LABEL_SIZE, stroke, worse

WIDTH, HEIGHT = 900.0, 74.0
PACK_X, PACK_W, CONTROLLER_X, CONTROLLER_W, MOTOR_X = 4.0, 84.0, 330.0, 112.0, 860.0
MIDDLE, BOX_H = 37.0, 32.0
MOST_LETTERS = 11
"""Letters of a part's name."""


def slim_svg(layout: LineLayout, lights: dict[str, Light], heading: str) -> str:
    """Return the slim Line (900 × 74)."""
    by_symbol = {name: _of(layout, name) for name in ("pack", "controller", "motor")}
    out: list[Markup] = []
    for n, shape in enumerate(by_symbol["pack"]):
        y = _row(n, len(by_symbol["pack"]))
        lead = f"run:{shape.id.partition(':')[2]}"
        if lead in lights:
            d = f"M{PACK_X + PACK_W:.0f} {y:.1f} H{CONTROLLER_X:.0f}"
            out.append(element("path", d=d, fill="none", **stroke(lights[lead], fine=True)))
    for n, lane in enumerate(lanes := _lanes(layout)):
        y = MIDDLE - 12 + 24 * n / max(len(lanes) - 1, 1)
        d = f"M{CONTROLLER_X + CONTROLLER_W:.0f} {y:.1f} H{MOTOR_X - 30:.0f}"
        out.append(element("path", d=d, fill="none", **stroke(lights[lane], fine=True)))
    branches = _branches(layout, by_symbol)
    out += [_stub(n, len(branches), worse(lights, run)) for n, run in enumerate(branches)]
    for name, shapes in by_symbol.items():
        for n, shape in enumerate(shapes):
            out += _part(shape, name, _row(n, len(shapes)), len(shapes), lights[shape.id])
    return on_ground(WIDTH, HEIGHT, PANEL, *out, role="img", aria_label=heading)


def _of(layout: LineLayout, symbol: str) -> list[Shape]:
    return [shape for shape in layout.shapes if shape.symbol == symbol]


def _row(n: int, count: int) -> float:
    """Return the height at which one of several parts of a kind stands."""
    if count == 1:
        return MIDDLE
    return 19 + 36 * n / (count - 1)


def _lanes(layout: LineLayout) -> list[str]:
    found: list[str] = []
    for s in layout.shapes:
        if s.kind in ("run", "fine") and s.id.count(":") > 1:
            found.append(s.id)
    return found


def _branches(layout: LineLayout, by_symbol: dict[str, list[Shape]]) -> list[str]:
    own = set()
    for shapes in by_symbol.values():
        for shape in shapes:
            own.add(f"run:{shape.id.partition(':')[2]}")
    runs = []
    for s in layout.shapes:
        if s.kind in ("run", "fine") and s.id.count(":") == 1:
            runs.append(s.id)
    return [run for run in runs if run not in own]


def _stub(n: int, count: int, light: Light) -> Markup:
    """Return one branch: above and below the controller in turn."""
    x = CONTROLLER_X + 14 + (CONTROLLER_W - 28) * (n // 2) / max((count - 1) // 2, 1)
    start, end = (18, 2) if n % 2 == 0 else (56, 72)
    return element("path", d=f"M{x:.1f} {start} V{end}", fill="none", **stroke(light, fine=True))


def _part(shape: Shape, symbol: str, y: float, count: int, light: Light) -> list[Markup]:
    style = stroke(light, lit_width=3)
    if symbol == "motor":
        radius = 28.0 if count == 1 else 15.0
        return [circle((MOTOR_X, y), radius, fill=PANEL, **style)]
    x, width = (PACK_X, PACK_W) if symbol == "pack" else (CONTROLLER_X, CONTROLLER_W)
    height = BOX_H if count == 1 else BOX_H - 6
    frame = rect(x, y - height / 2, width, height, rx=4, fill=PANEL, **style)
    if len(shape.label) <= MOST_LETTERS:
        words = shape.label
    else:
        words = f"{shape.label[: MOST_LETTERS - 1]}…"
    return [frame, label((x + width / 2, y + 5), words, LABEL_SIZE, "middle", fill=PANEL_TEXT)]


def worst_words(
    layout: LineLayout, lights: dict[str, Light], titles: dict[str, str]
) -> tuple[str, str]:
    """Return (name, percent) of the worst suspect of a bike, ("", "") where there is none.

    Lanes of one bundle count together, as on the whole Line.
    """
    total: dict[str, float] = {}
    faulty: set[str] = set()
    for shape in layout.shapes:
        light = lights[shape.id]
        if light.state not in ("suspect", "faulty"):
            continue
        lane = shape.kind in ("run", "fine") and shape.id.count(":") > 1
        name = shape.label if lane and shape.label else titles[shape.id]
        total[name] = total.get(name, 0.0) + light.probability
        faulty |= {name} if light.state == "faulty" else set()
    if not total:
        return "", ""
    worst = max(total, key=lambda name: (name in faulty, total[name]))
    return worst, f"{round(100 * total[worst])} %"
