"""What to cut, lengthen, join by hand and tie: from the routes and joins of a bike.

Allowances are common practice.
"""

import math
from dataclasses import dataclass

from brightcore.bike.mating import PLAIN
from brightcore.bike.model import Bike, Join
from brightcore.describing.join_words import join_words
from brightcore.kinds.select import as_cable
from brightcore.physics.copper import THICK_MM2
from brightcore.physics.gauges import nearest_awg
from brightcore.wiring.routes import Run, cable_m, runs_of, tie_count, used, wrap_m

CUT_STEP_M = 0.05
"""Lengths are cut to the next full step."""

PLUG_MIN, TERMINAL_MIN, SOLDER_THICK_MIN, SOLDER_THIN_MIN, ADAPTER_MIN = 0.5, 1.5, 6.0, 3.0, 2.0
"""Minutes for a plug, a screwed or pushed terminal, a new end on a thick and on a thin wire, an
adapter."""


@dataclass(frozen=True, slots=True)
class Cut:
    """A piece to cut, buy or change: what, how many, of which area and colour, how long, and why.

    An area of 0 is "as the plug has it".
    """

    what: str
    count: int
    area_mm2: float
    colour: str
    length_m: float
    note: str

    @property
    def gauge(self) -> str:
        """The nearest gauge in words, "" where no area is known."""
        if self.area_mm2:
            return f"{nearest_awg(self.area_mm2)} AWG"
        return ""


def up(length_m: float) -> float:
    """Return a length rounded up to the next step of cutting.

    >>> up(0.91)
    0.95
    """
    return round(math.ceil(length_m / CUT_STEP_M - 1e-6) * CUT_STEP_M, 2)


def cut_list(bike: Bike) -> tuple[Cut, ...]:
    """Return wires to cut, cables to lengthen or shorten, ties and wrap, in the order of the
    runs."""
    runs = runs_of(bike)
    rows: list[Cut] = []
    done: set[str] = set()
    for run in runs:
        for join in (bike.join(j) for j in run.joins if bike.join(j).wire.area_mm2 > 0):
            if join.id not in done:
                done.add(join.id)
                rows += _wires(bike, join, run)
        if run.cables and run.cables[0] not in done:
            done.add(run.cables[0])
            rows += _cable(bike, run, runs)
        elif run.verdict == "unknown":
            rows.append(
                Cut(
                    run.title,
                    1,
                    0.0,
                    "",
                    up(run.wanted_m),
                    f"measure its cable: it must be this long, {run.core_count} cores",
                )
            )
    ties = sum(tie_count(s) for s, _ in used(runs))
    if bike.frame.wrapped and wrap_m(runs):
        rows.append(
            Cut(
                "Split wrap",
                1,
                0.0,
                "",
                up(wrap_m(runs)),
                "over every bundle; neat, slower to open again",
            )
        )
        ties = sum(tie_count(s) for s, n in used(runs) if n == 1 or s.joint)
    if ties:
        rows.append(Cut("Cable ties", ties, 0.0, "", 0.0, "evenly spaced, loose until all works"))
    return tuple(rows)


def _wires(bike: Bike, join: Join, run: Run) -> list[Cut]:
    """Return the wires of one join, each with its colour; what cables give of the way is taken
    off."""
    others = sum(cable_m(bike, c) for c in run.cables)
    port = bike.part(join.a_part).port(join.a_port)
    length = up(max(run.wanted_m - others, CUT_STEP_M))
    by_colour: dict[str, int] = {}
    for name, _ in join.pairs:
        colour = port.pin(name).colour
        by_colour[colour] = by_colour.get(colour, 0) + 1
    return [
        Cut(
            join_words(bike, join),
            n,
            join.wire.area_mm2,
            colour,
            length,
            _has(join.wire.length_m, length),
        )
        for colour, n in by_colour.items()
    ]


def _has(length_m: float, wanted_m: float) -> str:
    if not length_m:
        return "new"
    return f"{length_m:g} m already fitted" + (
        "" if length_m >= wanted_m - CUT_STEP_M else ", too short"
    )


def _cable(bike: Bike, run: Run, runs: tuple[Run, ...]) -> list[Cut]:
    """Return what to do about a cable that serves one or several runs: nothing, an extension, or a
    shorter one."""
    cable = as_cable(bike.part(run.cables[0]))
    if cable is None:
        return []
    mine = [r for r in runs if cable.id in r.cables and r.verdict != "refused"]
    short = max((r.wanted_m - r.has_m for r in mine if r.verdict == "short"), default=0.0)
    if short:
        worst = next(r for r in mine if abs(r.wanted_m - r.has_m - short) < 1e-9)
        return [
            Cut(
                f"Extension: {cable.name}",
                1,
                cable.spec.area_mm2,
                "",
                up(short),
                f"{worst.title} needs {worst.wanted_m:.2f} m, has {worst.has_m:.2f} m",
            )
        ]
    if mine and all(r.verdict == "long" for r in mine):
        over = min(r.has_m - r.wanted_m for r in mine)
        return [
            Cut(
                f"Too long: {cable.name}",
                1,
                cable.spec.area_mm2,
                "",
                round(over, 2),
                "shorten it, or lay it flat along the frame: no coil",
            )
        ]
    return [Cut(cable.name, 1, cable.spec.area_mm2, "", cable.spec.length_m, "reaches as it is")]


@dataclass(frozen=True, slots=True)
class Joint:
    """How one join is made: words, cores worked on, sleeves of heat-shrink, minutes; `other` is
    what the other school would do."""

    join: str
    title: str
    how: str
    core_count: int
    sleeve_count: int
    minutes: float
    other: str = ""


def joint_list(bike: Bike) -> tuple[Joint, ...]:
    """Return how every join is made.

    Plugs that do not mate are adapted or ended anew: both are counted and timed.
    """
    return tuple(_joint(bike, join) for join in bike.joins)


def _joint(bike: Bike, join: Join) -> Joint:
    p, q = (bike.part(part).port(port) for part, port in join.sides())
    title, cores = join_words(bike, join), len(join.pairs)
    thick = (
        max(join.wire.area_mm2, 2 * THICK_MM2 if "power" in p.family + q.family else 0.0)
        >= THICK_MM2
    )
    differ = p.family != q.family and p.family not in PLAIN and q.family not in PLAIN
    same_gender = p.gender != "" and p.gender == q.gender
    if differ or same_gender:
        each = SOLDER_THICK_MIN if thick else SOLDER_THIN_MIN
        other = f"an adapter instead: {ADAPTER_MIN:g} min, two contacts more a wire"
        return Joint(
            join.id,
            title,
            "cut, sleeve, re-terminate with one plug",
            cores,
            cores + 1,
            each * cores,
            other,
        )
    if p.rewireable or q.rewireable:
        return Joint(
            join.id,
            title,
            "terminals, one by one, sleeve on each",
            cores,
            cores,
            TERMINAL_MIN * cores,
        )
    return Joint(join.id, title, "plug", 0, 0, PLUG_MIN)
