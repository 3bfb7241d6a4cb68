"""SVG of the Line: whole, and small (energy path with branch stubs).

State is never by colour alone: lit is thick and bright, unknown thin, suspect dashed with its
percentage, faulty broken with a cross.
"""

from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

from brightcore.drawing.lights import Light
from brightcore.drawing.line import WIDTH, LineLayout, Point, Shape

PANEL, LIT, DIM, SUSPECT, TEXT, FAULT = "#101a2b", "#ffc14a", "#7f93b2", "#ffe2a6", "#f3efe6", "#ff8a80"
PROBE_RED, PROBE_BLACK = "#e23b2e", "#05080d"
FONT = "Atkinson Hyperlegible Next Variable, Atkinson Hyperlegible Next, sans-serif"
WORDS = {"lit": "good", "dim": "unknown", "suspect": "suspect", "faulty": "faulty"}


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
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH:.0f} {layout.height:.0f}" role="group" '
        f"aria-label={quoteattr(heading)} font-family={quoteattr(FONT)}>",
        f'<rect width="{WIDTH:.0f}" height="{layout.height:.0f}" fill="{PANEL}"/>',
    ]
    runs = [s for s in layout.shapes if s.kind in ("run", "fine")]
    boxes = [s for s in layout.shapes if s.kind in ("box", "round", "tag")]
    for shape in (*sorted(runs, key=lambda s: lights[s.id].state == "suspect"), *boxes):
        light = lights[shape.id]
        words = f"{titles[shape.id]}: {WORDS[light.state]}"
        if light.state == "suspect":
            words += f", {_percent(light)}"
        body = _run(shape, light) if shape in runs else _box(shape, light)
        address = (links or {}).get(shape.id)
        group = f'<g data-shape={quoteattr(shape.id)} data-state="{light.state}"><title>{escape(words)}</title>{body}</g>'
        out.append(
            f"<a href={quoteattr(address)} aria-label={quoteattr(words)}>{group}</a>" if address else group
        )
    out += _labels(runs, lights)
    out += _probes(probes)
    out.append("</svg>")
    return "".join(out)


def _percent(light: Light) -> str:
    return f"{round(100 * light.probability)} %"


def _stroke(light: Light, fine: bool) -> str:
    width = {"lit": 3 if fine else 5, "dim": 1.5 if fine else 2, "suspect": 3 if fine else 4, "faulty": 4}[
        light.state
    ]
    colour = {"lit": LIT, "dim": DIM, "suspect": SUSPECT, "faulty": FAULT}[light.state]
    dash = ' stroke-dasharray="10 6"' if light.state == "suspect" else ""
    return f'fill="none" stroke="{colour}" stroke-width="{width}" stroke-linejoin="round"{dash}'


def _run(shape: Shape, light: Light) -> str:
    fine = shape.kind == "fine"
    text = " ".join(f"{x:.1f},{y:.1f}" for x, y in shape.points)
    hit = _hit(shape, 8 if fine else 14)
    glow = (
        f'<polyline points="{text}" fill="none" stroke="{LIT}" stroke-opacity="0.22" stroke-width="{7 if fine else 12}"/>'
        if light.state == "lit"
        else ""
    )
    line = f'<polyline points="{text}" {_stroke(light, fine)}/>'
    if light.state == "faulty":
        (x0, y0), (x1, _) = shape.points[0], shape.points[-1]
        x, y = (x0 + 0.25 * (x1 - x0), y0) if len(shape.points) == 2 else shape.points[2]
        gap = f'<rect x="{x - 16:.1f}" y="{y - 13:.1f}" width="32" height="26" fill="{PANEL}"/>'
        cross = f'<path d="M{x - 9:.1f} {y - 9:.1f} l18 18 m0 -18 l-18 18" stroke="{FAULT}" stroke-width="4" fill="none"/>'
        return hit + line + gap + cross
    return hit + glow + line


def _hit(shape: Shape, size: int) -> str:
    """Return an invisible area to point at; a straight run gets a box, as a bare line has no height."""
    if len(shape.points) == 2:
        (x, y), (end, _) = shape.points
        return f'<rect x="{x:.1f}" y="{y - size / 2:.1f}" width="{end - x:.1f}" height="{size}" fill="{PANEL}" fill-opacity="0"/>'
    text = " ".join(f"{x:.1f},{y:.1f}" for x, y in shape.points)
    return (
        f'<polyline points="{text}" fill="none" stroke="{PANEL}" stroke-opacity="0" stroke-width="{size}"/>'
    )


def _box(shape: Shape, light: Light) -> str:
    x, y = shape.points[0]
    stroke = (
        _stroke(light, False)
        .replace('fill="none"', f'fill="{PANEL}"')
        .replace('stroke-width="5"', 'stroke-width="3.5"')
    )
    if shape.kind == "round":
        r = shape.size[0]
        ring = f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{r:.1f}" {stroke}/>'
        if r < 50:
            note = (
                _percent(light) if light.state == "suspect" else "× faulty" if light.state == "faulty" else ""
            )
            label = _text(x + r + 9, y + (-2 if note else 5), shape.label, 14, "start", 14)
            return ring + label + (_text(x + r + 9, y + 16, note, 14, "start", 9, SUSPECT) if note else "")
        hub = f'<circle cx="{x:.1f}" cy="{y - 14:.1f}" r="14" fill="none" stroke="{DIM if light.state == "dim" else LIT if light.state == "lit" else SUSPECT}" stroke-width="2.5"/>'
        return (
            ring + hub + _text(x, y + 22, shape.label, 13, "middle", 16) + _box_note(shape, light, x, y + 42)
        )
    w, h = shape.size
    if shape.kind == "tag":
        return f'<rect x="{x:.1f}" y="{y:.1f}" width="{w:.1f}" height="{h:.1f}" rx="3" {stroke}/>'
    body = f'<rect x="{x:.1f}" y="{y:.1f}" width="{w:.1f}" height="{h:.1f}" rx="5" {stroke}/>'
    if shape.symbol == "pack":
        colour = LIT if light.state == "lit" else DIM
        cells = "".join(f"M{x + 18 + 11 * k:.1f} {y + h * 0.25:.1f} v{h * 0.5:.1f} " for k in range(3))
        body += f'<path d="{cells}" stroke="{colour}" stroke-width="2.5" fill="none"/>'
        low = h < 60
        note = _box_note(shape, light, x + 52, y + h / 2 + (17 if low else 26), "start")
        return (
            body + _text(x + 52, y + h / 2 + (-1 if low and note else 5), shape.label, 14, "start", 10) + note
        )
    if shape.symbol == "leaf":
        note = _percent(light) if light.state == "suspect" else "×" if light.state == "faulty" else ""
        room = int((w - 20 - 34 * bool(note)) / 7.4)
        return (
            body
            + _text(x + 9, y + h / 2 + 5, shape.label, 14, "start", room)
            + (_text(x + w - 8, y + h / 2 + 5, note, 14, "end", 6, SUSPECT) if note else "")
        )
    return (
        body
        + _text(x + w / 2, y + h / 2 + 1, shape.label, 16, "middle", 19)
        + _box_note(shape, light, x + w / 2, y + h / 2 + 22)
    )


def _box_note(shape: Shape, light: Light, x: float, y: float, anchor: str = "middle") -> str:
    if light.state == "suspect":
        return _text(x, y, _percent(light), 14, anchor, 8, SUSPECT)
    return _text(x, y, "× faulty", 14, anchor, 9, FAULT) if light.state == "faulty" else ""


def _text(x: float, y: float, text: str, size: int, anchor: str, most: int, colour: str = TEXT) -> str:
    shown = text if len(text) <= most else text[: most - 1].rstrip() + "…"
    return f'<text x="{x:.1f}" y="{y:.1f}" font-size="{size}" font-weight="600" text-anchor="{anchor}" fill="{colour}">{escape(shown)}</text>'


def _labels(runs: list[Shape], lights: dict[str, Light]) -> list[str]:
    """Return stretch labels, with the percentage of all lanes of a bundle together."""
    out = []
    for shape in runs:
        if shape.label_at is None:
            continue
        lanes = [s for s in runs if s.label == shape.label and s.id.split(":")[1] == shape.id.split(":")[1]]
        total = sum(lights[s.id].probability for s in lanes if lights[s.id].state in ("suspect", "faulty"))
        text = shape.label + (f" {round(100 * total)} %" if total > 0 else "")
        out.append(
            _text(
                *shape.label_at,
                text,
                14,
                "middle" if shape.label != "harness" else "end",
                24,
                SUSPECT if total else TEXT,
            )
        )
    for shape in runs:
        light = lights[shape.id]
        if (
            shape.label_at is None
            and shape.kind == "run"
            and light.state == "suspect"
            and len(shape.points) == 4
        ):
            x, y = shape.points[2]
            out.append(
                _text(
                    x + 8,
                    y + (-4 if shape.points[3][1] < y else 16),
                    _percent(light),
                    14,
                    "start",
                    6,
                    SUSPECT,
                )
            )
    return out


def _probes(probes: tuple[Probe, ...]) -> list[str]:
    out = []
    near = (
        len(probes) == 2
        and abs(probes[0].at[0] - probes[1].at[0]) < 26
        and abs(probes[0].at[1] - probes[1].at[1]) < 60
    )
    for k, probe in enumerate(probes):
        x, y = probe.at
        shift = (-15 if k == 0 else 15) if near else 0
        fill, sign = (PROBE_RED, "+") if probe.colour == "red" else (PROBE_BLACK, "−")
        top = max(16.0, y - 30)
        out.append(
            f'<g class="probe" data-probe="{probe.colour}"><title>{escape(probe.title)}</title>'
            f'<path d="M{x + shift:.1f} {top:.1f} L{x + shift * 0.4:.1f} {y:.1f}" stroke="{"#ff6a5c" if sign == "+" else "#ffffff"}" stroke-width="3" fill="none"/>'
            f'<circle cx="{x + shift:.1f}" cy="{top:.1f}" r="14" fill="{fill}" stroke="#ffffff" stroke-width="2"/>'
            f'<text x="{x + shift:.1f}" y="{top + 5.5:.1f}" font-size="17" font-weight="700" text-anchor="middle" fill="#ffffff">{sign}</text></g>'
        )
    return out


def small_svg(layout: LineLayout, lights: dict[str, Light], heading: str) -> str:
    """Return the small Line: pack, lead, controller, motor, and a stub per branch (340 × 96)."""
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 340 96" role="img" aria-label={quoteattr(heading)} font-family={quoteattr(FONT)}>',
        f'<rect width="340" height="96" fill="{PANEL}"/>',
    ]
    runs = {s.id: s for s in layout.shapes if s.kind in ("run", "fine")}
    energy = [s for s in layout.shapes if s.symbol in ("pack", "controller", "motor")]
    branches = [
        i for i in runs if i.count(":") == 1 and not any(i == f"run:{s.id.split(':')[1]}" for s in energy)
    ]
    lead = next(
        (i for i in runs if any(s.symbol == "pack" and i == f"run:{s.id.split(':')[1]}" for s in energy)),
        None,
    )
    lanes = [i for i in runs if i.count(":") > 1]
    if lead:
        out.append(f'<path d="M66 48 H136" {_stroke(lights[lead], False)}/>')
    for k, lane in enumerate(lanes):
        y = 34 + 28 * k / max(len(lanes) - 1, 1)
        out.append(f'<path d="M204 {y:.1f} H282" {_stroke(lights[lane], True)}/>')
    for k, run in enumerate(branches):
        x = 142 + 56 * (k // 2) / max((len(branches) - 1) // 2, 1)
        out.append(
            f'<path d="M{x:.1f} {28 if k % 2 == 0 else 68} V{10 if k % 2 == 0 else 86}" {_stroke(_worse(lights, run), True)}/>'
        )
    for shape in energy:
        stroke = (
            _stroke(lights[shape.id], False)
            .replace('fill="none"', f'fill="{PANEL}"')
            .replace('stroke-width="5"', 'stroke-width="3"')
        )
        if shape.symbol == "motor":
            out.append(
                f'<circle cx="306" cy="48" r="26" {stroke}/><circle cx="306" cy="48" r="7" fill="none" stroke="{DIM}" stroke-width="2"/>'
            )
        else:
            x, width = (10, 56) if shape.symbol == "pack" else (136, 68)
            out.append(f'<rect x="{x}" y="28" width="{width}" height="40" rx="4" {stroke}/>')
    out.append("</svg>")
    return "".join(out)


def _worse(lights: dict[str, Light], run: str) -> Light:
    """Return the light of a branch together with the part at its end: the worse of the two."""
    order = ("lit", "dim", "suspect", "faulty")
    part = lights.get(run.replace("run:", "part:"), lights[run])
    return max(lights[run], part, key=lambda light: order.index(light.state))


__all__ = ["Probe", "line_svg", "small_svg"]
