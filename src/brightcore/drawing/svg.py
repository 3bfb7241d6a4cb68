"""SVG of the Line: whole, and small (energy path with branch stubs).

State is never by colour alone: lit is thick and bright, unknown thin, suspect dashed with its
percentage, faulty broken with a cross.
"""

from dataclasses import dataclass

from brightcore.drawing.element import (
    Attribute,
    Markup,
    circle,
    element,
    label,
    on_ground,
    points,
    rect,
)
from brightcore.drawing.inks import (
    DIM,
    FAULT,
    LIT,
    PANEL,
    PANEL_TEXT,
    PROBE_BLACK,
    PROBE_BLACK_LEAD,
    PROBE_RED,
    PROBE_RED_LEAD,
    SUSPECT,
    WHITE,
)
from brightcore.drawing.lights import Light
from brightcore.drawing.line_shapes import TRUNK, WIDTH, LineLayout, Point, Shape

WORDS = {"lit": "good", "dim": "unknown", "suspect": "suspect", "faulty": "faulty"}
COLOURS = {"lit": LIT, "dim": DIM, "suspect": SUSPECT, "faulty": FAULT}
WIDTHS = {"lit": 5.0, "dim": 2.0, "suspect": 4.0, "faulty": 4.0}
FINE_WIDTHS = {"lit": 3.0, "dim": 1.5, "suspect": 3.0, "faulty": 4.0}
STATES = ("lit", "dim", "suspect", "faulty")
"""What is known of a stretch, the worst last."""

LABEL_SIZE = 14
ROUND_PART = 50.0
"""Radius from which a round part is a motor, with its label inside."""

SMALL_WIDTH, SMALL_HEIGHT = 340.0, 96.0
CHARACTER = 7.4
"""Width of a character of a label."""


@dataclass(frozen=True, slots=True)
class Probe:
    """A probe marker: `red` or `black`, where it stands, and the pin's words."""

    colour: str
    at: Point
    title: str


def line_svg(
    layout: LineLayout,
    lights: dict[str, Light],
    titles: dict[str, str],
    probes: tuple[Probe, ...] = (),
    links: dict[str, str] | None = None,
    heading: str = "The Line",
) -> str:
    """Return the whole Line as a standalone SVG document (also fit for inlining).

    `links` gives each shape an address, so that it is focusable and opens what is known.
    """
    runs = [s for s in layout.shapes if s.kind in ("run", "fine")]
    boxes = [s for s in layout.shapes if s.kind in ("box", "round", "tag")]
    suspects_on_top = sorted(runs, key=lambda shape: lights[shape.id].state == "suspect")
    return on_ground(
        WIDTH,
        layout.height,
        PANEL,
        *(
            _shape(shape, lights[shape.id], titles[shape.id], (links or {}).get(shape.id))
            for shape in (*suspects_on_top, *boxes)
        ),
        *_labels(runs, lights),
        *_probes(probes),
        role="group",
        aria_label=heading,
    )


def _shape(shape: Shape, light: Light, title: str, address: str | None) -> Markup:
    """Return a stretch or part with its state in words; with an address it can be focused."""
    words = f"{title}: {WORDS[light.state]}"
    if light.state == "suspect":
        words += f", {percent_words(light)}"
    if shape.kind in ("run", "fine"):
        body = _run(shape, light)
    else:
        body = _part(shape, light)
    group = element(
        "g", element("title", words), *body, data_shape=shape.id, data_state=light.state
    )
    if address:
        return element("a", group, href=address, aria_label=words)
    return group


def percent_words(light: Light) -> str:
    """Return how likely a fault is on a shape, in words."""
    return f"{round(100 * light.probability)} %"


def stroke(light: Light, fine: bool = False, lit_width: float = 0.0) -> dict[str, Attribute]:
    """Return how a stretch or frame is drawn; `lit_width` where a lit one is thinner than a
    stretch."""
    width = (FINE_WIDTHS if fine else WIDTHS)[light.state]
    return {
        "stroke": COLOURS[light.state],
        "stroke_width": lit_width if lit_width and light.state == "lit" else width,
        "stroke_linejoin": "round",
        "stroke_dasharray": "10 6" if light.state == "suspect" else None,
    }


def _run(shape: Shape, light: Light) -> list[Markup]:
    fine = shape.kind == "fine"
    path = points(shape.points)
    out = [_hit(shape, 8 if fine else 14)]
    if light.state == "lit":
        width = 7 if fine else 12
        out.append(
            element(
                "polyline",
                points=path,
                fill="none",
                stroke=LIT,
                stroke_opacity="0.22",
                stroke_width=width,
            )
        )
    out.append(element("polyline", points=path, fill="none", **stroke(light, fine)))
    if light.state == "faulty":
        return [*out, *_break(shape)]
    return out


def _break(shape: Shape) -> list[Markup]:
    """Return the gap with a cross in a faulty stretch."""
    (x0, y0), (x1, _) = shape.points[0], shape.points[-1]
    x, y = (x0 + 0.25 * (x1 - x0), y0) if len(shape.points) == 2 else shape.points[2]
    cross = f"M{x - 9:.1f} {y - 9:.1f} l18 18 m0 -18 l-18 18"
    return [
        rect(x - 16, y - 13, 32, 26, fill=PANEL),
        element("path", d=cross, stroke=FAULT, stroke_width=4, fill="none"),
    ]


def _hit(shape: Shape, size: float) -> Markup:
    """Return an invisible area to point at; a straight run gets a box, as a bare line has no
    height."""
    if len(shape.points) == 2:
        (x, y), (end, _) = shape.points
        return rect(x, y - size / 2, end - x, size, fill=PANEL, fill_opacity="0")
    path = points(shape.points)
    return element(
        "polyline", points=path, fill="none", stroke=PANEL, stroke_opacity="0", stroke_width=size
    )


def _part(shape: Shape, light: Light) -> list[Markup]:
    """Return a part: round, a small tag, or a box."""
    style = stroke(light, lit_width=3.5)
    if shape.kind == "round":
        return _round_part(shape, light, style)
    (x, y), (width, height) = shape.points[0], shape.size
    if shape.kind == "tag":
        return [rect(x, y, width, height, rx=3, fill=PANEL, **style)]
    frame = rect(x, y, width, height, rx=5, fill=PANEL, **style)
    if shape.symbol == "pack":
        return [frame, *_pack(shape, light)]
    if shape.symbol == "leaf":
        return [frame, *_leaf(shape, light)]
    middle = (x + width / 2, y + height / 2 + 1)
    below = (x + width / 2, y + height / 2 + 22)
    return [frame, _text(middle, shape.label, 16, "middle", 19), _note(light, below)]


def _round_part(shape: Shape, light: Light, style: dict[str, Attribute]) -> list[Markup]:
    x, y = shape.points[0]
    radius = shape.size[0]
    ring = circle((x, y), radius, fill=PANEL, **style)
    if radius < ROUND_PART:
        noted = light.state in ("suspect", "faulty")
        beside = x + radius + 9
        name = _text((beside, y + (-2 if noted else 5)), shape.label, LABEL_SIZE, "start", 14)
        return [ring, name, _note(light, (beside, y + 16), "start", SUSPECT)]
    axle = circle(
        (x, y - 14),
        14,
        fill="none",
        stroke=DIM if light.state == "dim" else _worn(light),
        stroke_width=2.5,
    )
    return [
        ring,
        axle,
        _text((x, y + 22), shape.label, LABEL_SIZE, "middle", 15),
        _note(light, (x, y + 42)),
    ]


def _worn(light: Light) -> str:
    if light.state == "lit":
        return LIT
    return SUSPECT


def _pack(shape: Shape, light: Light) -> list[Markup]:
    """Return the cells and words of a pack; a low box has its note closer."""
    (x, y), (_, height) = shape.points[0], shape.size
    cells = "".join(
        f"M{x + 18 + 11 * k:.1f} {y + height * 0.25:.1f} v{height * 0.5:.1f} " for k in range(3)
    )
    colour = LIT if light.state == "lit" else DIM
    low = height < 60
    note = _note(light, (x + 52, y + height / 2 + (17 if low else 26)), "start")
    raised = low and bool(note)
    return [
        element("path", d=cells, stroke=colour, stroke_width=2.5, fill="none"),
        _text(
            (x + 52, y + height / 2 + (-1 if raised else 5)), shape.label, LABEL_SIZE, "start", 10
        ),
        note,
    ]


def _leaf(shape: Shape, light: Light) -> list[Markup]:
    """Return the words of a small part, with what is known of it at its right end."""
    (x, y), (width, height) = shape.points[0], shape.size
    middle = y + height / 2 + 5
    notes = {"suspect": percent_words(light), "faulty": "×"}
    note = notes.get(light.state, "")
    room = int((width - 20 - (34 if note else 0)) / CHARACTER)
    return [
        _text((x + 9, middle), shape.label, LABEL_SIZE, "start", room),
        _text((x + width - 8, middle), note, LABEL_SIZE, "end", 6, SUSPECT),
    ]


def _note(light: Light, at: Point, anchor: str = "middle", fault_colour: str = FAULT) -> Markup:
    """Return what stands under a part: its percentage while suspected, that it is faulty."""
    if light.state == "suspect":
        return _text(at, percent_words(light), LABEL_SIZE, anchor, 8, SUSPECT)
    if light.state == "faulty":
        return _text(at, "× faulty", LABEL_SIZE, anchor, 9, fault_colour)
    return Markup("")


def _text(
    at: Point, text: str, size: float, anchor: str, most: int, colour: str = PANEL_TEXT
) -> Markup:
    """Return words of at most some characters; none for no words."""
    if len(text) <= most:
        shown = text
    else:
        shown = text[: most - 1].rstrip() + "…"
    if not shown:
        return Markup("")
    return label(at, shown, size, anchor, bold=True, fill=colour)


def _labels(runs: list[Shape], lights: dict[str, Light]) -> list[Markup]:
    """Return stretch labels, with the percentage of all lanes of a bundle together."""
    named = [shape for shape in runs if shape.label_at is not None]
    bare = [shape for shape in runs if shape.label_at is None]
    return [
        *(_stretch_label(shape, runs, lights) for shape in named),
        *(_branch_percent(shape, lights[shape.id]) for shape in bare),
    ]


def _stretch_label(shape: Shape, runs: list[Shape], lights: dict[str, Light]) -> Markup:
    assert shape.label_at is not None
    owner = shape.id.split(":")[1]
    lanes = []
    for s in runs:
        if s.label == shape.label and s.id.split(":")[1] == owner:
            lanes.append(s)
    doubted = []
    for s in lanes:
        if lights[s.id].state in ("suspect", "faulty"):
            doubted.append(lights[s.id])
    total = sum(light.probability for light in doubted)
    if total > 0:
        text = f"{shape.label} {round(100 * total)} %"
    else:
        text = shape.label
    anchor = "end" if shape.id == TRUNK else "middle"
    return _text(shape.label_at, text, LABEL_SIZE, anchor, 24, SUSPECT if total else PANEL_TEXT)


def _branch_percent(shape: Shape, light: Light) -> Markup:
    """Return the percentage beside a suspected branch that bends to its part."""
    if shape.kind != "run" or light.state != "suspect" or len(shape.points) != 4:
        return Markup("")
    x, y = shape.points[2]
    rises = shape.points[3][1] < y
    return _text(
        (x + 8, y + (-4 if rises else 16)), percent_words(light), LABEL_SIZE, "start", 6, SUSPECT
    )


def _probes(probes: tuple[Probe, ...]) -> list[Markup]:
    """Return the probe markers; two that stand close lean apart."""
    near = False
    if len(probes) == 2:
        (x0, y0), (x1, y1) = probes[0].at, probes[1].at
        near = abs(x0 - x1) < 26 and abs(y0 - y1) < 60
    found: list[Markup] = []
    for k, probe in enumerate(probes):
        found.append(_probe(probe, (-15 if k == 0 else 15) if near else 0))
    return found


def _probe(probe: Probe, shift: float) -> Markup:
    x, y = probe.at
    red = probe.colour == "red"
    fill, lead, sign = (
        (PROBE_RED, PROBE_RED_LEAD, "+") if red else (PROBE_BLACK, PROBE_BLACK_LEAD, "−")
    )
    top = max(16.0, y - 30)
    path = f"M{x + shift:.1f} {top:.1f} L{x + shift * 0.4:.1f} {y:.1f}"
    return element(
        "g",
        element("title", probe.title),
        element("path", d=path, stroke=lead, stroke_width=3, fill="none"),
        circle((x + shift, top), 14, fill=fill, stroke=WHITE, stroke_width=2),
        label((x + shift, top + 5.5), sign, 17, "middle", bold=True, fill=WHITE),
        class_="probe",
        data_probe=probe.colour,
    )


def small_svg(layout: LineLayout, lights: dict[str, Light], heading: str) -> str:
    """Return the small Line: pack, lead, controller, motor, and a stub per branch (340 × 96)."""
    runs = {s.id: s for s in layout.shapes if s.kind in ("run", "fine")}
    energy = []
    for s in layout.shapes:
        if s.symbol in ("pack", "controller", "motor"):
            energy.append(s)
    lead_ids = {f"run:{s.id.split(':')[1]}" for s in energy}
    pack_leads = []
    for s in energy:
        if s.symbol == "pack":
            pack_leads.append(f"run:{s.id.split(':')[1]}")
    lead = next((run for run in runs if run in pack_leads), None)
    lanes = [run for run in runs if run.count(":") > 1]
    branches = [run for run in runs if run.count(":") == 1 and run not in lead_ids]
    out = []
    if lead:
        out.append(element("path", d="M66 48 H136", fill="none", **stroke(lights[lead])))
    for k, lane in enumerate(lanes):
        y = 34 + 28 * k / max(len(lanes) - 1, 1)
        out.append(
            element("path", d=f"M204 {y:.1f} H282", fill="none", **stroke(lights[lane], fine=True))
        )
    for k, run in enumerate(branches):
        out.append(_stub(k, len(branches), worse(lights, run)))
    for shape in energy:
        out += _small_part(shape, lights[shape.id])
    return on_ground(SMALL_WIDTH, SMALL_HEIGHT, PANEL, *out, role="img", aria_label=heading)


def _stub(k: int, count: int, light: Light) -> Markup:
    """Return branch `k` of the small Line: above and below the controller in turn."""
    x = 142 + 56 * (k // 2) / max((count - 1) // 2, 1)
    start, end = (28, 10) if k % 2 == 0 else (68, 86)
    return element("path", d=f"M{x:.1f} {start} V{end}", fill="none", **stroke(light, fine=True))


def _small_part(shape: Shape, light: Light) -> list[Markup]:
    style = stroke(light, lit_width=3)
    if shape.symbol == "motor":
        return [
            circle((306, 48), 26, fill=PANEL, **style),
            circle((306, 48), 7, fill="none", stroke=DIM, stroke_width=2),
        ]
    x, width = (10, 56) if shape.symbol == "pack" else (136, 68)
    return [rect(x, 28, width, 40, rx=4, fill=PANEL, **style)]


def worse(lights: dict[str, Light], run: str) -> Light:
    """Return the light of a branch together with the part at its end: the worse of the two."""
    part = lights.get(run.replace("run:", "part:"), lights[run])
    return max(lights[run], part, key=lambda light: STATES.index(light.state))


__all__ = ["Probe", "line_svg", "percent_words", "small_svg", "stroke", "worse"]
